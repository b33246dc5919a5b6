/**
 * Length advice: the smallest arm, within given ranges, that reaches all work spots with their directions and a limit
 * margin. Differential evolution (Storn & Price 1997, DE/rand/1/bin), seeded.
 */
import { limitMargin, NumericSolver, outerReach, solveInverse, type Solution } from '../kinematics';
import { jobOf, type Job } from '../jobs';
import { compile, type CompiledTool, type Mechanism } from '../mechanism';
import type { MechanismDoc } from '../rig';
import { lengthOf, setLength, type Measured } from './measures';
import { taskOf, type TablePoint } from './points';
import { seededRandom } from '../linear';

/** What may change, in mm: the length from the parent to a joint or to the tool, a delta's measure, or the base along one axis. */
export interface LengthRange {
  readonly of: Measured | 'base';
  /** Joint or tool id, a delta's measure; for the base 'x', 'y' or 'z'. */
  readonly id: string;
  readonly min: number;
  readonly max: number;
}

export interface LengthRequest {
  readonly doc: MechanismDoc;
  /** A place of the base that stands for the document's own. */
  readonly mounting?: MechanismDoc['base']['mounting'] | null;
  readonly toolId: string;
  readonly spots: readonly TablePoint[];
  readonly ranges: readonly LengthRange[];
  /** Limit margin that every spot is to keep, as a share of half the range. */
  readonly margin: number;
  readonly seed: number;
  readonly generations?: number;
}

export interface LengthAdvice {
  /** Whole mm, in the order of the ranges. */
  readonly values: readonly number[];
  /** Sum (mm) of the lengths advised and of those the rig has now, base moves left out. */
  readonly total: number;
  readonly totalNow: number;
  readonly spots: readonly { readonly name: string; readonly reached: boolean; readonly margin: number }[];
  readonly allReached: boolean;
}

const GENERATIONS = 70;
const WEIGHT = 0.7;
const CROSSOVER = 0.9;
/** Cost of a spot that is missed, against a whole arm's length. */
const MISSED = 10;
const STARTS = 6;

/** The document with lengths (mm) put in, in the order of `ranges`. */
export function withLengths(
  doc: MechanismDoc,
  ranges: readonly LengthRange[],
  values: readonly number[],
): MechanismDoc {
  const next = structuredClone(doc);
  ranges.forEach(({ of, id }, k) => {
    if (of === 'base') next.base.mounting.xyzMm['xyz'.indexOf(id)] = values[k];
    else setLength(next, of, id, values[k]);
  });
  return next;
}

/** The length (mm) that a range is about, as the document has it. */
export const lengthNow = (doc: MechanismDoc, { of, id }: LengthRange): number =>
  of === 'base' ? doc.base.mounting.xyzMm['xyz'.indexOf(id)] : lengthOf(doc, of, id);

export const lengthsJob = (request: LengthRequest): Job<LengthAdvice> => jobOf(search(request));

