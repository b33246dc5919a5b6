/**
 * The quickest motion along a path that stays as it is. First reachability analysis under speed and acceleration (Pham & Pham
 * 2018): backwards the speeds from which the end can still be met, forwards the most that is allowed. The steps of acceleration that
 * this leaves are spread over a window of time by a moving average, which makes the jerk finite; where the averaged motion
 * passes a limit the limit is tightened there and all is done again; at last time is scaled by what is left over. What motors and base
 * bear comes in as rows of its own; by how much those are still passed between the nodes whoever asks for it has to see.
 *
 * With ṡ the speed along the path: q̇ = q′ṡ, q̈ = q′s̈ + q″ṡ², q⃛ = q′s⃛ + 3q″ṡs̈ + q‴ṡ³.
 */
import type { Mechanism } from '../mechanism';
import { pathInto, pathNodes, type JointPath } from './joint-path';
import { lawInto, lawOf, timeAt, type TimeLaw } from './time-law';

/** What may be asked of a stretch of the path, from σ = `from` on. */
export interface Stretch {
  readonly from: number;
  /** Share of every joint's speed; acceleration by its square, jerk by its cube. */
  readonly share: number;
  /** Share of acceleration and jerk alone. */
  readonly accelShare: number;
  /** Most speed (m/s) of the tool's point; Infinity: as the joints will. */
  readonly toolSpeed: number;
}

/** A bound p·s̈ + r·ṡ² ≤ room at a place of a path, where the room may fall with the speed. */
export interface LoadRow {
  readonly p: number;
  readonly r: number;
  /** ṡ² up to which there is room at rest. */
  readonly most: number;
  /** Room at ṡ² = x, and how it changes with ṡ² there. */
  roomAt(x: number): readonly [room: number, slope: number];
}
/** What going along a path asks for beside the joints' own limits: motors that may be too weak, a base that may tip. */
export interface PathLoad {
  /** By q, q′ and q″ of every slot. What is too much at rest already is left out: no pace helps it. */
  rowsAt(q: Float64Array, first: Float64Array, second: Float64Array): readonly LoadRow[];
  /** How many times its pace a moment may have that asks for too much (slots: position, speed, acceleration); Infinity: it does not. */
  paceAt(q: Float64Array, speed: Float64Array, accel: Float64Array): number;
}

export interface RetimeOptions {
  readonly stretches: readonly Stretch[];
  /** How far (m) the tool's point moves per unit of σ at σ; needed where a stretch limits it. */
  readonly toolRate?: (sigma: number) => number;
  /** Whether jerk is limited. */
  readonly jerk: boolean;
  readonly load?: PathLoad;
}

/** Nodes per unit of σ at least. */
const NODES = 72;
/** Looks at each piece of the result when it is held against the limits for good. */
const CLOSE = 4;
/** Tries at tightening for one window, and a stretch of time that ends them. */
const ROUNDS = 5;
const CLOSE_ENOUGH = 1.006;
/** A step of acceleration between two pieces, as a share of it, that is looked at from both sides. */
const STEP = 0.05;
/** Motions that last this many windows are long. */
const LONG = 14;
/** Windows tried, as shares of the longest that jerk asks for. */
const WINDOWS = [1, 0.62, 0.38];
const SMALL = 1e-12;
/** Room that falls with the speed is taken as a line by ṡ², and again at the ṡ² that is found, so often; no nearer to rest than this share of it. */
const LINES = 4;
const NEAR_REST = 1e-3;

/** What node k of the path may do: rates of every slot, limits shared out to its stretch. */
interface Nodes {
  readonly n: number;
  readonly m: number;
  readonly s: Float64Array;
  readonly first: Float64Array;
  readonly second: Float64Array;
  readonly share: Float64Array;
  readonly accelShare: Float64Array;
  /** Most ṡ² by joint speeds and the tool's. */
  readonly cap: Float64Array;
  /** What loads ask for beside that; empty without. */
  readonly loads: readonly (readonly LoadRow[])[];
}

const stretchAt = (stretches: readonly Stretch[], sigma: number): Stretch =>
  stretches.findLast((stretch) => stretch.from <= sigma) ?? stretches[0];

