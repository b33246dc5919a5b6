/** A routine unrolled into one motion from start to end, with what was noticed on the way. */
import type { Finding, Place } from '../findings';
import { finding, findingOf, type RoutineSaying } from './findings';
import type { SimulatedInputs } from '../contract/inputs';
import { driveMaps } from '../actuators';
import { lastBegun, sampleBlockInto, type Block, type SteppedMotion } from '../motion';
import type { Mechanism } from '../mechanism';
import type { Build, Keep, Rig, Routine } from '../rig';
import { finish, jobOf, type Job } from '../jobs';
import type { RoutineEvent, StepRef } from './events';
import { awaitInput, readInput, settledAt } from './inputs';
import { driveCheck, slowPlace } from './drive-checks';
import { interpret } from './interpret';
import type { MoveCache } from './move-cache';
import { structureFindings } from './structure';

export interface TimedBlock {
  readonly block: Block;
  readonly startS: number;
  /** The step it belongs to (the first of several in one), its number from 0, and the routine that step stands in. */
  readonly stepId: string;
  readonly index: number;
  readonly routine: string;
}
export interface TimedStep {
  readonly stepId: string;
  readonly index: number;
  /** The routine it stands in, and how many calls deep. */
  readonly routine: string;
  readonly depth: number;
  readonly startS: number;
  readonly endS: number;
  /** What its ways keep of the tool's orientation, the least of them; none: it goes along no way of the tool. */
  readonly keep?: Keep;
}
export interface CarryEvent {
  readonly timeS: number;
  readonly tool: string;
  readonly payload: string | null;
}
/** The step that an event is of, its number from 0, and the routine that step stands in. */
export interface EventStep {
  readonly stepId: string;
  readonly index: number;
  readonly routine: string;
}
/** What is switched, counted, asked on the way. */
export type PlanEvent =
  | ({ readonly kind: 'output'; readonly timeS: number; readonly signal: string; readonly on: boolean } & EventStep)
  | ({
      readonly kind: 'input';
      readonly timeS: number;
      readonly signal: string;
      readonly on: boolean;
      readonly waitedS: number | null;
    } & EventStep)
  | { readonly kind: 'counter'; readonly timeS: number; readonly counter: string; readonly value: number }
  | ({
      readonly kind: 'power';
      readonly timeS: number;
      readonly joints: readonly string[];
      readonly on: boolean;
    } & EventStep)
  | ({
      readonly kind: 'swap';
      readonly timeS: number;
      readonly off: string | null;
      readonly on: string | null;
    } & EventStep);
const eventStep = ({ step, index, routine }: StepRef): EventStep => ({ stepId: step.id, index, routine });

export interface Plan {
  readonly routineId: string;
  readonly start: Float64Array;
  readonly blocks: readonly TimedBlock[];
  readonly steps: readonly TimedStep[];
  readonly carries: readonly CarryEvent[];
  readonly events: readonly PlanEvent[];
  readonly durationS: number;
  /** From here to the end all comes again for ever; null where it ends. */
  readonly endlessFromS: number | null;
  readonly findings: readonly Finding[];
}

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

