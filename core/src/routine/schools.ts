/**
 * Two schools of moving the same routine: along planned motion, or each step's target at once through a low pass on the board; and
 * the raw jump that both are held against.
 */
import type { Finding } from '../findings';
import { finding } from './findings';
import { driveSpeed, nativeAt, ownSlot, type CommandMap, type DriveMap } from '../actuators';
import { speedForReading } from '../bring-up';
import { commandedMotion } from '../commands';
import { finish, jobOf, type Job } from '../jobs';
import { forward } from '../kinematics';
import { positionOf, vec3, type Vec3 } from '../linear';
import { fromUnit, inUnit, type Mechanism } from '../mechanism';
import { firstTickSpeed, poseAt, sampleTimes, settlingOf, type Motion } from '../motion';
import type { MotionChoice, Rig } from '../rig';
import { planMotion, type Plan } from './plan';

/** A step has arrived where this share of its way is left. */
const ARRIVED = 0.02;

/** What motors are told over a plan by the rig's own choice. */
export const planCommands = (
  { motion }: Pick<Rig, 'motion'>,
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  plan: Plan,
): Motion => commandedMotion(mechanism, maps, planMotion(plan), motion);

export type School = MotionChoice['school'];
export interface SchoolFigures {
  readonly school: School;
  /** When the last target is all but reached (s). */
  readonly arrivesS: number;
  /** Largest shares of the joints' own limits. */
  readonly speed: number;
  readonly accel: number;
  readonly jerk: number;
  /** How far (m) the tool is from the planned path at most; null without a tool, or where it is not known. */
  readonly offPath: number | null;
  /** How far (share of the largest step) the joints are from the last target at the plan's end. */
  readonly left: number;
}

/** Sampling of the comparison (s), and places of the planned path that deviations are counted from. */
const EVERY = 0.004;
const MOST_SAMPLES = 30_000;
const PATH_PLACES = 1500;

/** The same routine by each school, by differences of what is sent at an even rate; a unit of work is one school. */
export const compareSchoolsJob = (
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  plan: Plan,
  motion: MotionChoice,
): Job<SchoolFigures[]> => jobOf(comparing(mechanism, maps, plan, motion));

export const compareSchools = (...of: Parameters<typeof compareSchoolsJob>): SchoolFigures[] =>
  finish(compareSchoolsJob(...of));

function* comparing(
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  plan: Plan,
  motion: MotionChoice,
): Generator<number, SchoolFigures[], void> {
  const tool = mechanism.tools.find((t) => t.mounted);
  const tip = (q: Float64Array): Vec3 => positionOf(forward(mechanism, q).tools.get(tool!.id)!);
  const way = planMotion(plan);
  // Past its end too: a low pass is late.
  const late = motion.timeConstantS * 6 + 0.2;
  const every = Math.max(EVERY, (plan.durationS + late) / MOST_SAMPLES);
  const timeS = sampleTimes(plan.durationS + late, every);
  const planned = tool
    ? Array.from({ length: PATH_PLACES + 1 }, (_, k) => tip(poseAt(way, (plan.durationS * k) / PATH_PLACES)))
    : [];
  const end = plan.blocks.at(-1)?.block.to ?? plan.start;
  const largest = plan.blocks.reduce(
    (most, { block }) => Math.max(most, ...Array.from(block.to, (v, s) => Math.abs(v - block.from[s]))),
    1e-9,
  );
  const figuresOf = (school: School): SchoolFigures => {
    const told = commandedMotion(mechanism, maps, way, { ...motion, school }, late);
    const rows = Array.from(timeS, (t) => poseAt(told, t));
    const far = (q: Float64Array): number => Math.max(...Array.from(q, (v, s) => Math.abs(v - end[s]))) / largest;
    let [speed, accel, jerk] = [0, 0, 0];
    // The planned motion's own derivatives are known; of what is sent in steps only the differences are.
    for (let k = 3; k < rows.length - 1; k++)
      for (let s = 0; s < mechanism.m; s++) {
        const [a, b, c, d] = [rows[k - 3][s], rows[k - 2][s], rows[k - 1][s], rows[k][s]];
        speed = Math.max(speed, Math.abs(d - c) / every / mechanism.speed[s]);
        accel = Math.max(accel, Math.abs(d - 2 * c + b) / every ** 2 / mechanism.accel[s]);
        jerk = Math.max(jerk, Math.abs(d - 3 * c + 3 * b - a) / every ** 3 / mechanism.jerk[s]);
      }
    const last = rows.findLastIndex((q) => far(q) > ARRIVED);
    const sparse = Math.max(1, Math.floor(rows.length / 400));
    let offPath = school === 'planned' ? 0 : null;
    // Where a motor goes that is told to jump is its own affair.
    if (school === 'low-pass' && planned.length) {
      offPath = 0;
      for (let k = 0; k < rows.length; k += sparse)
        offPath = Math.max(offPath, distanceToPath(planned, tip(rows[k])));
    }
    const atEnd = rows[Math.min(rows.length - 1, Math.floor(plan.durationS / every))];
    return { school, arrivesS: timeS[Math.max(0, last)], speed, accel, jerk, offPath, left: far(atEnd) };
  };
  const figures: SchoolFigures[] = [];
  for (const school of ['planned', 'low-pass', 'jump'] as const) {
    yield figures.length / 3;
    figures.push(figuresOf(school));
  }
  return figures;
}