function nodesOf(mechanism: Mechanism, path: JointPath, { stretches, toolRate, load }: RetimeOptions): Nodes {
  const s = pathNodes(path, load ? 2 * NODES : NODES);
  const n = s.length - 1;
  const { m } = path;
  const [first, second] = [new Float64Array((n + 1) * m), new Float64Array((n + 1) * m)];
  const [share, accelShare, cap] = [new Float64Array(n + 1), new Float64Array(n + 1), new Float64Array(n + 1)];
  const d = new Float64Array(4 * m);
  const limited = stretches.some((stretch) => stretch.toolSpeed < Infinity);
  const q = new Float64Array(m);
  const loads: (readonly LoadRow[])[] = [];
  for (let k = 0; k <= n; k++) {
    // A node between two stretches keeps to the gentler one.
    const [a, b] = [stretchAt(stretches, s[k]), stretchAt(stretches, Math.max(0, s[k] - 1e-9))];
    share[k] = Math.min(a.share, b.share);
    accelShare[k] = Math.min(a.accelShare, b.accelShare);
    let most = Infinity;
    pathInto(d, path, s[k]);
    for (let slot = 0; slot < m; slot++) {
      const [one, two] = [d[4 * slot + 1], d[4 * slot + 2]];
      first[k * m + slot] = one;
      second[k * m + slot] = two;
      if (one !== 0) most = Math.min(most, (mechanism.speed[slot] * share[k]) / Math.abs(one));
    }
    if (limited && toolRate) {
      const rate = toolRate(s[k]);
      if (rate > SMALL) most = Math.min(most, Math.min(a.toolSpeed, b.toolSpeed) / rate);
    }
    cap[k] = Math.min(1e12, most * most);
    if (!load) continue;
    for (let slot = 0; slot < m; slot++) q[slot] = d[4 * slot];
    loads.push(load.rowsAt(q, first.subarray(k * m, k * m + m), second.subarray(k * m, k * m + m)));
  }
  return { n, m, s, first, second, share, accelShare, cap, loads };
}

/** Lines u ≥ … and u ≤ … of the constraints at one node, over x = ṡ². */
class Rows {
  private readonly above: Lines;
  private readonly below: Lines;
  /** Most x by rows that do not hold u at all. */
  cap = Infinity;

  constructor(most: number) {
    this.above = new Lines(most);
    this.below = new Lines(most);
  }
  clear(cap: number): void {
    this.above.count = this.below.count = 0;
    this.cap = cap;
  }
  /** |p u + r x| ≤ a. */
  add(p: number, r: number, a: number): void {
    this.atMost(p, r, a);
    this.atMost(-p, -r, a);
  }
  /** p u + r x ≤ a, where a is not negative. */
  atMost(p: number, r: number, a: number): void {
    if (Math.abs(p) < SMALL * (1 + Math.abs(r))) {
      if (r > 0) this.cap = Math.min(this.cap, a / r);
    } else (p > 0 ? this.above : this.below).push(a / p, -r / p);
  }
  /** Highest u at x; writes the slope of its line by x to `slope`. */
  upper(x: number): number {
    const { at, slope, count } = this.above;
    let best = Infinity;
    for (let i = 0; i < count; i++) {
      const u = at[i] + slope[i] * x;
      if (u < best) [best, this.slope] = [u, slope[i]];
    }
    return best;
  }
  lower(x: number): number {
    const { at, slope, count } = this.below;
    let best = -Infinity;
    for (let i = 0; i < count; i++) {
      const u = at[i] + slope[i] * x;
      if (u > best) [best, this.slope] = [u, slope[i]];
    }
    return best;
  }
  slope = 0;
}
class Lines {
  readonly at: Float64Array;
  readonly slope: Float64Array;
  count = 0;
  constructor(most: number) {
    this.at = new Float64Array(most);
    this.slope = new Float64Array(most);
  }
  push(at: number, slope: number): void {
    this.at[this.count] = at;
    this.slope[this.count++] = slope;
  }
}

