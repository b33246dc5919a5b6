/** A run before it begins: planned from the saved document, checked, and led up to from where the arm stands. */
import type { Finding } from '@cork-elbow/core/findings';
import { standing } from '@cork-elbow/core/admit';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { jointMove } from '@cork-elbow/core/motion';
import { planRoutine, positionAt, preflight, runFindings, type Plan } from '@cork-elbow/core/routine';
import type { Build, Rig } from '@cork-elbow/core/rig';
import type { RunRequest } from './events';
import { confirmedLimits } from './limits';

/** Share of the speed for the way from where the arm stands to the routine's start. */
const FIRST_MOVE = 0.25;
/** Share of its speed that a run keeps to while the arm has not homed and nothing else is said. */
const UNVERIFIED = 0.25;
/** A start nearer than this (° or mm) needs no move of its own. */
const AT_START = 0.05;

export type PreparedRun =
  | { readonly ok: false; readonly reason: string; readonly findings?: readonly Finding[] }
  | {
      readonly ok: true;
      readonly routineName: string;
      readonly build: Build;
      readonly mechanism: Mechanism;
      /** The way to the begin, then the plan from there on; its times are those of the whole. */
      readonly plan: Plan;
      /** Seconds of the way to the begin, and time of the routine's plan at which that is. */
      readonly lead: number;
      readonly from: number;
      /** Share of the speed that the run keeps to. */
      readonly full: number;
      /** Where it goes round for ever: from this time of the run on, in laps, and when a lap begins in the routine's plan. */
      readonly round: { readonly atS: number; readonly againS: number; readonly lapS: number } | null;
    };

/** `stands`: slots in SI. */
export function prepareRun(request: RunRequest, rig: Rig, stands: Float64Array): PreparedRun {
  const { buildId, routineId } = request;
  const refused = (reason: string, findings?: Finding[]): PreparedRun => ({ ok: false, reason, findings });
  const routine = rig.routines.find((r) => r.id === routineId);
  if (!routine || !rig.builds.some((b) => b.id === buildId))
    return refused('There is no such routine or build in the saved rig.');
  const known = standing(rig, buildId);
  if (!known.ok) return refused(known.faults[0].message);
  const { build } = known;
  const mechanism = confirmedLimits(known.mechanism, build);
  const plan = planRoutine(rig, mechanism, build, routine);
  const stops = preflight(rig, mechanism, build, plan).filter((f) => f.severity === 'stop');
  if (stops.length) return refused(stops[0].message, stops);
  if (plan.durationS === 0) return refused('It has nothing to do.');
  const beyond = runFindings(plan);
  if (beyond.length) return refused(beyond[0].message, beyond);
  const from = beginOf(plan, request);
  if (from === null) return refused('The step to begin with is not on its way.');

  const begin = positionAt(mechanism, plan, from);
  const first = jointMove(mechanism, stands, begin, { speedShare: FIRST_MOVE });
  const far = begin.some((v, s) => Math.abs(v - stands[s]) / mechanism.siPerUnit[s] > AT_START);
  const lead = far ? first.duration : 0;
  // Axes that are homed by something do not know where they are until then; what is remembered counts, carefully.
  const isUnverified = rig.homing.axes.length > 0 && request.asDrawn !== true;
  const full = isUnverified ? (rig.homing.parked?.speedShare ?? UNVERIFIED) : 1;
  // What comes again for ever is laid once more behind the end, to go round in.
  const again = plan.endlessFromS !== null && plan.durationS > plan.endlessFromS ? plan.endlessFromS : null;
  const end = plan.durationS + lead - from;
  const lap = again === null ? 0 : plan.durationS - again;
  const whole: Plan = {
    ...plan,
    blocks: [
      ...(far ? [{ block: first, startS: 0, stepId: '', index: -1, routine: '' }] : []),
      ...plan.blocks.flatMap((b) => (b.startS < from ? [] : [{ ...b, startS: b.startS + lead - from }])),
      ...plan.blocks.flatMap((b) =>
        again === null || b.startS < again ? [] : [{ ...b, startS: end + b.startS - again }],
      ),
    ],
    durationS: end + lap,
  };
  const round = again === null ? null : { atS: end, againS: again, lapS: lap };
  return { ok: true, routineName: routine.name, build, mechanism, plan: whole, lead, from, full, round };
}

/** Where a run begins: at the block that the step asked for begins in, so that nothing starts at speed. */
function beginOf(plan: Plan, { fromStep, routineId }: RunRequest): number | null {
  if (fromStep === undefined) return 0;
  const step = plan.steps.find((s) => s.stepId === fromStep && s.routine === routineId);
  return step ? (plan.blocks.findLast((b) => b.startS <= step.startS + 1e-9)?.startS ?? 0) : null;
}
