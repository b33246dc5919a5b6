/**
 * Inverse kinematics: closed form with every posture where the geometry is recognised, damped least squares for the
 * rest; every answer is checked by forward kinematics. Without an answer: reasons, and the closest pose that is.
 */
import type { Code, Data } from '../contract/messages';
import { say } from '../contract/messages';
import { positionOf, STRIDE, vec3 } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { DEG_PER_RAD, MM_PER_M } from '../units/convert';
import {
  elbowBranches,
  heightOf,
  planarTurn,
  recognise,
  turnBranches,
  type Branch,
  type Miss,
  type PlanarArm,
} from './closed-form/turn-and-planar';
import { framesInto, kinematicsSpace, toolInto } from './forward';
import { solveNumeric } from './numeric';
import { HIT_M, isHit, taskError, type Task } from './task';

export interface Solution {
  /** All slots, SI. */
  readonly q: Float64Array;
  /** Closed list of words, e.g. "elbow up", "elbow down, reaching over", "solved". */
  readonly posture: string;
  readonly distance: number;
  readonly angle: number;
  /** Smallest distance to a limit as a share of half the range, over the joints that move the tool; 0..1. */
  readonly limitMargin: number;
  /** Largest change of a joint from `near`, in its own unit (° or mm). */
  readonly away: number;
  /** One of a family of poses; this is the member nearest to `near`. */
  readonly singular: boolean;
}

export interface Reason {
  readonly code: Code;
  readonly message: string;
  readonly joint?: string;
  readonly byDeg?: number;
  readonly byMm?: number;
}

export interface InverseResult {
  readonly reachable: boolean;
  readonly solutions: readonly Solution[];
  readonly reasons: readonly Reason[];
  readonly closest?: Solution;
}

/** A joint this little (rad or m) past its limit is put on it: rounding of a target taken at the limit. */
const LIMIT_SLACK = 1e-9;

export function solveInverse(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  near: Float64Array = mechanism.home,
): InverseResult {
  if (tool.slots.length === 0) return { reachable: false, solutions: [], reasons: [reason('no-joints')] };
  const arm = recognise(mechanism, tool);
  const branches = arm ? closedBranches(mechanism, arm, task, near) : null;
  const found: Solution[] = [];
  if (branches?.kind === 'branches')
    for (const branch of branches.list) {
      const q = insideLimits(mechanism, branch.q, near);
      if (!q) continue;
      const solution = judge(mechanism, tool, task, q, near, postureOf(branch), branch.singular);
      if (isHit({ distance: solution.distance, angle: solution.angle })) found.push(solution);
    }
  else if (!branches) {
    const solution = numericSolution(mechanism, tool, task, near);
    if (isHit({ distance: solution.distance, angle: solution.angle })) found.push(solution);
  }
  const solutions = distinct(found).sort((a, b) => a.away - b.away || b.limitMargin - a.limitMargin);
  if (solutions.length) return { reachable: true, solutions, reasons: [] };
  return { reachable: false, solutions: [], ...explain(mechanism, tool, task, near, branches) };
}

// ── Closed form ───────────────────────────────────────────────────────────────────────────────────────────────────

type RawBranch = Branch & { q: Float64Array };
type ClosedResult = { kind: 'branches'; list: RawBranch[] } | Miss | null;

/** Branches before limits as full slot vectors; a miss; or null where this task has no closed form on this arm. */
function closedBranches(mechanism: Mechanism, arm: PlanarArm, task: Task, near: Float64Array): ClosedResult {
  const turns = turnBranches(arm, task.position, near[arm.slots[0]]);
  if (!Array.isArray(turns)) return turns;
  const spare = arm.points.length === 3;
  const misses: Miss[] = [];
  const list: RawBranch[] = [];
  for (const { q0, y, over, singular } of turns) {
    const target = [heightOf(arm, task.position), y] as const;
    let theta: number | null = null;
    if (task.kind !== 'free') {
      const turn = planarTurn(arm, task, q0);
      if (turn === null) return null;
      if (typeof turn !== 'number') {
        // With the target on the turn axis any turn will do: take the one that faces the direction.
        if (singular && task.kind === 'direction') return null;
        misses.push(turn);
        continue;
      }
      theta = turn;
    }
    if (spare && theta === null) {
      const best = freeWrist(mechanism, arm, q0, target, near, over, singular);
      if (Array.isArray(best)) list.push(...best);
      else misses.push(best);
      continue;
    }
    const elbows = elbowBranches(arm, q0, target, theta, near, over, singular);
    if (Array.isArray(elbows))
      list.push(...elbows.map((branch) => ({ ...branch, q: place(mechanism, arm, branch, near) })));
    else misses.push(elbows);
  }
  if (list.length) {
    // Two planar joints cannot choose a direction; the branches stand only where it happens to fit.
    if (!spare && task.kind !== 'free') return { kind: 'branches', list };
    return { kind: 'branches', list };
  }
  return misses.sort((a, b) => severity(a) - severity(b))[0] ?? null;
}