/** Limits tightened so that what is averaged over a window keeps to them: shares of acceleration and of ṡ², node by node. */
interface Tightened {
  readonly held: Float64Array;
  readonly slowed: Float64Array;
}
/** ṡ² at every node: the most that can be had. Room for loads that falls with the speed is taken near a pace that is reached. */
function reachable(nodes: Nodes, accelOf: (slot: number, node: number) => number, tight: Tightened): Float64Array {
  const { cap, loads } = nodes;
  let x = pass(nodes, accelOf, tight, cap);
  const falls = loads.some((rows) => rows.some((row) => row.roomAt(row.most)[1] !== 0));
  for (let k = 1; falls && k < LINES; k++) x = pass(nodes, accelOf, tight, x);
  return x;
}

function pass(
  nodes: Nodes,
  accelOf: (slot: number, node: number) => number,
  { held, slowed }: Tightened,
  near: Float64Array,
): Float64Array {
  const { n, m, s, first, second, cap, loads } = nodes;
  const most = new Float64Array(n + 1);
  const rows = new Rows(4 * m + 2 * loads.reduce((longest, list) => Math.max(longest, list.length), 0));
  /** The rows of loads of a node, with x by so much more for 1 of u. */
  const loadsOf = (node: number, ahead: number): void => {
    for (const row of loads[node] ?? []) {
      const most = Math.min(row.most, cap[node]);
      const at = Math.min(most, Math.max(near[node], NEAR_REST * most));
      const [room, slope] = row.roomAt(at);
      const r = row.r - slope;
      rows.atMost(row.p + ahead * r, r, Math.max(0, room - slope * at) * held[node]);
    }
  };
  const fill = (k: number): number => {
    const step = s[k + 1] - s[k];
    rows.clear(cap[k] * slowed[k]);
    for (let slot = 0; slot < m; slot++) {
      const [i, j] = [k * m + slot, (k + 1) * m + slot];
      if (first[i] !== 0 || second[i] !== 0) rows.add(first[i], second[i], accelOf(slot, k));
      // The same a node further, where x has become x + 2 step·u.
      if (first[j] !== 0 || second[j] !== 0)
        rows.add(first[j] + 2 * step * second[j], second[j], accelOf(slot, k + 1));
    }
    loadsOf(k, 0);
    loadsOf(k + 1, 2 * step);
    return step;
  };
  for (let k = n - 1; k >= 0; k--) {
    const step = fill(k);
    const next = most[k + 1];
    let x = rows.cap;
    // The gap between what u may be at most and must be at least is concave: Newton from the right meets its end.
    for (let round = 0; round < 50; round++) {
      let high = rows.upper(x);
      let highSlope = rows.slope;
      if ((next - x) / (2 * step) < high) [high, highSlope] = [(next - x) / (2 * step), -1 / (2 * step)];
      let low = rows.lower(x);
      let lowSlope = rows.slope;
      if (-x / (2 * step) > low) [low, lowSlope] = [-x / (2 * step), -1 / (2 * step)];
      const gap = high - low;
      const slope = highSlope - lowSlope;
      if (gap >= -1e-12 * (1 + Math.abs(high)) || slope >= 0 || x <= 0) break;
      x = Math.max(0, x - gap / slope);
    }
    most[k] = x;
  }
  const x = new Float64Array(n + 1);
  for (let k = 0; k < n; k++) {
    const step = fill(k);
    const u = Math.min(rows.upper(x[k]), (most[k + 1] - x[k]) / (2 * step));
    x[k + 1] = Math.min(most[k + 1], Math.max(0, x[k] + 2 * step * u));
  }
  return x;
}

/** Shares of the limits: of speed (the tool's too), acceleration and jerk. */
interface Shares {
  speed: number;
  accel: number;
  jerk: number;
  /** Of what loads bear, which no pace but this one over it would do; and of the same without speeding up. */
  load: number;
  steady: number;
}

/** Holds a motion along the path against the limits, moment by moment. */
class Scale {
  private readonly sample = new Float64Array(4);
  private readonly d: Float64Array;
  private readonly state: readonly [q: Float64Array, speed: Float64Array, accel: Float64Array];
  readonly now: Shares = { speed: 0, accel: 0, jerk: 0, load: 0, steady: 0 };

