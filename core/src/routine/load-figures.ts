/** Everything that is said of an arm's loads as one list of figures: for a sheet, and to lay two versions of an arm side by side. */
import { heatLeft, meanSquare, riseAt, wattsOf, windingOf } from '../actuators';
import { jobOf, piecesOf, type Job } from '../jobs';
import {
  accuracyAt,
  alongJob,
  batteryHours,
  gripOn,
  heldBy,
  Loading,
  massHeld,
  shareOf,
  supplyBudget,
  worstJob,
  type LoadedMotor,
  type LoadsAlong,
} from '../loads';
import type { Mechanism } from '../mechanism';
import type { Build, Drive, Rig } from '../rig';
import { rockingSettles } from './analysis';
import { heldAlong } from './held';
import { planMotion, planRoutine } from './plan';

export interface Figure {
  readonly group: string;
  /** The same words for the same thing of another version. */
  readonly name: string;
  /** Null where it is not known; Infinity: nothing bounds it. */
  readonly value: number | null;
  readonly unit: string;
  readonly digits: number;
  /** Which way is better; null: neither. */
  readonly better: 'more' | 'less' | null;
  readonly state: 'good' | 'tight' | 'over' | null;
}

const SAMPLES = 20_000;
/** Routines that are looked at, the first ones. */
const MOST_ROUTINES = 12;
const AN_HOUR = 3600;

/** With the first payload of the document in the hand of the first tool, where there is one. `airC`: of the air, °C. */
export const loadFigures = (rig: Rig, mechanism: Mechanism, build: Build, airC: number): Job<Figure[]> =>
  jobOf(work(rig, mechanism, build, airC));

const motorName = (mechanism: Mechanism, { drive, slots, perJoint }: LoadedMotor): string =>
  perJoint === null ? drive.name : mechanism.names[mechanism.jointOfSlot[slots[0]]];
const stateOf = (share: number): Figure['state'] => (share > 1 ? 'over' : share > 0.8 ? 'tight' : 'good');

