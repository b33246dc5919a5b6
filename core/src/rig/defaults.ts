/** The published defaults of a joint and the readers that apply them; nothing else fills gaps of a document. */
import type { AnyJoint, DeltaJoint, MovingJoint } from './mechanism-schema';

/** A joint that moves, of either family. */
export type AnyMoving = MovingJoint | DeltaJoint;

export interface JointLimits {
  min: number;
  max: number;
  maxSpeed: number;
  maxAccel: number;
  maxJerk: number;
}

const TURNING: JointLimits = { min: -180, max: 180, maxSpeed: 180, maxAccel: 600, maxJerk: 6000 };
const SLIDING: JointLimits = { min: 0, max: 100, maxSpeed: 100, maxAccel: 400, maxJerk: 4000 };

export function isMoving<J extends AnyJoint>(joint: J): joint is Exclude<J, { type: 'fixed' }> {
  return joint.type !== 'fixed';
}
export const isSliding = (joint: AnyJoint): boolean => joint.type === 'prismatic';
/** What generated code and tables call it. */
export const codeName = (joint: AnyJoint): string => joint.code ?? joint.id;
/** The joint's sources where it follows others. */
export const followsOf = (joint: AnyJoint): readonly { joint: string; factor: number }[] | undefined =>
  'follows' in joint ? joint.follows : undefined;
export const isJaw = (joint: AnyJoint): boolean => 'role' in joint && joint.role === 'jaw';
export const jointName = (joint: AnyJoint): string => joint.name ?? joint.id;
/** The unit of a joint's values, as people read it. */
export const unitOf = (joint: AnyJoint): '°' | 'mm' => (isSliding(joint) ? 'mm' : '°');

/**
 * Software limits in the joint's own unit (per s, s², s³). Continuous joints and followers without limits of their
 * own are unbounded (±Infinity).
 */
export function limitsOf(joint: AnyMoving): JointLimits {
  const standard = isSliding(joint) ? SLIDING : TURNING;
  const unbounded = joint.type === 'continuous' || followsOf(joint) !== undefined;
  const given = joint.limits as Partial<JointLimits> | undefined;
  return {
    min: given?.min ?? (unbounded ? -Infinity : standard.min),
    max: given?.max ?? (unbounded ? Infinity : standard.max),
    maxSpeed: given?.maxSpeed ?? standard.maxSpeed,
    maxAccel: given?.maxAccel ?? standard.maxAccel,
    maxJerk: given?.maxJerk ?? standard.maxJerk,
  };
}

/** Home in the joint's own unit, brought inside its limits. */
export function homeOf(joint: AnyMoving): number {
  const { min, max } = limitsOf(joint);
  return Math.min(max, Math.max(min, joint.home));
}

/** A maker of ids that are not taken yet, for many at once: a name in plain letters, with a number where it is there already. */
export function idMaker(taken: Iterable<string>): (stem: string) => string {
  const used = new Set(taken);
  const next = new Map<string, number>();
  return (stem) => {
    const base =
      stem
        .normalize('NFKD')
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^[^a-z]+|-+$/g, '')
        .slice(0, 40) || 'item';
    let id = base;
    let n = next.get(base) ?? 2;
    while (used.has(id)) id = `${base}-${n++}`;
    next.set(base, n);
    used.add(id);
    return id;
  };
}

/** One id that is not taken yet. */
export const freeId = (stem: string, taken: Iterable<string>): string => idMaker(taken)(stem);

/** A build by its id; the first one where none is named or it is gone. */
export const buildOf = <B extends { readonly id: string }>(
  rig: { readonly builds: readonly B[] },
  id?: string | null,
): B => rig.builds.find((build) => build.id === id) ?? rig.builds[0];

/** What a record holds under an id, or null; never something inherited. */
export const entryOf = <T>(record: Readonly<Record<string, T>>, id: string): T | null =>
  Object.hasOwn(record, id) ? record[id] : null;