  constructor(
    private readonly mechanism: Mechanism,
    private readonly path: JointPath,
    private readonly options: RetimeOptions,
  ) {
    this.d = new Float64Array(4 * path.m);
    this.state = [new Float64Array(path.m), new Float64Array(path.m), new Float64Array(path.m)];
  }

  /** Takes to `now` what loads ask for at the moment that was looked at last: of the speed where that is too much by itself. */
  lookAtLoads(): void {
    const { load } = this.options;
    if (!load) return;
    const { d, now, sample } = this;
    const [q, speed, accel] = this.state;
    const [, v, u] = sample;
    const times = (by: number): number => {
      for (let slot = 0, o = 0; slot < q.length; slot++, o += 4) {
        q[slot] = d[o];
        speed[slot] = d[o + 1] * v;
        accel[slot] = d[o + 1] * by + d[o + 2] * v * v;
      }
      return load.paceAt(q, speed, accel);
    };
    now.load = 1 / times(u);
    if (now.load > 1) now.steady = 1 / times(0);
  }

  /** Fills `now` with the largest shares of any joint at a time. */
  look(law: TimeLaw, time: number): void {
    const { sample, d, now, options } = this;
    const { speed, accel, jerk } = this.mechanism;
    lawInto(sample, law, time);
    const [sigma, v, u, w] = sample;
    const stretch = options.stretches.length > 1 ? stretchAt(options.stretches, sigma) : options.stretches[0];
    const k = stretch.share;
    const [ka, kj] = [k * k * stretch.accelShare, k * k * k * stretch.accelShare];
    now.speed = now.accel = now.jerk = now.load = now.steady = 0;
    pathInto(d, this.path, sigma);
    for (let slot = 0, o = 0; slot < speed.length; slot++, o += 4) {
      const [one, two] = [d[o + 1], d[o + 2]];
      const byPace = Math.abs(one * v) / (speed[slot] * k);
      if (byPace > now.speed) now.speed = byPace;
      const byAccel = Math.abs(one * u + two * v * v) / (accel[slot] * ka);
      if (byAccel > now.accel) now.accel = byAccel;
      if (!options.jerk) continue;
      const byJerk = Math.abs(one * w + 3 * two * v * u + d[o + 3] * v * v * v) / (jerk[slot] * kj);
      if (byJerk > now.jerk) now.jerk = byJerk;
    }
    if (stretch.toolSpeed < Infinity && options.toolRate)
      now.speed = Math.max(now.speed, (options.toolRate(sigma) * v) / stretch.toolSpeed);
  }

  /** By how much time must be stretched so that every limit holds: every piece between two steps of anything is looked through. */
  slowFor(law: TimeLaw, nodes: Float64Array): number {
    const steps = new Set<number>([0, law.duration]);
    for (const t of law.t) {
      steps.add(t);
      steps.add(t + law.window);
    }
    // Where the path's own derivatives step.
    nodes.forEach((s, k) => steps.add(timeAt(law, s, law.t[k] + law.window / 2)));
    const times = [...steps].sort((a, b) => a - b);
    let slow = 1;
    const shares = new Float64Array(CLOSE + 1);
    for (let i = 0; i + 1 < times.length; i++) {
      const width = times[i + 1] - times[i];
      if (width <= 0) continue;
      for (let k = 0; k <= CLOSE; k++) {
        this.look(law, times[i] + width * Math.min(1 - 1e-9, Math.max(1e-9, k / CLOSE)));
        const { speed, accel, jerk } = this.now;
        shares[k] = Math.max(speed, Math.sqrt(accel), Math.cbrt(jerk));
        slow = Math.max(slow, shares[k]);
      }
      // Between the looks the shares are smooth: no peak is higher than the parabola's.
      for (let k = 1; k < CLOSE; k++)
        slow = Math.max(slow, shares[k] + Math.max(0, 2 * shares[k] - shares[k - 1] - shares[k + 1]) / 8);
    }
    return slow * (1 + 2e-6);
  }
}

