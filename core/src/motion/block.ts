/**
 * Blocks of position over time, in slots and SI. A plan is a list of blocks end to end; every block begins where the
 * one before it ends.
 */
import type { Mechanism } from '../mechanism';
import type { Motion } from './motion';
import { pathInto, pieceAt } from './joint-path';
import type { PathBlock } from './path';
import {
  evaluateInto,
  phasesInto,
  profileOf,
  speedRamp,
  type MovePace,
  type Phase,
  type Profile,
  type ScalarLimits,
  type SlowedFor,
} from './profile';
import { lawInto, type TimeLaw } from './time-law';

export interface MoveBlock {
  readonly kind: 'move';
  readonly from: Float64Array;
  readonly to: Float64Array;
  readonly delta: Float64Array;
  /** Unit length: s runs from 0 to 1. */
  readonly curve: Profile;
  /** Time runs this much slower than on the curve (≥ 1 at a share of the speed). */
  readonly stretch: number;
  readonly duration: number;
  readonly slowedFor?: SlowedFor;
}
/** Every joint along a curve of its own, done when it is done. */
export interface OwnPaceBlock {
  readonly kind: 'own-pace';
  readonly from: Float64Array;
  readonly to: Float64Array;
  /** Per slot, over the length of its way. */
  readonly curves: readonly Profile[];
  readonly stretch: number;
  readonly duration: number;
  readonly slowedFor?: SlowedFor;
}
export interface HoldBlock {
  readonly kind: 'hold';
  readonly from: Float64Array;
  readonly to: Float64Array;
  readonly duration: number;
}
/** What happens on some slots while other things happen on others. */
export interface TogetherBlock {
  readonly kind: 'together';
  readonly from: Float64Array;
  readonly to: Float64Array;
  readonly duration: number;
  readonly tracks: readonly Track[];
}
export interface Track {
  readonly slots: readonly number[];
  readonly blocks: readonly { readonly block: Block; readonly startS: number }[];
}
/** Another block while some slots turn steadily (rad/s or m/s). */
export interface SpinningBlock {
  readonly kind: 'spinning';
  readonly from: Float64Array;
  readonly to: Float64Array;
  readonly duration: number;
  readonly base: Block;
  readonly spins: readonly { readonly slot: number; readonly speed: number }[];
}
/** One slot goes from one speed to another while the rest stands still. */
export interface RampBlock {
  readonly kind: 'ramp';
  readonly from: Float64Array;
  readonly to: Float64Array;
  readonly duration: number;
  readonly slot: number;
  readonly phases: readonly Phase[];
}
export type Block = RampBlock | MoveBlock | OwnPaceBlock | PathBlock | HoldBlock | TogetherBlock | SpinningBlock;

/**
 * Synchronised joint move: one profile along the straight line from one pose to the other in joint space, so that all
 * joints start and end together and the path does not depend on the pace; each limit holds because the curve is
 * limited by min vᵢ/|Δᵢ| and likewise for acceleration and jerk.
 */
export function jointMove(
  mechanism: Mechanism,
  from: Float64Array,
  to: Float64Array,
  pace: MovePace = {},
): MoveBlock {
  const delta = to.map((v, s) => v - from[s]);
  let speed = Infinity;
  let accel = Infinity;
  let jerk = Infinity;
  for (let s = 0; s < delta.length; s++) {
    const d = Math.abs(delta[s]);
    if (d === 0) continue;
    speed = Math.min(speed, mechanism.speed[s] / d);
    accel = Math.min(accel, mechanism.accel[s] / d);
    jerk = Math.min(jerk, mechanism.jerk[s] / d);
  }
  const moves = speed < Infinity;
  const curve = curveFor(pace, moves ? 1 : 0, { speed, accel, jerk });
  const stretch = moves ? stretchOf(pace, curve.duration) : 1;
  return { kind: 'move', from, to, delta, curve, stretch, duration: curve.duration * stretch };
}

