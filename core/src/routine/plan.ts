/** A routine unrolled into one motion from start to end, with what was noticed on the way. */
import { bySeverity, finding, type Finding, type Place } from '../contract/finding';
import { checkDrives, driveMaps, hasConstantRatio, shaftSpeed, speedForReading } from '../drives';
import { placeAlong, sampleBlockInto, speedsAlong, type Block } from '../motion';
import type { Mechanism } from '../mechanism';
import type { Build, Rig, Routine } from '../rig';
import { finish, jobOf, type Job } from '../jobs';
import { interpret } from './interpret';

export interface TimedBlock {
  readonly block: Block;
  readonly startS: number;
  readonly stepId: string;
}
export interface TimedStep {
  readonly stepId: string;
  readonly index: number;
  readonly startS: number;
  readonly endS: number;
}
export interface CarryEvent {
  readonly timeS: number;
  readonly tool: string;
  readonly payload: string | null;
}
export interface Plan {
  readonly start: Float64Array;
  readonly blocks: readonly TimedBlock[];
  readonly steps: readonly TimedStep[];
  readonly carries: readonly CarryEvent[];
  readonly durationS: number;
  readonly findings: readonly Finding[];
}

/** Where along a move (shares) the speed of a motor behind a linkage is looked at. */
const ALONG = [0, 0.2, 0.35, 0.5, 0.65, 0.8, 1];

/** Plans at once; see {@link planJob} for the same in pieces. */
export const planRoutine = (
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  routine: Routine,
  start: Float64Array = mechanism.home,
): Plan => finish(planJob(rig, mechanism, build, routine, start));

/** Planning as a job; its unit of work is one step of the routine. `start`: slots in SI, home unless given. */
export const planJob = (
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  routine: Routine,
  start: Float64Array = mechanism.home,
): Job<Plan> => jobOf(planning(rig, mechanism, build, routine, start));

function* planning(
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  routine: Routine,
  start: Float64Array,
): Generator<number, Plan, void> {
  const blocks: TimedBlock[] = [];
  const steps: TimedStep[] = [];
  const carries: CarryEvent[] = [];
  const findings: Finding[] = [];
  const maps = driveMaps(rig, mechanism, build);
  let time = 0;
  let stepId = '';
  let index = 0;
  let begun = 0;
  const endStep = (): void => {
    if (stepId) steps.push({ stepId, index, startS: begun, endS: time });
  };
  const place = (extra: Partial<Place> = {}): Place => ({
    station: 'routine',
    routine: routine.id,
    step: stepId,
    timeS: time,
    ...extra,
  });
  if (!routine.steps.some((step) => step.enabled && step.kind !== 'note'))
    findings.push(finding('routine-empty', { station: 'routine', routine: routine.id }, { routine: routine.name }));
  for (const event of interpret(rig, mechanism, routine, start)) {
    switch (event.kind) {
      case 'step':
        endStep();
        stepId = event.step.id;
        index = event.index;
        begun = time;
        yield index / routine.steps.length;
        break;
      case 'block':
        findings.push(...tooFast(event.block, place()));
        blocks.push({ block: event.block, startS: time, stepId });
        time += event.block.duration;
        break;
      case 'carry':
        carries.push({ timeS: time, tool: event.tool, payload: event.payload });
        break;
      case 'problem':
        findings.push(finding(event.code, place({ joint: event.joint, pose: event.pose }), event.data));
    }
  }
  endStep();

  /** Moves that ask more speed of a motor than it makes. */
  function tooFast(block: Block, at: Place): Finding[] {
    if (block.kind === 'hold') return [];
    return maps.flatMap((map) => {
      // The ratio of a linkage, and the joints' shares of a path, change along the way; elsewhere one look is enough.
      const looks = block.kind === 'move' && hasConstantRatio(map) ? [0] : ALONG;
      let [most, speeds] = [0, speedsAlong(block, 0)];
      for (const share of looks) {
        const now = speedsAlong(block, share);
        const asked = shaftSpeed(map, mechanism, placeAlong(block, share), now)?.share ?? 0;
        if (asked > most) [most, speeds] = [asked, now];
      }
      if (most <= 1 + 1e-9) return [];
      const slot = map.slots.find((s) => speeds[s] !== 0) ?? map.slots[0];
      const joint = mechanism.jointOfSlot[slot];
      const unit = mechanism.units[joint];
      const wanted = Math.abs(speeds[slot]);
      return [
        finding(
          'drive-too-slow',
          { ...at, joint: mechanism.ids[joint], drive: map.drive.id },
          {
            step: index + 1,
            joint: mechanism.names[joint],
            value: speedForReading(wanted, unit),
            limit: speedForReading(wanted / most, unit),
          },
        ),
      ];
    });
  }
  return { start, blocks, steps, carries, durationS: time, findings };
}

