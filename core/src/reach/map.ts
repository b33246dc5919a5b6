/**
 * Reach maps: where a tool can be, and how well, on a vertical slice, a level slice or in space.
 *
 * With the tool's direction free, joint space is sampled by a low-discrepancy sequence. Where the arm turns about a
 * vertical axis, that turn is not sampled but worked out: each sample is a whole circle, and its crossings with the
 * slice count, which makes every sample useful. With a demanded direction, and for a delta, each cell's middle is solved
 * instead.
 * Same request and seed, same map, however the work is cut into slices.
 */
import { vec3, type Vec3 } from '../linear';
import { hasRules, rulesExcess, TURNING, type CompiledTool, type Mechanism } from '../mechanism';
import { dexterityAt, outerReach, postureBits, probeOf, solveInverse, type Probe, type Task } from '../kinematics';
import { AXIS_STRIDE } from '../kinematics/chain';
import { jobOf, type Job } from '../jobs';
import type { Loading } from '../loads';
import { cellAt, cellsOf, gridOver, middleOf, roundLength, type Grid } from './grid';
import { samplerOf } from '../kinematics/sampling';

export type MapPlane = 'side' | 'plan' | 'shell';
/** Null: any direction; 'outward': level, outward from the base's turn axis; `fromUp`: at an angle (rad) from up, any heading. */
export type MapDirection = Vec3 | 'outward' | { readonly fromUp: number } | null;

export interface MapRequest {
  readonly plane: MapPlane;
  /** Height (m, world) of a level slice. */
  readonly height: number;
  readonly direction: MapDirection;
  /** Joint-space samples, where sampled. */
  readonly samples: number;
  readonly seed: number;
  /** Edge of a cell (m); 0: a round one that gives about 110 across. */
  readonly cell: number;
  /** Joints that stay, by id, and their values (SI); a carriage that is left out goes over its whole travel. */
  readonly held?: Readonly<Record<string, number>>;
}

/** The joints that a map holds, as slots, and the pose that everything starts from. */
interface Stand {
  readonly q: Float64Array;
  readonly held: ReadonlySet<number>;
  /** Slots that move the tool and are not held. */
  readonly moving: Int32Array;
}
function standOf(mechanism: Mechanism, tool: CompiledTool, { held = {} }: MapRequest): Stand {
  const q = mechanism.home.slice();
  const slots = new Set<number>();
  for (const [id, value] of Object.entries(held)) {
    const slot = mechanism.slotOf.get(id);
    if (slot === undefined) continue;
    slots.add(slot);
    q[slot] = value;
  }
  return { q, held: slots, moving: tool.slots.filter((s) => !slots.has(s)) };
}

export interface ReachMap {
  readonly request: MapRequest;
  /** Axes of the grid: side (out along the slice, up), plan (forward, left), shell (forward, left, up); m. */
  readonly grid: Grid;
  /** For a side slice, where its middle stands (x, y; m); it faces forward. */
  readonly origin: readonly [number, number];
  /** Per cell: number of posture classes (0: out of reach), best limit margin (0..1), best manipulability (no unit). */
  readonly postures: Uint8Array;
  readonly margin: Float32Array;
  readonly manipulability: Float32Array;
  /** Per cell: what is left of the torque of the motor that bears most, at the best pose (0..1; 0: too weak); null where it was not asked. */
  readonly torqueLeft: Float32Array | null;
  /** Area of the reached cells (m²), or volume (m³) of a shell. */
  readonly extent: number;
  readonly method: 'sampled' | 'solved';
  /** Samples drawn or cells solved. */
  readonly done: number;
}

/** Cells across the outer reach, on slices and in space. */
const CELLS = 110;
const SHELL_CELLS = 40;
/** Samples of arms without a vertical turn to work out, per sample asked for. */
const THICKER = 4;
const CHUNK = 1000;
/** Starts of the numeric solver per cell. */
const CELL_STARTS = 6;

/** A turn about a vertical axis that only slides come before: where it is along the tool's chain, its slot and sense. */
interface VerticalTurn {
  readonly index: number;
  readonly slot: number;
  readonly sense: number;
}

function verticalTurn(mechanism: Mechanism, tool: CompiledTool, probe: Probe, { held }: Stand): VerticalTurn | null {
  if (mechanism.delta) return null;
  probe.frameAt(new Float64Array(mechanism.m));
  const { chain, space } = probe;
  for (let i = 0; i < chain.count; i++) {
    const slot = chain.slot[i];
    if (chain.turning[i] !== TURNING) {
      if (slot < 0) return null;
      continue;
    }
    const isVertical = Math.abs(space.axes[AXIS_STRIDE * i + 2]) > 1 - 1e-9;
    const isAlone = slot >= 0 && !held.has(slot) && tool.slot.filter((s) => s === slot).length === 1;
    return isVertical && isAlone ? { index: i, slot, sense: Math.sign(space.axes[AXIS_STRIDE * i + 2]) } : null;
  }
  return null;
}

