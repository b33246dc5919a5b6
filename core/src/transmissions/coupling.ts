/**
 * What ties joints to motors: values both ways, first and second derivatives, and where it ends. Joint values in their
 * own units (° or mm), motors in degrees of their shaft. Speeds and torques follow from the rates: q̇_j = R q̇_m and
 * τ_m = Rᵀ τ_j (virtual work), with one joint and one motor q̈_j = r q̈_m + r′ q̇_m².
 */
import type { Saying } from '../findings';
import type { transmissionsFindings } from './findings';

/** Rows of numbers: one row a joint, one column a motor. */
export type Rates = readonly (readonly number[])[];

export interface Coupling {
  /** Motor angles (°) for joint values; null where the linkage cannot go. */
  toDrives(joints: readonly number[]): number[] | null;
  /** Joint values for motor angles (°); null where the linkage cannot go. */
  toJoints(drives: readonly number[]): number[] | null;
  /** ∂joint/∂motor at joint values; null where there is none: a dead point, or out of the domain. */
  rates(joints: readonly number[]): Rates | null;
  /** d²joint/d(motor)² at joint values of one joint on one motor (unit per °²); 0 where the ratio is constant. */
  bend(joints: readonly number[]): number;
  /** Motor angles (°) between which the linkage works; null for no bounds of its own. One motor's alone. */
  readonly domain: readonly [number, number] | null;
}

/** An angle (rad) on the turn from −π to π. */
export const wrapped = (angle: number): number => Math.atan2(Math.sin(angle), Math.cos(angle));

/** Why a transmission of a document cannot work, as a code of the catalogue with its data. */
export type CouplingFault = Saying<typeof transmissionsFindings.entries, 'path'>;
export type CouplingResult =
  { readonly ok: true; readonly coupling: Coupling } | { readonly ok: false; readonly fault: CouplingFault };