const severity = (miss: Miss): number => (miss.kind === 'out-of-plane' ? 1e3 + miss.angle : miss.by);

/** How many wrist angles are tried before the best is refined. */
const WRIST_SAMPLES = 144;

/**
 * Position alone leaves one joint of three to choose: per posture the tool turn that stays inside the limits and
 * nearest to `near` (by the largest joint change), sampled over a full turn and refined by golden section.
 */
function freeWrist(
  mechanism: Mechanism,
  arm: PlanarArm,
  q0: number,
  target: readonly [number, number],
  near: Float64Array,
  over: boolean,
  singular: boolean,
): RawBranch[] | Miss {
  let miss: Miss = { kind: 'far', by: Infinity };
  const score = (branch: RawBranch): number => {
    let worst = 0;
    let excess = 0;
    for (const s of arm.slots) {
      excess += Math.max(0, mechanism.lower[s] - branch.q[s], branch.q[s] - mechanism.upper[s]);
      worst = Math.max(worst, Math.abs(branch.q[s] - near[s]));
    }
    return excess > LIMIT_SLACK ? 1e3 + excess : worst;
  };
  const at = (theta: number, up: boolean): RawBranch | null => {
    const elbows = elbowBranches(arm, q0, target, theta, near, over, singular);
    if (!Array.isArray(elbows)) {
      if (severity(elbows) < severity(miss)) miss = elbows;
      return null;
    }
    const branch = elbows.find((b) => b.elbowUp === up) ?? elbows[0];
    return { ...branch, q: place(mechanism, arm, branch, near) };
  };
  const result: RawBranch[] = [];
  for (const up of [true, false]) {
    const value = (theta: number): number => {
      const branch = at(theta, up);
      return branch && branch.elbowUp === up ? score(branch) : Infinity;
    };
    const step = (2 * Math.PI) / WRIST_SAMPLES;
    // Start from the turn that `near` has, so that a small move stays a small move.
    const first = arm.slots.slice(1).reduce((sum, s, k) => sum + arm.signs[k] * near[s], 0);
    let best = first;
    let least = value(first);
    for (let i = 1; i < WRIST_SAMPLES; i++) {
      const v = value(first + i * step);
      if (v < least) {
        least = v;
        best = first + i * step;
      }
    }
    if (least === Infinity) continue;
    best = golden(value, best - step, best + step, best);
    const branch = at(best, up);
    if (branch) result.push(branch);
  }
  return result.length ? result : miss;
}

/** Golden-section search; keeps the start where nothing better is found. */
function golden(f: (x: number) => number, low: number, high: number, start: number): number {
  const ratio = (Math.sqrt(5) - 1) / 2;
  let [a, b] = [low, high];
  let x = b - ratio * (b - a);
  let y = a + ratio * (b - a);
  let [fx, fy] = [f(x), f(y)];
  for (let i = 0; i < 40; i++) {
    if (fx < fy) {
      b = y;
      y = x;
      fy = fx;
      x = b - ratio * (b - a);
      fx = f(x);
    } else {
      a = x;
      x = y;
      fx = fy;
      y = a + ratio * (b - a);
      fy = f(y);
    }
  }
  const best = fx < fy ? x : y;
  return Math.min(fx, fy) <= f(start) ? best : start;
}

/** Angles put into full slots, each on the turn that is inside its limits and nearest to `near`. */
function place(mechanism: Mechanism, arm: PlanarArm, branch: Branch, near: Float64Array): Float64Array {
  const q = near.slice();
  branch.angles.forEach((angle, k) => {
    const s = arm.slots[k];
    q[s] = nearestTurn(angle, near[s], mechanism.lower[s], mechanism.upper[s]);
  });
  return q;
}

/** angle + 2πk inside [low, high] and nearest to `near`; with none inside, the one least past a limit. */
export function nearestTurn(angle: number, near: number, low: number, high: number): number {
  const turn = 2 * Math.PI;
  const wished = angle + turn * Math.round((near - angle) / turn);
  const excess = (v: number): number => Math.max(low - v, v - high, 0);
  if (excess(wished) === 0) return wished;
  const options = [
    wished,
    angle + turn * Math.ceil((low - angle) / turn - 1e-12),
    angle + turn * Math.floor((high - angle) / turn + 1e-12),
  ];
  return options.reduce((a, b) =>
    excess(b) < excess(a) - 1e-15 ||
    (excess(a) <= LIMIT_SLACK && excess(b) <= LIMIT_SLACK && Math.abs(b - near) < Math.abs(a - near))
      ? b
      : a,
  );
}

