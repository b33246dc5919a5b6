/** Names for the postures of arms without a closed form, in the words that closed forms use. */
import { axisOf, positionOf, vec3, type Vec3 } from '../linear';
import { TURNING, type CompiledTool, type Mechanism } from '../mechanism';
import { AXIS_STRIDE, chainInto, chainSpace } from './chain';
import { ELBOW_DOWN, FLIPPED, OVER } from './closed-form/spherical-wrist';
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

/** Words for a posture's bits (see closed-form/spherical-wrist), for an arm that has the parts. */
export function postureAt(mechanism: Mechanism, tool: CompiledTool, q: Float64Array): string {
  probeOf(mechanism, tool).frameAt(q);
  const bits = postureBits(mechanism, tool, q);
  const { turn, elbow, flip } = anatomy(mechanism, tool);
  const words = [
    ...(elbow >= 0 ? [bits & ELBOW_DOWN ? 'elbow down' : 'elbow up'] : []),
    ...(turn >= 0 && bits & OVER ? ['reaching over'] : []),
    ...(flip >= 0 && bits & FLIPPED ? ['wrist flipped'] : []),
  ];
  return words.join(', ') || 'solved';
}

/** The posture's class, 0 to 7, at the pose that the tool's probe was last asked for, which is q. */
export function postureBits(mechanism: Mechanism, tool: CompiledTool, q: Float64Array): number {
  const { turn, facing, shoulder, elbow, wrist, flip } = anatomy(mechanism, tool);
  const { axes, tool: t } = probeOf(mechanism, tool).space;
  const end = wrist < 0 ? t : axes;
  const e = wrist < 0 ? 9 : AXIS_STRIDE * wrist + 3;
  let bits = 0;
  if (elbow >= 0) {
    const f = AXIS_STRIDE * shoulder + 3;
    const m = AXIS_STRIDE * elbow + 3;
    let along = 0;
    let square = 1e-12;
    for (let i = 0; i < 3; i++) {
      const line = end[e + i] - axes[f + i];
      along += (axes[m + i] - axes[f + i]) * line;
      square += line * line;
    }
    // Whether the elbow stands above the line from shoulder to wrist.
    if (axes[m + 2] - axes[f + 2] - (along / square) * (end[e + 2] - axes[f + 2]) < 0) bits |= ELBOW_DOWN;
  }
  if (turn >= 0) {
    const a = AXIS_STRIDE * turn;
    const n = a + AXIS_STRIDE;
    const ahead =
      (axes[n + 1] * axes[a + 2] - axes[n + 2] * axes[a + 1]) * (end[e] - axes[a + 3]) +
      (axes[n + 2] * axes[a] - axes[n] * axes[a + 2]) * (end[e + 1] - axes[a + 4]) +
      (axes[n] * axes[a + 1] - axes[n + 1] * axes[a]) * (end[e + 2] - axes[a + 5]);
    if (facing * ahead < -1e-9) bits |= OVER;
  }
  if (flip >= 0 && q[flip] < 0) bits |= FLIPPED;
  return bits;
}

function anatomy(mechanism: Mechanism, tool: CompiledTool): Anatomy {
  let found = known.get(tool);
  if (!found) known.set(tool, (found = anatomyOf(mechanism, tool)));
  return found;
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
  // In buffers of its own: the probe's may be in use by who asks.
  const { chain } = probeOf(mechanism, tool);
  const space = chainSpace(chain);
  chainInto(space, chain, new Float64Array(mechanism.m));
  const tip = positionOf(space.tool);
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
