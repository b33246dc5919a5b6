/**
 * How freely a tool can move from a pose: singular values of the task's Jacobian, its position rows divided by a
 * quarter of the outer reach so that they stand beside rotation rows. Manipulability is their product (Yoshikawa 1985,
 * "Manipulability of Robotic Mechanisms"); the smallest one over the largest says how near a singular pose is.
 */
import { symmetricEigenvalues } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { probeOf } from './probe';
import type { Task } from './task';

export interface Dexterity {
  /** Product of the singular values; 0 in a singular pose. No unit. */
  readonly manipulability: number;
  /** Smallest singular value: tool speed (reach quarters or rad per s) per joint speed (rad or m per s) the slowest way. */
  readonly smallest: number;
  /** Smallest over largest, 0 (singular) to 1 (every way alike). */
  readonly evenness: number;
}

/** Below this evenness a pose is called nearly singular. */
export const NEARLY_SINGULAR = 0.03;

/** Dexterity at pose q for the kind of a task: place, place and direction, or full pose. */
export function dexterityAt(
  mechanism: Mechanism,
  tool: CompiledTool,
  kind: Task['kind'],
  q: Float64Array,
): Dexterity {
  const probe = probeOf(mechanism, tool);
  const t = probe.frameAt(q);
  const J = probe.jacobian();
  const k = tool.slots.length;
  if (!k) return { manipulability: 0, smallest: 0, evenness: 0 };
  const rows: number[][] = Array.from(tool.slots, (s) => {
    const c = 6 * s;
    const v = [J[c] / probe.length, J[c + 1] / probe.length, J[c + 2] / probe.length];
    const w = [J[c + 3], J[c + 4], J[c + 5]];
    const across = (col: number): number => w[0] * t[col] + w[1] * t[3 + col] + w[2] * t[6 + col];
    if (kind === 'free') return v;
    if (kind === 'full') return [...v, ...w];
    // A tilt is one turn: about the level axis square to the tool.
    if (kind === 'tilt') return [...v, tiltRate(t, w)];
    return kind === 'aim' ? [across(0), across(1)] : [...v, across(0), across(1)];
  });
  return dexterityOf(rows);
}

/** How fast (rad/s) a tool at frame `t` (12 numbers) that turns at `w` (rad/s, world) leans from world up. */
export function tiltRate(t: Float64Array, w: readonly number[]): number {
  const level = Math.hypot(t[2], t[5]);
  return level > 1e-9 ? (w[1] * t[2] - w[0] * t[5]) / level : w[0] * t[0] + w[1] * t[3] + w[2] * t[6];
}

/** Dexterity of a Jacobian given column by column; fewer columns than rows leave directions that no joint serves. */
export function dexterityOf(columns: readonly (readonly number[])[]): Dexterity {
  const r = columns[0].length;
  const gram = new Float64Array(r * r);
  for (const column of columns)
    for (let i = 0; i < r; i++) for (let j = 0; j < r; j++) gram[i * r + j] += column[i] * column[j];
  const values = symmetricEigenvalues(gram, r).map((v) => Math.sqrt(Math.max(0, v)));
  // With fewer joints than rows the rank is theirs: the rest is out of reach anyway, not a singularity.
  const ranked = [...values].sort((a, b) => b - a).slice(0, Math.min(r, columns.length));
  const smallest = ranked.at(-1)!;
  return {
    manipulability: ranked.reduce((product, v) => product * v, 1),
    smallest,
    evenness: ranked[0] > 0 ? smallest / ranked[0] : 0,
  };
}