/** Outer bounds (m, world) of where the tool may be. */
function boundsOf(mechanism: Mechanism, tool: CompiledTool, stand: Stand): { low: Vec3; high: Vec3 } {
  const reach = outerReach(mechanism, tool) * 1.02;
  const [x, y, z] = mechanism.base.subarray(9, 12);
  // The sum of lengths is far too wide for a delta or a rail: a few thousand samples say how wide it really is.
  const sampler = samplerOf(mechanism, tool, 0, stand.held);
  const probe = probeOf(mechanism, tool);
  const q = stand.q.slice();
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < 4000; i++) {
    sampler.into(q, i);
    const frame = probe.frameAt(q);
    for (let k = 0; k < 3; k++) {
      low[k] = Math.min(low[k], frame[9 + k]);
      high[k] = Math.max(high[k], frame[9 + k]);
    }
  }
  const slack = 0.06 * Math.max(...high.map((v, k) => v - low[k]), 0.02);
  const within = (v: number, middle: number): number => Math.min(middle + reach, Math.max(middle - reach, v));
  return {
    low: [within(low[0] - slack, x), within(low[1] - slack, y), within(low[2] - slack, z)],
    high: [within(high[0] + slack, x), within(high[1] + slack, y), within(high[2] + slack, z)],
  };
}

/**
 * Where a side slice stands: through the vertical turn's axis with everything else at home; without one, level with the
 * tool as it is at home, which for one arm of two is beside the base.
 */
function sliceOrigin(mechanism: Mechanism, probe: Probe, turn: VerticalTurn | null, stand: Stand): [number, number] {
  const frame = probe.frameAt(stand.q);
  if (!turn) return [mechanism.base[9], frame[10]];
  const at = AXIS_STRIDE * turn.index + 3;
  return [probe.space.axes[at], probe.space.axes[at + 1]];
}

function gridFor(request: MapRequest, low: Vec3, high: Vec3, origin: readonly [number, number]): Grid {
  const across = Math.max(...high.map((v, k) => v - low[k]));
  const cell = request.cell || roundLength(across / (request.plane === 'shell' ? SHELL_CELLS : CELLS));
  if (request.plane === 'plan') return gridOver(cell, [low[0], low[1], 0], [high[0], high[1], 0]);
  if (request.plane === 'shell') return gridOver(cell, low, high);
  // In the side slice the arm may point any way: as wide as the farthest it gets from the slice's middle.
  const out = Math.max(high[0] - origin[0], origin[0] - low[0], high[1] - origin[1], origin[1] - low[1]);
  return gridOver(cell, [-out, low[2], 0], [out, high[2], 0]);
}

/** `loading`: the same mechanism with what it holds, where torque is asked about too. */
export function reachMapJob(
  mechanism: Mechanism,
  tool: CompiledTool,
  request: MapRequest,
  loading: Loading | null = null,
): Job<ReachMap> {
  return jobOf(work(mechanism, tool, request, loading));
}

function* work(
  mechanism: Mechanism,
  tool: CompiledTool,
  request: MapRequest,
  loading: Loading | null,
): Generator<number, ReachMap, void> {
  const probe = probeOf(mechanism, tool);
  const stand = standOf(mechanism, tool, request);
  // Weight is the same however an arm is turned about the vertical; what springs pull is not.
  const isFree = !loading || mechanism.springs.length === 0;
  const turn = isFree ? verticalTurn(mechanism, tool, probe, stand) : null;
  const origin = sliceOrigin(mechanism, probe, turn, stand);
  const { low, high } = boundsOf(mechanism, tool, stand);
  const grid = gridFor(request, low, high, origin);
  const n = cellsOf(grid);
  const fields = {
    classes: new Uint8Array(n),
    count: new Uint8Array(n),
    margin: new Float32Array(n),
    manipulability: new Float32Array(n),
    torqueLeft: loading && new Float32Array(n),
    loading,
  };
  let done = 0;
  const solved = request.direction !== null || mechanism.delta !== null;
  if (stand.moving.length) {
    if (solved) yield* solveCells(mechanism, tool, request, grid, origin, fields, stand);
    else yield* sample(mechanism, tool, request, grid, origin, fields, stand, turn);
    done = solved ? n : request.samples * (turn ? 1 : THICKER);
  }
  const postures = solved ? fields.count : fields.classes.map(bitsSet);
  const reached = postures.reduce((sum, v) => sum + (v > 0 ? 1 : 0), 0);
  return {
    request,
    grid,
    origin,
    postures,
    margin: fields.margin,
    manipulability: fields.manipulability,
    torqueLeft: fields.torqueLeft,
    extent: reached * grid.cell ** (request.plane === 'shell' ? 3 : 2),
    method: solved ? 'solved' : 'sampled',
    done,
  };
}

