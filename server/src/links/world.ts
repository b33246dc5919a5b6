/**
 * What is around simulated boards: where the arm really stands by their motors, and the switches that it trips. One for all boards of a
 * rig, so that a motor of one may press a switch of another.
 */
import { isSpin, nativeAt, shaftAt, type DriveMap } from '@cork-elbow/core/actuators';
import { levelOf, type Channels, type SignalPin } from '@cork-elbow/core/commands';
import { fromUnit, inUnit } from '@cork-elbow/core/mechanism';
import { heldBy, Loading, stallOf } from '@cork-elbow/core/loads';
import { isLost, unheld } from '@cork-elbow/core/bring-up';
import { normal, seededRandom } from '@cork-elbow/core/linear';
import { sensorRaw } from '@cork-elbow/core/calibration';
import {
  entryOf,
  type Build,
  type HomingAxis,
  type Rig,
  type Sensor,
  type SensorReading,
} from '@cork-elbow/core/rig';

interface Switch {
  readonly axis: HomingAxis;
  readonly slot: number;
  readonly pin: SignalPin;
  isOn: boolean;
  /** By how much it trips beside its place, this time. */
  off: number;
}

const NONE: ReadonlyMap<number, number> = new Map();

export class World {
  private readonly truly = new Map<string, number>();
  private readonly switches: readonly Switch[];
  private readonly pose: Float64Array;
  private isOld = true;
  private weighed: { readonly loading: Loading; readonly pulls: Map<string, number>; isOld: boolean } | null = null;
  /** By line. */
  private known = new Map<string, ReadonlyMap<number, number>>();
  private random = seededRandom(1);

  /** `rest`: where the arm rests (slots, SI). */
  constructor(
    private readonly rig: Rig,
    private readonly build: Build,
    private readonly channels: Channels,
    signals: readonly SignalPin[],
    private readonly rest: Float64Array,
  ) {
    this.pose = rest.slice();
    const { mechanism } = channels;
    this.switches = rig.homing.axes.flatMap((axis): Switch[] => {
      const slot = mechanism.slotOf.get(axis.joint);
      const pin = signals.find(({ signal }) => signal.id === axis.signal);
      return slot === undefined || !pin ? [] : [{ axis, slot, pin, isOn: false, off: 0 }];
    });
  }

  /** Where the arm really stands as power comes: joints of motors that count are up to `astray` (° or mm) off where it rests. */
  begin(astray: number, seed: number): Float64Array {
    this.random = seededRandom(seed + 2);
    const { mechanism, maps } = this.channels;
    const stands = this.rest.slice();
    const counted = new Set(maps.filter(({ drive }) => isLost(drive)).flatMap(({ slots }) => [...slots]));
    for (const slot of counted) stands[slot] += fromUnit(mechanism, slot, astray * (2 * this.random() - 1));
    return stands;
  }

  /** Where a motor stands at a pose (slots, SI), and where hard stops of its joint hold it. */
  valueAt(map: DriveMap, pose: Float64Array): number | null {
    return nativeAt(unheld(map), this.channels.mechanism, pose);
  }
  stopsOf(map: DriveMap): { low: number; high: number } | undefined {
    const { mechanism } = this.channels;
    const [slot, ...more] = map.slots;
    const joint = this.rig.mechanism.joints.find(({ id }) => id === mechanism.slotIds[slot]);
    if (more.length || map.transmission.drives.length > 1 || !joint || !('physical' in joint) || !joint.physical)
      return undefined;
    const [a, b] = [joint.physical.min, joint.physical.max].map((value) => {
      const pose = this.rest.slice();
      pose[slot] = fromUnit(mechanism, slot, value);
      return this.valueAt(map, pose);
    });
    return a === null || b === null ? undefined : { low: Math.min(a, b), high: Math.max(a, b) };
  }

  /** How far (its unit) a motor goes that moves one joint alone while that goes so far (° or mm); 0 where it moves several. */
  widthOf(map: DriveMap, by: number): number {
    const [slot, ...more] = map.slots;
    if (!by || slot === undefined || more.length || map.transmission.drives.length > 1) return 0;
    const pose = this.rest.slice();
    pose[slot] += fromUnit(this.channels.mechanism, slot, by);
    const [from, to] = [this.valueAt(map, this.rest), this.valueAt(map, pose)];
    return from === null || to === null ? 0 : Math.abs(to - from);
  }

  /** A motor really stands there. */
  stands(drive: string, value: number): void {
    if (this.truly.get(drive) === value) return;
    this.truly.set(drive, value);
    this.isOld = true;
  }

