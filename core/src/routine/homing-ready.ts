/** Whether boards can carry out the homing that is planned: said before anybody presses a button, and asked again as they do. */
import type { DriveMap } from '../actuators';
import { homingGroups, isLost, unheld } from '../bring-up';
import { SOUGHT } from '../board';
import { sensorPins, signalPins, type Channels, type SensorPin, type SignalPin } from '../commands';
import { contractFindings, linesCannot } from '../contract';
import type { Finding, PartOf } from '../findings';
import type { OwnLines } from '../own-lines';
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

/** What keeps axes from being homed as they are planned, by the codes of the contract: a run refuses it in the same words. */
export const homingCodes = [
  'homing-sensor',
  'homing-sensor-zero',
  'homing-no-motor',
  'homing-no-input',
  'homing-no-switch',
  'homing-apart',
  'homing-many',
] as const;
type Known = Pick<Channels, 'mechanism' | 'maps'>;
const none: ReadonlyMap<string, OwnLines> = new Map();

/** Every axis that boards cannot home as it is planned, in their order. */
export const homingFindings = (rig: Rig, known: Known, build: Build): Finding[] =>
  lookAt(rig, known, build).flatMap((axis) => ('code' in axis ? [axis] : []));

/**
 * The axes in their order; or why the first of them cannot be homed, as a message of the contract. `ownLines`: boards (ids) that are sent a
 * builder's own lines, and know nothing of seeking.
 */
export function homingReady(
  rig: Rig,
  known: Known & Pick<Channels, 'all'>,
  build: Build,
  ownLines = none,
): HomingReady[] | { readonly code: string; readonly message: string } {
  const deaf = known.all.find(({ line }) => ownLines.has(line!))?.line;
  if (deaf) return linesCannot(rig, deaf, 'home joints');
  if (!rig.homing.axes.length) return { code: 'homing-none', message: contractFindings.say('homing-none') };
  const axes = lookAt(rig, known, build);
  const ready: HomingReady[] = [];
  for (const axis of axes) {
    if ('code' in axis) return axis;
    ready.push(axis);
  }
  return ready;
}

function lookAt(rig: Rig, { mechanism, maps }: Known, build: Build): (HomingReady | Finding)[] {
  const pins = signalPins(rig);
  const sensors = sensorPins(rig);
  return homingGroups(rig, mechanism)
    .flat()
    .map((axis) => {
      const slot = mechanism.slotOf.get(axis.joint)!;
      const own = maps.filter((map) => map.slots.includes(slot) && isLost(map.drive)).map(unheld);
      const pin = pins.find(({ signal }) => signal.id === axis.signal);
      const joint = mechanism.names[mechanism.jointOfSlot[slot]];
      const sensor = axis.by === 'sensor' ? sensors.find((at) => isOn(at.sensor, axis.joint)) : undefined;
      const code = hindrance(axis, own, pin, sensor, build);
      if (!code) return { axis, slot, maps: own, pin, sensor };
      const data = { joint, sensor: sensor?.sensor.name ?? '', most: SOUGHT };
      return contractFindings.finding(code, { ...placeOf(code), joint: axis.joint }, data);
    });
}

const isOn = ({ joint, side }: Sensor, of: string): boolean => joint === of && side === 'joint';
function hindrance(
  { by, signal }: HomingAxis,
  own: readonly DriveMap[],
  pin: SignalPin | undefined,
  sensor: SensorPin | undefined,
  build: Build,
): (typeof homingCodes)[number] | null {
  if (by === 'sensor' && !sensor) return 'homing-sensor';
  if (sensor && !entryOf(build.sensors, sensor.sensor.id)) return 'homing-sensor-zero';
  if (by === 'switch' || by === 'end-stop') {
    if (!own.length) return 'homing-no-motor';
    if (by === 'switch' && !pin) return signal === null ? 'homing-no-input' : 'homing-no-switch';
    const lines = new Set(own.map(({ line }) => line));
    if (lines.size > 1 || (pin && !lines.has(pin.line))) return 'homing-apart';
  }
  return own.length > SOUGHT ? 'homing-many' : null;
}

/** Where it is mended. */
function placeOf(code: (typeof homingCodes)[number]): { station: 'motors'; part: PartOf<'motors'> } {
  switch (code) {
    case 'homing-no-input':
    case 'homing-many':
      return { station: 'motors', part: 'homing' };
    case 'homing-sensor-zero':
      return { station: 'motors', part: 'joints' };
    default:
      return { station: 'motors', part: 'wires' };
  }
}