/** Planning as a job; its unit of work is one step of the routine. */
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
  const blocks: TimedBlock[] = [];
  const steps: TimedStep[] = [];
  const carries: CarryEvent[] = [];
  const events: PlanEvent[] = [];
  const findings: Finding[] = structureFindings(rig, routine);
  const maps = driveMaps(rig, mechanism, build);
  let endlessFromS: number | null = null;
  let time = 0;
  let furthest = 0;
  const said = new Set<string>();
  const place = (
    { step, routine: id }: StepRef,
    timeS: number,
    extra: Partial<Extract<Place, { station: 'routine' }>> = {},
  ): Place => ({
    station: 'routine',
    routine: id,
    step: step.id,
    timeS,
    ...extra,
  });
  /** The same of the same step is said once, however often it is passed. */
  const say = (made: Finding): void => {
    const key = `${made.code} ${made.place.routine} ${made.place.step} ${made.place.joint ?? ''}`;
    if (said.has(key)) return;
    said.add(key);
    findings.push(made);
  };

  if (!routine.steps.some((step) => step.enabled && step.kind !== 'note'))
    findings.push(finding('routine-empty', { station: 'routine', routine: routine.id }, { routine: routine.name }));
  const run = interpret(rig, mechanism, routine, start, { cache, horizonS, settledS: settledAt(inputs) });
  const check = driveCheck(mechanism, maps);
  const waiting: { block: Block; atS: number }[] = [];
  for (let next = run.next(); !next.done;) {
    const event: RoutineEvent = next.value;
    let answer: boolean | number | null | undefined;
    switch (event.kind) {
      case 'span': {
        const { ref, startS, endS, keep } = event;
        const { step, index, routine: id, depth } = ref;
        steps.push({ stepId: step.id, index, routine: id, depth, startS, endS, ...(keep && { keep }) });
        for (const { block, atS } of waiting.splice(0)) {
          for (const { code, joint, drive, data } of check(block)) {
            const said = { code, data: { step: ref.index + 1, ...data } } as RoutineSaying;
            say(findingOf(said, place(ref, atS, { joint, drive })));
          }
          const slow = slowPlace(mechanism, block);
          if (!slow) continue;
          const joint = mechanism.jointOfSlot[slow.slot];
          const where = place(ref, atS + slow.atS, { joint: mechanism.ids[joint] });
          const data = { step: ref.index + 1, joint: mechanism.names[joint], share: slow.share * 100 };
          say(finding('path-slows', where, data));
        }
        if (ref.depth === 0) furthest = Math.max(furthest, ref.index);
        yield Math.min(0.99, furthest / Math.max(1, routine.steps.length));
        break;
      }
      case 'block':
        waiting.push({ block: event.block, atS: event.atS });
        blocks.push({
          block: event.block,
          startS: event.atS,
          stepId: event.ref.step.id,
          index: event.ref.index,
          routine: event.ref.routine,
        });
        time = event.atS + event.block.duration;
        break;
      case 'carry':
        carries.push({ timeS: event.atS, tool: event.tool, payload: event.payload });
        break;
      case 'output':
        events.push({
          kind: 'output',
          timeS: event.atS,
          signal: event.signal,
          on: event.on,
          ...eventStep(event.ref),
        });
        break;
      case 'counter':
        events.push({ kind: 'counter', timeS: event.atS, counter: event.counter, value: event.value });
        break;
      case 'power':
        events.push({ kind: 'power', timeS: event.atS, joints: event.joints, on: event.on, ...eventStep(event.ref) });
        break;
      case 'swap':
        events.push({ kind: 'swap', timeS: event.atS, off: event.off, on: event.on, ...eventStep(event.ref) });
        break;
      case 'read':
        answer = readInput(inputs, event.signal, event.atS);
        events.push({
          ...{ kind: 'input', timeS: event.atS, signal: event.signal, on: answer, waitedS: null },
          ...eventStep(event.ref),
        });
        break;
      case 'await': {
        const waited = awaitInput(inputs, event.signal, event.is, event.atS, event.atMostS);
        answer = waited;
        const waitedS = waited ?? event.atMostS ?? 0;
        const on = waited === null ? !event.is : event.is;
        events.push({
          ...{ kind: 'input', timeS: event.atS + waitedS, signal: event.signal, on, waitedS },
          ...eventStep(event.ref),
        });
        break;
      }
      case 'problem': {
        const { joint, pose } = event.problem;
        say(findingOf(event.problem, place(event.ref, event.atS, { joint, pose })));
        break;
      }
      case 'endless':
        endlessFromS = event.fromS;
        say(
          finding('routine-endless', place(event.ref, event.fromS), {
            from: event.fromS,
            every: event.atS - event.fromS,
          }),
        );
    }
    next = run.next(answer);
  }
  if (routine.role === 'park') findings.push(...parkFindings(rig, routine, blocks, carries));
  steps.sort((a, b) => a.startS - b.startS);
  return { routineId: routine.id, start, blocks, steps, carries, events, durationS: time, endlessFromS, findings };
}

/** An arm is not folded away with something in its hand. */
function parkFindings(
  rig: Rig,
  routine: Routine,
  blocks: readonly TimedBlock[],
  carries: readonly CarryEvent[],
): Finding[] {
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
