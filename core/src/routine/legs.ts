/**
 * Moves made into blocks: each by itself from rest to rest, or several in one block where the corners between them are to be rounded.
 * A corner is rounded by a quintic in joint space that stays within its radius of the corner at the tool.
 */
import { chainInto, chainJacobianInto, chainOf, chainSpace, forward } from '../kinematics';
import { positionOf, vec3, type Vec3 } from '../linear';
import { limitExcess, worstRule, type CompiledTool, type Mechanism } from '../mechanism';
import {
  jointMove,
  isRetimed,
  joinSegments,
  ownPaceMove,
  pathInto,
  pathMove,
  segmentInto,
  slower,
  timeAt,
  wholePath,
  type Block,
  type Corner,
  type JointPath,
  type MovePace,
  type PathLoad,
  type ProfileKind,
  type Segment,
  type SlowedFor,
  type Stretch,
} from '../motion';
import type { Keep } from '../rig';
import type { StepRef } from './events';

/** A move of one step, or one part of it. */
export interface Leg {
  readonly ref: StepRef;
  readonly from: Float64Array;
  readonly to: Float64Array;
  readonly segment: Segment;
  /** The tool whose speed and corners count. */
  readonly tool: CompiledTool | undefined;
  readonly pace: MovePace & { readonly profile: ProfileKind };
  /** Most speed (m/s) of the tool's point. */
  readonly toolSpeed: number;
  readonly ownPace: boolean;
  /** The corner at its end is rounded within this (m); 0: it stops there. */
  readonly blend: number;
  /** On a way of the tool: what is kept of its orientation. */
  readonly keep?: Keep;
  /** The same text only for the same move. */
  readonly key: string;
}

export interface MadeBlock {
  readonly block: Block;
  /** When (s, from the block's begin) each of its legs ends. */
  readonly ends: readonly { readonly leg: Leg; readonly s: number }[];
  /** The same text only for the same block. */
  readonly key: string;
  /** Another one along the same way, as fast as loads allow at each place; null where its profile is to be kept as it is. */
  bearing(load: PathLoad): MadeBlock | null;
}

const canBlend = ({ pace, ownPace, tool }: Leg): boolean =>
  tool !== undefined && !ownPace && pace.durationS === undefined && isRetimed(pace.profile);

/** Legs end to end as blocks; `dropped` are legs whose corner could not be rounded as asked. */
export function blocksOf(
  mechanism: Mechanism,
  all: readonly Leg[],
  made: (key: string, make: () => Block) => Block,
): { blocks: MadeBlock[]; dropped: Leg[] } {
  const blocks: MadeBlock[] = [];
  const dropped: Leg[] = [];
  const legs = all.filter(({ segment }) => segment.kind !== 'line' || segment.delta.some((d) => d !== 0));
  for (let first = 0; first < legs.length;) {
    const corners: Corner[] = [];
    let last = first;
    while (last + 1 < legs.length && legs[last].blend > 0) {
      const [a, b] = [legs[last], legs[last + 1]];
      const corner =
        canBlend(a) && canBlend(b) && a.pace.profile === b.pace.profile ? cornerOf(mechanism, a, b) : null;
      if (!corner) {
        dropped.push(a);
        break;
      }
      corners.push(corner);
      last++;
    }
    const group = legs.slice(first, last + 1);
    first = last + 1;
    const key = group.map((leg) => leg.key).join('|');
    const make = (load?: PathLoad): Block =>
      group.length === 1 ? alone(mechanism, group[0], load) : together(mechanism, group, corners, load);
    const block = made(key, make);
    if (block.duration === 0) continue;
    const isOwn = group.length === 1 && (group[0].ownPace || !isRetimed(group[0].pace.profile));
    const as = (it: Block): MadeBlock => ({
      block: it,
      ends: endsIn(it, group),
      key,
      bearing: (load) => (isOwn ? null : as(make(load))),
    });
    blocks.push(as(block));
  }
  return { blocks, dropped };
}
/** A made block that takes so many times as long. */
export function slowedBy(made: MadeBlock, times: number, slowedFor: SlowedFor): MadeBlock {
  const ends = made.ends.map(({ leg, s }) => ({ leg, s: s * times }));
  return { ...made, block: slower(made.block, times, slowedFor), ends };
}

function alone(
  mechanism: Mechanism,
  { from, to, segment, tool, pace, toolSpeed, ownPace }: Leg,
  load: PathLoad | undefined,
): Block {
  if (segment.kind === 'line' && ownPace) return ownPaceMove(mechanism, from, to, pace);
  if (segment.kind === 'line' && !load && (toolSpeed === Infinity || !tool))
    return jointMove(mechanism, from, to, pace);
  const path = wholePath(segment);
  const toolRate = toolSpeed < Infinity && tool ? toolRateOf(mechanism, tool, path) : undefined;
  return pathMove(mechanism, from, to, path, { ...pace, toolSpeed, toolRate, load });
}

function together(
  mechanism: Mechanism,
  legs: readonly Leg[],
  corners: readonly Corner[],
  load: PathLoad | undefined,
): Block {
  const weights = legs.map((leg) => Math.max(1e-6, weightOf(mechanism, leg.segment)));
  const path = joinSegments(
    legs.map((leg) => leg.segment),
    weights,
    corners,
  );
  const stretches = legs.map(({ pace, toolSpeed }, k): Stretch => ({
    from: k === 0 ? 0 : path.ends[k - 1],
    share: pace.speedShare ?? 1,
    accelShare: pace.accelShare ?? 1,
    toolSpeed,
  }));
  const { tool, from, pace } = legs[0];
  return pathMove(mechanism, from, legs[legs.length - 1].to, path, {
    profile: pace.profile,
    load,
    stretches,
    toolRate: tool && stretches.some((s) => s.toolSpeed < Infinity) ? toolRateOf(mechanism, tool, path) : undefined,
  });
}