/** Everything worth a look before this routine is run: the plan's findings and the rig's. */
export const preflight = (rig: Rig, mechanism: Mechanism, build: Build, plan: Plan): Finding[] =>
  [...plan.findings, ...checkDrives(rig, mechanism, build)].sort(bySeverity);

/** Index of the block that holds time t (the last one after the end); −1 for a plan without blocks. */
export function blockAt(plan: Plan, t: number): number {
  let low = 0;
  let high = plan.blocks.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (plan.blocks[middle].startS <= t) low = middle;
    else high = middle - 1;
  }
  return high < 0 ? -1 : low;
}

/** Buffers for {@link samplePlanInto}: position, speed, acceleration. */
export const sampleBuffers = (mechanism: Mechanism): [Float64Array, Float64Array, Float64Array] => [
  new Float64Array(mechanism.m),
  new Float64Array(mechanism.m),
  new Float64Array(mechanism.m),
];

/** Position of all slots at time t of the plan; the readable form of {@link samplePlanInto}. */
export function positionAt(mechanism: Mechanism, plan: Plan, t: number): Float64Array {
  const [position, speed, accel] = sampleBuffers(mechanism);
  samplePlanInto(position, speed, accel, plan, t);
  return position;
}

/** Position, speed and acceleration of all slots at time t of the plan (s, clamped into it). */
export function samplePlanInto(
  position: Float64Array,
  speed: Float64Array,
  accel: Float64Array,
  plan: Plan,
  t: number,
): void {
  const i = blockAt(plan, t);
  if (i < 0) {
    position.set(plan.start);
    speed.fill(0);
    accel.fill(0);
    return;
  }
  const { block, startS } = plan.blocks[i];
  // At the very end of the plan sums of durations may differ in the last place; the last pose is exact.
  sampleBlockInto(
    position,
    speed,
    accel,
    block,
    i === plan.blocks.length - 1 && t >= plan.durationS ? block.duration : t - startS,
  );
}

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

/** Sample times: k·stepS below the end, and exactly the end. */
export function sampleTimes(durationS: number, stepS: number): Float64Array {
  const whole = Math.max(0, Math.ceil(durationS / stepS - 1e-9));
  return Float64Array.from({ length: whole + 1 }, (_, k) => (k === whole ? durationS : k * stepS));
}

export interface Samples {
  readonly timeS: Float64Array;
  /** Per slot, in the order of the slots, in document units. */
  readonly joints: readonly Float64Array[];
  readonly speeds: readonly Float64Array[];
  readonly accels: readonly Float64Array[];
}

export function samplePlan(mechanism: Mechanism, plan: Plan, stepS: number): Samples {
  const timeS = sampleTimes(plan.durationS, stepS);
  const columns = (): Float64Array[] => Array.from({ length: mechanism.m }, () => new Float64Array(timeS.length));
  const [joints, speeds, accels] = [columns(), columns(), columns()];
  const [p, v, a] = sampleBuffers(mechanism);
  timeS.forEach((t, i) => {
    samplePlanInto(p, v, a, plan, t);
    for (let s = 0; s < mechanism.m; s++) {
      joints[s][i] = p[s] / mechanism.siPerUnit[s];
      speeds[s][i] = v[s] / mechanism.siPerUnit[s];
      accels[s][i] = a[s] / mechanism.siPerUnit[s];
    }
  });
  return { timeS, joints, speeds, accels };
}
