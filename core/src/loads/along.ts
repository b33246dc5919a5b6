/** What a motion asks of motors and base, moment by moment; how much faster it could be; and where it could not turn back. */
import { ampsAt } from '../actuators';
import { sampleBuffers, sampleTimes, type SteppedMotion } from '../motion';
import type { Mechanism } from '../mechanism';
import type { Hardware } from '../rig';
import { jobOf, type Job } from '../jobs';
import type { Held } from './dynamics';
import { Loading, shareOf, type Ask } from './loading';
import { pressOf, type Press } from './tip';

/** What tools hold from a moment on; rising in time, the first from 0. */
export interface HeldFrom {
  readonly fromS: number;
  readonly held: readonly Held[];
  /** Ids of the tools that are on; left out: those that the document has on. */
  readonly mounted?: ReadonlySet<string>;
  /** Ids of joints whose motors are let go: nothing is asked of them, and nothing is drawn. */
  readonly free?: ReadonlySet<string>;
}
/** A time in which a motor is asked for more than it has, or gets on but could not go back up from where it stands. */
export interface Weak {
  readonly kind: 'over' | 'down-only';
  /** Of the motors of the loading. */
  readonly motor: number;
  readonly fromS: number;
  readonly toS: number;
  /** The most that it lacks (N·m at its shaft), and when. */
  readonly missingNm: number;
  readonly atS: number;
}
export interface LoadsAlong {
  readonly timeS: Float64Array;
  /** Per slot: torque (N·m, N where sliding). */
  readonly torques: readonly Float64Array[];
  /** Per motor: N·m at its shaft, and of what it has; NaN where no torque of it is known. */
  readonly needs: readonly Float64Array[];
  readonly shares: readonly Float64Array[];
  /** Per motor: A; NaN where nothing of it is known. */
  readonly amps: readonly Float64Array[];
  /** Per motor: 1 where its shaft stands still. */
  readonly still: readonly Uint8Array[];
  /** How far (m) inside its feet the base's load is; null without feet that span an area. −Infinity: pulled off the ground. */
  readonly tip: Float64Array | null;
  /** Where the ground presses, moment by moment; empty without such feet. */
  readonly presses: readonly (Press | null)[];
  /** Per motor: the moment of the greatest share, or need where no torque is known. */
  readonly worst: readonly { readonly timeS: number; readonly ask: Ask }[];
  readonly tipWorst: { readonly timeS: number; readonly margin: number } | null;
  readonly weak: readonly Weak[];
  /** Shares of this pace (speeds so many times, accelerations so many times squared) at which a motor or the base gives way. */
  readonly pace: {
    readonly motors: { readonly share: number; readonly motor: number; readonly timeS: number } | null;
    readonly base: { readonly share: number; readonly timeS: number } | null;
  };
}

/** A motion is looked at so often (s), and in no more places than this. */
const EVERY = 0.01;
const MOST = 6000;
/** Just before a stretch begins (s): accelerations may change there at once. */
const BEFORE = 1e-6;
const CHUNK = 50;
/** A shaft that turns slower (°/s) stands. */
const STILL = 0.01;

export const alongJob = (
  rig: Hardware,
  mechanism: Mechanism,
  motion: SteppedMotion,
  holds: readonly HeldFrom[],
): Job<LoadsAlong> => jobOf(work(rig, mechanism, motion, holds));

/** Even times, and both sides of everything that changes at once. */
function timesOf({ durationS, stretches }: SteppedMotion, holds: readonly HeldFrom[]): Float64Array {
  const even = sampleTimes(durationS, Math.max(EVERY, durationS / MOST));
  const edges = [...stretches.map(({ startS }) => startS), ...holds.map(({ fromS }) => fromS)]
    .filter((t) => t > 0 && t < durationS)
    .slice(0, MOST);
  return Float64Array.from(new Set([...even, ...edges, ...edges.map((t) => t - BEFORE)])).sort();
}