function* work(rig: Rig, mechanism: Mechanism, build: Build, airC: number): Generator<number, Figure[], void> {
  const figures: Figure[] = [];
  const say = (
    group: string,
    name: string,
    value: number | null,
    [unit, digits]: readonly [string, number],
    better: Figure['better'] = null,
    state: Figure['state'] = null,
  ): void => void figures.push({ group, name, value, unit, digits, better, state });
  const [payload] = rig.payloads;
  const tool = mechanism.tools.find(({ mounted }) => mounted) ?? null;
  const where = tool && heldBy(tool, payload ?? { massG: 0, comMm: [0, 0, 0], inertiaKgM2: null });
  const held = where && payload ? [where] : [];
  const loading = new Loading(rig, mechanism);
  loading.rest(mechanism.home);

  const arm = 'The arm';
  say(arm, 'weighs, with its base', loading.dynamics.wholeMass, ['kg', 2], 'less');
  const sum = (of: (drive: Drive) => number | undefined): number =>
    rig.drives.reduce((total, drive) => total + (of(drive) ?? 0), 0);
  // What is not known of one of them is not known of all.
  const ofAll = (of: (drive: Drive) => number | undefined): number | null => (rig.drives.every(of) ? sum(of) : null);
  const massG = ofAll((drive) => drive.massG);
  if (rig.drives.length) say(arm, 'its motors weigh', massG === null ? null : massG / 1000, ['kg', 3], 'less');
  if (rig.drives.some(({ price }) => price))
    say(
      arm,
      'its motors cost',
      ofAll(({ price }) => price),
      ['', 2],
      'less',
    );

  const worst = yield* piecesOf(worstJob(rig, mechanism, held, where, { samples: SAMPLES, seed: 1 }), 0, 0.3);
  const at = 'At its worst pose';
  say(at, 'with in its hand', payload?.massG ?? 0, ['g', 0]);
  loading.motors.forEach((motor, k) => {
    const share = shareOf(worst.motors[k].value);
    const name = `${motorName(mechanism, motor)}, of its torque`;
    say(at, name, share && 100 * share, ['%', 0], 'less', share === null ? null : stateOf(share));
  });
  if (worst.heaviest) say(at, 'it could hold everywhere', worst.heaviest.value.kg * 1000, ['g', 0], 'more');
  if (worst.tip) {
    const mm = worst.tip.value * 1000;
    say(at, 'left before it tips', mm, ['mm', 0], 'more', mm < 0 ? 'over' : mm < 15 ? 'tight' : 'good');
  }
  if (rig.motion.rocking) {
    say('Rocking', 'rocks at', rig.motion.rocking.hz, ['Hz', 2], 'more');
    say('Rocking', 'calm after a sharp stop', rockingSettles(rig.motion.rocking), ['s', 1], 'less');
  }
  const document = rig.mechanism.tools.find(({ id }) => id === tool?.id);
  if (document && payload) {
    const grip = gripOn(loading, mechanism, document, Math.min(...payload.sizeMm));
    if (grip.ok) {
      say('Grip', `squeezes ${payload.name} for long with`, grip.longN, ['N', 1], 'more');
      if (document.padFriction)
        say('Grip', 'that holds', massHeld(grip.longN, document.padFriction, 1) * 1000, ['g', 0], 'more');
    }
  }
  if (tool) {
    const { rss, worst: most } = accuracyAt(rig, mechanism, build, tool, mechanism.home, loading);
    say('Accuracy at home', 'as a rule within', rss * 1000, ['mm', 2], 'less');
    say('Accuracy at home', 'at worst within', most * 1000, ['mm', 2], 'less');
  }

  const peaks = new Map<string, number>();
  const lasts = new Map<string, number>();
  const routines = rig.routines.slice(0, MOST_ROUTINES);
  for (const [k, routine] of routines.entries()) {
    const plan = planRoutine(rig, mechanism, build, routine);
    if (!(plan.durationS > 0)) continue;
    const along = yield* piecesOf(
      alongJob(rig, mechanism, planMotion(plan), heldAlong(rig, mechanism, plan)),
      0.3 + (0.7 * k) / routines.length,
      0.3 + (0.7 * (k + 1)) / routines.length,
    );
    const group = `In “${routine.name}”`;
    say(group, 'takes', plan.durationS, ['s', 1], 'less');
    routineFigures(along, loading, airC).forEach(([name, value, unit, better, state]) =>
      say(group, name, value, unit, better, state),
    );
    const amps = new Map(
      loading.motors.map(({ drive }, i) => [drive.id, along.amps[i].map((a) => (Number.isNaN(a) ? 0 : a))]),
    );
    for (const { rail, run } of supplyBudget(rig, { timeS: along.timeS, amps })) {
      peaks.set(rail.id, Math.max(peaks.get(rail.id) ?? 0, run!.peakA));
      const hours = batteryHours(rail, run!.meanA);
      if (hours !== null) lasts.set(rail.id, Math.min(lasts.get(rail.id) ?? Infinity, hours));
    }
  }
  // What is not known of one motor on it is not known of the supply.
  for (const { rail, stallA, ratings, drives, unknown } of supplyBudget(rig, null)) {
    if (!drives.length && stallA <= 0) continue;
    const group = `Supply “${rail.name}”`;
    const least = Math.min(...ratings.map(({ amps }) => amps));
    const peak = peaks.get(rail.id);
    const isKnown = !unknown.length;
    if (peak !== undefined) {
      const state = isKnown && ratings.length ? stateOf(peak / least) : null;
      say(group, 'most in any routine', isKnown ? peak : null, ['A', 2], 'less', state);
    }
    say(group, 'all held fast at once', isKnown ? stallA : null, ['A', 1], 'less');
    if (ratings.length) say(group, 'its weakest part carries', least, ['A', 1], 'more');
    const hours = lasts.get(rail.id);
    if (hours !== undefined) say(group, 'its battery lasts', isKnown ? hours : null, ['h', 1], 'more');
  }
  return figures;
}

type Said = readonly [string, number | null, readonly [string, number], Figure['better'], Figure['state']];
function routineFigures(along: LoadsAlong, { motors }: Loading, airC: number): Said[] {
  const shares = along.worst.flatMap(({ ask }) => shareOf(ask) ?? []);
  const most = shares.length ? Math.max(...shares) : null;
  const downs = along.weak.filter(({ kind }) => kind === 'down-only').length;
  /** K that are left to what gives way first after an hour. */
  const left = motors.flatMap(({ drive }, k) => {
    const winding = windingOf(drive);
    if (!winding || Number.isNaN(along.amps[k][0])) return [];
    const rise = riseAt(winding, wattsOf(winding, meanSquare(along.timeS, along.amps[k])), AN_HOUR);
    return [heatLeft(drive, winding, airC, rise)];
  });
  const coolest = left.length ? Math.min(...left) : null;
  const pace = (share: number | undefined): number | null => share ?? null;
  const tip = along.tipWorst && along.tipWorst.margin * 1000;
  return [
    ['its hardest motor takes', most && 100 * most, ['%', 0], 'less', most === null ? null : stateOf(most)],
    ['gets down, not up', downs, ['times', 0], 'less', downs ? 'tight' : 'good'],
    ['its motors bear the pace', pace(along.pace.motors?.share), ['times', 2], 'more', null],
    ...(tip === null
      ? []
      : [
          ['left before it tips', tip, ['mm', 0], 'more', tip < 0 ? 'over' : tip < 15 ? 'tight' : 'good'] as const,
          ['its base bears the pace', pace(along.pace.base?.share), ['times', 2], 'more', null] as const,
        ]),
    [
      'after an hour left to what gives way',
      coolest,
      ['K', 0],
      'more',
      coolest === null ? null : coolest < 0 ? 'over' : coolest < 15 ? 'tight' : 'good',
    ],
  ];
}