/** Each joint as fast as it may by itself; a wished duration is that of the slowest. */
export function ownPaceMove(
  mechanism: Mechanism,
  from: Float64Array,
  to: Float64Array,
  pace: MovePace = {},
): OwnPaceBlock {
  const curves = [...from].map((v, s) =>
    curveFor(pace, Math.abs(to[s] - v), {
      speed: mechanism.speed[s],
      accel: mechanism.accel[s],
      jerk: mechanism.jerk[s],
    }),
  );
  const longest = Math.max(0, ...curves.map((curve) => curve.duration));
  const stretch = longest > 0 ? stretchOf(pace, longest) : 1;
  return { kind: 'own-pace', from, to, curves, stretch, duration: longest * stretch };
}

function curveFor({ profile, accelShare = 1 }: MovePace, length: number, limits: ScalarLimits): Profile {
  const { speed, accel, jerk } = limits;
  return profileOf(profile ?? 's-curve', length, { speed, accel: accel * accelShare, jerk: jerk * accelShare });
}
const stretchOf = ({ durationS, speedShare }: MovePace, least: number): number =>
  durationS ? Math.max(1, durationS / least) : 1 / (speedShare ?? 1);

export const hold = (at: Float64Array, duration: number): HoldBlock => ({ kind: 'hold', from: at, to: at, duration });

/** A move that takes so many times as long, along the same way; what stands still, or is told its speed, stays as it is. */
export const slower = (block: Block, times: number, slowedFor: SlowedFor): Block =>
  block.kind === 'move' || block.kind === 'own-pace' || block.kind === 'path'
    ? { ...block, stretch: block.stretch * times, duration: block.duration * times, slowedFor }
    : block;

/** A slot brought from one speed (SI) to another within its limits. */
export function ramp(mechanism: Mechanism, at: Float64Array, slot: number, from: number, to: number): RampBlock {
  const { phases, seconds } = speedRamp(from, to, mechanism.accel[slot], mechanism.jerk[slot]);
  const end = at.slice();
  if (phases.length) phasesInto(scalar, phases, seconds);
  end[slot] = at[slot] + (phases.length ? scalar[0] : 0);
  return { kind: 'ramp', from: at, to: end, duration: seconds, slot, phases };
}

/** The block with slots turning beside it. */
export function spinning(base: Block, spins: SpinningBlock['spins']): SpinningBlock {
  const to = base.to.slice();
  for (const { slot, speed } of spins) to[slot] = base.from[slot] + speed * base.duration;
  return { kind: 'spinning', from: base.from, to, duration: base.duration, base, spins };
}

const scalar = new Float64Array(4);
let along = new Float64Array(0);
/** What {@link pathInto} writes to; as wide as the widest arm so far. */
function alongPath(block: PathBlock, sigma: number): Float64Array {
  if (along.length < 4 * block.path.m) along = new Float64Array(4 * block.path.m);
  pathInto(along, block.path, sigma, pieceAt(block.path, sigma));
  return along;
}

/** Writes position along the way, speed, acceleration and jerk at time t of a curve to out[0 … 3]. */
export function curveInto(out: Float64Array, curve: Profile | TimeLaw, t: number): void {
  if (curve.kind === 'retimed') lawInto(out, curve, t);
  else evaluateInto(out, curve, t);
}

