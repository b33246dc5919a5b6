/** What a planned routine asks of motors and base that they cannot give, or only just. */
import { holdShare } from '../actuators';
import type { Finding } from '../findings';
import { jobOf, piecesOf, type Job } from '../jobs';
import { alongJob, loadedMotors, Loading, mayDrive, wheelJoints, type LoadedMotor, type LoadsAlong } from '../loads';
import { poseAt, sampleBuffers } from '../motion';
import { inUnit, openingAt, type Mechanism } from '../mechanism';
import type { Rig, StepOf } from '../rig';
import { toMm } from '../units';
import { finding } from './findings';
import { heldAlong } from './held';
import { carriedAt } from './plan';
import { planMotion, type Plan } from './plan';

/** One finding a motor and sort, where it is worst. A unit of work is a few looks at a moment. */
export const loadFindings = (rig: Rig, mechanism: Mechanism, plan: Plan): Job<Finding[]> =>
  jobOf(
    (function* (): Generator<number, Finding[], void> {
      const along = yield* piecesOf(alongJob(rig, mechanism, planMotion(plan), heldAlong(rig, mechanism, plan)));
      return [
        ...motorFindings(rig, mechanism, plan, along),
        ...tipFindings(plan, along),
        ...gripFindings(rig, mechanism, plan),
        ...drivingFindings(rig, mechanism, plan, along.timeS),
      ];
    })(),
  );

/** What people read: at the joint where the motor is its alone, else at the shaft. */
function words(motor: LoadedMotor, mechanism: Mechanism): { joint: string; times: number; unit: string } {
  const { perJoint, slots, units, drive } = motor;
  if (perJoint === null) return { joint: drive.name, times: 1, unit: 'N·m' };
  const joint = mechanism.names[mechanism.jointOfSlot[slots[0]]];
  return { joint, times: 1 / Math.abs(perJoint), unit: units[0] === 'mm' ? 'N' : 'N·m' };
}

function motorFindings(rig: Rig, mechanism: Mechanism, plan: Plan, { weak, worst }: LoadsAlong): Finding[] {
  return loadedMotors(rig, mechanism).flatMap((motor, k) => {
    const own = weak.filter((stretch) => stretch.motor === k);
    const { joint, times, unit } = words(motor, mechanism);
    const place = (timeS: number) => ({
      ...{ station: 'load' as const, part: 'lift' as const, routine: plan.routineId, timeS },
      joint: mechanism.slotIds[motor.slots[0]],
    });
    const over = own.filter(({ kind }) => kind === 'over');
    if (over.length) {
      const { timeS, ask } = worst[k];
      const [need, has] = [ask.needNm * times, ask.usableNm! * times];
      if (!Number.isFinite(need)) return [];
      const stalls = need > has / holdShare(motor.drive);
      return [
        finding(stalls ? 'load-stalls' : 'load-over', place(timeS), { joint, need, has, kind: unit, at: timeS }),
      ];
    }
    const [first] = own;
    if (!first) return [];
    const { missingNm, atS } = own.reduce((most, w) => (w.missingNm > most.missingNm ? w : most), first);
    return [finding('load-down-only', place(atS), { joint, missing: missingNm * times, kind: unit, at: atS })];
  });
}

function tipFindings(plan: Plan, { tipWorst }: LoadsAlong): Finding[] {
  if (!tipWorst || tipWorst.margin >= 0) return [];
  const { timeS, margin } = tipWorst;
  const place = { station: 'load' as const, part: 'stand' as const, routine: plan.routineId, timeS };
  return Number.isFinite(margin)
    ? [finding('load-tips', place, { by: -margin * 1000, at: timeS })]
    : [finding('load-lifts-off', place, { at: timeS })];
}

/** A motor held fast for longer (s) is hot. */
const HELD_FAST_S = 2;
/** Pads and gears give by this much (mm) where the tool does not say how far past contact it closes. */
const GIVES_MM = 1;

/** Grips that go on closing on what they hold already, one finding a step. */
function gripFindings(rig: Rig, mechanism: Mechanism, plan: Plan): Finding[] {
  const motion = planMotion(plan);
  const steps = new Map<string, StepOf<'grip'>>();
  for (const { steps: own } of rig.routines)
    for (const step of own) if (step.kind === 'grip') steps.set(step.id, step);
  const said = new Set<string>();
  return plan.steps.flatMap(({ stepId, index, routine, endS }): Finding[] => {
    const step = steps.get(stepId);
    const tool = step && rig.mechanism.tools.find(({ id }) => id === step.tool);
    const payload = step?.payload && rig.payloads.find(({ id }) => id === step.payload);
    const grip = tool?.grip;
    if (!step || !payload || !grip || !('joint' in grip) || step.stopAtN !== undefined || said.has(stepId)) return [];
    const slot = mechanism.slotOf.get(grip.joint);
    if (slot === undefined) return [];
    const letsGo = plan.carries.find((c) => c.tool === step.tool && c.timeS > endS && c.payload !== payload.id);
    const seconds = (letsGo?.timeS ?? plan.durationS) - endS;
    const open = openingAt(grip, inUnit(mechanism, slot, poseAt(motion, endS)[slot]));
    const past = open === null ? 0 : Math.min(...payload.sizeMm) - open;
    // What is said to be that wide is, whatever its box.
    if ((typeof step.to === 'object' && 'aroundMm' in step.to) || past <= (grip.pastMm ?? GIVES_MM)) return [];
    if (seconds <= HELD_FAST_S) return [];
    said.add(stepId);
    const place = { station: 'routine' as const, routine, step: stepId };
    return [finding('grip-stalls', place, { step: index + 1, past, payload: payload.name, seconds })];
  });
}

/** A wheel that turns slower (rad/s) stands. */
const ROLLS = 1e-3;

/** The first moment at which the base drives though it should not. A base without an arm may drive as it likes. */
function drivingFindings(rig: Rig, mechanism: Mechanism, plan: Plan, timeS: Float64Array): Finding[] {
  const wheels = wheelJoints(rig.mechanism.base);
  const slots = [...wheels].flatMap((id) => mechanism.slotOf.get(id) ?? []);
  if (!slots.length || slots.length === mechanism.m) return [];
  const motion = planMotion(plan);
  const [q, v, a] = sampleBuffers(mechanism.m);
  const empty = new Loading(rig, mechanism);
  for (const at of timeS) {
    motion.sampleInto(q, v, a, at);
    if (slots.every((slot) => Math.abs(v[slot]) < ROLLS)) continue;
    const place = { station: 'load' as const, part: 'stand' as const, routine: plan.routineId, timeS: at };
    const [held] = [...carriedAt(plan, at).values()];
    const found = mayDrive(empty, rig.mechanism, rig.poses, q, held !== undefined);
    if (found.may) continue;
    if (found.why === 'holds')
      return [
        finding('drive-holds', place, { at, payload: rig.payloads.find(({ id }) => id === held)?.name ?? held! }),
      ];
    if (found.why === 'tips') return [finding('drive-tips', place, { at, by: -toMm(found.load.margin) })];
    return [finding(found.why === 'unfit' ? 'drive-unfit' : 'drive-unmarked', place, { at })];
  }
  return [];
}
