/**
 * Motion along a path that need not be straight in joint space. The S-curve and the trapezoid are retimed: as fast as every joint
 * allows at each place. The other profiles are one scalar curve under limits that hold everywhere on the path.
 */
import type { Mechanism } from '../mechanism';
import { joinSegments, pathInto, pathNodes, pieceAt, type JointPath, type Segment } from './joint-path';
import { profileOf, type MovePace, type Profile, type ScalarLimits, type SlowedFor } from './profile';
import { retime, type PathLoad, type Stretch } from './retime';
import type { TimeLaw } from './time-law';

export interface PathBlock {
  readonly kind: 'path';
  readonly from: Float64Array;
  readonly to: Float64Array;
  readonly path: JointPath;
  readonly curve: Profile | TimeLaw;
  readonly stretch: number;
  readonly duration: number;
  readonly slowedFor?: SlowedFor;
}

/** Shares of acceleration and jerk that the path's bends may take, so that something is left to speed up with. */
const BEND = { accel: 0.5, jerk: 0.25, both: 0.5 };
/** Nodes per unit of σ for limits that are the same all along. */
const NODES = 60;

/** What σ(t) may do at most, the same all along. */
export function pathLimits(mechanism: Mechanism, path: JointPath): ScalarLimits {
  const d = new Float64Array(4 * path.m);
  const nodes = pathNodes(path, NODES);
  const each = (visit: (s: number, first: number, second: number, third: number) => void): void => {
    for (let k = 0; k + 1 < nodes.length; k++)
      for (const part of [0, 0.5, 1 - 1e-9]) {
        const sigma = nodes[k] + part * (nodes[k + 1] - nodes[k]);
        const piece = pieceAt(path, sigma);
        // Just inside: the third derivative steps at the ends.
        pathInto(d, path, sigma, piece);
        for (let slot = 0; slot < path.m; slot++)
          visit(slot, Math.abs(d[4 * slot + 1]), Math.abs(d[4 * slot + 2]), Math.abs(d[4 * slot + 3]));
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

export interface PathPace extends MovePace {
  /** Paces of parts of the path, where they differ; in place of `speedShare`. */
  readonly stretches?: readonly Stretch[];
  /** Most speed (m/s) of the tool's point, and its way (m) per unit of σ. */
  readonly toolSpeed?: number;
  readonly toolRate?: (sigma: number) => number;
  /** What going along it asks for beside the joints' limits; for profiles that are retimed. */
  readonly load?: PathLoad;
}

/** Whether paths with a profile are gone along as fast as every joint allows at each place. */
export const isRetimed = (profile: MovePace['profile']): boolean =>
  profile === undefined || profile === 's-curve' || profile === 'trapezoid';

/** One segment from end to end. */
export const wholePath = (segment: Segment): JointPath => joinSegments([segment], [1], []);

export function pathMove(
  mechanism: Mechanism,
  from: Float64Array,
  to: Float64Array,
  path: JointPath,
  pace: PathPace = {},
): PathBlock {
  const profile = pace.profile ?? 's-curve';
  const wish = pace.durationS;
  const done = (curve: Profile | TimeLaw, slow: number): PathBlock => {
    const least = curve.duration * slow;
    const duration = wish ? Math.max(wish, least) : least;
    return { kind: 'path', from, to, path, curve, stretch: duration / curve.duration, duration };
  };
  const accelShare = pace.accelShare ?? 1;
  // A share of the speed is time stretched at the end, so that the way there does not depend on it.
  const even = wish ? 1 : 1 / (pace.speedShare ?? 1);
  if (isRetimed(profile)) {
    const { toolSpeed = Infinity, toolRate, load } = pace;
    // With loads it does depend: less is asked of motors that go slower.
    const ahead = load ? 1 / even : 1;
    const whole = { from: 0, share: ahead, accelShare, toolSpeed: toolSpeed * even * ahead };
    const { law, slow } = retime(mechanism, path, {
      stretches: pace.stretches ?? [whole],
      toolRate,
      jerk: profile === 's-curve',
      ...(load && { load }),
    });
    return done(law, slow * (pace.stretches ? 1 : even * ahead));
  }
  const limits = pathLimits(mechanism, path);
  const curve = profileOf(profile, 1, {
    speed: limits.speed,
    accel: limits.accel * accelShare,
    jerk: limits.jerk * accelShare,
  });
  const gentlest = pace.stretches?.reduce((least, stretch) => Math.min(least, stretch.share), 1) ?? 1;
  const tool = toolPeak(path, curve, pace);
  return done(curve, Math.max(pace.stretches ? 1 / gentlest : even, tool));
}

/** By how much a scalar curve must be slowed so that the tool keeps to its speed. */
function toolPeak(path: JointPath, curve: Profile, { toolSpeed, toolRate, stretches }: PathPace): number {
  const most = Math.min(toolSpeed ?? Infinity, ...(stretches ?? []).map((stretch) => stretch.toolSpeed));
  if (most === Infinity || !toolRate || curve.top.speed === Infinity) return 1;
  return pathNodes(path, NODES).reduce((worst, s) => Math.max(worst, (toolRate(s) * curve.top.speed) / most), 1);
}
