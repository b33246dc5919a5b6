/**
 * Motion of a board's motors as few straight pieces: how the way is gone along in time (a law that the board works out by itself, where
 * it knows one), and whole numbers of each motor between which it goes evenly along that.
 */
import { exactNative, held, isSpin, shaftAt, spinPulse, toNative, type CommandMap } from '../actuators';
import type { Mechanism } from '../mechanism';
import { evaluateInto, sampleBlockInto, sampleBuffers, type Block, type MoveBlock, type Profile } from '../motion';

/** Shares of a way are said in 65536ths. */
export const SHARES = 65_536;

/**
 * How a way is gone along: evenly, at once, by minimum jerk, or speeding up and slowing down (each so many seconds, of which twice so many
 * under jerk) with an even part between.
 */
export type Law =
  | { readonly kind: 'even' }
  | { readonly kind: 'at-once' }
  | { readonly kind: 'minimum-jerk' }
  | { readonly kind: 'ramps'; readonly up: Ramp; readonly down: Ramp };
export interface Ramp {
  readonly seconds: number;
  readonly jerkS: number;
}
/** Up to a share of the way (65536ths, rising, the last one 65536), and there these numbers, motor by motor. */
export interface Piece {
  readonly to: number;
  readonly values: readonly number[];
}
export interface Pieces {
  readonly durationS: number;
  readonly law: Law;
  /** Where it begins, motor by motor. */
  readonly from: readonly number[];
  readonly pieces: readonly Piece[];
}

/** Share of its way (0 to 1) after `t` of `duration` s: what the board works out. */
export function shareAt(law: Law, t: number, duration: number): number {
  if (t >= duration) return 1;
  switch (law.kind) {
    case 'even':
      return t / duration;
    case 'at-once':
      return 1;
    case 'minimum-jerk': {
      const u = t / duration;
      return u * u * u * (10 + u * (6 * u - 15));
    }
    case 'ramps': {
      const { up, down } = law;
      const speed = 1 / (duration - (up.seconds + down.seconds) / 2);
      if (t < up.seconds) return speed * rampWay(up, t);
      if (t > duration - down.seconds) return 1 - speed * rampWay(down, duration - t);
      return speed * (t - up.seconds / 2);
    }
  }
}
/** Way after t s of speeding up to 1 a second. */
function rampWay({ seconds, jerkS }: Ramp, t: number): number {
  const accel = 1 / (seconds - jerkS);
  if (t < jerkS) return ((accel / jerkS) * t * t * t) / 6;
  if (t > seconds - jerkS) {
    const u = seconds - t;
    return seconds / 2 - u + ((accel / jerkS) * u * u * u) / 6;
  }
  const u = t - jerkS;
  return accel * ((jerkS * jerkS) / 6 + (jerkS / 2) * u + (u * u) / 2);
}

const out = new Float64Array(4);
/** Looks that tell whether a law is a profile's, and by how much (of the way) it may be off. */
const LOOKS = 16;
const SAME = 1e-6;

/** The law of a profile whose way is 1, run through in `duration` s; null: none that a board knows. */
export function lawOf(curve: Profile, duration: number): Law | null {
  const slow = duration / curve.duration;
  const { speed, accel, jerk } = curve.top;
  const ramp = (jerkS: number): Ramp => ({ seconds: (speed / accel + jerkS) * slow, jerkS: jerkS * slow });
  const candidates: Partial<Record<Profile['kind'], () => Law>> = {
    linear: () => ({ kind: 'even' }),
    jump: () => ({ kind: 'at-once' }),
    'minimum-jerk': () => ({ kind: 'minimum-jerk' }),
    's-curve': () => ({ kind: 'ramps', up: ramp(accel / jerk), down: ramp(accel / jerk) }),
    trapezoid: () => ({ kind: 'ramps', up: ramp(0), down: ramp(0) }),
    'soft-stop': () => ({ kind: 'ramps', up: ramp(0), down: lastRamp(curve, slow) }),
  };
  const law = candidates[curve.kind]?.();
  if (!law) return null;
  for (let k = 1; k < LOOKS; k++) {
    evaluateInto(out, curve, (curve.duration * k) / LOOKS);
    if (!(Math.abs(shareAt(law, (duration * k) / LOOKS, duration) - out[0]) < SAME)) return null;
  }
  return law;
}
/** Its last phase is one of jerk, and it slows down at most from there on backwards. */
function lastRamp({ phases, duration, top }: Profile, slow: number): Ramp {
  const jerkS = duration - phases[phases.length - 1].from;
  // The jerk of it: six times the coefficient of t³.
  const most = 6 * phases[phases.length - 1].c[3] * jerkS;
  return { seconds: (top.speed / most + jerkS) * slow, jerkS: jerkS * slow };
}

