/** Motors of one line for lines of a builder's own, and where their values bring the joints. */
import { isSpin, nativeAt, ownSlot, type CommandMap, type DriveMap } from '../actuators';
import { fromUnit, inUnit, type Mechanism } from '../mechanism';
import type { JointPlace, LineMotor, MotorPlace } from '../own-lines';
import type { Channels } from './channels';

export const lineMotors = (maps: readonly CommandMap[]): LineMotor[] =>
  maps.map((map) => {
    const { drive, transmission, code, channel } = map;
    const whole = transmission.drives.every((id) => maps.some((other) => other.drive.id === id));
    return {
      ...{ channel: channel!, id: code, name: drive.name },
      ...{ unit: isSpin(map) ? 'µs' : map.native.unit, hasPlace: !isSpin(map) && whole },
    };
  });

/** Where values of these motors, in their order, bring the joints; `stands`: the others (slots, SI). */
export function linePlaces(
  channels: Channels,
  maps: readonly CommandMap[],
  stands: Float64Array,
  natives: readonly number[],
): MotorPlace[] {
  const { mechanism } = channels;
  const pose = channels.poseInto(stands.slice(), new Map(maps.map(({ drive }, k) => [drive.id, natives[k]])));
  return maps.map((map, k) => {
    const slot = ownSlot(map);
    const joint = isSpin(map) ? null : { inUnit: inUnit(mechanism, slot, pose[slot]), si: pose[slot] };
    return { native: natives[k], joint };
  });
}

/** The other way: values of motors, by channel, that bring their joints there. */
export function lineNatives(
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  stands: Float64Array,
  joints: ReadonlyMap<number, JointPlace>,
): Map<number, number> {
  const pose = stands.slice();
  const placed = maps.filter((map): map is DriveMap => !isSpin(map) && joints.has(map.channel!));
  for (const map of placed) {
    const slot = ownSlot(map);
    const at = joints.get(map.channel!)!;
    pose[slot] = 'si' in at ? at.si : fromUnit(mechanism, slot, at.inUnit);
  }
  return new Map(
    placed.flatMap((map): [number, number][] => {
      const value = nativeAt(map, mechanism, pose);
      return value === null ? [] : [[map.channel!, value]];
    }),
  );
}
