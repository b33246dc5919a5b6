/**
 * Tables of points: each solved from the one before, so that the arm keeps its posture where it can; with the joint speeds
 * that a straight way through them asks for.
 */
import type { ContactScene } from '../contact';
import { dexterityAt, probeOf, solveInverse, tiltRate, type Reason, type Solution, type Task } from '../kinematics';
import { jobOf, type Job } from '../jobs';
import { choleskySolveInto, vec3, type Vec3 } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { touchAt, touchReason, withTouches, type Touch } from './touches';

/** A place (m, world) with the tool's direction there (unit), or null for any. */
export interface TablePoint {
  readonly name: string;
  readonly position: Vec3;
  readonly direction: Vec3 | null;
  /** Without a direction: the tool's angle (rad) from up, whatever its heading. */
  readonly fromUp?: number;
}

export interface PointResult {
  readonly point: TablePoint;
  readonly solution: Solution | null;
  readonly reason: Reason | null;
  /** What the arm touches there, in its least deep posture; null where it stands free. */
  readonly touch: Touch | null;
  /** All postures that reach it. */
  readonly postures: readonly string[];
  /** The posture is another than at the point before. */
  readonly changes: boolean;
  /** Share of the tightest joint's top speed that passing at the asked speed takes; above 1 it cannot keep up. */
  readonly speedShare: number;
  /** Joint index that limits the speed; −1 for none. */
  readonly slowest: number;
  /** Smallest over largest singular value of the task's Jacobian. */
  readonly evenness: number;
}

/** Where a table's results turn: what is marked at a point. */
export const isTooFast = (result: PointResult): boolean => result.speedShare > 1;

/** Regularises the least-norm solution at singular poses (share of the largest diagonal entry). */
const RIDGE = 1e-12;

export interface PointsOptions {
  /** What stands around; left out: nothing does. */
  readonly scene?: ContactScene;
  readonly speedOnly?: ReadonlySet<number>;
}

/** Solves every point, from `start` on; `speed` in m/s. One unit of budget is one point. */
export const pointsJob = (
  mechanism: Mechanism,
  tool: CompiledTool,
  points: readonly TablePoint[],
  start: Float64Array,
  speed: number,
  options: PointsOptions = {},
): Job<PointResult[]> => jobOf(run(mechanism, tool, points, start, speed, options));

export const taskOf = ({ position, direction, fromUp }: Omit<TablePoint, 'name'>): Task =>
  direction
    ? { kind: 'direction', position, direction }
    : fromUp === undefined
      ? { kind: 'free', position }
      : { kind: 'tilt', position, fromUp, up: UP };
const UP: Vec3 = [0, 0, 1];

function* run(
  mechanism: Mechanism,
  tool: CompiledTool,
  points: readonly TablePoint[],
  start: Float64Array,
  speed: number,
  { scene, speedOnly }: PointsOptions,
): Generator<number, PointResult[], void> {
  const results: PointResult[] = [];
  let near = start;
  let posture: string | null = null;
  for (const [i, point] of points.entries()) {
    yield i / points.length;
    const task = taskOf(point);
    const answer = solveInverse(mechanism, tool, task, near, { speedOnly });
    const { solutions, reasons } = answer;
    // The posture that the arm is in, where it still reaches and stands free; else the nearest that does.
    const kept = solutions.find((s) => s.posture === posture) ?? solutions[0] ?? null;
    let [solution, touch] = [kept, kept && scene ? touchAt(scene, kept.q) : null];
    if (touch && scene) {
      const looked = withTouches(scene, answer);
      [solution, touch] = [looked.solutions[0], looked.touches[0]];
    }
    if (!solution) {
      results.push({
        point,
        solution,
        reason: reasons[0] ?? null,
        touch: null,
        postures: [],
        changes: false,
        speedShare: 0,
        slowest: -1,
        evenness: 0,
      });
      continue;
    }
    const changes = posture !== null && solution.posture !== posture;
    posture = solution.posture;
    near = solution.q;
    const ways = [points[i - 1], points[i + 1]].flatMap((other) => {
      const way = other && vec3.unit(vec3.sub(other.position, point.position));
      return way ? [way] : [];
    });
    let [speedShare, slowest] = [0, -1];
    for (const way of ways) {
      const rates = jointRates(mechanism, tool, task.kind, solution.q, vec3.scale(way, speed));
      tool.slots.forEach((s, k) => {
        const share = Math.abs(rates[k]) / mechanism.speed[s];
        if (share > speedShare) [speedShare, slowest] = [share, mechanism.jointOfSlot[s]];
      });
    }
    results.push({
      point,
      solution,
      reason: touch && touchReason(touch),
      touch,
      postures: solutions.map((s) => s.posture),
      changes,
      speedShare,
      slowest,
      evenness: dexterityAt(mechanism, tool, task.kind, solution.q).evenness,
    });
  }
  return results;
}

/**
 * Joint speeds (SI, in the order of the tool's slots) that move the tool's point at `velocity` (m/s, world) with its direction
 * kept where the task demands one: q′ from J·q′ = x′, by least squares where joints are too few, of least norm where they
 * are to spare.
 */
export function jointRates(
  mechanism: Mechanism,
  tool: CompiledTool,
  kind: Task['kind'],
  q: Float64Array,
  velocity: Vec3,
): Float64Array {
  const probe = probeOf(mechanism, tool);
  const t = probe.frameAt(q);
  const J = probe.jacobian();
  const k = tool.slots.length;
  const r = kind === 'free' ? 3 : kind === 'full' ? 6 : kind === 'tilt' ? 4 : 5;
  const { length } = probe;
  const columns = Array.from(tool.slots, (s) => {
    const c = 6 * s;
    const v = [J[c], J[c + 1], J[c + 2]];
    if (kind === 'free') return v;
    const w = [J[c + 3], J[c + 4], J[c + 5]].map((x) => x * length);
    if (kind === 'full') return [...v, ...w];
    if (kind === 'tilt') return [...v, tiltRate(t, w)];
    const across = (col: number): number => w[0] * t[col] + w[1] * t[3 + col] + w[2] * t[6 + col];
    return [...v, across(0), across(1)];
  });
  const wish = [...velocity, 0, 0, 0].slice(0, r);
  const tall = k <= r;
  const n = tall ? k : r;
  const a = new Float64Array(n * n);
  const b = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < n; j++)
      if (tall) for (let row = 0; row < r; row++) a[i * n + j] += columns[i][row] * columns[j][row];
      else for (const column of columns) a[i * n + j] += column[i] * column[j];
    if (tall) for (let row = 0; row < r; row++) b[i] += columns[i][row] * wish[row];
    else b[i] = wish[i];
  }
  let top = 0;
  for (let i = 0; i < n; i++) top = Math.max(top, a[i * n + i]);
  for (let i = 0; i < n; i++) a[i * n + i] += Math.max(RIDGE * top, 1e-18);
  if (!choleskySolveInto(a, b, n)) return new Float64Array(k).fill(Infinity);
  return tall ? b : Float64Array.from(columns, (column) => column.reduce((sum, v, row) => sum + v * b[row], 0));
}
