/** Names for the postures of arms without a closed form, in the words that closed forms use. */
import { axisOf, positionOf, vec3, type Vec3 } from '../linear';
import { TURNING, type CompiledTool, type Mechanism } from '../mechanism';
import { AXIS_STRIDE } from './chain';
import { probeOf } from './probe';

/** Sine of the angle up to which a turn's axis counts as square to the next joint's. */
const SQUARE = 0.1;

interface Anatomy {
  /** Index along the chain of the turn that faces the target, or −1. */
  readonly turn: number;
  /** ±1: which way the arm faces at the zero pose. */
  readonly facing: number;
  /** Pivots along the chain; −1 for none. */
  readonly shoulder: number;
  readonly elbow: number;
  /** Pivot whose point is the wrist; −1 for the tip. */
  readonly wrist: number;
  /** Slot whose sign tells a flipped wrist, or −1. */
  readonly flip: number;
}

const known = new WeakMap<CompiledTool, Anatomy>();

/** "elbow up", "elbow down, reaching over, wrist flipped" …, or "solved" where an arm has no such parts. */
export function postureAt(mechanism: Mechanism, tool: CompiledTool, q: Float64Array): string {
  let anatomy = known.get(tool);
  if (!anatomy) known.set(tool, (anatomy = anatomyOf(mechanism, tool)));
  const { turn, facing, shoulder, elbow, wrist, flip } = anatomy;
  const probe = probeOf(mechanism, tool);
  const tip = positionOf(probe.frameAt(q));
  const words: string[] = [];
  const pivot = (i: number): Vec3 => (i < 0 ? tip : pivotOf(probe.space.axes, i));
  const end = pivot(wrist);
  if (elbow >= 0) {
    const from = pivot(shoulder);
    const line = vec3.sub(end, from);
    const bend = vec3.sub(pivot(elbow), from);
    const along = vec3.dot(bend, line) / Math.max(1e-12, vec3.dot(line, line));
    words.push(bend[2] - along * line[2] >= 0 ? 'elbow up' : 'elbow down');
  }
  if (turn >= 0) {
    const ahead = vec3.cross(axis(probe.space.axes, turn + 1), axis(probe.space.axes, turn));
    if (facing * vec3.dot(ahead, vec3.sub(end, pivot(turn))) < -1e-9) words.push('reaching over');
  }
  if (flip >= 0 && q[flip] < 0) words.push('wrist flipped');
  return words.join(', ') || 'solved';
}

const axis = (axes: Float64Array, i: number): Vec3 => [
  axes[AXIS_STRIDE * i],
  axes[AXIS_STRIDE * i + 1],
  axes[AXIS_STRIDE * i + 2],
];
const pivotOf = (axes: Float64Array, i: number): Vec3 => axis(axes.subarray(3), i);

function anatomyOf(mechanism: Mechanism, tool: CompiledTool): Anatomy {
  const none: Anatomy = { turn: -1, facing: 1, shoulder: -1, elbow: -1, wrist: -1, flip: -1 };
  if (mechanism.delta) return none;
  const probe = probeOf(mechanism, tool);
  const zero = new Float64Array(mechanism.m);
  const tip = positionOf(probe.frameAt(zero));
  const { chain, space } = probe;
  const turning = Array.from({ length: chain.count }, (_, i) => i).filter((i) => chain.turning[i] === TURNING);
  if (turning.length < 2) return none;
  const [first, second] = turning;
  const a = axis(space.axes, first);
  const square = second === first + 1 && Math.abs(vec3.dot(a, axis(space.axes, second))) < SQUARE;
  const turn = square && Math.abs(a[2]) > 1 - SQUARE ? first : -1;
  const ahead = turn >= 0 ? vec3.cross(axis(space.axes, second), a) : a;
  const rest = turn >= 0 ? turning.slice(1) : turning;
  const wrist = rest.length >= 5 ? rest[rest.length - 2] : rest.length >= 3 ? rest[rest.length - 1] : -1;
  const end = wrist < 0 ? tip : pivotOf(space.axes, wrist);
  const from = pivotOf(space.axes, rest[0]);
  // The elbow is the pivot in between that is far from both ends.
  let elbow = -1;
  let best = 1e-6;
  for (const i of rest.slice(1)) {
    if (wrist >= 0 && i >= wrist) break;
    const p = pivotOf(space.axes, i);
    const apart = Math.min(vec3.distance(p, from), vec3.distance(p, end));
    if (apart > best) {
      best = apart;
      elbow = i;
    }
  }
  return {
    turn,
    facing: vec3.dot(ahead, axisOf(mechanism.base, 0)) < 0 ? -1 : 1,
    shoulder: rest[0],
    elbow,
    wrist,
    flip: rest.length >= 5 ? chain.slot[wrist] : -1,
  };
}
