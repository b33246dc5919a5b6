/** What an inverse solver is asked for, and the error of a tool frame against it. */
import { axisOf, positionOf, rotationBetween, vec3, type Vec3 } from '../linear';

export type Task = { position: Vec3 } & (
  | { kind: 'free' }
  /** `direction`: where the tool's +Z points, unit vector, world. */
  | { kind: 'direction'; direction: Vec3 }
  /** `rotation`: a transform whose rotation the tool is to have, world. */
  | { kind: 'full'; rotation: Float64Array }
);

/** A solution hits where it is this close: 1e-6 m and 1e-6 rad. */
export const HIT_M = 1e-6;
export const HIT_RAD = 1e-6;

/** Distance (m) and angle (rad) between a tool frame and the task. */
export function taskError(task: Task, tool: Float64Array, at = 0): { distance: number; angle: number } {
  const distance = vec3.distance(task.position, positionOf(tool, at));
  if (task.kind === 'free') return { distance, angle: 0 };
  if (task.kind === 'direction') return { distance, angle: vec3.angleBetween(axisOf(tool, 2, at), task.direction) };
  return { distance, angle: vec3.norm(rotationBetween(tool, task.rotation, at, 0)) };
}

export const isHit = (error: { distance: number; angle: number }): boolean =>
  error.distance <= HIT_M && error.angle <= HIT_RAD;
