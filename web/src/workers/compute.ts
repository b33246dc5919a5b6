/** What the page has worked out in its worker: jobs in slices, so that a cancel gets through between them. */
import { transfer } from 'comlink';
import type { Finding } from '@cork-elbow/core/findings';
import type { SimulatedInputs } from '@cork-elbow/core/contract';
import { contactScene, sweepJob, type ContactScene, type SweptContact } from '@cork-elbow/core/contact';
import { driveMaps } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { homingMotion, planHoming, planPowerUp, powerUpMotion } from '@cork-elbow/core/bring-up';
import { jobOf, type Job } from '@cork-elbow/core/jobs';
import { solveTogether, type Ask, type Carried, type Task } from '@cork-elbow/core/kinematics';
import { compile, type CompiledTool, type Mechanism } from '@cork-elbow/core/mechanism';
import {
  fixesJob,
  lengthsJob,
  pointsJob,
  reachMapJob,
  shellMesh,
  withTouches,
  type Answer,
  type Fix,
  type FixQuestion,
  type LengthAdvice,
  type LengthRequest,
  type MapRequest,
  type PointResult,
  type ReachMap,
  type ShellMesh,
  type TablePoint,
} from '@cork-elbow/core/reach';
import {
  compareSchools,
  contactFindings,
  MoveCache,
  planJob,
  planRoutine,
  rigStops,
  routineStops,
  type Plan,
  type SchoolFigures,
} from '@cork-elbow/core/routine';
import type { Build, MechanismDoc, Rig, Routine } from '@cork-elbow/core/rig';

const cancelled = new Set<number>();
/** Time (ms) for one slice. */
const SLICE = 12;
/** Units of work between looks at the clock. */
const BUDGET = 8;

type Progress = (share: number) => void;
export type Mounting = MechanismDoc['base']['mounting'] | null | undefined;

/** A motion that brings an arm in. */
export type Bringing =
  | { readonly kind: 'power-up'; readonly planned: boolean }
  | { readonly kind: 'homing'; readonly start: Float64Array };

/** What a question to the solver is made of, by ids. */
export interface PlainAsk {
  readonly toolId: string;
  readonly task: Task;
  readonly on?: Carried;
}

async function work<T>(id: number, job: Job<T>, onProgress: Progress): Promise<T | null> {
  let told = performance.now();
  for (;;) {
    const end = performance.now() + SLICE;
    let progress: number;
    do {
      const step = job.step(BUDGET);
      if (step.done) {
        cancelled.delete(id);
        return step.value;
      }
      progress = step.progress;
    } while (performance.now() < end);
    if (performance.now() - told > 80) {
      told = performance.now();
      onProgress(progress);
    }
    await new Promise((next) => setTimeout(next));
    if (cancelled.delete(id)) return null;
  }
}

/** Moves worked out before: only what an edit changes is worked out again. They belong to one mechanism. */
let moves = { of: '', cache: new MoveCache() };
function cacheFor(doc: MechanismDoc, mounting: Mounting): MoveCache {
  const of = JSON.stringify([doc, mounting]);
  if (moves.of !== of) moves = { of, cache: new MoveCache() };
  return moves.cache;
}

function mechanismOf(doc: MechanismDoc, mounting: Mounting): Mechanism | null {
  const compiled = compile(doc, mounting);
  return compiled.ok ? compiled.mechanism : null;
}
/** What a question about a routine is asked of; null where the arm cannot be or the routine is gone. */
function askedOf(
  rig: Rig,
  buildId: string,
  routineId: string,
): { mechanism: Mechanism; build: Build; routine: Routine; cache: MoveCache } | null {
  const stands = standing(rig, buildId);
  const routine = rig.routines.find((r) => r.id === routineId);
  if (!stands.ok || !routine) return null;
  const { mechanism, build } = stands;
  return { mechanism, build, routine, cache: cacheFor(rig.mechanism, build.mounting) };
}
/** The same with its plan: made again here, so that none has to be sent. */
function plannedOf(rig: Rig, buildId: string, routineId: string, inputs: SimulatedInputs) {
  const asked = askedOf(rig, buildId, routineId);
  if (!asked) return null;
  const { mechanism, build, routine, cache } = asked;
  return { mechanism, build, routine, plan: planRoutine(rig, mechanism, build, routine, { inputs, cache }) };
}
/** A tool of the arm where a build has it, among what stands around; null where there is none. */
function placedOf(
  rig: Rig,
  mounting: Mounting,
  toolId: string,
): { mechanism: Mechanism; tool: CompiledTool; scene: ContactScene } | null {
  const mechanism = mechanismOf(rig.mechanism, mounting);
  const tool = toolOf(mechanism, toolId);
  return mechanism && tool ? { mechanism, tool, scene: contactScene(rig, mechanism) } : null;
}
const toolOf = (mechanism: Mechanism | null, id: string): CompiledTool | undefined =>
  mechanism?.tools.find((tool) => tool.id === id);