/** Places looked at along the way: a power of two of them, one in so many s. */
const EVERY_S = 0.008;
const PLACES = { least: 32, most: 1024, ofLaw: 128 };
/** How far (of a motor's whole numbers) the straight pieces may be off. */
const OFF = 0.75;

/** A block as a board's motors are told it. */
export function piecesOf(maps: readonly CommandMap[], mechanism: Mechanism, block: Block): Pieces {
  const move = moveOf(block);
  // What is sent speeds is sent them as they are at each moment.
  const isPaced = move && maps.some((map) => isSpin(map) && map.slots.some((slot) => move.delta[slot] !== 0));
  const law = move && !isPaced ? lawOf(move.curve, block.duration) : null;
  const wished = law ? PLACES.ofLaw : Math.min(PLACES.most, Math.max(PLACES.least, block.duration / EVERY_S));
  const count = law?.kind === 'at-once' ? 1 : 2 ** Math.ceil(Math.log2(wished));
  const [p, v, a] = sampleBuffers(mechanism.m);
  const exact = maps.map(() => new Float64Array(count + 1));
  const told = maps.map(() => new Int32Array(count + 1));
  const before = p.slice();
  for (let k = 0; k <= count; k++) {
    if (law && move && k > 0 && k < count) {
      // Along the way itself; what turns beside it turns evenly.
      sampleBlockInto(p, v, a, block, block.duration / 2);
      for (let s = 0; s < p.length; s++) p[s] = move.from[s] + (move.delta[s] * k) / count;
    } else sampleBlockInto(p, v, a, block, (block.duration * k) / count);
    maps.forEach((map, m) => {
      // A joint that stands is told what it was told.
      const stands = k > 0 && !isSpin(map) && map.slots.every((slot) => p[slot] === before[slot]);
      const now = stands ? null : at(map, mechanism, p, v);
      [exact[m][k], told[m][k]] = now ?? [exact[m][k - 1] ?? 0, told[m][k - 1] ?? 0];
    });
    before.set(p);
  }
  const pieces: Piece[] = [];
  const values = (k: number): number[] => told.map((numbers) => numbers[k]);
  for (let k = 0; k < count;) {
    const to = farthest(exact, told, k, count);
    pieces.push({ to: (to / count) * SHARES, values: values(to) });
    k = to;
  }
  return { durationS: block.duration, law: law ?? { kind: 'even' }, from: values(0), pieces };
}

/** The straight move that a block is, whatever turns beside it. */
function moveOf(block: Block): MoveBlock | null {
  if (block.kind === 'move') return block.curve.duration > 0 ? block : null;
  return block.kind === 'spinning' ? moveOf(block.base) : null;
}
/** What a motor is told: with fractions, and as a whole number; null where its linkage cannot go. */
function at(map: CommandMap, mechanism: Mechanism, q: Float64Array, v: Float64Array): [number, number] | null {
  if (isSpin(map)) {
    const pulse = spinPulse(map, mechanism, q, v);
    return [pulse, pulse];
  }
  const shaft = shaftAt(map, mechanism, q);
  return shaft === null ? null : [held(map.native, exactNative(map.native, shaft)), toNative(map.native, shaft)];
}
/** How far a straight piece from place k on goes. */
function farthest(exact: readonly Float64Array[], told: readonly Int32Array[], k: number, count: number): number {
  const fits = (to: number): boolean =>
    exact.every((values, m) => {
      const [from, end] = [told[m][k], told[m][to]];
      for (let i = k + 1; i < to; i++)
        if (Math.abs(from + ((end - from) * (i - k)) / (to - k) - values[i]) > OFF) return false;
      return true;
    });
  if (fits(count)) return count;
  let step = 1;
  while (k + 2 * step < count && fits(k + 2 * step)) step *= 2;
  let [low, high] = [k + step, Math.min(count, k + 2 * step)];
  while (low + 1 < high) {
    const middle = (low + high) >> 1;
    if (fits(middle)) low = middle;
    else high = middle;
  }
  return low;
}
