/** Between a pose of the joints and the whole numbers on the board's channels. */
import type { ChannelValues } from '@cork-elbow/core/board';
import { driveMaps, nativeAt, poseMeant, wiredMaps, type DriveMap } from '@cork-elbow/core/drives';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { Build, Rig } from '@cork-elbow/core/rig';

export type Values = readonly (readonly [map: DriveMap, value: number])[];

export class Wire {
  /** Every drive whose whole transmission is on the line. */
  readonly maps: readonly DriveMap[];

  constructor(
    rig: Rig,
    readonly mechanism: Mechanism,
    build: Build,
  ) {
    this.maps = wiredMaps(driveMaps(rig, mechanism, build));
  }

  /** What the channels are sent at a pose (slots, SI); a drive whose linkage cannot go there is left out. */
  values(q: Float64Array): Values {
    return this.maps.flatMap((map): [DriveMap, number][] => {
      const value = nativeAt(map, this.mechanism, q);
      return value === null ? [] : [[map, value]];
    });
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