export const compute = {
  cancel(id: number): void {
    cancelled.add(id);
  },
  async plan(
    id: number,
    rig: Rig,
    buildId: string,
    routineId: string,
    inputs: SimulatedInputs,
    onProgress: Progress,
  ): Promise<Plan | null> {
    const asked = askedOf(rig, buildId, routineId);
    if (!asked) return null;
    const { mechanism, build, routine, cache } = asked;
    return work(id, planJob(rig, mechanism, build, routine, { inputs, cache }), onProgress);
  },
  /** What a planned routine touches. */
  async contacts(
    id: number,
    rig: Rig,
    buildId: string,
    routineId: string,
    inputs: SimulatedInputs,
    onProgress: Progress,
  ): Promise<Finding[] | null> {
    const planned = plannedOf(rig, buildId, routineId, inputs);
    return (
      planned &&
      work(id, contactFindings(rig, planned.mechanism, planned.build, planned.routine, planned.plan), onProgress)
    );
  },
  /** The routine by each way of smoothing. */
  async schools(
    _id: number,
    rig: Rig,
    buildId: string,
    routineId: string,
    inputs: SimulatedInputs,
  ): Promise<SchoolFigures[] | null> {
    const planned = plannedOf(rig, buildId, routineId, inputs);
    if (!planned) return null;
    const { mechanism, build, plan } = planned;
    return compareSchools(mechanism, driveMaps(rig, mechanism, build), plan, rig.motion);
  },
  /** Where tools can be as asked, each posture looked at against what stands around. */
  async inverse(
    _id: number,
    rig: Rig,
    mounting: Mounting,
    asks: readonly PlainAsk[],
    near: Float64Array,
    held: ReadonlySet<number>,
    speedOnly: ReadonlySet<number>,
  ): Promise<Answer | null> {
    const mechanism = mechanismOf(rig.mechanism, mounting);
    const whole = asks.flatMap(({ toolId, ...ask }): Ask[] => {
      const tool = toolOf(mechanism, toolId);
      return tool ? [{ tool, ...ask }] : [];
    });
    return mechanism && whole.length === asks.length
      ? withTouches(contactScene(rig, mechanism), solveTogether(mechanism, whole, near, { held, speedOnly }))
      : null;
  },
  fixes: (id: number, question: FixQuestion, buildId: string, onProgress: Progress): Promise<Fix[] | null> => {
    const build = question.around?.builds.find((b) => b.id === buildId);
    const checks = build && {
      rig: (rig: Rig, mechanism: Mechanism) => rigStops(rig, mechanism, build),
      routines: (rig: Rig, mechanism: Mechanism) => routineStops(rig, mechanism, build),
    };
    return work(id, fixesJob(question, checks), onProgress);
  },
  async map(
    id: number,
    doc: MechanismDoc,
    mounting: Mounting,
    toolId: string,
    request: MapRequest,
    onProgress: Progress,
  ): Promise<{ map: ReachMap; shell: ShellMesh | null } | null> {
    const mechanism = mechanismOf(doc, mounting);
    const tool = toolOf(mechanism, toolId);
    const map = mechanism && tool ? await work(id, reachMapJob(mechanism, tool, request), onProgress) : null;
    if (!map) return null;
    const shell = request.plane === 'shell' ? shellMesh(map) : null;
    return transfer({ map, shell }, shell ? [shell.positions.buffer, shell.triangles.buffer] : []);
  },
  async points(
    id: number,
    rig: Rig,
    mounting: Mounting,
    toolId: string,
    points: readonly TablePoint[],
    start: Float64Array,
    speed: number,
    speedOnly: ReadonlySet<number>,
    onProgress: Progress,
  ): Promise<PointResult[] | null> {
    const placed = placedOf(rig, mounting, toolId);
    if (!placed) return null;
    const { mechanism, tool, scene } = placed;
    return work(id, pointsJob(mechanism, tool, points, start, speed, { scene, speedOnly }), onProgress);
  },
  /** What is touched while the motors get power, or while the axes home. */
  async sweep(
    id: number,
    rig: Rig,
    buildId: string,
    motion: Bringing,
    onProgress: Progress,
  ): Promise<SweptContact[] | null> {
    const stands = standing(rig, buildId);
    if (!stands.ok) return null;
    const { mechanism, build } = stands;
    const scene = contactScene(rig, mechanism);
    if (motion.kind === 'power-up') {
      const plan = planPowerUp(rig, mechanism, build, motion.planned);
      return work(id, sweepJob(scene, powerUpMotion(plan)), onProgress);
    }
    const plan = planHoming(rig, mechanism, motion.start);
    return work(id, sweepJob(scene, homingMotion(plan, mechanism)), onProgress);
  },
  /** Each spot by itself, from home. */
  async spots(
    id: number,
    rig: Rig,
    mounting: Mounting,
    toolId: string,
    tasks: readonly Task[],
    speedOnly: ReadonlySet<number>,
  ): Promise<Answer[] | null> {
    const placed = placedOf(rig, mounting, toolId);
    if (!placed) return null;
    const { mechanism, tool, scene } = placed;
    return work(
      id,
      jobOf(
        (function* () {
          const results: Answer[] = [];
          for (const task of tasks) {
            yield results.length / tasks.length;
            const answer = solveTogether(mechanism, [{ tool, task }], mechanism.home, { speedOnly });
            results.push(withTouches(scene, answer));
          }
          return results;
        })(),
      ),
      () => undefined,
    );
  },
  lengths: (id: number, request: LengthRequest, onProgress: Progress): Promise<LengthAdvice | null> =>
    work(id, lengthsJob(request), onProgress),
};
export type ComputeWorker = typeof compute;
