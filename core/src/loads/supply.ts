/** What supplies have to give: rail by rail, with converters that hang on other rails, leads that take their share, and batteries that end. */
import { currentsOf } from '../actuators';
import type { Drive, Hardware, Rail } from '../rig';

/** Resistivity of copper at 20 °C, Ω·mm²/m (IEC 60028). */
const COPPER = 0.017241;

export interface LeadDrop {
  readonly drive: string;
  /** V lost to and fro, moving without a load and held fast; null where the lead is not known. */
  readonly movingV: number | null;
  readonly stallV: number | null;
  /** What its plug may carry, A; null where that is not known. */
  readonly plugA: number | null;
  /** What the motor draws at most in the run, A; null where nothing of it is known. */
  readonly peakA: number | null;
}
/** What a part of a supply may carry. */
export interface Rating {
  readonly part: 'supply' | 'regulator' | 'fuse' | 'relay' | 'connector';
  readonly amps: number;
}
/** What hangs on an output, against what a pin of its board may give (A). */
export interface PinLoad {
  readonly signal: string;
  readonly drawsA: number;
  readonly pinA: number | null;
}
/** A over a run, for all motors of a rail and what its converters take. */
export interface RunAmps {
  readonly peakA: number;
  readonly peakAtS: number;
  readonly meanA: number;
}
export interface RailBudget {
  readonly rail: Rail;
  /** Motors on it, and those of which no current is known. */
  readonly drives: readonly string[];
  readonly unknown: readonly string[];
  /** All of them at once: at rest, moving without a load, held fast; converters of other rails among it. A. */
  readonly idleA: number;
  readonly movingA: number;
  readonly stallA: number;
  /** The most while they are switched on one after the other, each held fast for a moment. */
  readonly oneByOneA: number;
  readonly run: RunAmps | null;
  /** What it gives for long, A: its own figure or its board's regulator's; null where that is not known. */
  readonly givesA: number | null;
  /** All that its current goes through, as far as it is known. */
  readonly ratings: readonly Rating[];
  readonly leads: readonly LeadDrop[];
}
/** What motors draw at moments of a run. */
export interface DrawnAlong {
  readonly timeS: Float64Array;
  /** By drive id: A at each moment. */
  readonly amps: ReadonlyMap<string, Float64Array>;
}

/** In the order of the rails. A converter that hangs on itself, over others too, adds nothing there. */
export function supplyBudget(rig: Hardware, drawn: DrawnAlong | null): RailBudget[] {
  const own = new Map(rig.rails.map((rail) => [rail.id, drivesOn(rig, rail)]));
  /** Sum over the motors of a rail, and over what hangs on it by converters. */
  const sum = (rail: Rail, of: (drive: Drive) => number, above: readonly string[] = []): number => {
    if (above.includes(rail.id)) return 0;
    const motors = own.get(rail.id)!.reduce((total, drive) => total + of(drive), 0);
    return rig.rails
      .filter(({ from }) => from?.rail === rail.id)
      .reduce((total, below) => total + inputAmps(rail, below, sum(below, of, [...above, rail.id])), motors);
  };
  return rig.rails.map((rail): RailBudget => {
    const drives = own.get(rail.id)!;
    const of = (key: 'idleA' | 'movingA' | 'stallA') => (drive: Drive) => currentsOf(drive)?.[key] ?? 0;
    const [idleA, movingA, stallA] = [sum(rail, of('idleA')), sum(rail, of('movingA')), sum(rail, of('stallA'))];
    const surge = (one: Drive): number => sum(rail, (drive) => (drive === one ? of('stallA') : of('idleA'))(drive));
    const all = rig.rails.flatMap((r) => own.get(r.id)!);
    return {
      rail,
      drives: drives.map(({ id }) => id),
      unknown: drives.filter((drive) => !currentsOf(drive)).map(({ id }) => id),
      ...{ idleA, movingA, stallA },
      oneByOneA: Math.max(idleA, ...all.map(surge)),
      run: drawn && runOf(drawn, (i) => sum(rail, (drive) => drawn.amps.get(drive.id)?.[i] ?? 0)),
      givesA: givesOf(rig, rail),
      ratings: ratingsOf(rig, rail),
      leads: drives.map((drive) => dropOf(rig, drive, drawn)),
    };
  });
}

const drivesOn = ({ wiring, drives }: Hardware, rail: Rail): Drive[] => {
  const ids = new Set(wiring.filter((wire) => wire.rail === rail.id).map(({ drive }) => drive));
  return drives.filter(({ id }) => ids.has(id));
};
/** What a converter takes from the rail above for so much below: the power, and its losses. */
const inputAmps = (above: Rail, below: Rail, amps: number): number =>
  (amps * below.volts) / (above.volts * below.from!.efficiency);

function givesOf({ boards }: Hardware, rail: Rail): number | null {
  if (rail.source === 'board') return boards.find(({ id }) => id === rail.board)?.regulatorA || null;
  return rail.amps || null;
}

function ratingsOf(rig: Hardware, rail: Rail): Rating[] {
  const gives = givesOf(rig, rail);
  const { fuseA, relayA, connectorA, source } = rail;
  const parts = [
    [source === 'board' ? 'regulator' : 'supply', gives],
    ['fuse', fuseA],
    ['relay', relayA],
    ['connector', connectorA],
  ] as const;
  return parts.flatMap(([part, amps]): Rating[] => (amps ? [{ part, amps }] : []));
}

/** Outputs of which it is known what they draw. */
export const pinLoads = ({ signals, boards }: Hardware): PinLoad[] =>
  signals.flatMap(({ id, way, board, drawsA }): PinLoad[] =>
    way === 'out' && drawsA ? [{ signal: id, drawsA, pinA: boards.find((b) => b.id === board)?.pinA ?? null }] : [],
  );

function dropOf({ wiring }: Hardware, drive: Drive, drawn: DrawnAlong | null): LeadDrop {
  const wire = wiring.find((w) => w.drive === drive.id);
  const currents = currentsOf(drive);
  const peak = drawn?.amps.get(drive.id)?.reduce((most, a) => Math.max(most, a), 0);
  const lead = { drive: drive.id, plugA: wire?.connectorA ?? null, peakA: currents && (peak ?? currents.movingA) };
  if (!wire?.lengthMm || !wire.crossMm2 || !currents) return { ...lead, movingV: null, stallV: null };
  const ohms = (2 * COPPER * wire.lengthMm) / 1000 / wire.crossMm2;
  return { ...lead, movingV: ohms * currents.movingA, stallV: ohms * currents.stallA };
}

/** The greatest, and the mean over time (trapezoids). */
function runOf({ timeS }: DrawnAlong, at: (i: number) => number): RunAmps {
  let [peakA, peakAtS, charge] = [0, 0, 0];
  let before = 0;
  for (let i = 0; i < timeS.length; i++) {
    const amps = at(i);
    if (amps > peakA) [peakA, peakAtS] = [amps, timeS[i]];
    if (i) charge += ((amps + before) / 2) * (timeS[i] - timeS[i - 1]);
    before = amps;
  }
  const whole = timeS.length ? timeS[timeS.length - 1] - timeS[0] : 0;
  return { peakA, peakAtS, meanA: whole > 0 ? charge / whole : before };
}

/** Hours that a battery lasts at a mean current (A); null where it is not known what it holds, Infinity where nothing is drawn. */
export const batteryHours = ({ battery }: Rail, meanA: number): number | null =>
  battery ? (meanA > 0 ? (battery.mAh * battery.usable) / 1000 / meanA : Infinity) : null;