interface Fields {
  readonly classes: Uint8Array;
  readonly count: Uint8Array;
  readonly margin: Float32Array;
  readonly manipulability: Float32Array;
  readonly torqueLeft: Float32Array | null;
  readonly loading: Loading | null;
}
const leftAt = (loading: Loading, q: Float64Array): number => Math.max(0, 1 - loading.worstShare(q));

const bitsSet = (mask: number): number => {
  let count = 0;
  for (let m = mask; m; m &= m - 1) count++;
  return count;
};

function* sample(
  mechanism: Mechanism,
  tool: CompiledTool,
  request: MapRequest,
  grid: Grid,
  origin: readonly [number, number],
  fields: Fields,
  stand: Stand,
  turn: VerticalTurn | null,
): Generator<number, void, void> {
  const probe = probeOf(mechanism, tool);
  const sampler = samplerOf(mechanism, tool, request.seed, turn ? new Set([...stand.held, turn.slot]) : stand.held);
  const total = request.samples * (turn ? 1 : THICKER);
  const q = stand.q.slice();
  if (turn) q[turn.slot] = 0;
  const ruled = hasRules(mechanism);
  const { lower, upper } = mechanism;
  const ranges = sampler.slots
    .map((s) => ({ s, half: (upper[s] - lower[s]) / 2 }))
    .filter((r) => Number.isFinite(r.half));
  let [bits, dexterity, left] = [0, 0, 0];
  const mark = (at: number, ownMargin: number): void => {
    if (at < 0) return;
    fields.classes[at] |= 1 << bits;
    if (ownMargin > fields.margin[at]) fields.margin[at] = ownMargin;
    if (dexterity > fields.manipulability[at]) fields.manipulability[at] = dexterity;
    if (fields.torqueLeft && left > fields.torqueLeft[at]) fields.torqueLeft[at] = left;
  };
  const place = turn ? circlePlacer(mechanism, probe, request, grid, origin, turn, mark) : null;
  for (let i = 0; i < total; i++) {
    if (i % CHUNK === 0) yield i / total;
    sampler.into(q, i);
    if (ruled && rulesExcess(mechanism, q) > 1e-9) continue;
    const frame = probe.frameAt(q);
    // Only what falls into the slice is worth its fields.
    const inSlice =
      request.plane === 'plan'
        ? Math.abs(frame[11] - request.height) <= grid.cell / 2
        : request.plane === 'shell' || turn !== null || Math.abs(frame[10] - origin[1]) <= grid.cell / 2;
    if (!inSlice) continue;
    bits = postureBits(mechanism, tool, q);
    dexterity = manipulability(probe.jacobian(), stand.moving, probe.length);
    if (fields.loading) left = leftAt(fields.loading, q);
    let margin = 1;
    for (const { s, half } of ranges) margin = Math.min(margin, Math.min(q[s] - lower[s], upper[s] - q[s]) / half);
    if (place) place(frame, margin);
    else if (request.plane === 'side') mark(cellAt(grid, frame[9] - origin[0], frame[11]), margin);
    else mark(cellAt(grid, frame[9], frame[10], frame[11]), margin);
  }
}

