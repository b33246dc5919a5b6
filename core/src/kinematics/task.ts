/** What an inverse solver is asked for, and the error of a tool frame against it. */
import { axisOf, mul, positionOf, rotate, apply, rotationBetween, vec3, type Vec3 } from '../linear';
import type { CompiledTool } from '../mechanism';

/** A place for the tool's point (m, world), alone or with a demand on its direction. */
export type Placed = { readonly position: Vec3 } & (
  | { readonly kind: 'free' }
  /** `fromUp`: angle (rad, 0..π) of the tool's +Z from `up` (unit vector, world), whatever the heading. */
  | { readonly kind: 'tilt'; readonly fromUp: number; readonly up: Vec3 }
  /** `direction`: where the tool's +Z points, unit vector, world. */
  | { readonly kind: 'direction'; readonly direction: Vec3 }
  /** `rotation`: a transform whose rotation the tool is to have, world. */
  | { readonly kind: 'full'; readonly rotation: Float64Array }
);
/** The tool's +Z through a point (m, world), from wherever the tool is: a head, a carried camera. */
export interface Aim {
  readonly kind: 'aim';
  readonly at: Vec3;
}
export type Task = Placed | Aim;

/** A frame that moves with a joint; its task is given in it. */
export interface Carried {
  /** Joint index, −1 for the base. */
  readonly joint: number;
  /** In the joint's aligned frame. */
  readonly local: Float64Array;
}

/** One tool's part of a question. */
export interface Ask {
  readonly tool: CompiledTool;
  readonly task: Task;
  /** The task is given in this frame, which may move as the joints do; left out: in the world. */
  readonly on?: Carried;
}

/** A solution hits where it is this close: 1e-6 m and 1e-6 rad. */
export const HIT_M = 1e-6;
export const HIT_RAD = 1e-6;
/** Nearer than this (m) to the tool's point, a spot to point at gives no direction. */
export const NO_AIM = 1e-9;

/** Distance (m) and angle (rad) between a tool frame and the task. */
export function taskError(task: Task, tool: Float64Array, at = 0): { distance: number; angle: number } {
  if (task.kind === 'aim') {
    const towards = vec3.unit(vec3.sub(task.at, positionOf(tool, at)));
    return { distance: 0, angle: towards ? vec3.angleBetween(axisOf(tool, 2, at), towards) : Math.PI };
  }
  const distance = vec3.distance(task.position, positionOf(tool, at));
  if (task.kind === 'free') return { distance, angle: 0 };
  if (task.kind === 'tilt')
    return { distance, angle: Math.abs(vec3.angleBetween(axisOf(tool, 2, at), task.up) - task.fromUp) };
  if (task.kind === 'direction') return { distance, angle: vec3.angleBetween(axisOf(tool, 2, at), task.direction) };
  return { distance, angle: vec3.norm(rotationBetween(tool, task.rotation, at, 0)) };
}

/** A tilt this near (rad) to straight up or down leaves no heading to choose: it is a direction. */
const UPRIGHT = 1e-9;

/** The same task in its plainest form: straight up and straight down are directions. */
export function plainTask(task: Task): Task {
  if (task.kind !== 'tilt') return task;
  const { position, fromUp, up } = task;
  if (fromUp <= UPRIGHT) return { kind: 'direction', position, direction: up };
  return Math.PI - fromUp <= UPRIGHT ? { kind: 'direction', position, direction: vec3.scale(up, -1) } : task;
}

/** A task given in `frame`, in the world. */
export function taskIn(frame: Float64Array, task: Task): Task {
  if (task.kind === 'aim') return { kind: 'aim', at: apply(frame, task.at) };
  const position = apply(frame, task.position);
  if (task.kind === 'free') return { kind: 'free', position };
  if (task.kind === 'tilt') return { ...task, position, up: rotate(frame, task.up) };
  if (task.kind === 'direction') return { kind: 'direction', position, direction: rotate(frame, task.direction) };
  return { kind: 'full', position, rotation: mul(frame, task.rotation) };
}

export const isHit = (error: { distance: number; angle: number }): boolean =>
  error.distance <= HIT_M && error.angle <= HIT_RAD;
