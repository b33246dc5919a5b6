/** What a pointer takes hold of on a drawing, and the joint value that brings that point under the pointer. */
import { deltaRods } from '../mechanism';
import { forward, framesInto, kinematicsSpace, valueTowards, type Frames } from '../kinematics';
import { apply, inverse, positionOf, vec3, type Vec3 } from '../linear';
import { rangeFrom, type Mechanism } from '../mechanism';
import { isJaw, treeOf, type Hardware } from '../rig';
import type { Pt } from './shapes';

/** A point of a link: the slot that moves it, and where it is in the frame of joint index `on`. */
export interface Grip {
  readonly slot: number;
  readonly on: number;
  readonly local: Vec3;
}
export type Projection = (p: Vec3) => Pt;

/** How near (px) the pointer must come to a link to take hold of it. */
const NEAR = 26;

/** The joint that moves the link nearest to `at` on the page, or null where no link is near. `shown`: joints to look at. */
export function pickLink(
  rig: Hardware,
  mechanism: Mechanism,
  q: Float64Array,
  project: Projection,
  at: Pt,
  shown: (id: string) => boolean = () => true,
): Grip | null {
  const frames = forward(mechanism, q);
  let best: { d: number; grip: Grip } | null = null;
  const offer = (slot: number, on: number, a: Vec3, b: Vec3, frame: Float64Array, radius: number): void => {
    const [p, r] = [project(a), project(b)];
    const [dx, dy] = [r[0] - p[0], r[1] - p[1]];
    const square = dx * dx + dy * dy;
    const t = square > 0 ? Math.min(1, Math.max(0, ((at[0] - p[0]) * dx + (at[1] - p[1]) * dy) / square)) : 0;
    const d = Math.hypot(at[0] - p[0] - t * dx, at[1] - p[1] - t * dy) - radius;
    if (d > NEAR || (best && d >= best.d)) return;
    const point = vec3.add(a, vec3.scale(vec3.sub(b, a), t));
    best = { d, grip: { slot, on, local: apply(inverse(frame), point) } };
  };
  for (const { joint, from, to } of segments(rig, mechanism, frames)) {
    if (!shown(mechanism.ids[joint])) continue;
    const slot = moverOf(mechanism, joint);
    if (slot < 0) continue;
    offer(slot, joint, from, to, frames.joints.get(mechanism.ids[joint])!, 8);
  }
  return (best as { grip: Grip } | null)?.grip ?? null;
}

/** The slot that moves a link when it is dragged: its joint's own, else that of the nearest moving joint before it. */
function moverOf(mechanism: Mechanism, joint: number): number {
  for (let j = joint; j >= 0; j = mechanism.parent[j])
    if (mechanism.slotOfJoint[j] >= 0) return mechanism.slotOfJoint[j];
  return -1;
}

function* segments(
  rig: Hardware,
  mechanism: Mechanism,
  { joints, tools }: Frames,
): Generator<{ joint: number; from: Vec3; to: Vec3 }> {
  const doc = treeOf(rig.mechanism);
  if (mechanism.delta) {
    const motors = [0, 1, 2].map((s) => joints.get(mechanism.slotIds[s])!);
    const rods = deltaRods(mechanism.delta, motors, joints.get(mechanism.ids[mechanism.delta.platform])!);
    for (let s = 0; s < 3; s++)
      yield { joint: mechanism.jointOfSlot[s], from: positionOf(motors[s]), to: rods[s].knee };
    return;
  }
  for (const joint of doc.joints) {
    if (isJaw(joint)) continue;
    const here = positionOf(joints.get(joint.id)!);
    const j = mechanism.index.get(joint.id)!;
    const ahead = [
      ...doc.joints
        .filter((child) => child.parent === joint.id && !isJaw(child))
        .map((child) => joints.get(child.id)!),
      ...doc.tools.filter((tool) => tool.mounted && tool.parent === joint.id).map((tool) => tools.get(tool.id)!),
    ];
    for (const frame of ahead) yield { joint: j, from: here, to: positionOf(frame) };
    if (!ahead.length || joint.link?.bodies?.length) yield { joint: j, from: here, to: here };
    for (const body of joint.link?.bodies ?? [])
      yield {
        joint: j,
        from: here,
        to: apply(joints.get(joint.id)!, body.centreMm.map((v) => v / 1000) as unknown as Vec3),
      };
  }
}

/** Difference (rad or m) for slopes, and when to stop. */
const STEP = 1e-4;
const STEPS = 8;

/**
 * The value (SI) of the grip's slot that brings its point nearest to `to` on the page, within limits and rules
 * (Newton's steps along the page's distance, halved where they overshoot).
 */
export function dragTo(mechanism: Mechanism, q: Float64Array, grip: Grip, project: Projection, to: Pt): number {
  const space = kinematicsSpace(mechanism);
  const { slot } = grip;
  const [low, high] = rangeFrom(mechanism, q, slot);
  const trial = q.slice();
  const off = (value: number): Pt => {
    trial[slot] = value;
    framesInto(space, mechanism, trial);
    const o = 12 * grip.on;
    const u = mechanism.unalign.slice(o, o + 12);
    const [x, y] = project(apply(space.frames, apply(u, grip.local), o));
    return [to[0] - x, to[1] - y];
  };
  let value = q[slot];
  for (let i = 0; i < STEPS; i++) {
    const e = off(value);
    const f = off(value + STEP);
    const [gx, gy] = [(e[0] - f[0]) / STEP, (e[1] - f[1]) / STEP];
    const g = gx * gx + gy * gy;
    if (g < 1) break;
    let step = (e[0] * gx + e[1] * gy) / g;
    step = Math.min(0.5, Math.max(-0.5, step));
    let next = Math.min(high, Math.max(low, value + step));
    for (let k = 0; k < 6 && Math.hypot(...off(next)) > Math.hypot(...e) + 1e-9; k++) next = (next + value) / 2;
    if (Math.abs(next - value) < 1e-7) break;
    value = next;
  }
  return valueTowards(mechanism, q, slot, value);
}