/** Retimes a path from rest to rest; `slow` is by how much time must still be stretched so that every limit holds (≥ 1). */
export function retime(
  mechanism: Mechanism,
  path: JointPath,
  options: RetimeOptions,
): { law: TimeLaw; slow: number } {
  const nodes = nodesOf(mechanism, path, options);
  const { n, m } = nodes;
  const { accel, jerk } = mechanism;
  let widest = 0;
  if (options.jerk)
    for (let slot = 0; slot < m; slot++)
      if (nodes.first.some((v, i) => i % m === slot && v !== 0)) widest = Math.max(widest, accel[slot] / jerk[slot]);
  // At a share of the speed time runs slower: the window grows with it.
  widest /= Math.min(...options.stretches.map((stretch) => stretch.share));
  const scale = new Scale(mechanism, path, options);
  let best: { law: TimeLaw; takes: number } | null = null;
  for (const part of widest > 0 ? WINDOWS : [0]) {
    const window = part * widest;
    // A long motion gains nothing by a shorter window: its acceleration would no longer be all that is allowed.
    if (best && best.law.t[n] > LONG * widest) break;
    const [held, slowed] = [new Float64Array(n + 1).fill(1), new Float64Array(n + 1).fill(1)];
    for (let round = 0; round < ROUNDS; round++) {
      const x = reachable(
        nodes,
        (slot, node) => {
          const k = nodes.share[node];
          const most = accel[slot] * k * k;
          return (
            (window > 0 ? Math.min(most, jerk[slot] * k * k * k * window) : most) *
            nodes.accelShare[node] *
            held[node]
          );
        },
        { held, slowed },
      );
      const law = lawOf(nodes.s, x, window);
      // Tightening only makes it longer.
      if (best && law.duration >= best.takes) break;
      const { slow, tighten, slower } = excesses(scale, law, nodes.s);
      if (!best || law.duration * slow < best.takes) best = { law, takes: law.duration * slow };
      if (slow <= CLOSE_ENOUGH) break;
      for (let k = 0; k <= n; k++) {
        held[k] *= Math.max(0.55, tighten[k]);
        slowed[k] *= Math.max(0.6, slower[k]);
      }
    }
  }
  return { law: best!.law, slow: scale.slowFor(best!.law, nodes.s) };
}

/** Where a motion passes the limits: factors for acceleration and ṡ² of every node, and the stretch of time that would do. */
function excesses(
  scale: Scale,
  law: TimeLaw,
  nodes: Float64Array,
): { slow: number; tighten: Float64Array; slower: Float64Array } {
  const { now } = scale;
  const { window } = law;
  const n = nodes.length - 1;
  const [tighten, slower] = [new Float64Array(n + 1).fill(1), new Float64Array(n + 1).fill(1)];
  let slow = 1;
  const look = (k: number, time: number): void => {
    scale.look(law, time);
    scale.lookAtLoads();
    slow = Math.max(slow, now.speed, Math.sqrt(now.accel), Math.cbrt(now.jerk), now.load);
    const pace = Math.max(now.speed, now.steady);
    if (pace > 1 + 1e-6) slower[k] = Math.min(slower[k], 1 / pace ** 2);
    const over = Math.max(now.accel, now.jerk, now.steady > 1 ? 0 : now.load);
    if (over <= 1 + 1e-6) return;
    // Every node inside the window had its part in it.
    tighten[k] = Math.min(tighten[k], 1 / over);
    for (let j = k; j >= 0 && law.t[j] >= time - window - 1e-9; j--) tighten[j] = Math.min(tighten[j], 1 / over);
    for (let j = k + 1; j <= n && law.t[j] <= time + 1e-9; j++) tighten[j] = Math.min(tighten[j], 1 / over);
  };
  for (let k = 0; k < n; k++) {
    // Jerk steps where either end of the window passes a node, and where the path does: looked at on both sides.
    look(k, law.t[k] + 1e-9);
    if (window === 0) {
      look(k, (law.t[k] + law.t[k + 1]) / 2);
      continue;
    }
    look(k, law.t[k] + window + 1e-9);
    const step = k === 0 ? Infinity : Math.abs(law.u[k] - law.u[k - 1]);
    if (step > STEP * (Math.abs(law.u[k]) + 1e-12)) {
      look(k, law.t[k] - 1e-9);
      look(k, law.t[k] + window - 1e-9);
    }
    look(k, timeAt(law, nodes[k], law.t[k] + window / 2) + 1e-9);
  }
  return { slow, tighten, slower };
}
