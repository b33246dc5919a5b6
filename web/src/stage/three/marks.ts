/** Marks beside the arm: the arc of the selected joint's limits, and frames with their words. */
import { BufferGeometry, Float32BufferAttribute, Line, LineSegments, Vector3, type Object3D } from 'three';
import { forward, namedFrames } from '@cork-elbow/core/kinematics';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { isMoving, treeOf, type Rig } from '@cork-elbow/core/rig';
import type { Ink } from './ink';
import { toMatrix } from './matrix';
import { word } from './surroundings';

const STEPS = 64;
const RADIUS = 0.052;

/** Arc from the lower to the upper limit about the joint's axis, with its ends and the value now. */
export function limitArc(rig: Rig, mechanism: Mechanism, q: Float64Array, id: string, ink: Ink): Object3D[] {
  const slot = mechanism.slotOf.get(id);
  const joint = treeOf(rig.mechanism).joints.find((j) => j.id === id);
  if (slot === undefined || !joint || !isMoving(joint) || joint.type === 'prismatic') return [];
  const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]];
  if (!Number.isFinite(high - low)) return [];
  const { joints, tools } = forward(mechanism, q);
  const frame = joints.get(id)!;
  const matrix = toMatrix(frame);
  const axis = new Vector3(...joint.axis).normalize();
  const centre = new Vector3(frame[9], frame[10], frame[11]);
  const child = mechanism.parent.indexOf(mechanism.index.get(id)!);
  const tool = mechanism.tools.find((t) => t.parent === mechanism.index.get(id));
  const ahead = child >= 0 ? joints.get(mechanism.ids[child])! : tool ? tools.get(tool.id)! : null;
  const world = axis.clone().transformDirection(matrix);
  let out = ahead ? new Vector3(ahead[9], ahead[10], ahead[11]).sub(centre) : new Vector3(1, 0, 0);
  out.addScaledVector(world, -out.dot(world));
  if (out.length() < 1e-4)
    out = new Vector3(Math.abs(world.x) < 0.9 ? 1 : 0, Math.abs(world.x) < 0.9 ? 0 : 1, 0).cross(world);
  out.normalize();
  const at = (value: number, r: number): Vector3 =>
    out
      .clone()
      .applyAxisAngle(world, value - q[slot])
      .multiplyScalar(r)
      .add(centre);
  const arc: number[] = [];
  for (let k = 0; k <= STEPS; k++) arc.push(...at(low + ((high - low) * k) / STEPS, RADIUS).toArray());
  const ticks = [low, high]
    .flatMap((v) => [at(v, RADIUS * 0.9), at(v, RADIUS * 1.1)])
    .concat(at(q[slot], RADIUS * 0.75), at(q[slot], RADIUS * 1.15))
    .flatMap((p) => p.toArray());
  const material = ink.line(ink.palette.cork);
  const geometry = (points: number[]): BufferGeometry =>
    new BufferGeometry().setAttribute('position', new Float32BufferAttribute(points, 3));
  return [new Line(geometry(arc), material), new LineSegments(geometry(ticks), material)];
}

const LENGTH = 0.045;
/** Named frames and the tools' own: three lines, each with its word. */
export function frameMarks(rig: Rig, mechanism: Mechanism, q: Float64Array, ink: Ink): Object3D[] {
  const frames = forward(mechanism, q);
  const list = [...namedFrames(mechanism, frames, rig.frames).values()];
  for (const tool of mechanism.tools) if (tool.mounted) list.push(frames.tools.get(tool.id)!);
  return list.flatMap((f): Object3D[] => {
    const points = [0, 1, 2].flatMap((c) => [
      f[9],
      f[10],
      f[11],
      f[9] + f[c] * LENGTH,
      f[10] + f[3 + c] * LENGTH,
      f[11] + f[6 + c] * LENGTH,
    ]);
    const geometry = new BufferGeometry().setAttribute('position', new Float32BufferAttribute(points, 3));
    const words = ['forward', 'left', 'up'].map((text, c) => {
      const label = word(text, ink, [
        f[9] + f[c] * LENGTH * 1.25,
        f[10] + f[3 + c] * LENGTH * 1.25,
        f[11] + f[6 + c] * LENGTH * 1.25,
      ]);
      label.scale.multiplyScalar(0.62);
      return label;
    });
    return [new LineSegments(geometry, ink.line(ink.palette.ink)), ...words];
  });
}
