/** A run before it begins: planned from the saved document, checked, and led up to from where the arm stands. */
import { contractFindings } from '@cork-elbow/core/contract';
import type { Finding } from '@cork-elbow/core/findings';
import { standing } from '@cork-elbow/core/admit';
import { inUnit, type Mechanism } from '@cork-elbow/core/mechanism';
import { commandMaps } from '@cork-elbow/core/actuators';
import { Channels, commandedMotion } from '@cork-elbow/core/commands';
import { blockMotion, joined, jointMove, poseAt, type Motion } from '@cork-elbow/core/motion';
import { planMotion, planRoutine, preflight, runFindings, runPace, type Plan } from '@cork-elbow/core/routine';
import type { Build, Rig } from '@cork-elbow/core/rig';
import type { RunRequest } from './events';
import { confirmedLimits } from './limits';

/** Share of the speed for the way from where the arm stands to the routine's start. */
const FIRST_MOVE = 0.25;
/** A start nearer than this (° or mm) needs no move of its own. */
const AT_START = 0.05;

export type PreparedRun =
  | { readonly ok: false; readonly code: string; readonly message: string; readonly findings: readonly Finding[] }
  | {
      readonly ok: true;
      readonly routineName: string;
      readonly rig: Rig;
      readonly build: Build;
      readonly mechanism: Mechanism;
      readonly plan: Plan;
      /** The way to the begin, then what motors are told of the plan from there on; its times are those of the whole. */
      readonly motion: Motion;
      /** Seconds of the way to the begin, and time of the plan at which that is. */
      readonly lead: number;
      readonly from: number;
      /** Place in the routine of the step that it begins with. */
      readonly fromIndex: number;
      /** Whether joints are told places at once somewhere, which no limit of their speed holds. */
      readonly sudden: boolean;
      /** Share of the speed that the run keeps to. */
      readonly full: number;
      /** Where it goes round for ever: from this time of the run on, in laps, and when a lap begins in the routine's plan. */
      readonly round: { readonly atS: number; readonly againS: number; readonly lapS: number } | null;
    };

const refused = (code: 'run-unknown' | 'run-empty' | 'run-step-unknown'): PreparedRun => ({
  ...{ ok: false, code, message: contractFindings.say(code) },
  findings: [],
});
/** For what is found: the first of it is the reason. */
const stopped = (findings: readonly Finding[]): PreparedRun => ({
  ...{
    ok: false,
    code: 'run-refused',
    message: contractFindings.say('run-refused', { reason: findings[0].message }),
  },
  findings,
});

/** `standsBy`: where the arm stands (slots, SI) by the motors of the saved rig. */
export function prepareRun(
  request: RunRequest,
  rig: Rig,
  standsBy: (channels: Channels) => Float64Array,
): PreparedRun {
  const { buildId, routineId } = request;
  const routine = rig.routines.find((r) => r.id === routineId);
  if (!routine || !rig.builds.some((b) => b.id === buildId)) return refused('run-unknown');
  const known = standing(rig, buildId);
  if (!known.ok) return { ok: false, ...known.faults[0], findings: [] };
  const { build } = known;
  const mechanism = confirmedLimits(known.mechanism, build);
  const plan = planRoutine(rig, mechanism, build, routine);
  const stops = preflight(rig, mechanism, build, plan).filter((f) => f.severity === 'stop');
  if (stops.length) return stopped(stops);
  if (plan.durationS === 0) return refused('run-empty');
  const beyond = runFindings(rig, plan);
  if (beyond.length) return stopped(beyond);
  const from = beginOf(plan, request);
  if (from === null) return refused('run-step-unknown');

  const begin = poseAt(planMotion(plan), from);
  const stands = standsBy(new Channels(rig, mechanism, build));
  const first = jointMove(mechanism, stands, begin, { speedShare: FIRST_MOVE });
  const far = begin.some((v, s) => inUnit(mechanism, s, Math.abs(v - stands[s])) > AT_START);
  const lead = far ? first.duration : 0;
  const pace = runPace(rig, request.asDrawn === true);
  if (pace.refused) return stopped([pace.refused]);
  // What comes again for ever is laid once more behind the end, to go round in.
  const again = plan.endlessFromS !== null && plan.durationS > plan.endlessFromS ? plan.endlessFromS : null;
  const end = plan.durationS - from;
  const lap = again === null ? 0 : plan.durationS - again;
  const rest = planMotion({
    start: begin,
    blocks: [
      ...plan.blocks.flatMap((b) => (b.startS < from ? [] : [{ ...b, startS: b.startS - from }])),
      ...plan.blocks.flatMap((b) =>
        again === null || b.startS < again ? [] : [{ ...b, startS: end + b.startS - again }],
      ),
    ],
    durationS: end + lap,
  });
  const told = commandedMotion(mechanism, commandMaps(rig, mechanism, build), rest, rig.motion);
  // The way to the begin is a gentle one, whatever the routine is told by.
  const motion = far ? joined(blockMotion(first), told) : told;
  const round = again === null ? null : { atS: lead + end, againS: again, lapS: lap };
  const sudden =
    rig.motion.school !== 'planned' ||
    plan.blocks.some(({ block }) => 'curve' in block && block.curve.kind === 'jump');
  return {
    ...{ ok: true, routineName: routine.name, rig, build, mechanism, plan, motion, lead, from, sudden },
    fromIndex: plan.steps.find((s) => s.stepId === request.fromStep && s.routine === routineId)?.index ?? 0,
    ...{ full: pace.share, round },
  };
}

/** Where a run begins: at the block that the step asked for begins in, so that nothing starts at speed. */
function beginOf(plan: Plan, { fromStep, routineId }: RunRequest): number | null {
  if (fromStep === undefined) return 0;
  const step = plan.steps.find((s) => s.stepId === fromStep && s.routine === routineId);
  return step ? (plan.blocks.findLast((b) => b.startS <= step.startS + 1e-9)?.startS ?? 0) : null;
}
