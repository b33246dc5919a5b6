/** Whether boards can carry out the homing that is planned: said before anybody presses a button, and asked again as they do. */
import type { DriveMap } from '../actuators';
import { homingGroups, isLost, unheld } from '../bring-up';
import { SOUGHT } from '../board';
import { sensorPins, signalPins, type Channels, type SensorPin, type SignalPin } from '../commands';
import { contractFindings } from '../contract';
import { entryOf, type Build, type HomingAxis, type Rig, type Sensor } from '../rig';

/** An axis with all it needs: its joint, the motors that move it, and the pin that its switch is on. */
export interface HomingReady {
  readonly axis: HomingAxis;
  readonly slot: number;
  readonly maps: readonly DriveMap[];
  readonly pin: SignalPin | undefined;
  /** The sensor on the joint that knows where it is, of an axis that is homed by one. */
  readonly sensor: SensorPin | undefined;
}
type Why = 'homing-sensor' | 'homing-sensor-zero' | 'homing-no-motor' | 'homing-no-switch' | 'homing-apart';

/** The axes in their order; or why the first of them cannot be homed, as a message of the contract. */
export function homingReady(
  rig: Rig,
  { mechanism, maps }: Pick<Channels, 'mechanism' | 'maps'>,
  build: Build,
): HomingReady[] | { readonly code: string; readonly message: string } {
  const { say } = contractFindings;
  if (!rig.homing.axes.length) return { code: 'homing-none', message: say('homing-none') };
  const pins = signalPins(rig);
  const sensors = sensorPins(rig);
  const ready: HomingReady[] = [];
  for (const axis of homingGroups(rig, mechanism).flat()) {
    const slot = mechanism.slotOf.get(axis.joint)!;
    const own = maps.filter((map) => map.slots.includes(slot) && isLost(map.drive)).map(unheld);
    const pin = pins.find(({ signal }) => signal.id === axis.signal);
    const joint = mechanism.names[mechanism.jointOfSlot[slot]];
    const sensor = axis.by === 'sensor' ? sensors.find((at) => isOn(at.sensor, axis.joint)) : undefined;
    const why =
      hindrance(axis, own, pin, sensor) ??
      (sensor && !entryOf(build.sensors, sensor.sensor.id) ? ('homing-sensor-zero' as const) : null);
    if (why) return { code: why, message: say(why, { joint, sensor: sensor?.sensor.name ?? '' }) };
    if (own.length > SOUGHT) return { code: 'homing-many', message: say('homing-many', { joint, most: SOUGHT }) };
    ready.push({ axis, slot, maps: own, pin, sensor });
  }
  return ready;
}

const isOn = ({ joint, side }: Sensor, of: string): boolean => joint === of && side === 'joint';
function hindrance(
  { by }: HomingAxis,
  own: readonly DriveMap[],
  pin: SignalPin | undefined,
  sensor: SensorPin | undefined,
): Why | null {
  if (by === 'sensor') return sensor ? null : 'homing-sensor';
  if (by !== 'switch' && by !== 'end-stop') return null;
  if (!own.length) return 'homing-no-motor';
  if (by === 'switch' && !pin) return 'homing-no-switch';
  const lines = new Set(own.map(({ line }) => line));
  return lines.size > 1 || (pin && !lines.has(pin.line)) ? 'homing-apart' : null;
}
