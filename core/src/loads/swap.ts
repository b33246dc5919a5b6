/** Other motors and other gears: what becomes of the arm with them, and the lightest that are strong enough everywhere. */
import { driveSpeed, torqueLine, withFigures } from '../actuators';
import { finish, jobOf, type Job } from '../jobs';
import { inUnit, type Mechanism } from '../mechanism';
import type { CatalogueEntry, DriveFigures, Hardware } from '../rig';
import { loadedMotors, type LoadedMotor } from './demand';
import type { Held } from './dynamics';
import { worstJob } from './worst';

/** Another motor in a drive's place, or another ratio to its joint; what is left out stays. */
export interface Swap {
  readonly drive: string;
  readonly figures?: DriveFigures;
  readonly reduction?: number;
}

/** The rig with these in their places; wires and calibrations are as they were. */
export function swapped<R extends Hardware>(rig: R, swaps: readonly Swap[]): R {
  const of = new Map(swaps.map((swap) => [swap.drive, swap]));
  return {
    ...rig,
    drives: rig.drives.map((drive) => {
      const figures = of.get(drive.id)?.figures;
      return figures ? withFigures(drive, figures) : drive;
    }),
    transmissions: rig.transmissions.map((tie) => {
      const reduction = tie.kind === 'ratio' ? of.get(tie.drives[0])?.reduction : undefined;
      return tie.kind === 'ratio' && reduction !== undefined ? { ...tie, reduction } : tie;
    }),
  };
}

/** What a motor of the catalogue would be in a place; at the joint, N·m and ° a second (N and mm where it slides). */
export interface Candidate {
  readonly entry: CatalogueEntry;
  /** Of what it may give, what is needed; null where no torque of it is known. */
  readonly share: number | null;
  /** Fastest that it turns the joint without a load, in the joint's unit a second. */
  readonly speed: number;
}

/**
 * Motors of the same kind, lightest first, in the place of one that needs `needNm` at its shaft with the ratio that it has (motor ° for 1° or
 * mm of the joint); with another ratio it needs so much less.
 */
export function candidatesFor(
  motor: LoadedMotor,
  needNm: number,
  reduction: { readonly now: number; readonly then: number },
  entries: readonly CatalogueEntry[],
): Candidate[] {
  const need = needNm * Math.abs(reduction.now / reduction.then);
  return entries
    .filter(({ figures }) => figures.kind === motor.drive.kind)
    .map((entry): Candidate => {
      const drive = withFigures(motor.drive, entry.figures);
      const line = torqueLine(drive);
      return {
        entry,
        share: line && (line[0].nm > 0 ? need / line[0].nm : Infinity),
        speed: driveSpeed(drive) / Math.abs(reduction.then),
      };
    })
    .sort((a, b) => (a.entry.figures.massG ?? 0) - (b.entry.figures.massG ?? 0));
}

export interface Lightest {
  readonly swaps: readonly Swap[];
  /** Drives for which nothing of the catalogue is strong and fast enough. */
  readonly short: readonly string[];
}
/** Poses that are sampled for one motor: each is climbed from to the very worst. */
const SAMPLES = 4000;

/**
 * The lightest motors that are asked for no more than a share of what they may give, wherever the arm is, as their joints speed up as they may,
 * and that are as fast as their joints may be. From the hand inwards: what sits further out decides what those further in have to bear. Motors that share joints stay.
 */
export const lightestJob = (
  rig: Hardware,
  mechanism: Mechanism,
  held: readonly Held[],
  wanted: number,
  entries: readonly CatalogueEntry[],
): Job<Lightest> =>
  jobOf(
    (function* (): Generator<number, Lightest, void> {
      const swaps: Swap[] = [];
      const short: string[] = [];
      const order = loadedMotors(rig, mechanism)
        .map((motor, k) => ({ k, motor }))
        .filter(({ motor }) => motor.transmission.kind === 'ratio')
        .sort((a, b) => depth(mechanism, b.motor) - depth(mechanism, a.motor));
      for (const [done, { k, motor }] of order.entries()) {
        yield done / order.length;
        const now = swapped(rig, swaps);
        const worst = finish(worstJob(now, mechanism, held, null, { samples: SAMPLES, seed: 1, accelerating: k }));
        const needNm = worst.starting![k];
        const [slot] = motor.slots;
        const ratio = motor.transmission.kind === 'ratio' ? motor.transmission.reduction : 1;
        const fastest = inUnit(mechanism, slot, mechanism.speed[slot]);
        const fits = candidatesFor(motor, needNm, { now: ratio, then: ratio }, entries).find(
          ({ share, speed }) => share !== null && share <= wanted && speed >= fastest,
        );
        if (!fits) short.push(motor.drive.id);
        else swaps.push({ drive: motor.drive.id, figures: fits.entry.figures });
      }
      return { swaps, short };
    })(),
  );

/** How many joints a motor's joint stands out from the base. */
function depth(mechanism: Mechanism, { slots }: LoadedMotor): number {
  let count = 0;
  for (let j = mechanism.jointOfSlot[slots[0]]; j >= 0; j = mechanism.parent[j]) count++;
  return count;
}