/** Marks the cells that a sample's circle about the vertical turn crosses, for the turns inside its limits. */
function circlePlacer(
  mechanism: Mechanism,
  probe: Probe,
  { plane }: MapRequest,
  grid: Grid,
  origin: readonly [number, number],
  { index, slot, sense }: VerticalTurn,
  mark: (at: number, margin: number) => void,
): (frame: Float64Array, margin: number) => void {
  const low = Number.isFinite(mechanism.lower[slot]) ? mechanism.lower[slot] : -Math.PI;
  const high = Number.isFinite(mechanism.upper[slot]) ? mechanism.upper[slot] : Math.PI;
  const half = Number.isFinite(mechanism.upper[slot] - mechanism.lower[slot]) ? (high - low) / 2 : Infinity;
  const turnMargin = (v: number): number => (half === Infinity ? 1 : Math.min(v - low, high - v) / half);
  const at = AXIS_STRIDE * index + 3;
  const { axes } = probe.space;
  const whole = 2 * Math.PI;
  return (frame, margin) => {
    const cx = axes[at];
    const cy = axes[at + 1];
    const dx = frame[9] - cx;
    const dy = frame[10] - cy;
    const radius = Math.hypot(dx, dy);
    const phase = Math.atan2(dy, dx);
    if (plane === 'side') {
      // Where the circle crosses the slice, which runs forward through `origin`.
      const off = cy - origin[1];
      if (Math.abs(off) > radius) return;
      const chord = Math.sqrt(radius * radius - off * off);
      for (const along of chord > 0 ? [chord, -chord] : [0]) {
        let value = sense * (Math.atan2(-off, along) - phase);
        value -= whole * Math.floor((value - low) / whole);
        if (value <= high) mark(cellAt(grid, cx + along - origin[0], frame[11]), Math.min(margin, turnMargin(value)));
      }
      return;
    }
    const span = Math.min(high - low, whole);
    const steps = Math.max(1, Math.ceil((span * radius) / (0.7 * grid.cell)));
    for (let k = 0; k <= steps; k++) {
      const value = low + (span * k) / steps;
      const angle = phase + sense * value;
      const x = cx + radius * Math.cos(angle);
      const y = cy + radius * Math.sin(angle);
      mark(cellAt(grid, x, y, frame[11]), Math.min(margin, turnMargin(value)));
    }
  };
}

/** √det(J·Jᵀ) of the position rows, divided by the cube of `length` (Yoshikawa 1985); with two joints, of JᵀJ. */
function manipulability(J: Float64Array, slots: Int32Array, length: number): number {
  if (slots.length === 1) return Math.hypot(J[6 * slots[0]], J[6 * slots[0] + 1], J[6 * slots[0] + 2]) / length;
  if (slots.length === 2) {
    const [a, b] = [6 * slots[0], 6 * slots[1]];
    return (
      Math.hypot(
        J[a + 1] * J[b + 2] - J[a + 2] * J[b + 1],
        J[a + 2] * J[b] - J[a] * J[b + 2],
        J[a] * J[b + 1] - J[a + 1] * J[b],
      ) /
      length ** 2
    );
  }
  let [xx, xy, xz, yy, yz, zz] = [0, 0, 0, 0, 0, 0];
  for (let k = 0; k < slots.length; k++) {
    const c = 6 * slots[k];
    const x = J[c],
      y = J[c + 1],
      z = J[c + 2];
    xx += x * x;
    xy += x * y;
    xz += x * z;
    yy += y * y;
    yz += y * z;
    zz += z * z;
  }
  const det = xx * (yy * zz - yz * yz) - xy * (xy * zz - yz * xz) + xz * (xy * yz - yy * xz);
  return Math.sqrt(Math.max(0, det)) / length ** 3;
}

function* solveCells(
  mechanism: Mechanism,
  tool: CompiledTool,
  request: MapRequest,
  grid: Grid,
  origin: readonly [number, number],
  fields: Fields,
  { q: stands, held }: Stand,
): Generator<number, void, void> {
  const n = cellsOf(grid);
  let near = stands;
  for (let at = 0; at < n; at++) {
    if (at % 8 === 0) yield at / n;
    const [a, b, c] = middleOf(grid, at);
    const position: Vec3 =
      request.plane === 'side'
        ? [origin[0] + a, origin[1], b]
        : request.plane === 'plan'
          ? [a, b, request.height]
          : [a, b, c];
    const { solutions } = solveInverse(mechanism, tool, taskAt(request.direction, position, origin), near, {
      explained: false,
      starts: CELL_STARTS,
      held,
    });
    if (!solutions.length) continue;
    near = solutions[0].q;
    fields.count[at] = Math.min(255, solutions.length);
    fields.margin[at] = Math.max(...solutions.map((s) => s.limitMargin));
    if (fields.torqueLeft) fields.torqueLeft[at] = Math.max(...solutions.map((s) => leftAt(fields.loading!, s.q)));
    fields.manipulability[at] = Math.max(
      ...solutions.map((s) => dexterityAt(mechanism, tool, 'free', s.q).manipulability),
    );
  }
}

function taskAt(direction: MapDirection, position: Vec3, origin: readonly [number, number]): Task {
  if (direction === null) return { kind: 'free', position };
  if (direction !== 'outward' && 'fromUp' in direction)
    return { kind: 'tilt', position, fromUp: direction.fromUp, up: [0, 0, 1] };
  const wished: Vec3 | null =
    direction === 'outward' ? vec3.unit([position[0] - origin[0], position[1] - origin[1], 0]) : vec3.unit(direction);
  return { kind: 'direction', position, direction: wished ?? [1, 0, 0] };
}
