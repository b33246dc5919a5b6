import { sampleBuffers, type Motion } from './motion';

/** A motion of which only the way is said; it tells no speeds. */
export function wayOf(m: number, durationS: number, placeInto: (t: number, out: Float64Array) => void): Motion {
  const [start] = sampleBuffers(m);
  placeInto(0, start);
  return {
    durationS,
    start,
    sampleInto(position, speed, accel, t) {
      placeInto(Math.min(durationS, Math.max(0, t)), position);
      speed.fill(0);
      accel.fill(0);
    },
  };
}
