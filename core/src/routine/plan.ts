/** A routine unrolled into one motion from start to end, with what was noticed on the way. */
import type { Finding } from '../findings';
import { finding } from './findings';
import type { SimulatedInputs } from '../contract/inputs';
import { lastBegun, sampleBlockInto, type SteppedMotion } from '../motion';
import { confirmedLimits, type Mechanism } from '../mechanism';
import type { Build, Rig, Routine } from '../rig';
import { finish, jobOf, type Job } from '../jobs';
import { Collector, type Plan, type TimedStep } from './collector';
import { awaitInput, readInput, settledAt } from './inputs';
import { interpret } from './interpret';
import type { MoveCache } from './move-cache';

export type { CarryEvent, EventStep, Plan, PlanEvent, TimedBlock, TimedStep } from './collector';

export interface PlanOptions {
  /** Slots in SI, home unless given. */
  readonly start?: Float64Array;
  readonly inputs?: SimulatedInputs;
  readonly cache?: MoveCache;
  /** What comes again for ever is planned until then (s); left out: once. */
  readonly horizonS?: number;
}

/** Plans at once; see {@link planJob} for the same in pieces. */
export const planRoutine = (
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  routine: Routine,
  options: PlanOptions = {},
): Plan => finish(planJob(rig, mechanism, build, routine, options));

/** Planning as a job; its unit of work is one step of the routine. Joints keep to what is confirmed of them on the build. */
export const planJob = (
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  routine: Routine,
  options: PlanOptions = {},
): Job<Plan> => jobOf(planning(rig, mechanism, build, routine, options));

function* planning(
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  routine: Routine,
  { start = mechanism.home, inputs = {}, cache, horizonS }: PlanOptions,
): Generator<number, Plan, void> {
  const collector = new Collector(rig, mechanism, build, routine, start);
  const run = interpret(rig, confirmedLimits(mechanism, build), routine, start, {
    cache,
    horizonS,
    settledS: settledAt(inputs),
  });
  for (let next = run.next(); !next.done;) {
    const event = next.value;
    let answer: boolean | number | null | undefined;
    if (event.kind === 'read') {
      answer = readInput(inputs, event.signal, event.atS);
      collector.asked(event, answer, null);
    } else if (event.kind === 'await') {
      answer = awaitInput(inputs, event.signal, event.is, event.atS, event.atMostS);
      collector.asked(event, answer === null ? !event.is : event.is, answer ?? event.atMostS ?? 0);
    } else {
      collector.take(event);
      if (event.kind === 'span') yield collector.progress;
    }
    next = run.next(answer);
  }
  const plan = collector.cut();
  return routine.role === 'park'
    ? { ...plan, findings: [...plan.findings, ...parkFindings(rig, routine, plan)] }
    : plan;
}

/** An arm is not folded away with something in its hand. */
function parkFindings(rig: Rig, routine: Routine, { blocks, carries }: Plan): Finding[] {
  const held = carries.find(
    ({ timeS, tool, payload }, k) =>
      payload !== null &&
      blocks.some(
        ({ block, startS }) =>
          block.kind !== 'hold' &&
          startS >= timeS - 1e-9 &&
          !carries.slice(k + 1).some((c) => c.tool === tool && c.timeS <= startS + 1e-9),
      ),
  );
  if (!held) return [];
  const payload = rig.payloads.find((p) => p.id === held.payload)?.name ?? 'something';
  return [
    finding(
      'park-holding',
      { station: 'routine', routine: routine.id, timeS: held.timeS },
      { routine: routine.name, payload },
    ),
  ];
}

/** A plan as a motion; speeds end with it, also of what was spinning. */
export const planMotion = ({
  start,
  blocks,
  durationS,
}: Pick<Plan, 'start' | 'blocks' | 'durationS'>): SteppedMotion => ({
  durationS,
  start,
  stretches: blocks.map(({ startS, block }) => ({ startS, to: block.to })),
  sampleInto(position, speed, accel, t) {
    const i = lastBegun(blocks, t);
    const ends = t >= durationS;
    if (i < 0) position.set(start);
    else {
      // At the very end sums of durations may differ in the last place; the last pose is exact.
      const { block, startS } = blocks[i];
      sampleBlockInto(position, speed, accel, block, ends && i === blocks.length - 1 ? block.duration : t - startS);
    }
    if (i >= 0 && !ends) return;
    speed.fill(0);
    accel.fill(0);
  },
});

export const stepAt = (plan: Plan, t: number): TimedStep | undefined =>
  plan.steps.findLast(
    (step) => step.startS <= t + 1e-9 && (step.endS > step.startS || step.startS >= plan.durationS),
  ) ?? plan.steps[0];

/** The payload held at time t by each tool. */
export function carriedAt(plan: Plan, t: number): Map<string, string> {
  const held = new Map<string, string>();
  for (const { timeS, tool, payload } of plan.carries) {
    if (timeS > t + 1e-9) break;
    if (payload === null) held.delete(tool);
    else held.set(tool, payload);
  }
  return held;
}
