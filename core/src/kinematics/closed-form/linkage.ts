/**
 * Two bars in a plane, and a hand that is either carried along without turning (level bars) or turned by a third joint:
 * what stays of an arm once its base has turned. Joints may follow others, as parallel bars and belts through the
 * shoulder make them: what counts is how each bar's turn in the plane depends on the independent joints.
 *
 * In the plane, points are (X, Y); a turn by θ carries X towards Y. Two-link solution after Craig, *Introduction to
 * Robotics*, sec. 4.4.
 */
import type { CompiledTool } from '../../mechanism';

export type Point = readonly [number, number];

/** Links shorter than this (m) have no direction. */
const LENGTH_TOLERANCE = 1e-9;
/** How far beyond ±1 a cosine may lie and be taken as the stretched or folded arm. */
const COSINE_SLACK = 1e-9;

export interface Linkage {
  /** Slots that turn bars: two, or three where the hand has a joint of its own. */
  readonly slots: readonly number[];
  /** Slot values from the turns of first bar, second bar and hand: row by row, entries −1, 0, 1. */
  readonly inverse: readonly (readonly number[])[];
  /** The other way: turns of first bar, second bar and hand from slot values. */
  readonly bars: readonly (readonly number[])[];
  /** Turn of the hand per slot, in the order of `slots`; all 0 where it does not turn. */
  readonly handTurn: readonly number[];
  /** At the zero pose: where the first bar hangs, both bars, the hand as far as its joint turns it, and what never turns. */
  readonly shoulder: Point;
  readonly first: Point;
  readonly second: Point;
  readonly hand: Point;
  readonly fixed: Point;
  readonly l1: number;
  readonly l2: number;
  readonly phi1: number;
  readonly phi2: number;
}

/** How far (m) a point lies beyond or inside what two bars span. */
export interface SpanMiss {
  readonly kind: 'far' | 'near';
  readonly by: number;
}

/** Turns (rad) of first bar, second bar and hand, and on which side the middle joint stands. */
export interface Bend {
  readonly turns: readonly [number, number, number];
  readonly side: 1 | -1;
  /** Straight out from shoulder to end, and from shoulder to the middle joint: for naming the side. */
  readonly elbow: Point;
  readonly end: Point;
  readonly folded: boolean;
}

const gap = (p: Point): number => Math.hypot(p[0], p[1]);
const plus = (a: Point, b: Point): Point => [a[0] + b[0], a[1] + b[1]];
const minus = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1]];
export const turned = (p: Point, angle: number): Point => {
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  return [p[0] * c - p[1] * s, p[0] * s + p[1] * c];
};

/**
 * The linkage that the joints `joints` (turning about one direction, `signs` ±1 along it) make with their pivots and tip
 * at the zero pose; null where it is something else.
 */
export function linkageOf(
  tool: CompiledTool,
  joints: readonly number[],
  signs: readonly number[],
  pivots: readonly Point[],
  tip: Point,
): Linkage | null {
  const slots: number[] = [];
  const rows = joints.map((j, k) => {
    const row = new Map<number, number>();
    tool.joint.forEach((joint, i) => {
      if (joint === j) row.set(tool.slot[i], signs[k] * tool.factor[i]);
    });
    for (const s of row.keys()) if (!slots.includes(s)) slots.push(s);
    return row;
  });
  if (slots.length !== 2 && slots.length !== 3) return null;
  // The turn of what follows each joint, and of all parts that turn alike together.
  const turn = slots.map(() => 0);
  let shoulder: Point = pivots[0];
  let fixed: Point = [0, 0];
  const bars: { turn: number[]; vector: Point }[] = [];
  rows.forEach((row, k) => {
    slots.forEach((s, i) => (turn[i] += row.get(s) ?? 0));
    const vector = minus(pivots[k + 1] ?? tip, pivots[k]);
    if (turn.every((f) => f === 0)) {
      if (bars.length) fixed = plus(fixed, vector);
      else shoulder = plus(shoulder, vector);
      return;
    }
    const same = bars.find((bar) => bar.turn.every((f, i) => f === turn[i]));
    if (same) same.vector = plus(same.vector, vector);
    else bars.push({ turn: [...turn], vector });
  });
  if (
    bars.length !== slots.length ||
    bars.some((bar) => bar.turn.some((f) => Math.abs(f) > 1 || !Number.isInteger(f)))
  )
    return null;
  const inverse = invert(bars.map((bar) => bar.turn));
  const [first, second, hand] = bars;
  if (!inverse || gap(first.vector) < LENGTH_TOLERANCE || gap(second.vector) < LENGTH_TOLERANCE) return null;
  return {
    slots,
    inverse,
    bars: bars.map((bar) => bar.turn),
    handTurn: [...turn],
    shoulder,
    first: first.vector,
    second: second.vector,
    hand: hand?.vector ?? [0, 0],
    fixed,
    l1: gap(first.vector),
    l2: gap(second.vector),
    phi1: Math.atan2(first.vector[1], first.vector[0]),
    phi2: Math.atan2(second.vector[1], second.vector[0]),
  };
}

