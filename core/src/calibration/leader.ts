/**
 * Leader and follower: a knob, or the joint of a small arm led by hand, sends a joint to offset + scale · reading. What
 * both can reach is the common range; what the follower could but is never sent to is lost.
 */
import type { Finding } from '../findings';
import { finding } from './findings';
import { inUnit, type Mechanism } from '../mechanism';
import type { Leader, Rig } from '../rig';
import { transmissionOf } from '../actuators/servo-line';

/** Below this share of the follower's travel in common it is a finding. */
const ENOUGH = 0.95;

export interface LeaderMatch {
  /** The follower's own range, and what the leader asks for, in the joint's unit. */
  readonly follower: readonly [number, number];
  readonly asked: readonly [number, number];
  /** Both; empty (null) where they do not meet. */
  readonly common: readonly [number, number] | null;
  /** Shares of the follower's travel in common, and of it out of reach. */
  readonly share: number;
  readonly lost: number;
  /** Share of the leader's travel in which the follower stands at a limit. */
  readonly idle: number;
}

export function matchLeader(leader: Leader, low: number, high: number): LeaderMatch {
  const ends = [leader.low, leader.high].map((v) => leader.offset + leader.scale * v);
  const asked: [number, number] = [Math.min(...ends), Math.max(...ends)];
  const [a, b] = [Math.max(low, asked[0]), Math.min(high, asked[1])];
  const common = a < b ? ([a, b] as const) : null;
  const both = common ? b - a : 0;
  const share = high > low ? both / (high - low) : 0;
  const span = asked[1] - asked[0];
  return { follower: [low, high], asked, common, share, lost: 1 - share, idle: span > 0 ? 1 - both / span : 1 };
}

export interface LeaderProposal {
  readonly scale: number;
  readonly offset: number;
  /** Teeth to move the leader's horn, and the follower's, so that the offset comes near 0; null without a spline. */
  readonly leaderTeeth: number | null;
  readonly followerTeeth: number | null;
}

/**
 * Scale and offset with which the leader's whole travel is the follower's whole range, in the sense it has now (or the
 * one given). The middles meet; what the scale alone leaves as offset could be taken by horns that many teeth on.
 */
export function proposeLeader(
  leader: Leader,
  low: number,
  high: number,
  followerTeeth: number | undefined,
  sense: 1 | -1 = leader.scale < 0 ? -1 : 1,
): LeaderProposal {
  const scale = (sense * (high - low)) / (leader.high - leader.low);
  const offset = (low + high) / 2 - (scale * (leader.low + leader.high)) / 2;
  const teeth = (count: number | undefined, deg: number): number | null =>
    count === undefined ? null : Math.round((deg * count) / 360) || 0;
  return {
    scale,
    offset,
    leaderTeeth: teeth(leader.splineTeeth, scale === 0 ? 0 : offset / scale),
    followerTeeth: teeth(followerTeeth, offset),
  };
}

/** Limits of a leader's joint in its own unit; null where it has none or is unlimited. */
export function followerRange(mechanism: Mechanism, leader: Leader): readonly [number, number] | null {
  const slot = mechanism.slotOf.get(leader.joint);
  if (slot === undefined) return null;
  const range = [mechanism.lower[slot], mechanism.upper[slot]].map((v) => inUnit(mechanism, slot, v));
  return range.every(Number.isFinite) ? [range[0], range[1]] : null;
}

export function followerSpline(rig: Rig, leader: Leader): number | undefined {
  const tie = transmissionOf(rig, leader.joint);
  const drive = tie?.joints.length === 1 ? rig.drives.find((d) => d.id === tie.drives[0]) : undefined;
  return drive?.splineTeeth;
}

export function checkLeaders(rig: Rig, mechanism: Mechanism): Finding[] {
  return rig.leaders.flatMap((leader) => {
    const range = followerRange(mechanism, leader);
    if (!range) return [];
    const { share } = matchLeader(leader, ...range);
    const joint = mechanism.names[mechanism.jointOfSlot[mechanism.slotOf.get(leader.joint)!]];
    return share < ENOUGH
      ? [
          finding(
            'leader-range',
            { station: 'motors', part: 'leader', joint: leader.joint },
            { leader: leader.name, joint, share: share * 100 },
          ),
        ]
      : [];
  });
}