function* search(request: LengthRequest): Generator<number, LengthAdvice, void> {
  const { ranges, seed, generations = GENERATIONS } = request;
  const random = seededRandom(seed);
  const d = ranges.length;
  const size = Math.min(48, Math.max(18, 9 * d));
  const rounded = (values: readonly number[]): number[] =>
    values.map((v, k) => Math.min(ranges[k].max, Math.max(ranges[k].min, Math.round(v))));
  // The rig as it is takes part, as far as the ranges allow.
  const people = Array.from({ length: size }, (_, i) =>
    rounded(
      ranges.map((range) =>
        i === 0 ? lengthNow(request.doc, range) : range.min + random() * (range.max - range.min),
      ),
    ),
  );
  const costs: number[] = [];
  for (const person of people) {
    yield (0.5 * costs.length) / (size * generations);
    costs.push(judge(request, person).cost);
  }
  for (let g = 0; g < generations; g++) {
    for (let i = 0; i < size; i++) {
      yield (g + i / size) / generations;
      const others = new Set<number>();
      while (others.size < 3) {
        const pick = Math.floor(random() * size);
        if (pick !== i) others.add(pick);
      }
      const [a, b, c] = [...others].map((k) => people[k]);
      const sure = Math.floor(random() * d);
      const trial = rounded(
        people[i].map((own, k) =>
          k === sure || random() < CROSSOVER ? bounced(a[k] + WEIGHT * (b[k] - c[k]), ranges[k]) : own,
        ),
      );
      const { cost } = judge(request, trial);
      if (cost <= costs[i]) {
        people[i] = trial;
        costs[i] = cost;
      }
    }
    if (Math.max(...costs) - Math.min(...costs) < 1e-6) break;
  }
  const best = people[costs.indexOf(Math.min(...costs))];
  const { spots } = judge(request, best);
  const sum = (values: readonly number[]): number =>
    values.reduce((total, v, k) => total + (ranges[k].of === 'base' ? 0 : v), 0);
  return {
    values: best,
    total: sum(best),
    totalNow: sum(ranges.map((range) => lengthNow(request.doc, range))),
    spots,
    allReached: spots.every((spot) => spot.reached && spot.margin >= request.margin - 1e-9),
  };
}

/** A value past a bound comes back inside by as much, or onto the bound. */
function bounced(v: number, { min, max }: LengthRange): number {
  if (v < min) return Math.min(max, 2 * min - v);
  return v > max ? Math.max(min, 2 * max - v) : v;
}

/** The arm with its limits drawn in by a share of half their ranges. */
function narrowed(mechanism: Mechanism, tool: CompiledTool, margin: number): Mechanism {
  const [lower, upper] = [mechanism.lower.slice(), mechanism.upper.slice()];
  for (const s of tool.slots) {
    const by = (margin * (upper[s] - lower[s])) / 2;
    if (!Number.isFinite(by)) continue;
    lower[s] += by;
    upper[s] -= by;
  }
  return { ...mechanism, lower, upper };
}

function judge(
  { doc, mounting, toolId, spots, ranges, margin }: LengthRequest,
  values: readonly number[],
): { cost: number; spots: LengthAdvice['spots'] } {
  const placed = ranges.some((range) => range.of === 'base') ? undefined : mounting;
  const compiled = compile(withLengths(doc, ranges, values), placed);
  const most = ranges.reduce((sum, range) => sum + (range.of === 'base' ? 0 : range.max), 0) || 1;
  let cost = ranges.reduce((sum, range, k) => sum + (range.of === 'base' ? 0 : values[k]), 0) / most;
  if (!compiled.ok)
    return {
      cost: cost + MISSED * spots.length * 2,
      spots: spots.map(({ name }) => ({ name, reached: false, margin: 0 })),
    };
  const { mechanism } = compiled;
  const tool = mechanism.tools.find((t) => t.id === toolId)!;
  const reach = outerReach(mechanism, tool);
  let miss: NumericSolver | null = null;
  const roomy = narrowed(mechanism, tool, margin);
  const results = spots.map((spot) => {
    const options = { explained: false, starts: STARTS };
    const reached = (arm: Mechanism): readonly Solution[] =>
      solveInverse(arm, tool, taskOf(spot), mechanism.home, options).solutions;
    // With a joint to spare the nearest pose is seldom the one with the most room: asked for is any that has the margin.
    const withRoom = reached(roomy);
    const solutions = withRoom.length ? withRoom : reached(mechanism);
    if (!solutions.length) {
      miss ??= new NumericSolver(mechanism, tool, { maxIterations: 30 });
      const q = mechanism.home.slice();
      miss.solveInto(q, taskOf(spot));
      cost += MISSED * (1 + miss.distance / reach + miss.angle / Math.PI);
      return { name: spot.name, reached: false, margin: 0 };
    }
    const best = Math.max(...solutions.map((s) => limitMargin(mechanism, tool.slots, s.q)));
    if (best < margin) cost += (MISSED / 2) * (0.1 + (margin - best) / margin);
    return { name: spot.name, reached: true, margin: best };
  });
  return { cost, spots: results };
}