/** Position, speed and acceleration of every slot at time t (s) within the block; exact at both ends. */
export function sampleBlockInto(
  position: Float64Array,
  speed: Float64Array,
  accel: Float64Array,
  block: Block,
  t: number,
): void {
  if (block.kind === 'spinning') {
    sampleBlockInto(position, speed, accel, block.base, t);
    const time = Math.min(block.duration, Math.max(0, t));
    for (const spin of block.spins) {
      position[spin.slot] = time === block.duration ? block.to[spin.slot] : block.from[spin.slot] + spin.speed * time;
      speed[spin.slot] = spin.speed;
      accel[spin.slot] = 0;
    }
    return;
  }
  if (block.kind === 'ramp') {
    position.set(block.from);
    speed.fill(0);
    accel.fill(0);
    phasesInto(scalar, block.phases, Math.min(block.duration, Math.max(0, t)));
    position[block.slot] = t >= block.duration ? block.to[block.slot] : block.from[block.slot] + scalar[0];
    speed[block.slot] = scalar[1];
    accel[block.slot] = scalar[2];
    return;
  }
  if (block.kind === 'hold' || t <= 0 || t >= block.duration) {
    position.set(t >= block.duration ? block.to : block.from);
    speed.fill(0);
    accel.fill(0);
    return;
  }
  if (block.kind === 'together') return togetherInto(position, speed, accel, block, t);
  const { stretch } = block;
  if (block.kind === 'own-pace') {
    const { from, to, curves } = block;
    for (let s = 0; s < from.length; s++) {
      evaluateInto(scalar, curves[s], t / stretch);
      const sign = to[s] < from[s] ? -1 : 1;
      position[s] = t / stretch >= curves[s].duration ? to[s] : from[s] + sign * scalar[0];
      speed[s] = (sign * scalar[1]) / stretch;
      accel[s] = (sign * scalar[2]) / (stretch * stretch);
    }
    return;
  }
  curveInto(scalar, block.curve, t / stretch);
  const v = scalar[1] / stretch;
  const a = scalar[2] / (stretch * stretch);
  if (block.kind === 'path') {
    const d = alongPath(block, scalar[0]);
    for (let s = 0, k = 0; s < position.length; s++, k += 4) {
      position[s] = d[k];
      speed[s] = d[k + 1] * v;
      accel[s] = d[k + 1] * a + d[k + 2] * v * v;
    }
    return;
  }
  const { from, delta } = block;
  for (let s = 0; s < delta.length; s++) {
    position[s] = from[s] + delta[s] * scalar[0];
    speed[s] = delta[s] * v;
    accel[s] = delta[s] * a;
  }
}

/** A block by itself. */
export const blockMotion = (block: Block): Motion => ({
  durationS: block.duration,
  start: block.from,
  sampleInto(position, speed, accel, t) {
    sampleBlockInto(position, speed, accel, block, t);
    if (t < block.duration) return;
    speed.fill(0);
    accel.fill(0);
  },
});

function togetherInto(
  position: Float64Array,
  speed: Float64Array,
  accel: Float64Array,
  { from, tracks }: TogetherBlock,
  t: number,
): void {
  position.set(from);
  speed.fill(0);
  accel.fill(0);
  const [p, v, a] = [from.slice(), from.slice(), from.slice()];
  for (const { slots, blocks } of tracks) {
    const now = blocks.findLast(({ startS }) => startS <= t) ?? blocks[0];
    if (!now) continue;
    sampleBlockInto(p, v, a, now.block, t - now.startS);
    for (const s of slots) {
      position[s] = p[s];
      speed[s] = v[s];
      accel[s] = a[s];
    }
  }
}

/** Jerk of every slot at time t (s) within a move or a path; Infinity where acceleration steps. */
export function jerkInto(out: Float64Array, block: MoveBlock | PathBlock, t: number): void {
  const { stretch } = block;
  curveInto(scalar, block.curve, t / stretch);
  const [, v, a, j] = scalar;
  const scale = stretch ** 3;
  if (block.kind === 'move') {
    for (let s = 0; s < out.length; s++) out[s] = (block.delta[s] * j) / scale;
    return;
  }
  const d = alongPath(block, scalar[0]);
  for (let s = 0, k = 0; s < out.length; s++, k += 4)
    out[s] = (d[k + 1] * j + 3 * d[k + 2] * v * a + d[k + 3] * v * v * v) / scale;
}
