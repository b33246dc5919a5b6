/** A run before it begins: planned from the saved document, checked, and led up to from where the arm stands. */
import { contractFindings } from '@cork-elbow/core/contract';
import type { Finding } from '@cork-elbow/core/findings';
import { finish } from '@cork-elbow/core/jobs';
import { standing } from '@cork-elbow/core/admit';
import { confirmedLimits, inUnit, type Mechanism } from '@cork-elbow/core/mechanism';
import { commandMaps } from '@cork-elbow/core/actuators';
import { Channels, commandedMotion } from '@cork-elbow/core/commands';
import { blockMotion, joined, jointMove, poseAt, type Motion } from '@cork-elbow/core/motion';
import {
  branches,
  MoveCache,
  planMotion,
  planParts,
  planRoutine,
  runFindings,
  runPace,
  runStops,
  type Answer,
  type Ask,
  type Plan,
  type PlanPart,
} from '@cork-elbow/core/routine';
import type { Build, Rig, Routine } from '@cork-elbow/core/rig';
import type { OwnLines } from '@cork-elbow/core/own-lines';
import type { RunRequest } from './events';

/** Share of the speed for the way from where the arm stands to the routine's start. */
const FIRST_MOVE = 0.25;
/** … and where nothing has confirmed that the arm stands there. */
const FIRST_UNCONFIRMED = 0.1;
/** A start nearer than this (° or mm) needs no move of its own. */
const AT_START = 0.05;

export type NotRun = {
  readonly ok: false;
  readonly code: string;
  readonly message: string;
  readonly findings: readonly Finding[];
};
export type PreparedRun = NotRun | Course;
/** A routine, or what of it is known, with all that it takes to run it. */
export interface Course {
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
  /** How long (s) it takes if inputs are as they are taken to be. */
  readonly totalS: number;
  /** Where it goes round for ever: from this time of the run on, in laps, and when a lap begins in the routine's plan. */
  readonly round: { readonly atS: number; readonly againS: number; readonly lapS: number } | null;
  /** What the way depends on where this ends; and what comes after that, once it is known. */
  readonly ask: Ask | null;
  onward(answer: Answer): PreparedRun;
}

const refused = (code: 'run-unknown' | 'run-empty' | 'run-step-unknown'): NotRun => ({
  ...{ ok: false, code, message: contractFindings.say(code) },
  findings: [],
});
/** For what is found: the first of it is the reason. */
const stopped = (findings: readonly Finding[]): NotRun => ({
  ...{
    ok: false,
    code: 'run-refused',
    message: contractFindings.say('run-refused', { reason: findings[0].message }),
  },
  findings,
});

/**
 * `standsBy`: where the arm stands (slots, SI) by the motors of the saved rig. `homed`: its joints have found their places. `ownLines`:
 * boards (ids) that are sent a builder's own lines.
 */
export function prepareRun(
  request: RunRequest,
  rig: Rig,
  standsBy: (channels: Channels) => Float64Array,
  homed = false,
  ownLines: ReadonlyMap<string, OwnLines> = new Map(),
): PreparedRun {
  const { buildId, routineId } = request;
  const routine = rig.routines.find((r) => r.id === routineId);
  if (!routine || !rig.builds.some((b) => b.id === buildId)) return refused('run-unknown');
  const stand = standing(rig, buildId);
  if (!stand.ok) return { ok: false, ...stand.faults[0], findings: [] };
  const { build } = stand;
  const mechanism = confirmedLimits(stand.mechanism, build);
  const cache = new MoveCache();
  const plan = planRoutine(rig, stand.mechanism, build, routine, { cache });
  const stops = finish(runStops(rig, stand.mechanism, build, plan));
  if (stops.length) return stopped(stops);
  if (plan.durationS === 0) return refused('run-empty');
  const beyond = runFindings(rig, plan, ownLines);
  if (beyond.length) return stopped(beyond);
  const pace = runPace(rig, homed || request.asDrawn === true);
  if (pace.refused) return stopped([pace.refused]);
  // Where the way depends on inputs that the run reads, it is planned as it goes.
  const parts = plan.events.some((event) => branches(rig, event))
    ? planParts(rig, stand.mechanism, build, routine, plan.start, { cache, fromStep: request.fromStep })
    : null;
  const known = {
    ...{ routineName: routine.name, rig, build, mechanism, full: pace.share, totalS: plan.durationS },
    ...{
      ownLines,
      firstShare: [...ownLines.values()].some(({ confirms }) => !confirms) ? FIRST_UNCONFIRMED : FIRST_MOVE,
    },
    sudden:
      rig.motion.school !== 'planned' ||
      plan.blocks.some(({ block }) => 'curve' in block && block.curve.kind === 'jump') ||
      (parts !== null && rig.routines.some(jumps)),
  };
  const first: PlanPart = parts ? (parts.next().value as PlanPart) : { plan, ask: null };
  const from = beginOf(first, request);
  if (from === null) return refused('run-step-unknown');
  const stands = standsBy(new Channels(rig, mechanism, build));
  const fromIndex = Math.max(
    0,
    routine.steps.findIndex(({ id }) => id === request.fromStep),
  );
  return courseOf(known, parts, first, { from, fromIndex, stands });
}

/** Whether steps of a routine tell joints places at once. */
const jumps = ({ profile, steps }: Routine): boolean =>
  profile === 'jump' || steps.some((step) => 'profile' in step && step.profile === 'jump');

type Known = Pick<Course, 'routineName' | 'rig' | 'build' | 'mechanism' | 'full' | 'totalS' | 'sudden'> & {
  readonly ownLines: ReadonlyMap<string, OwnLines>;
  readonly firstShare: number;
};

/** A part of the routine from a time of it on, led up to from where the arm stands. */
function courseOf(
  known: Known,
  parts: Generator<PlanPart, void, Answer> | null,
  { plan, ask }: PlanPart,
  { from, fromIndex, stands }: { readonly from: number; readonly fromIndex: number; readonly stands: Float64Array },
): Course {
  const { rig, mechanism, build } = known;
  const begin = poseAt(planMotion(plan), from);
  const first = jointMove(mechanism, stands, begin, { speedShare: known.firstShare });
  const far = begin.some((v, s) => inUnit(mechanism, s, Math.abs(v - stands[s])) > AT_START);
  const lead = far ? first.duration : 0;
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
  const onward = (answer: Answer): PreparedRun => {
    const next = parts!.next(answer).value as PlanPart;
    const findings = [
      ...next.plan.findings.filter((f) => f.severity === 'stop'),
      ...runFindings(rig, next.plan, known.ownLines),
    ];
    if (findings.length) return stopped(findings);
    const stood = plan.blocks.at(-1)?.block.to ?? plan.start;
    return courseOf(known, parts, next, { from: 0, fromIndex: 0, stands: stood });
  };
  return { ok: true, ...known, plan, motion, lead, from, fromIndex, round, ask, onward };
}

/** Where a run begins: at the block that the step asked for begins in, so that nothing starts at speed; where the part ends, if it asks then. */
function beginOf({ plan, ask }: PlanPart, { fromStep, routineId }: RunRequest): number | null {
  if (fromStep === undefined) return 0;
  const step = plan.steps.find((s) => s.stepId === fromStep && s.routine === routineId);
  if (!step) return ask?.stepId === fromStep && ask.routine === routineId ? plan.durationS : null;
  return plan.blocks.findLast((b) => b.startS <= step.startS + 1e-9)?.startS ?? 0;
}