function* work(
  rig: Hardware,
  mechanism: Mechanism,
  motion: SteppedMotion,
  holds: readonly HeldFrom[],
): Generator<number, LoadsAlong, void> {
  const timeS = timesOf(motion, holds);
  const n = timeS.length;
  const loadings = holds.map(({ held, mounted }) => new Loading(rig, withTools(mechanism, mounted), held));
  const [{ motors, support }] = loadings;
  const columns = (count: number): Float64Array[] => Array.from({ length: count }, () => new Float64Array(n));
  const torques = columns(mechanism.m);
  const [needs, shares, amps] = [columns(motors.length), columns(motors.length), columns(motors.length)];
  const still = motors.map(() => new Uint8Array(n));
  const tip = support.stands ? new Float64Array(n) : null;
  const presses: (Press | null)[] = [];
  const worst = motors.map(() => ({ timeS: 0, ask: null as Ask | null, at: -1 }));
  const weak = motors.map((_, k) => new Weakness(k));
  let motorPace: LoadsAlong['pace']['motors'] = null;
  let basePace: LoadsAlong['pace']['base'] = null;
  const [q, v, a] = sampleBuffers(mechanism.m);
  let on = 0;
  for (let i = 0; i < n; i++) {
    if (i % CHUNK === 0) yield i / n;
    const t = timeS[i];
    while (on + 1 < holds.length && holds[on + 1].fromS <= t) on++;
    const loading = loadings[on];
    motion.sampleInto(q, v, a, t);
    const rest = loading.rest(q);
    const atRest = support.stands ? loading.restWrench() : null;
    const { asks, wrench } = loading.moving(q, v, a);
    for (let s = 0; s < mechanism.m; s++) torques[s][i] = loading.torques[s];
    const { free } = holds[on];
    asks.forEach((ask, k) => {
      const { needNm, usableNm, degPerS } = ask;
      still[k][i] = Math.abs(degPerS) > STILL ? 0 : 1;
      if (free?.size && motors[k].slots.some((slot) => free.has(mechanism.slotIds[slot]))) {
        if (usableNm === null) shares[k][i] = NaN;
        if (Number.isNaN(ampsAt(motors[k].drive, 0, false) ?? NaN)) amps[k][i] = NaN;
        if (worst[k].at < 0) worst[k] = { timeS: t, ask: { ...ask, needNm: 0 }, at: 0 };
        weak[k].free(t);
        return;
      }
      needs[k][i] = needNm;
      shares[k][i] = shareOf(ask) ?? NaN;
      amps[k][i] = ampsAt(motors[k].drive, needNm, still[k][i] === 0) ?? NaN;
      const at = usableNm === null ? needNm : shares[k][i];
      if (at > worst[k].at) worst[k] = { timeS: t, ask, at };
      if (usableNm === null) return;
      weak[k].see(t, ask, rest[k]);
      const share = loading.motorPace(k, ask, rest[k]);
      if (share < (motorPace?.share ?? Infinity)) motorPace = { share, motor: k, timeS: t };
    });
    if (!tip || !atRest) continue;
    tip[i] = support.marginOf(wrench);
    presses.push(pressOf(mechanism.base, wrench));
    const share = loading.basePace(atRest, wrench);
    if (share < (basePace?.share ?? Infinity)) basePace = { share, timeS: t };
  }
  const least = tip ? tip.reduce((best, margin, i) => (margin < tip[best] ? i : best), 0) : 0;
  return {
    ...{ timeS, torques, needs, shares, amps, still, tip, presses },
    worst: worst.map(({ timeS: at, ask }) => ({ timeS: at, ask: ask! })),
    tipWorst: tip && { timeS: timeS[least], margin: tip[least] },
    weak: weak.flatMap((w) => w.end(motion.durationS)).sort((x, y) => x.fromS - y.fromS),
    pace: { motors: motorPace, base: basePace },
  };
}

/** The arm with other tools on. */
export const withTools = (mechanism: Mechanism, mounted: ReadonlySet<string> | undefined): Mechanism =>
  mounted
    ? { ...mechanism, tools: mechanism.tools.map((tool) => ({ ...tool, mounted: mounted.has(tool.id) })) }
    : mechanism;

/** Stretches in which one motor is too weak. */
class Weakness {
  private readonly found: Weak[] = [];
  private open: Weak | null = null;

  constructor(private readonly motor: number) {}

  /** At `t` it is asked for `moving`; `resting`: what going up from there by itself would ask for. */
  see(t: number, moving: Ask, resting: Ask): void {
    const over = moving.needNm - moving.usableNm!;
    const back = resting.needNm - resting.usableNm!;
    const kind = over > 0 ? 'over' : back > 0 ? 'down-only' : null;
    if (this.open && this.open.kind !== kind) this.close(t);
    if (!kind) return;
    const missingNm = kind === 'over' ? over : back;
    if (!this.open) this.open = { kind, motor: this.motor, fromS: t, toS: t, missingNm, atS: t };
    else if (missingNm > this.open.missingNm) this.open = { ...this.open, missingNm, atS: t };
  }
  /** Let go at `t`. */
  free(t: number): void {
    this.close(t);
  }
  end(t: number): Weak[] {
    this.close(t);
    return this.found;
  }
  private close(toS: number): void {
    if (this.open) this.found.push({ ...this.open, toS });
    this.open = null;
  }
}
