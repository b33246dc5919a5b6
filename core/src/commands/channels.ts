/** Between a pose of the joints, with speeds, and the whole numbers that motors are sent. */
import {
  commandMaps,
  isSpin,
  mapGroups,
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
): Values => {
  const values: [CommandMap, number][] = [];
  for (const map of maps) {
    const value = valueAt(map, mechanism, q, v);
    if (value !== null) values.push([map, value]);
  }
  return values;
};

/** The motors of a build that lines reach. */
export class Channels {
  /** Every motor whose whole transmission is on pins, in the order of the transmissions; those that go to places, those that are sent speeds. */
  readonly all: readonly CommandMap[];
  readonly maps: readonly DriveMap[];
  readonly spins: readonly SpinMap[];
  /** Those that go to places, by transmission. */
  private readonly groups: readonly (readonly DriveMap[])[];

  constructor(
    rig: Rig,
    readonly mechanism: Mechanism,
    build: Build,
  ) {
    this.all = wiredMaps(commandMaps(rig, mechanism, build));
    this.maps = this.all.filter((map): map is DriveMap => !isSpin(map));
    this.spins = this.all.filter(isSpin);
    this.groups = mapGroups(this.maps);
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
    return poseMeant(this.groups, this.mechanism, (map) => values.get(map.drive.id) ?? null, q);
  }

  /** Slots of joints whose drives all have a value. */
  known(values: ReadonlyMap<string, number>): Set<number> {
    const known = new Set<number>();
    for (const group of this.groups)
      if (group.every(({ drive }) => values.has(drive.id))) for (const slot of group[0].slots) known.add(slot);
    return known;
  }
}