/** Inverse of a 2 × 2 or 3 × 3 matrix of whole numbers whose determinant is ±1; null for any other. */
function invert(m: readonly (readonly number[])[]): number[][] | null {
  const n = m.length;
  const minor = (i: number, j: number): number => {
    const rest = m.filter((_, r) => r !== i).map((row) => row.filter((_, c) => c !== j));
    return n === 2 ? rest[0][0] : rest[0][0] * rest[1][1] - rest[0][1] * rest[1][0];
  };
  const cofactor = (i: number, j: number): number => ((i + j) % 2 ? -1 : 1) * minor(i, j);
  const det = m[0].reduce((sum, v, j) => sum + v * cofactor(0, j), 0);
  if (Math.abs(det) !== 1) return null;
  return m.map((_, i) => m.map((__, j) => cofactor(j, i) / det));
}

/**
 * Both bends that bring the tip to `target`, the hand turned by `theta`; one where the bars are stretched or folded. `alpha`
 * is the first bar's turn to keep where the bars fold onto the shoulder.
 */
export function bendsTo(linkage: Linkage, target: Point, theta: number, alpha: number): Bend[] | SpanMiss {
  const { shoulder, hand, fixed, l1, l2, phi1, phi2 } = linkage;
  const turnedHand = theta === 0 ? hand : turned(hand, theta);
  const dx = target[0] - turnedHand[0] - fixed[0] - shoulder[0];
  const dy = target[1] - turnedHand[1] - fixed[1] - shoulder[1];
  const d = Math.hypot(dx, dy);
  const cosine = (d * d - l1 * l1 - l2 * l2) / (2 * l1 * l2);
  if (cosine > 1 + COSINE_SLACK) return { kind: 'far', by: d - l1 - l2 };
  if (cosine < -1 - COSINE_SLACK) return { kind: 'near', by: Math.abs(l1 - l2) - d };
  const bend = Math.acos(Math.min(1, Math.max(-1, cosine)));
  const folded = d < 1e-9;
  const bends = bend < 1e-9 || bend > Math.PI - 1e-9 ? [bend] : [bend, -bend];
  return bends.map((gamma) => {
    const towards = folded
      ? phi1 + alpha
      : Math.atan2(dy, dx) - Math.atan2(l2 * Math.sin(gamma), l1 + l2 * Math.cos(gamma));
    return {
      turns: [towards - phi1, towards + gamma - phi2, theta],
      side: gamma >= 0 ? 1 : -1,
      elbow: [l1 * Math.cos(towards), l1 * Math.sin(towards)],
      end: [dx, dy],
      folded,
    };
  });
}

/** Turns of the hand (rad) from `low` to `high` at which the bars span; `round`: all of a turn. */
export interface HandWindow {
  readonly low: number;
  readonly high: number;
  readonly round: boolean;
}

/**
 * The turns of the hand at which both bars span from the shoulder to its joint with the tip at `target`: by the law of cosines,
 * since that joint goes round the target in a circle. None: by how much the bars miss at the best turn.
 */
export function handWindows(linkage: Linkage, target: Point): HandWindow[] | SpanMiss {
  const { shoulder, hand, fixed, l1, l2 } = linkage;
  const ahead: Point = [target[0] - fixed[0] - shoulder[0], target[1] - fixed[1] - shoulder[1]];
  const [d, h] = [gap(ahead), gap(hand)];
  const [least, most] = [Math.abs(l1 - l2), l1 + l2];
  if (Math.abs(d - h) > most + LENGTH_TOLERANCE) return { kind: d > h ? 'far' : 'near', by: Math.abs(d - h) - most };
  if (d + h < least - LENGTH_TOLERANCE) return { kind: 'near', by: least - d - h };
  if (2 * d * h < LENGTH_TOLERANCE ** 2) return [{ low: -Math.PI, high: Math.PI, round: true }];
  // |ahead − hand turned by θ|² = d² + h² − 2dh·cos(θ − straight).
  const straight = Math.atan2(ahead[1], ahead[0]) - Math.atan2(hand[1], hand[0]);
  const angle = (span: number): number =>
    Math.acos(Math.min(1, Math.max(-1, (d * d + h * h - span * span) / (2 * d * h))));
  const [from, to] = [angle(least), angle(most)];
  if (from <= 0 && to >= Math.PI) return [{ low: straight - Math.PI, high: straight + Math.PI, round: true }];
  if (from <= 0) return [{ low: straight - to, high: straight + to, round: false }];
  if (to >= Math.PI) return [{ low: straight + from, high: straight + 2 * Math.PI - from, round: false }];
  return [
    { low: straight + from, high: straight + to, round: false },
    { low: straight - to, high: straight - from, round: false },
  ];
}

/** Values of the linkage's slots for turns of its bars. */
export const valuesOf = ({ inverse }: Linkage, turns: readonly number[]): number[] =>
  inverse.map((row) => row.reduce((sum, f, k) => sum + f * turns[k], 0));
