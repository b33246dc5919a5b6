/**
 * Blocks of position over time, in slots and SI. A plan is a list of blocks end to end; every block begins where the
 * one before it ends.
 */
import type { Mechanism } from '../mechanism';
import type { PathBlock } from './path';
import { splineInto } from './spline';
import { evaluateInto, profileOf, type MovePace, type Profile } from './profile';

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
}
export interface HoldBlock {
  readonly kind: 'hold';
  readonly from: Float64Array;
  readonly to: Float64Array;
  readonly duration: number;
}
export type Block = MoveBlock | PathBlock | HoldBlock;

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
  const share = pace.accelShare ?? 1;
  const moves = speed < Infinity;
  const curve = profileOf(pace.profile ?? 's-curve', moves ? 1 : 0, {
    speed,
    accel: accel * share,
    jerk: jerk * share,
  });
  const stretch = !moves
    ? 1
    : pace.durationS
      ? Math.max(1, pace.durationS / curve.duration)
      : 1 / (pace.speedShare ?? 1);
  return { kind: 'move', from, to, delta, curve, stretch, duration: curve.duration * stretch };
}

export const hold = (at: Float64Array, duration: number): HoldBlock => ({ kind: 'hold', from: at, to: at, duration });

const scalar = new Float64Array(4);
const along = new Float64Array(4);

/** Where the joints stand at a share of the block's way (not of its time). */
export function placeAlong(block: MoveBlock | PathBlock, share: number): Float64Array {
  if (block.kind === 'move') return block.from.map((v, s) => v + share * block.delta[s]);
  return block.from.map((_, s) => {
    splineInto(along, block.spline, s, share);
    return along[0];
  });
}

/** Speeds (SI, per slot) at a share of the block's way, at the block's highest pace. */
export function speedsAlong(block: MoveBlock | PathBlock, share: number): Float64Array {
  const top = block.curve.top.speed / block.stretch;
  if (block.kind === 'move') return block.delta.map((d) => d * top);
  return block.from.map((_, s) => {
    splineInto(along, block.spline, s, share);
    return along[1] * top;
  });
}

/** Position, speed and acceleration of every slot at time t (s) within the block; exact at both ends. */
export function sampleBlockInto(
  position: Float64Array,
  speed: Float64Array,
  accel: Float64Array,
  block: Block,
  t: number,
): void {
  if (block.kind === 'hold' || t <= 0 || t >= block.duration) {
    position.set(t >= block.duration ? block.to : block.from);
    speed.fill(0);
    accel.fill(0);
    return;
  }
  const { stretch } = block;
  evaluateInto(scalar, block.curve, t / stretch);
  const v = scalar[1] / stretch;
  const a = scalar[2] / (stretch * stretch);
  if (block.kind === 'path') {
    for (let s = 0; s < position.length; s++) {
      splineInto(along, block.spline, s, scalar[0]);
      position[s] = along[0];
      speed[s] = along[1] * v;
      accel[s] = along[1] * a + along[2] * v * v;
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
