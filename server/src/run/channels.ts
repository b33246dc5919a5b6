/** Between a pose of the joints, with speeds, and the whole numbers on the boards' channels. */
import type { ChannelValues } from '@cork-elbow/core/board';
import {
  driveMaps,
  isSpin,
  nativeAt,
  poseMeant,
  spinMaps,
  spinPulse,
  wiredMaps,
  type CommandMap,
  type DriveMap,
  type SpinMap,
  type TiedDrive,
} from '@cork-elbow/core/actuators';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { Build, Rig } from '@cork-elbow/core/rig';

export type Values = readonly (readonly [map: CommandMap, value: number])[];

export class Channels {
  /** Every drive that goes to places, and every one that is sent speeds, whose whole transmission is on the line. */
  readonly maps: readonly DriveMap[];
  readonly spins: readonly SpinMap[];

  constructor(
    rig: Rig,
    readonly mechanism: Mechanism,
    build: Build,
  ) {
    const all = wiredMaps<TiedDrive>([...driveMaps(rig, mechanism, build), ...spinMaps(rig, mechanism, build)]);
    this.maps = all.filter((map): map is DriveMap => !isSpin(map));
    this.spins = all.filter(isSpin);
  }

  get all(): readonly CommandMap[] {
    return [...this.maps, ...this.spins];
  }

  /** What the channels are sent at a pose with speeds (slots, SI); a drive whose linkage cannot go there is left out. */
  values(q: Float64Array, v: Float64Array): Values {
    return [
      ...this.maps.flatMap((map): [DriveMap, number][] => {
        const value = nativeAt(map, this.mechanism, q);
        return value === null ? [] : [[map, value]];
      }),
      ...this.spins.map((map): [SpinMap, number] => [map, spinPulse(map, this.mechanism, q, v)]),
    ];
  }

  /** Puts into `q` what values by channel mean; joints without a value stay as they are. */
  poseInto(q: Float64Array, values: ReadonlyMap<number, number>): Float64Array {
    return poseMeant(this.maps, this.mechanism, (map) => values.get(map.channel!) ?? null, q);
  }

  /** Slots of joints whose drives all have a value. */
  known(values: ReadonlyMap<number, number>): Set<number> {
    const missing = new Set(this.maps.filter((m) => !values.has(m.channel!)).map((m) => m.transmission.id));
    return new Set(this.maps.filter((m) => !missing.has(m.transmission.id)).flatMap((m) => [...m.slots]));
  }
}

export const byChannel = (values: Values): ChannelValues => values.map(([map, value]) => [map.channel!, value]);
