/**
 * Motion along a path that is not straight in joint space: a spline over s from 0 to 1, with one profile s(t). The profile's
 * limits are such that every joint keeps its own everywhere: q̇ = q′ṡ, q̈ = q′s̈ + q″ṡ², q⃛ = q′s⃛ + 3q″ṡs̈ + q‴ṡ³.
 */
import type { Mechanism } from '../mechanism';
import { profileOf, type MovePace, type Profile, type ScalarLimits } from './profile';
import { splineInto, type Spline } from './spline';

export interface PathBlock {
  readonly kind: 'path';
  readonly from: Float64Array;
  readonly to: Float64Array;
  readonly spline: Spline;
  readonly curve: Profile;
  readonly stretch: number;
  readonly duration: number;
}

/** Places looked at in each segment of the spline. */
const LOOKS = 5;
/** Shares of acceleration and jerk that the path's bends may take, so that something is left to speed up with. */
const BEND = { accel: 0.5, jerk: 0.25, both: 0.5 };

/** What s(t) may do at most, the same all along. */
export function pathLimits(mechanism: Mechanism, spline: Spline): ScalarLimits {
  const d = new Float64Array(4);
  const { n, m } = spline;
  const each = (visit: (s: number, first: number, second: number, third: number) => void): void => {
    for (let k = 0; k < n; k++)
      for (let i = 0; i <= LOOKS; i++)
        for (let slot = 0; slot < m; slot++) {
          // Just inside the segment: the third derivative steps at its ends.
          splineInto(d, spline, slot, (k + Math.min(1 - 1e-9, i / LOOKS)) / n);
          visit(slot, Math.abs(d[1]), Math.abs(d[2]), Math.abs(d[3]));
        }
  };
  const { speed: v, accel: a, jerk: j } = mechanism;
  let [speed, accel, jerk] = [Infinity, Infinity, Infinity];
  each((s, first, second, third) => {
    speed = Math.min(
      speed,
      v[s] / first,
      Math.sqrt((BEND.accel * a[s]) / second),
      Math.cbrt((BEND.jerk * j[s]) / third),
    );
  });
  each((s, first, second) => {
    accel = Math.min(accel, (a[s] - second * speed * speed) / first, (BEND.both * j[s]) / (3 * second * speed));
  });
  each((s, first, second, third) => {
    jerk = Math.min(jerk, (j[s] - 3 * second * speed * accel - third * speed ** 3) / first);
  });
  return { speed, accel, jerk };
}

export function pathMove(
  mechanism: Mechanism,
  from: Float64Array,
  to: Float64Array,
  spline: Spline,
  pace: MovePace = {},
): PathBlock {
  const limits = pathLimits(mechanism, spline);
  const share = pace.accelShare ?? 1;
  const curve = profileOf(pace.profile ?? 's-curve', 1, {
    speed: limits.speed,
    accel: limits.accel * share,
    jerk: limits.jerk * share,
  });
  const stretch = pace.durationS ? Math.max(1, pace.durationS / curve.duration) : 1 / (pace.speedShare ?? 1);
  return { kind: 'path', from, to, spline, curve, stretch, duration: curve.duration * stretch };
}