const postureOf = (branch: Branch): string =>
  `${branch.elbowUp ? 'elbow up' : 'elbow down'}${branch.over ? ', reaching over' : ''}`;

// ── Any tree ──────────────────────────────────────────────────────────────────────────────────────────────────────

function starts(mechanism: Mechanism, near: Float64Array): Float64Array[] {
  const middle = mechanism.home.map((home, s) => {
    const sum = mechanism.lower[s] + mechanism.upper[s];
    return Number.isFinite(sum) ? sum / 2 : home;
  });
  const share = (f: number): Float64Array =>
    middle.map((v, s) => {
      const half = (mechanism.upper[s] - mechanism.lower[s]) / 2;
      return Number.isFinite(half) ? v + f * half * (s % 2 ? -1 : 1) : v;
    });
  return [near, mechanism.home, middle, share(0.5), share(-0.5)];
}

function numericSolution(mechanism: Mechanism, tool: CompiledTool, task: Task, near: Float64Array): Solution {
  let best: Solution | null = null;
  for (const start of starts(mechanism, near)) {
    const { q } = solveNumeric(mechanism, tool, task, start);
    for (const s of tool.slots) if (mechanism.continuous[s]) q[s] = nearestTurn(q[s], near[s], -Infinity, Infinity);
    const solution = judge(mechanism, tool, task, q, near, 'solved', false);
    if (isHit({ distance: solution.distance, angle: solution.angle })) return solution;
    if (!best || solution.distance + 0.1 * solution.angle < best.distance + 0.1 * best.angle) best = solution;
  }
  return best!;
}

/** The closest pose inside the limits by priorities: position first, then direction (or the other way round). */
function closestPose(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  near: Float64Array,
  first: 'position' | 'rotation',
): Solution {
  const weights = first === 'position' ? { rotationWeight: 1e-3 } : { positionWeight: 1e-3 };
  let best: Solution | null = null;
  const rank = (s: Solution): number =>
    first === 'position' ? s.distance * 1e4 + s.angle : s.angle * 1e4 + s.distance;
  for (const start of starts(mechanism, near)) {
    let { q } = solveNumeric(mechanism, tool, task, start);
    if (task.kind !== 'free') {
      q = solveNumeric(mechanism, tool, task, q, { ...weights, maxIterations: 120 }).q;
      if (first === 'position') q = solveNumeric(mechanism, tool, { kind: 'free', position: task.position }, q).q;
    }
    const solution = judge(mechanism, tool, task, q, near, 'closest', false);
    if (!best || rank(solution) < rank(best) - 1e-9) best = solution;
  }
  return best!;
}

// ── Reasons ───────────────────────────────────────────────────────────────────────────────────────────────────────

const reason = (code: Code, data: Data = {}, extra: Omit<Reason, 'code' | 'message'> = {}): Reason => ({
  code,
  message: say(code, data),
  ...extra,
});

function explain(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  near: Float64Array,
  branches: ClosedResult,
): { reasons: Reason[]; closest: Solution } {
  const closest = closestPose(mechanism, tool, task, near, 'position');
  const reasons: Reason[] = [];
  const raw =
    branches?.kind === 'branches'
      ? branches.list.filter((b) => isHitAt(mechanism, tool, task, b.q)).map((b) => b.q)
      : [];
  if (!branches || (branches.kind === 'branches' && raw.length === 0)) {
    const { q, ...error } = solveNumeric(mechanism, tool, task, closest.q, { limits: false });
    if (isHit(error)) raw.push(q);
  }
  if (raw.length) {
    reasons.push(...limitReasons(mechanism, tool, raw, near));
  } else if (branches?.kind === 'out-of-plane') {
    reasons.push(turnReason('direction-out-of-plane', branches.angle));
  }
  if (task.kind === 'free') {
    if (!raw.length) reasons.push(distanceReason(mechanism, tool, task, closest));
  } else {
    if (!raw.length && branches?.kind !== 'out-of-plane') {
      const held = closestPose(mechanism, tool, task, near, 'rotation');
      if (held.distance > HIT_M) reasons.push(distanceReason(mechanism, tool, task, held));
    }
    if (closest.distance <= HIT_M) {
      if (branches?.kind !== 'out-of-plane')
        reasons.push(turnReason(task.kind === 'direction' ? 'direction-off' : 'rotation-off', closest.angle));
    } else if (reasons.length === 0) reasons.push(distanceReason(mechanism, tool, task, closest));
  }
  return { reasons, closest };
}

const turnReason = (code: Code, angle: number): Reason => {
  const byDeg = angle * DEG_PER_RAD;
  return reason(code, { byDeg }, { byDeg });
};

