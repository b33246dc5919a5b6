/**
 * Numeric solutions of any tree from several starts. Poses spread over the ranges come first; where none of them leads to an
 * answer, the ways on which a single descent is known to get lost are gone one after the other: narrow basins, corners of
 * the limits, nearly upright tilts, full stretch.
 */
import { positionOf, STRIDE, vec3 } from '../linear';
import { rulesExcess, SLIDING, type CompiledTool, type Mechanism } from '../mechanism';
import { RAD_PER_DEG } from '../units/convert';
import { NumericSolver, slotsOf } from './numeric';
import { postureAt } from './posture';
import { judge, LIMIT_SLACK, nearestTurn, type Solution } from './solution';
import { start } from './starts';
import { HIT_M, isHit, type Ask, type Task } from './task';

/** Starts tried at most for a solution, the first being where the arm is. */
export const MAX_STARTS = 64;
/** Starts taken where the first already led to a solution, to find other postures. */
const POSTURE_STARTS = 14;
/** Narrow basins: so many poses are looked at, and the nearest of them started from. */
const LOOKED_AT = 1500;
const NEAREST = 24;
/** Corners: so many starts without limits. */
const UNLIMITED = 96;
/** Nearly upright (rad) a tilt is the tip of a cone: by way of so many headings, each from so many starts, then closer (rad). */
const UPRIGHT = { within: 0.1, headings: 12, starts: 12, closer: 1e-3 };
/** Full stretch: so many of the poses that starts ended at are solved on with patience. */
const PATIENT = { ends: 8, iterations: 400 };

interface SearchOptions {
  readonly held?: ReadonlySet<number>;
  /** Stop at the first solution. */
  readonly first?: boolean;
  readonly starts?: number;
  /** Keep the rules between joints; default true. */
  readonly rules?: boolean;
}

/**
 * Solutions from seeded starts: the best of each posture class among the first few starts, or the first that any start leads
 * to. Fewer `starts` than {@link MAX_STARTS} are all that is tried. None: an empty list.
 */
export function numericSolutions(
  mechanism: Mechanism,
  asks: readonly Ask[],
  near: Float64Array,
  { held, first = false, starts = MAX_STARTS, rules = true }: SearchOptions = {},
): Solution[] {
  if (asks.some((ask) => isBeyondLength(mechanism, ask))) return [];
  const tasks = asks.map((ask) => ask.task);
  const moved = new Set(slotsOf(mechanism, asks).filter((s) => !held?.has(s)));
  const best = new Map<string, Solution>();
  const ends: Seed[] = [];
  const from = (q: Float64Array, solver: NumericSolver): void => {
    solver.solveInto(q, tasks);
    if (!isHit(solver)) {
      keepBest(ends, { q, cost: solver.costAt(q, tasks) }, PATIENT.ends);
      return;
    }
    for (const s of moved) if (mechanism.continuous[s]) q[s] = nearestTurn(q[s], near[s], -Infinity, Infinity);
    if (rules && rulesExcess(mechanism, q) > LIMIT_SLACK) return;
    const solution = judge(mechanism, asks, q, near, postureAt(mechanism, asks[0].tool, q), false);
    const before = best.get(solution.posture);
    if (isHit(solution) && (!before || solution.awayS < before.awayS)) best.set(solution.posture, solution);
  };
  const quick = new NumericSolver(mechanism, asks, { held, rules, quick: true });
  const enough = first ? 0 : POSTURE_STARTS;
  for (let k = 0; k < starts && !(k >= enough && best.size); k++) from(start(mechanism, moved, near, k), quick);
  if (best.size || starts < MAX_STARTS) return [...best.values()];
  for (const q of lastWays({ mechanism, asks, tasks, moved, near, held, quick, ends })) {
    if (best.size) break;
    from(q, quick);
  }
  const patient = new NumericSolver(mechanism, asks, { held, rules, maxIterations: PATIENT.iterations });
  for (const { q } of [...ends]) if (!best.size) from(q.slice(), patient);
  return [...best.values()];
}

interface LastWays {
  readonly mechanism: Mechanism;
  readonly asks: readonly Ask[];
  readonly tasks: readonly Task[];
  readonly moved: ReadonlySet<number>;
  readonly near: Float64Array;
  readonly held?: ReadonlySet<number>;
  readonly quick: NumericSolver;
  /** Where solves ended that missed; what is solved here is added. */
  readonly ends: Seed[];
}

