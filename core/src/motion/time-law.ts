/** How a path is gone along in time: pieces of constant acceleration, averaged over a window so that jerk is finite. */

const SMALL = 1e-12;

/** σ(t): pieces of constant acceleration averaged over a window. */
export interface TimeLaw {
  readonly kind: 'retimed';
  readonly duration: number;
  /** Width of the window (s); 0: not averaged, acceleration steps. */
  readonly window: number;
  /** Of the motion before averaging, at the beginning of each piece: time, σ, speed, acceleration, ∫σ dt. */
  readonly t: Float64Array;
  readonly s: Float64Array;
  readonly v: Float64Array;
  readonly u: Float64Array;
  readonly area: Float64Array;
}

/** The law of ṡ² = x at nodes s of the path, averaged over a window. */
export function lawOf(s: Float64Array, x: Float64Array, window: number): TimeLaw {
  const n = s.length - 1;
  const [t, v, u, area] = [0, 1, 2, 3].map(() => new Float64Array(n + 1)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  for (let k = 0; k < n; k++) {
    const step = s[k + 1] - s[k];
    v[k] = Math.sqrt(x[k]);
    const dt = (2 * step) / Math.max(SMALL, v[k] + Math.sqrt(x[k + 1]));
    u[k] = (x[k + 1] - x[k]) / (2 * step);
    t[k + 1] = t[k] + dt;
    area[k + 1] = area[k] + dt * (s[k] + dt * (v[k] / 2 + (dt * u[k]) / 6));
  }
  v[n] = Math.sqrt(x[n]);
  return { kind: 'retimed', duration: t[n] + window, window, t, s, v, u, area };
}

const raw = new Float64Array(4);
/** Of the motion before averaging at time t: area, σ, speed, acceleration. */
function rawInto({ t, s, v, u, area }: TimeLaw, time: number): void {
  const n = t.length - 1;
  if (time <= 0) {
    raw.fill(0);
    return;
  }
  if (time >= t[n]) {
    raw[0] = area[n] + (time - t[n]) * s[n];
    raw[1] = s[n];
    raw[2] = raw[3] = 0;
    return;
  }
  let low = 0;
  let high = n - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (t[middle] <= time) low = middle;
    else high = middle - 1;
  }
  const d = time - t[low];
  raw[0] = area[low] + d * (s[low] + d * (v[low] / 2 + (d * u[low]) / 6));
  raw[1] = s[low] + d * (v[low] + (d * u[low]) / 2);
  raw[2] = v[low] + d * u[low];
  raw[3] = u[low];
}

/** Writes σ, its speed, acceleration and jerk at time t (s, clamped) to out[0 … 3]. */
export function lawInto(out: Float64Array, law: TimeLaw, time: number): void {
  if (time <= 0 || time >= law.duration) {
    out[0] = time <= 0 ? 0 : 1;
    out[1] = out[2] = out[3] = 0;
    return;
  }
  const { window } = law;
  if (window === 0) {
    rawInto(law, time);
    [out[0], out[1], out[2], out[3]] = [raw[1], raw[2], raw[3], 0];
    return;
  }
  rawInto(law, time);
  const [area, s, v, u] = raw;
  rawInto(law, time - window);
  out[0] = Math.min(1, Math.max(0, (area - raw[0]) / window));
  out[1] = Math.max(0, (s - raw[1]) / window);
  out[2] = (v - raw[2]) / window;
  out[3] = (u - raw[3]) / window;
}

const passing = new Float64Array(4);
/** When σ is reached; `guess` is near it. Newton's steps, which the speed along the path makes exact where it is not all but 0. */
export function timeAt(law: TimeLaw, sigma: number, guess: number): number {
  let time = guess;
  for (let k = 0; k < 8; k++) {
    lawInto(passing, law, time);
    const off = sigma - passing[0];
    if (Math.abs(off) < 1e-14 || passing[1] < 1e-9) break;
    time = Math.min(law.duration, Math.max(0, time + off / passing[1]));
  }
  return time;
}