/** When each leg of a block ends: where the path's own ends are passed. */
function endsIn(block: Block, legs: readonly Leg[]): MadeBlock['ends'] {
  if (legs.length === 1 || block.kind !== 'path' || block.curve.kind !== 'retimed')
    return [{ leg: legs[legs.length - 1], s: block.duration }];
  const { curve, path, stretch } = block;
  return legs.map((leg, k) => {
    const sigma = path.ends[k];
    if (sigma >= 1) return { leg, s: block.duration };
    const i = curve.s.findIndex((s) => s >= sigma);
    return { leg, s: timeAt(curve, sigma, curve.t[Math.max(0, i)] + curve.window / 2) * stretch };
  });
}

/** Way of the tool's point (m) per unit of σ. */
function toolRateOf(mechanism: Mechanism, tool: CompiledTool, path: JointPath): (sigma: number) => number {
  const { m } = mechanism;
  const d = new Float64Array(4 * m);
  const q = new Float64Array(m);
  if (mechanism.delta && tool.parent === mechanism.delta.platform) {
    const at = (sigma: number): Vec3 => {
      pathInto(d, path, sigma);
      for (let s = 0; s < m; s++) q[s] = d[4 * s];
      return positionOf(forward(mechanism, q).tools.get(tool.id)!);
    };
    const h = 1e-5;
    return (sigma) => {
      const [low, high] = [Math.max(0, sigma - h), Math.min(1, sigma + h)];
      return vec3.distance(at(low), at(high)) / (high - low);
    };
  }
  const chain = chainOf(mechanism, tool);
  const space = chainSpace(chain);
  const jacobian = new Float64Array(6 * m);
  return (sigma) => {
    pathInto(d, path, sigma);
    for (let s = 0; s < m; s++) q[s] = d[4 * s];
    chainInto(space, chain, q);
    chainJacobianInto(jacobian, space, chain);
    let [x, y, z] = [0, 0, 0];
    for (let s = 0; s < m; s++) {
      const rate = d[4 * s + 1];
      x += jacobian[6 * s] * rate;
      y += jacobian[6 * s + 1] * rate;
      z += jacobian[6 * s + 2] * rate;
    }
    return Math.sqrt(x * x + y * y + z * z);
  };
}

/** Seconds that a segment takes at full speed at least. */
function weightOf(mechanism: Mechanism, segment: Segment): number {
  if (segment.kind === 'line')
    return segment.delta.reduce((most, d, s) => Math.max(most, Math.abs(d) / mechanism.speed[s]), 0);
  const { n, m, value } = segment.spline;
  let sum = 0;
  for (let k = 0; k < n; k++) {
    let most = 0;
    for (let s = 0; s < m; s++)
      most = Math.max(most, Math.abs(value[(k + 1) * m + s] - value[k * m + s]) / mechanism.speed[s]);
    sum += most;
  }
  return sum;
}

/** Halvings that find where a corner's radius is crossed; tries at a smaller corner; looks at each. */
const HALVINGS = 30;
const TRIES = 8;
const LOOKS = 12;
/** At most this share of a neighbour goes into a corner. */
const MOST = 0.5;
const SLACK = 1e-9;

/** Where the corner between two legs is left and joined, so that the tool stays within `a.blend` of it; null where it cannot be. */
function cornerOf(mechanism: Mechanism, a: Leg, b: Leg): Corner | null {
  const out = new Float64Array(4);
  const q = new Float64Array(mechanism.m);
  const tip = (segment: Segment, share: number): Vec3 => {
    for (let s = 0; s < q.length; s++) {
      segmentInto(out, segment, s, share);
      q[s] = out[0];
    }
    return positionOf(forward(mechanism, q).tools.get(a.tool!.id)!);
  };
  const corner = tip(a.segment, 1);
  const reach = (segment: Segment, shareAt: (part: number) => number): number => {
    let [low, high] = [0, MOST];
    if (vec3.distance(tip(segment, shareAt(MOST)), corner) <= a.blend) return MOST;
    for (let k = 0; k < HALVINGS; k++) {
      const middle = (low + high) / 2;
      if (vec3.distance(tip(segment, shareAt(middle)), corner) <= a.blend) low = middle;
      else high = middle;
    }
    return low;
  };
  let before = reach(a.segment, (part) => 1 - part);
  let after = reach(b.segment, (part) => part);
  const weights = [a, b].map((leg) => Math.max(1e-6, weightOf(mechanism, leg.segment)));
  const d = new Float64Array(4 * mechanism.m);
  for (let k = 0; k < TRIES; k++) {
    if (before < 1e-4 || after < 1e-4) return null;
    const found = { leave: 1 - before, join: after };
    const path = joinSegments([a.segment, b.segment], weights, [found]);
    const piece = path.pieces.findIndex((p) => 'quintic' in p);
    const { from, to } = path.pieces[piece];
    let fits = true;
    for (let i = 0; i <= LOOKS && fits; i++) {
      pathInto(d, path, from + ((to - from) * i) / LOOKS, piece);
      for (let s = 0; s < q.length; s++) q[s] = d[4 * s];
      fits =
        limitExcess(mechanism, q).by <= SLACK &&
        worstRule(mechanism, q).by <= SLACK &&
        vec3.distance(positionOf(forward(mechanism, q).tools.get(a.tool!.id)!), corner) <= a.blend + 1e-7;
    }
    if (fits) return found;
    before *= 0.7;
    after *= 0.7;
  }
  return null;
}