/** From a place to the nearest of a path drawn from place to place. */
function distanceToPath(path: readonly Vec3[], p: Vec3): number {
  let least = Infinity;
  for (let k = 0; k + 1 < path.length; k++) {
    const along = vec3.sub(path[k + 1], path[k]);
    const off = vec3.sub(p, path[k]);
    const length = vec3.dot(along, along);
    const share = length > 0 ? Math.min(1, Math.max(0, vec3.dot(off, along) / length)) : 0;
    least = Math.min(least, vec3.norm(vec3.sub(off, vec3.scale(along, share))));
  }
  return least;
}

/** What the way of telling motors does to a plan's steps. */
export const schoolFindings = (
  mechanism: Mechanism,
  maps: readonly DriveMap[],
  plan: Plan,
  motion: MotionChoice,
): Finding[] =>
  motion.school === 'low-pass'
    ? lowPassFindings(mechanism, maps, plan, motion)
    : motion.school === 'jump'
      ? jumpFindings(mechanism, maps, plan)
      : [];

/** Told at once: one that nothing limits any more, and each stepper that is asked for more than a step at its first such move. */
function jumpFindings(mechanism: Mechanism, maps: readonly DriveMap[], plan: Plan): Finding[] {
  const moving = plan.blocks.filter(({ block }) => block.to.some((v, s) => v !== block.from[s]));
  if (!moving.length) return [];
  const place = ({ routine, stepId, startS }: (typeof moving)[number]) =>
    ({ station: 'routine', part: 'smoothing', routine, step: stepId, timeS: startS }) as const;
  const steppers = maps.flatMap((map): Finding[] => {
    if (map.drive.kind !== 'stepper') return [];
    const first = moving.find(({ block }) => {
      const [from, to] = [nativeAt(map, mechanism, block.from), nativeAt(map, mechanism, block.to)];
      return from !== null && to !== null && Math.abs(to - from) > 1;
    });
    if (!first) return [];
    const slot = ownSlot(map);
    const joint = mechanism.names[mechanism.jointOfSlot[slot]];
    return [
      finding(
        'jump-stepper',
        { ...place(first), joint: mechanism.slotIds[slot], drive: map.drive.id },
        { drive: map.drive.name, joint, step: first.index + 1 },
      ),
    ];
  });
  return [finding('jump-unlimited', place(moving[0])), ...steppers];
}

/** What a low pass does to a plan's steps: left before it has settled, or a first loop sharper than a motor is quick. */
function lowPassFindings(
  mechanism: Mechanism,
  maps: readonly DriveMap[],
  plan: Plan,
  motion: MotionChoice,
): Finding[] {
  const { timeConstantS, loopMs } = motion;
  const found: Finding[] = [];
  const said = new Set<string>();
  plan.blocks.forEach(({ block, startS, stepId, routine, index }, i) => {
    const key = `${routine} ${stepId}`;
    if (block.kind === 'hold' || said.has(key)) return;
    said.add(key);
    const place = { station: 'routine' as const, routine, step: stepId, timeS: startS };
    const step = index + 1;
    let until = startS + block.duration;
    for (let k = i + 1; k < plan.blocks.length && plan.blocks[k].block.kind === 'hold'; k++)
      until += plan.blocks[k].block.duration;
    const settles = settlingOf(timeConstantS, 1, ARRIVED);
    if (until - startS < settles - 1e-9 && i < plan.blocks.length - 1)
      found.push(finding('low-pass-unsettled', place, { step, takes: until - startS, settles }));
    let worst = { share: 1, map: null as DriveMap | null, asked: 0 };
    for (const map of maps) {
      const slot = map.slots[map.index] ?? map.slots[0];
      const asked = Math.abs(firstTickSpeed(timeConstantS, loopMs / 1000, block.to[slot] - block.from[slot]));
      const most = jointSpeedOf(map, mechanism, slot);
      if (most > 0 && asked / most > worst.share) worst = { share: asked / most, map, asked };
    }
    if (!worst.map) return;
    const slot = worst.map.slots[worst.map.index] ?? worst.map.slots[0];
    const unit = mechanism.units[mechanism.jointOfSlot[slot]];
    found.push(
      finding(
        'low-pass-first-tick',
        { ...place, joint: mechanism.slotIds[slot], drive: worst.map.drive.id },
        {
          step,
          joint: mechanism.names[mechanism.jointOfSlot[slot]],
          value: speedForReading(worst.asked, unit),
          limit: speedForReading(worst.asked / worst.share, unit),
        },
      ),
    );
  });
  return found;
}

/** The joint's speed (SI) at the motor's own, at home. */
function jointSpeedOf(map: DriveMap, mechanism: Mechanism, slot: number): number {
  const at = map.slots.map((s) => inUnit(mechanism, s, mechanism.home[s]));
  const rates = map.coupling.rates(at);
  const rate = rates?.[map.slots.indexOf(slot)]?.[map.index] ?? 0;
  return fromUnit(mechanism, slot, Math.abs(rate * driveSpeed(map.drive)));
}
