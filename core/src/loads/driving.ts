/** A base that goes while its arm stands still: braking and speeding up, and the pull outward of a turn, in the base's own frame. */
import { rotate, vec3, type Vec3 } from '../linear';
import { inUnit, type Mechanism } from '../mechanism';
import type { MechanismDoc, Pose } from '../rig';
import { toM, toRad } from '../units';
import type { Loading } from './loading';

export type Travel = NonNullable<MechanismDoc['base']['travel']>;
export interface DrivingLoad {
  /** The least distance (m) inside its wheels that its load keeps; −Infinity: a wheel's side leaves the ground. */
  readonly margin: number;
  /** When that is. */
  readonly by: 'braking' | 'speeding-up' | 'standing';
  readonly turning: 'left' | 'right' | null;
}

/** Of the pose (slots, SI) that the loading is asked for; null without wheels or feet that span an area. */
export function drivingLoad(loading: Loading, travel: Travel | undefined, q: Float64Array): DrivingLoad | null {
  const { support, dynamics, mechanism } = loading;
  if (!support.stands) return null;
  loading.rest(q);
  const still = loading.restWrench();
  const { wholeMass, borne } = dynamics;
  const along = toM(travel?.brakeMmPerS2 ?? 0);
  const across = toM(travel?.mmPerS ?? 0) * toRad(travel?.turnDegPerS ?? 0);
  let worst: DrivingLoad = { margin: support.marginOf(still), by: 'standing', turning: null };
  // The margin is the least of several that are linear in the acceleration: the corners of its box are enough.
  for (const x of [along, -along])
    for (const y of [across, -across]) {
      const accel = rotate(mechanism.base, [x, y, 0]);
      const margin = support.marginOf({
        force: vec3.add(still.force, vec3.scale(accel, wholeMass)),
        moment: vec3.add(still.moment, vec3.cross([borne[0], borne[1], borne[2]] as Vec3, accel)),
      });
      if (margin < worst.margin)
        worst = {
          margin,
          by: x === 0 ? 'standing' : x < 0 ? 'braking' : 'speeding-up',
          turning: y === 0 ? null : y > 0 ? 'left' : 'right',
        };
    }
  return worst;
}

/** A joint counts as standing where a pose has it within this much (its unit). */
const NEAR = 1;
/** The pose fit for driving in which the arm stands (slots, SI), but for joints that turn wheels; null where it stands in none. */
export function fitForDriving(
  mechanism: Mechanism,
  poses: readonly Pose[],
  q: Float64Array,
  apart: ReadonlySet<string>,
): Pose | null {
  return (
    poses.find(
      ({ driving, joints }) =>
        driving &&
        Object.entries(joints).every(([id, value]) => {
          const slot = mechanism.slotOf.get(id);
          if (slot === undefined || apart.has(id)) return true;
          return Math.abs(inUnit(mechanism, slot, q[slot]) - value) <= NEAR;
        }),
    ) ?? null
  );
}
/** Whether a base may drive with its arm like that; `unmarked`: in no pose is it known. */
export type MayDrive =
  | { readonly may: true; readonly pose: Pose }
  | { readonly may: false; readonly why: 'unmarked' | 'holds' | 'unfit' }
  | { readonly may: false; readonly why: 'tips'; readonly load: DrivingLoad };
/** At a pose (slots, SI); `loading` with what is in its hand, `holds`: whether anything is. */
export function mayDrive(
  loading: Loading,
  { base }: Pick<MechanismDoc, 'base'>,
  poses: readonly Pose[],
  q: Float64Array,
  holds: boolean,
): MayDrive {
  if (!poses.some(({ driving }) => driving)) return { may: false, why: 'unmarked' };
  if (holds) return { may: false, why: 'holds' };
  const pose = fitForDriving(loading.mechanism, poses, q, wheelJoints(base));
  if (!pose) return { may: false, why: 'unfit' };
  const load = drivingLoad(loading, base.travel, q);
  return load && load.margin < 0 ? { may: false, why: 'tips', load } : { may: true, pose };
}
/** Joints that turn the wheels of a base. */
export const wheelJoints = ({ wheels = [] }: MechanismDoc['base']): ReadonlySet<string> =>
  new Set(wheels.flatMap(({ joint }) => (joint ? [joint] : [])));
