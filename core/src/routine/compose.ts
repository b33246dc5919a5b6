/** Steps made from others: built for a purpose, or turned over, shifted and scaled. */
import { forward } from '../kinematics';
import { positionOf, vec3, type Vec3 } from '../linear';
import { fromSlotsRounded, type CompiledTool, type Mechanism } from '../mechanism';
import { isJaw, type Pace, type Rig, type Step, type Target } from '../rig';
import { M_PER_MM } from '../units/convert';
import { leastOf, poseKeeping } from './orientation';
import { structureOf } from './structure';

type Without<T> = T extends unknown ? Omit<T, 'id' | 'enabled' | 'note'> & { readonly note?: string } : never;
/** A step that has no id yet. */
export type NewStep = Without<Step>;

export interface PickAndPlace {
  readonly tool: string;
  readonly payload: string | null;
  readonly from: Target;
  readonly to: Target;
  /** Between them, clear of what stands about. */
  readonly via: Target | null;
  readonly approachMm: number;
  readonly pace: Pace;
  /** Of the last stretch down. */
  readonly slowMmPerS: number;
}

/** Down to a thing, grip it, up, over, down, let go, up; what is held is carried along. */
export function pickAndPlace(wish: PickAndPlace): NewStep[] {
  const { tool, payload, from, to, via, approachMm, pace, slowMmPerS } = wish;
  const near = (target: Target): NewStep => ({
    kind: 'approach',
    tool,
    target,
    distanceMm: approachMm,
    lastMmPerS: slowMmPerS,
    pace,
  });
  const back: NewStep = { kind: 'retreat', tool, distanceMm: approachMm, pace };
  return [
    { kind: 'grip', tool, to: 'open', pace },
    near(from),
    { kind: 'grip', tool, to: 'closed', ...(payload === null ? {} : { payload }), pace },
    back,
    ...(via ? [{ kind: 'joint-move' as const, target: via, pace }] : []),
    near(to),
    { kind: 'grip', tool, to: 'open', ...(payload === null ? {} : { payload: null }), pace },
    back,
  ];
}

/** Share of a joint's room to either side that a test of it uses. */
const TEST = 0.25;
/** Every joint a little to both sides and home again, one after the other. */
export function jointTest(mechanism: Mechanism): NewStep[] {
  const pace = { speedShare: 0.3 };
  const home: NewStep = {
    kind: 'joint-move',
    target: { joints: fromSlotsRounded(mechanism, mechanism.home) },
    pace,
    note: 'home',
  };
  return [
    home,
    ...mechanism.slotIds.flatMap((id, s): NewStep[] => {
      const unit = mechanism.siPerUnit[s];
      const at = mechanism.home[s] / unit;
      const room = (end: number): number => {
        const free = Number.isFinite(end) ? Math.abs(end / unit - at) * TEST : 45;
        return Math.round(free * 10) / 10;
      };
      const [up, down] = [room(mechanism.upper[s]), room(mechanism.lower[s])];
      const name = mechanism.names[mechanism.jointOfSlot[s]];
      const to = (value: number, note = ''): NewStep => ({
        kind: 'joint-move',
        target: { joints: { [id]: Math.round(value * 1000) / 1000 } },
        pace,
        note,
      });
      return [
        ...(up > 0 ? [to(at + up, `${name} up`)] : []),
        ...(down > 0 ? [to(at - down, `${name} down`)] : []),
        to(at, `${name} home`),
      ];
    }),
  ];
}

/** How the places of steps may be changed together. */
export type Change =
  /** The tool's place left becomes right. */
  | { readonly kind: 'mirror' }
  /** Every joint to the other side of its home. */
  | { readonly kind: 'invert' }
  | { readonly kind: 'shift'; readonly xyzMm: readonly [number, number, number] }
  /** Every joint's way from home by a factor. */
  | { readonly kind: 'scale'; readonly factor: number };

/** The pose that a change makes of q; null where the arm cannot stand like that. Jaws stay as they are. */
export function changedPose(
  rig: Rig,
  mechanism: Mechanism,
  tool: CompiledTool | undefined,
  change: Change,
  q: Float64Array,
): Float64Array | null {
  if (change.kind === 'invert' || change.kind === 'scale') {
    const factor = change.kind === 'invert' ? -1 : change.factor;
    const jaws = new Set(rig.mechanism.joints.filter(isJaw).map((j) => j.id));
    return q.map((v, s) =>
      jaws.has(mechanism.slotIds[s]) ? v : mechanism.home[s] + factor * (v - mechanism.home[s]),
    );
  }
  if (!tool) return null;
  const frame = forward(mechanism, q).tools.get(tool.id)!.slice();
  const flip = ([x, y, z]: Vec3): Vec3 => [x, -y, z];
  if (change.kind === 'shift') {
    const [x, y, z] = change.xyzMm;
    frame.set(vec3.add(positionOf(frame), [x * M_PER_MM, y * M_PER_MM, z * M_PER_MM]), 9);
  } else {
    // Mirrored in the XZ plane: M·R·M keeps a right-handed frame.
    for (const i of [1, 3, 5, 7]) frame[i] = -frame[i];
    frame.set(flip(positionOf(frame)), 9);
  }
  // Near the pose that looks alike in a mirror: the first turn the other way.
  const near = q.slice();
  if (change.kind === 'mirror' && tool.slots.length) near[tool.slots[0]] = -q[tool.slots[0]];
  return poseKeeping(mechanism, tool, frame, near, leastOf(mechanism, tool))?.q ?? null;
}

/** The chosen steps in the opposite order; null where that would tear an opener from its end. */
export function reversed(steps: readonly Step[], chosen: ReadonlySet<string>): Step[] | null {
  const { partner } = structureOf(steps);
  const places = steps.flatMap((step, k) => (chosen.has(step.id) ? [k] : []));
  if (places.some((k) => partner[k] >= 0)) return null;
  const out = [...steps];
  places.forEach((k, i) => (out[k] = steps[places[places.length - 1 - i]]));
  return out;
}