/** Too far or too near, judged from the first joint on the path whose motion changes the distance. */
function distanceReason(mechanism: Mechanism, tool: CompiledTool, task: Task, pose: Solution): Reason {
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, pose.q);
  const frame = new Float64Array(STRIDE);
  toolInto(frame, 0, mechanism, space, tool);
  const pivot = positionOf(space.frames, STRIDE * tool.joint[Math.min(1, tool.joint.length - 1)]);
  const byMm = pose.distance * MM_PER_M;
  const outward = vec3.distance(task.position, pivot) >= vec3.distance(positionOf(frame), pivot);
  return reason(outward ? 'too-far' : 'too-near', { byMm }, { byMm });
}

/** Of the poses that would do without limits, the one least past them: each joint that is, and by how much. */
function limitReasons(
  mechanism: Mechanism,
  tool: CompiledTool,
  raw: readonly Float64Array[],
  near: Float64Array,
): Reason[] {
  const options = raw.map((q) =>
    Array.from(tool.slots)
      .map((s) => {
        const placed =
          mechanism.units[mechanism.jointOfSlot[s]] === '°'
            ? nearestTurn(q[s], near[s], mechanism.lower[s], mechanism.upper[s])
            : q[s];
        return { s, by: Math.max(mechanism.lower[s] - placed, placed - mechanism.upper[s], 0) };
      })
      .filter(({ by }) => by > LIMIT_SLACK)
      .sort((a, b) => b.by - a.by),
  );
  const best = options.filter((o) => o.length).sort((a, b) => a.length - b.length || a[0].by - b[0].by)[0] ?? [];
  return best.map(({ s, by }) => {
    const j = mechanism.jointOfSlot[s];
    const data = { joint: mechanism.names[j] };
    if (mechanism.units[j] === 'mm')
      return reason(
        'slide-in-the-way',
        { ...data, byMm: by * MM_PER_M },
        { joint: mechanism.ids[j], byMm: by * MM_PER_M },
      );
    return reason(
      'limit-in-the-way',
      { ...data, byDeg: by * DEG_PER_RAD },
      { joint: mechanism.ids[j], byDeg: by * DEG_PER_RAD },
    );
  });
}

// ── Shared ────────────────────────────────────────────────────────────────────────────────────────────────────────

/** The pose with values a hair past a limit put on it, or null where one is truly past. */
function insideLimits(mechanism: Mechanism, q: Float64Array, near: Float64Array): Float64Array | null {
  const inside = near.slice();
  for (let s = 0; s < mechanism.m; s++) {
    const clamped = Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], q[s]));
    // Joints off the tool's path stay as they were, wherever that is.
    if (q[s] !== near[s] && Math.abs(clamped - q[s]) > LIMIT_SLACK) return null;
    inside[s] = q[s] === near[s] ? q[s] : clamped;
  }
  return inside;
}

function isHitAt(mechanism: Mechanism, tool: CompiledTool, task: Task, q: Float64Array): boolean {
  const solution = judge(mechanism, tool, task, q, q, '', false);
  return isHit({ distance: solution.distance, angle: solution.angle });
}

function judge(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  q: Float64Array,
  near: Float64Array,
  posture: string,
  singular: boolean,
): Solution {
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, q);
  const frame = new Float64Array(STRIDE);
  toolInto(frame, 0, mechanism, space, tool);
  return {
    q,
    posture,
    singular,
    ...taskError(task, frame),
    limitMargin: limitMargin(mechanism, tool.slots, q),
    away: awayOf(mechanism, q, near),
  };
}

/** Smallest distance to a limit as a share of half the range; 1 where nothing is limited; negative past a limit. */
export function limitMargin(mechanism: Mechanism, slots: Iterable<number>, q: Float64Array): number {
  let margin = 1;
  for (const s of slots) {
    const range = mechanism.upper[s] - mechanism.lower[s];
    if (Number.isFinite(range))
      margin = Math.min(margin, (2 * Math.min(q[s] - mechanism.lower[s], mechanism.upper[s] - q[s])) / range);
  }
  return margin;
}

function awayOf(mechanism: Mechanism, q: Float64Array, near: Float64Array): number {
  let away = 0;
  for (let s = 0; s < mechanism.m; s++) away = Math.max(away, Math.abs(q[s] - near[s]) / mechanism.siPerUnit[s]);
  return away;
}

/** Joint values closer than this (rad or m) are the same solution. */
const SAME = 1e-6;

function distinct(solutions: readonly Solution[]): Solution[] {
  return solutions.filter(
    (a, i) => !solutions.slice(0, i).some((b) => a.q.every((v, s) => Math.abs(v - b.q[s]) < SAME)),
  );
}
