import { inUnit, type Mechanism } from '../mechanism';

/**
 * What moves. A planned routine, what motors are told of it, power-up and homing are all asked for their place by this one interface;
 * whatever plays, sends, sweeps or writes a motion knows nothing else of it.
 */
export interface Motion {
  /** s, from 0 */
  readonly durationS: number;
  /** Where it begins (slots, SI). */
  readonly start: Float64Array;
  /**
   * Writes position, speed and acceleration of all slots (SI) at `t` s. Before it begins it stands at `start`, from its end on where
   * it ended; there nothing moves any more. The three arrays are told apart and are none of the motion's own.
   */
  sampleInto(position: Float64Array, speed: Float64Array, accel: Float64Array, t: number): void;
}

/** A motion whose targets are known: from `startS` on it is on its way to `to` (slots, SI). Rising in time. */
export interface SteppedMotion extends Motion {
  readonly stretches: readonly { readonly startS: number; readonly to: Float64Array }[];
}

/** Buffers for {@link Motion.sampleInto}: position, speed, acceleration of `m` slots. */
export const sampleBuffers = (m: number): [Float64Array, Float64Array, Float64Array] => [
  new Float64Array(m),
  new Float64Array(m),
  new Float64Array(m),
];

/** Position of all slots (SI) at `t` s; the readable form of {@link Motion.sampleInto}. */
export function poseAt(motion: Motion, t: number): Float64Array {
  const [position, speed, accel] = sampleBuffers(motion.start.length);
  motion.sampleInto(position, speed, accel, t);
  return position;
}

/** One motion and then the other. The second begins where the first ended. */
export const joined = (first: Motion, second: Motion): Motion => ({
  durationS: first.durationS + second.durationS,
  start: first.start,
  sampleInto(position, speed, accel, t) {
    if (t < first.durationS) first.sampleInto(position, speed, accel, t);
    else second.sampleInto(position, speed, accel, t - first.durationS);
  },
});

/** Index of the last entry that begins at `t` or before, the first one before all of them; −1 without entries. O(log n). */
export function lastBegun(entries: readonly { readonly startS: number }[], t: number): number {
  let low = 0;
  let high = entries.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (entries[middle].startS <= t) low = middle;
    else high = middle - 1;
  }
  return high < 0 ? -1 : low;
}

/** Sample times: k·stepS below the end, and exactly the end. */
export function sampleTimes(durationS: number, stepS: number): Float64Array {
  const whole = Math.max(0, Math.ceil(durationS / stepS - 1e-9));
  return Float64Array.from({ length: whole + 1 }, (_, k) => (k === whole ? durationS : k * stepS));
}

export interface Samples {
  readonly timeS: Float64Array;
  /** Per slot, in the order of the slots, in document units. */
  readonly joints: readonly Float64Array[];
  readonly speeds: readonly Float64Array[];
  readonly accels: readonly Float64Array[];
}

/** A motion at an even rate and at its end, in the joints' own units. */
export function sampleMotion(mechanism: Pick<Mechanism, 'siPerUnit'>, motion: Motion, stepS: number): Samples {
  const timeS = sampleTimes(motion.durationS, stepS);
  const m = motion.start.length;
  const columns = (): Float64Array[] => Array.from({ length: m }, () => new Float64Array(timeS.length));
  const [joints, speeds, accels] = [columns(), columns(), columns()];
  const [p, v, a] = sampleBuffers(m);
  timeS.forEach((t, i) => {
    motion.sampleInto(p, v, a, t);
    for (let s = 0; s < m; s++) {
      joints[s][i] = inUnit(mechanism, s, p[s]);
      speeds[s][i] = inUnit(mechanism, s, v[s]);
      accels[s][i] = inUnit(mechanism, s, a[s]);
    }
  });
  return { timeS, joints, speeds, accels };
}
