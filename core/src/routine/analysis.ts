/** What a plan's time goes into: what holds each stretch back, how often it can be done, where it waits. */
import type { Mechanism } from '../mechanism';
import { jerkInto, sampleBlockInto, type Block, type SlowedFor } from '../motion';
import type { Plan } from './plan';

/** What keeps a stretch from being quicker: a joint's limit, the pace that was asked for, what motors or base bear, or nothing moves. */
export type HeldBack =
  | { readonly by: 'speed' | 'accel' | 'jerk'; readonly slot: number }
  | { readonly by: 'pace' | SlowedFor }
  | { readonly by: 'still' };
export type Stretch = HeldBack & { readonly startS: number; readonly endS: number };

/** Looks within a block; a limit counts where this share of it is used. */
const LOOKS = 48;
const USED = 0.93;
const LIMITS = ['speed', 'accel', 'jerk'] as const;
const PACE: HeldBack = { by: 'pace' };

function heldBackAt(mechanism: Mechanism, block: Block, t: number, out: Float64Array[]): HeldBack {
  if (block.kind === 'hold') return { by: 'still' };
  const [p, v, a, j] = out;
  sampleBlockInto(p, v, a, block, t);
  const hasJerk = block.kind === 'move' || block.kind === 'path';
  if (hasJerk) jerkInto(j, block, t);
  let best = USED;
  let held = -1;
  let slot = -1;
  // Nothing is made in here: it is asked some hundred thousand times.
  const look = (share: number, kind: number, s: number): void => {
    if (share > best) {
      best = share;
      held = kind;
      slot = s;
    }
  };
  for (let s = 0; s < mechanism.m; s++) {
    look(Math.abs(v[s]) / mechanism.speed[s], 0, s);
    look(Math.abs(a[s]) / mechanism.accel[s], 1, s);
    if (hasJerk) look(Math.abs(j[s]) / mechanism.jerk[s], 2, s);
  }
  if (held >= 0) return { by: LIMITS[held], slot };
  return 'slowedFor' in block && block.slowedFor ? { by: block.slowedFor } : PACE;
}

const same = (a: HeldBack, b: HeldBack): boolean =>
  a.by === b.by && (!('slot' in a) || !('slot' in b) || a.slot === b.slot);

/** The plan in stretches of one reason each. */
export function heldBack(mechanism: Mechanism, plan: Plan): Stretch[] {
  const out = [0, 1, 2, 3].map(() => new Float64Array(mechanism.m));
  const kept = new WeakMap<Block, (HeldBack & { share: number })[]>();
  const stretches: (HeldBack & { startS: number; endS: number })[] = [];
  const push = (reason: HeldBack, startS: number, endS: number): void => {
    const last = stretches.at(-1);
    if (last && same(last, reason)) last.endS = endS;
    else stretches.push({ ...reason, startS, endS });
  };
  for (const { block, startS } of plan.blocks) {
    let reasons = kept.get(block);
    if (!reasons) {
      const looks = block.kind === 'hold' ? 1 : LOOKS;
      reasons = Array.from({ length: looks }, (_, k) => ({
        ...heldBackAt(mechanism, block, ((k + 0.5) / looks) * block.duration, out),
        share: (k + 1) / looks,
      }));
      kept.set(block, reasons);
    }
    let from = startS;
    for (const { share, ...reason } of reasons) {
      const to = startS + share * block.duration;
      push(reason as HeldBack, from, to);
      from = to;
    }
  }
  return stretches;
}

export interface CycleFigures {
  /** Of one round where it is endless, else of all. */
  readonly cycleS: number;
  readonly perHour: number;
  readonly movingS: number;
  readonly waitingS: number;
  /** The joint whose limits hold the motion back for longest, and how long. */
  readonly slowest: { readonly slot: number; readonly seconds: number } | null;
}

/** Seconds of one round where a plan is endless, else of all. */
export const cycleOf = ({ durationS, endlessFromS }: Plan): number => durationS - (endlessFromS ?? 0);
/** Pieces per hour, one a round. */
export const perHourOf = (plan: Plan): number => (cycleOf(plan) > 0 ? 3600 / cycleOf(plan) : 0);

/** `held`: what {@link heldBack} says of the plan. */
export function cycleFigures(mechanism: Mechanism, plan: Plan, held = heldBack(mechanism, plan)): CycleFigures {
  const from = plan.endlessFromS ?? 0;
  const cycleS = cycleOf(plan);
  const seconds = new Float64Array(mechanism.m);
  let waitingS = 0;
  for (const stretch of held) {
    const lasts = Math.max(0, stretch.endS - Math.max(from, stretch.startS));
    if ('slot' in stretch) seconds[stretch.slot] += lasts;
    else if (stretch.by === 'still') waitingS += lasts;
  }
  const slot = seconds.indexOf(Math.max(...seconds));
  return {
    cycleS,
    perHour: perHourOf(plan),
    movingS: cycleS - waitingS,
    waitingS,
    slowest: slot >= 0 && seconds[slot] > 0 ? { slot, seconds: seconds[slot] } : null,
  };
}

/** Seconds until a rocking arm is within 2 % of rest: 3.9 / (ζ·2πf) (Rao, *Mechanical Vibrations*, sec. 2.6). */
export const rockingSettles = ({ hz, damping }: { hz: number; damping: number }): number =>
  3.9 / (damping * 2 * Math.PI * hz);
/** What a rocking arm is by a test: swings counted in some seconds, and seconds until it is calm; null where it is calm before it swings. */
export function rockingBy(swings: number, inS: number, calmS: number): { hz: number; damping: number } | null {
  if (!(swings > 0 && inS > 0 && calmS > 0)) return null;
  const hz = swings / inS;
  const damping = 3.9 / (calmS * 2 * Math.PI * hz);
  return damping < 1 ? { hz, damping } : null;
}
