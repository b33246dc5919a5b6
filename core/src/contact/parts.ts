/** What may touch what: the solids of a rig, each on what it moves with. */
import type { Frames } from '../kinematics';
import { identity, type Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import type { Solid } from './solids';

/** What does not move with a joint. */
export const BASE = -1;
export const WORLD = -2;
/** The place of what has none of its own on what it moves with. */
export const HERE = identity();

export interface Part {
  readonly id: string;
  readonly name: string;
  /** Joint it moves with; {@link BASE} or {@link WORLD} otherwise. */
  readonly joint: number;
  readonly solid: Solid;
  /** Its place on what it moves with. */
  readonly local: Float64Array;
  /** A rod between two links: where its ends are in the world; `solid` then gives its radius alone. */
  readonly ends?: (frames: Frames) => readonly [Vec3, Vec3];
  /** What is only there while a tool holds it: {@link heldKey}. */
  readonly held?: string;
}

/** A payload that a tool may hold. */
export interface Held {
  readonly tool: string;
  readonly payload: string;
}
export const heldKey = ({ tool, payload }: Held): string => `${payload} in ${tool}`;

export interface Contact {
  readonly a: Part;
  readonly b: Part;
  /** m, how deep. */
  readonly depth: number;
  readonly at: Vec3;
}

export interface ContactScene {
  readonly mechanism: Mechanism;
  readonly parts: readonly Part[];
  readonly pairs: readonly (readonly [number, number])[];
}