  /** Levels of those pins of a line that switches are at, by channel. */
  levels(line: string): ReadonlyMap<number, number> {
    if (!this.switches.length) return NONE;
    if (this.isOld) this.look();
    const known = this.known.get(line);
    if (known) return known;
    const own = this.switches.filter(({ pin }) => pin.line === line);
    const levels = new Map(own.map(({ pin, isOn }) => [pin.channel, levelOf(pin.signal, isOn)]));
    this.known.set(line, levels);
    return levels;
  }

  /**
   * What a sensor reads by now: by the zero that was measured on the build, or by one of its own where none was. `off` (its unit): so much
   * more; `noise` (counts): the deviation that it scatters by. A sensor on nothing of the arm stands in its middle.
   */
  raw(sensor: Sensor, { off, noise }: { readonly off: number; readonly noise: number }): number {
    if (this.isOld) this.look();
    const { mechanism, maps } = this.channels;
    const slot = sensor.joint === null ? undefined : mechanism.slotOf.get(sensor.joint);
    const slides = slot !== undefined && mechanism.units[mechanism.jointOfSlot[slot]] === 'mm';
    const motor = maps.find((map) => slot !== undefined && map.slots.includes(slot));
    const at =
      slot === undefined
        ? 0
        : sensor.side === 'joint'
          ? inUnit(mechanism, slot, this.pose[slot])
          : ((motor && shaftAt(motor, mechanism, this.pose)) ?? 0);
    const scattered = noise > 0 ? noise * normal(this.random) : 0;
    return sensorRaw(this.zeroOf(sensor), sensor, at + off, slides, scattered);
  }
  private zeroOf(sensor: Sensor): Pick<SensorReading, 'zero' | 'direction'> {
    const measured = entryOf(this.build.sensors, sensor.id);
    if (measured) return measured;
    const own = seededRandom(1 + this.rig.sensors.indexOf(sensor));
    return { zero: Math.round(sensor.countsPerTurn * (sensor.wraps ? own() : 0.5)), direction: own() < 0.5 ? -1 : 1 };
  }

  /**
   * How the arm's weight, so many times, and what its first tool holds (g) pull on the motors where it really stands: shares of their stall
   * torque, positive towards higher native values; of motors of which no torque is known nothing.
   */
  pulls(weight: number, heldG: number): ReadonlyMap<string, number> {
    if (this.isOld) this.look();
    this.weighed ??= { loading: this.loadingOf(heldG), pulls: new Map(), isOld: true };
    const { loading, pulls } = this.weighed;
    if (!this.weighed.isOld) return pulls;
    this.weighed.isOld = false;
    const asks = loading.rest(this.pose);
    loading.motors.forEach((motor, k) => {
      const stall = stallOf(motor);
      const map = this.channels.maps.find(({ drive }) => drive.id === motor.drive.id);
      const { nm } = asks[k];
      if (!stall || !map || isSpin(map) || !Number.isFinite(nm)) return;
      // The load pulls the other way than the motor gives.
      pulls.set(motor.drive.id, (-weight * nm * Math.sign(map.native.perDeg)) / stall);
    });
    return pulls;
  }
  private loadingOf(heldG: number): Loading {
    const { mechanism } = this.channels;
    const [tool] = mechanism.tools.filter(({ mounted }) => mounted);
    const held = tool && heldG > 0 ? [heldBy(tool, { massG: heldG, comMm: [0, 0, 0], inertiaKgM2: null })] : [];
    return new Loading(this.rig, mechanism, held);
  }

  /** Where the joints really stand (slots, SI). */
  get joints(): Float64Array {
    if (this.isOld) this.look();
    return this.pose.slice();
  }

  private look(): void {
    this.isOld = false;
    if (this.weighed) this.weighed.isOld = true;
    const { mechanism } = this.channels;
    this.channels.poseInto(this.pose, this.truly);
    for (const each of this.switches) {
      const { axis, slot } = each;
      const beyond = pastBy(axis, inUnit(mechanism, slot, this.pose[slot])) + each.off;
      if (beyond >= 0 === each.isOn) continue;
      each.isOn = !each.isOn;
      this.known.clear();
      // Where it trips the next time.
      each.off = each.isOn ? each.off : axis.spread * (2 * this.random() - 1);
    }
  }
}

/** How far a joint is past the place where its switch trips. */
const pastBy = ({ end, at }: HomingAxis, value: number): number => (end === 'min' ? at - value : value - at);
