/** Between a pose of the joints, with speeds, and the whole numbers that motors are sent. */
import {
  commandMaps,
  isSpin,
  nativeAt,
  poseMeant,
  spinPulse,
  wiredMaps,
  type CommandMap,
  type DriveMap,
  type SpinMap,
} from '../actuators';
import type { Mechanism } from '../mechanism';
import type { Build, Rig } from '../rig';

export type Values = readonly (readonly [map: CommandMap, value: number])[];

/** What a motor is sent at a pose with speeds (slots, SI); null where its linkage cannot go there. */
export const valueAt = (map: CommandMap, mechanism: Mechanism, q: Float64Array, v: Float64Array): number | null =>
  isSpin(map) ? spinPulse(map, mechanism, q, v) : nativeAt(map, mechanism, q);

/**
 * What motors are sent at a pose with speeds (slots, SI): whole numbers inside each one's own range; a drive whose linkage cannot go
 * there is left out.
 */
export const valuesAt = (
  maps: readonly CommandMap[],
  mechanism: Mechanism,
  q: Float64Array,
  v: Float64Array,
): Values =>
  maps.flatMap((map): [CommandMap, number][] => {
    const value = valueAt(map, mechanism, q, v);
    return value === null ? [] : [[map, value]];
  });

/** The motors of a build that lines reach. */
export class Channels {
  /** Every motor whose whole transmission is on pins, in the order of the transmissions; those that go to places, those that are sent speeds. */
  readonly all: readonly CommandMap[];
  readonly maps: readonly DriveMap[];
  readonly spins: readonly SpinMap[];

  constructor(
    rig: Rig,
    readonly mechanism: Mechanism,
    build: Build,
  ) {
    this.all = wiredMaps(commandMaps(rig, mechanism, build));
    this.maps = this.all.filter((map): map is DriveMap => !isSpin(map));
    this.spins = this.all.filter(isSpin);
  }

  values(q: Float64Array, v: Float64Array): Values {
    return valuesAt(this.all, this.mechanism, q, v);
  }

  /** Those of them that one line reaches. */
  on(line: string): CommandMap[] {
    return this.all.filter((map) => map.line === line);
  }

  /** Puts into `q` what values by drive mean; joints without a value stay as they are. */
  poseInto(q: Float64Array, values: ReadonlyMap<string, number>): Float64Array {
    return poseMeant(this.maps, this.mechanism, (map) => values.get(map.drive.id) ?? null, q);
  }

  /** Slots of joints whose drives all have a value. */
  known(values: ReadonlyMap<string, number>): Set<number> {
    const missing = new Set(this.maps.filter((m) => !values.has(m.drive.id)).map((m) => m.transmission.id));
    return new Set(this.maps.filter((m) => !missing.has(m.transmission.id)).flatMap((m) => [...m.slots]));
  }
}