/** Poses to start from once plain starts have failed. */
function* lastWays(ways: LastWays): Generator<Float64Array, void, void> {
  const { mechanism, asks, tasks, moved, near, held, quick } = ways;
  const looked: Seed[] = [];
  for (let k = 0; k < LOOKED_AT; k++) {
    const q = start(mechanism, moved, near, MAX_STARTS + k);
    keepBest(looked, { q, cost: quick.costAt(q, tasks) }, NEAREST);
  }
  for (const { q } of looked) yield q.slice();
  const free = new NumericSolver(mechanism, asks, { held, limits: false, quick: true });
  for (let k = 0; k < UNLIMITED; k++) {
    const q = k < looked.length ? looked[k].q.slice() : start(mechanism, moved, near, k);
    free.solveInto(q, tasks);
    if (!isHit(free)) continue;
    for (const s of moved)
      if (mechanism.siPerUnit[s] === RAD_PER_DEG)
        q[s] = nearestTurn(q[s], near[s], mechanism.lower[s], mechanism.upper[s]);
    yield q;
  }
  yield* byHeadings(ways);
}

/** Ends of directions that a nearly upright tilt may have, closer and closer to the best of them. */
function* byHeadings({
  mechanism,
  asks,
  tasks,
  moved,
  near,
  held,
  ends,
}: LastWays): Generator<Float64Array, void, void> {
  const headed = headingOf(tasks);
  if (!headed) return;
  const solver = new NumericSolver(mechanism, asks, { held, maxIterations: PATIENT.iterations });
  const seeds = Array.from({ length: UPRIGHT.starts }, (_, k) => start(mechanism, moved, near, k));
  const best = { cost: Infinity, angle: 0, q: seeds[0] };
  const look = (angle: number): void => {
    for (const seed of [...seeds, best.q]) {
      const q = seed.slice();
      solver.solveInto(q, headed(angle));
      const cost = solver.costAt(q, tasks);
      keepBest(ends, { q, cost }, PATIENT.ends);
      if (cost < best.cost) Object.assign(best, { cost, angle, q });
    }
  };
  const step = (2 * Math.PI) / UPRIGHT.headings;
  for (let k = 0; k < UPRIGHT.headings; k++) look(k * step);
  for (let by = step / 2; by > UPRIGHT.closer; by /= 2) for (const way of [-by, by]) look(best.angle + way);
  yield best.q.slice();
}

/** A single nearly upright tilt as a direction by its heading (rad); null for anything else. */
function headingOf(tasks: readonly Task[]): ((angle: number) => Task) | null {
  const [task] = tasks;
  if (tasks.length > 1 || task.kind !== 'tilt') return null;
  const { position, fromUp, up } = task;
  if (Math.min(fromUp, Math.PI - fromUp) > UPRIGHT.within) return null;
  const x = vec3.perpendicular(up);
  const y = vec3.cross(up, x);
  return (angle) => {
    const out = vec3.add(vec3.scale(x, Math.cos(angle)), vec3.scale(y, Math.sin(angle)));
    const direction = vec3.add(vec3.scale(up, Math.cos(fromUp)), vec3.scale(out, Math.sin(fromUp)));
    return { kind: 'direction', position, direction };
  };
}

/** A pose and what it is off. */
interface Seed {
  readonly q: Float64Array;
  readonly cost: number;
}
/** Puts a pose into a list of the `most` best ones, the best first. */
function keepBest(list: Seed[], seed: Seed, most: number): void {
  if (list.length === most && seed.cost >= list[most - 1].cost) return;
  const at = list.findIndex((other) => other.cost > seed.cost);
  list.splice(at < 0 ? list.length : at, 0, seed);
  list.length = Math.min(list.length, most);
}

/** Whether a place is further from the base than all lengths and travels of the arm together. */
function isBeyondLength(mechanism: Mechanism, { tool, task, on }: Ask): boolean {
  if (task.kind === 'aim' || on || mechanism.delta) return false;
  for (let j = tool.parent; j >= 0; j = mechanism.parent[j]) {
    const s = mechanism.slotOfJoint[j];
    // Slides without an end, or that others follow, have no travel to add up.
    if (mechanism.type[j] === SLIDING && (s < 0 || !Number.isFinite(mechanism.upper[s] - mechanism.lower[s])))
      return false;
  }
  return vec3.distance(task.position, positionOf(mechanism.base)) > lengthOf(mechanism, tool) + HIT_M;
}

/** All lengths of the way to a tool, and the farthest that its slides go, added up (m). */
function lengthOf(mechanism: Mechanism, tool: CompiledTool): number {
  let sum = Math.hypot(tool.local[9], tool.local[10], tool.local[11]);
  for (let j = tool.parent; j >= 0; j = mechanism.parent[j]) {
    const at = STRIDE * j;
    sum += Math.hypot(mechanism.local[at + 9], mechanism.local[at + 10], mechanism.local[at + 11]);
    const s = mechanism.slotOfJoint[j];
    if (mechanism.type[j] === SLIDING) sum += Math.max(Math.abs(mechanism.lower[s]), Math.abs(mechanism.upper[s]));
  }
  return sum;
}
