/**
 * Rest-to-rest motion along a scalar path as pieces of polynomials. Each kind holds the limits it can: the jerk-limited
 * S-curve speed, acceleration and jerk, in the least time (Biagiotti & Melchiorri, *Trajectory Planning for Automatic Machines
 * and Robots*, sec. 3.4); the trapezoid speed and acceleration, in the least time; the straight line speed alone; minimum jerk
 * (Flash & Hogan 1985) all three; the soft stop speeds up as a trapezoid does and comes to rest as an S-curve does. The jump holds
 * nothing: the target is asked for at once, and the time is what the way takes at full speed.
 */

export const profileKinds = ['s-curve', 'minimum-jerk', 'soft-stop', 'trapezoid', 'linear', 'jump'] as const;
export type ProfileKind = (typeof profileKinds)[number];

export interface MovePace {
  /** Share k of the whole motion's speed: speed by k, acceleration by k², jerk by k³. */
  readonly speedShare?: number;
  /** Share of acceleration and jerk alone. */
  readonly accelShare?: number;
  /** Wished duration (s); wins over the shares; never less than the least time. */
  readonly durationS?: number;
  /** How it speeds up and slows down; the S-curve unless said otherwise. */
  readonly profile?: ProfileKind;
}

/** Position from time `from` (s) on: Σ cₖ·(t − from)ᵏ. */
export interface Phase {
  readonly from: number;
  readonly c: readonly number[];
}
export interface Profile {
  readonly kind: ProfileKind;
  readonly length: number;
  readonly duration: number;
  readonly phases: readonly Phase[];
  /** Highest speed, acceleration and jerk; Infinity where they step. */
  readonly top: { readonly speed: number; readonly accel: number; readonly jerk: number };
}

/** What a move takes longer for than it was asked to: motors that would be too weak, or a base that would tip. */
export type SlowedFor = 'torque' | 'tip';

export interface ScalarLimits {
  readonly speed: number;
  readonly accel: number;
  readonly jerk: number;
}

/** A stretch of constant jerk; acceleration may step where it begins. */
interface Piece {
  readonly seconds: number;
  readonly accel: number;
  readonly jerk: number;
}

/** Pieces end to end, from position 0 at speed `speed`; those without time are left out. */
function laidOut(pieces: readonly Piece[], speed = 0): Phase[] {
  const phases: Phase[] = [];
  let [t, s, v] = [0, 0, speed];
  for (const { seconds, accel, jerk } of pieces) {
    if (!(seconds > 0)) continue;
    phases.push({ from: t, c: [s, v, accel / 2, jerk / 6] });
    s += seconds * (v + seconds * (accel / 2 + (seconds * jerk) / 6));
    v += seconds * (accel + (seconds * jerk) / 2);
    t += seconds;
  }
  return phases;
}

const still = (kind: ProfileKind): Profile => ({
  kind,
  length: 0,
  duration: 0,
  phases: [],
  top: { speed: 0, accel: 0, jerk: 0 },
});

/** Length and limits positive; a length of 0 takes no time. */
export function profileOf(kind: ProfileKind, length: number, limits: ScalarLimits): Profile {
  if (!(length > 0)) return still(kind);
  switch (kind) {
    case 's-curve':
      return sCurve(length, limits.speed, limits.accel, limits.jerk);
    case 'minimum-jerk':
      return minimumJerk(length, limits);
    case 'soft-stop':
      return softStop(length, limits);
    case 'trapezoid':
      return trapezoid(length, limits);
    case 'jump':
      return {
        kind,
        length,
        duration: length / limits.speed,
        phases: [{ from: 0, c: [length, 0, 0, 0] }],
        top: { speed: Infinity, accel: Infinity, jerk: Infinity },
      };
    default: {
      const duration = length / limits.speed;
      return {
        kind,
        length,
        duration,
        phases: laidOut([{ seconds: duration, accel: 0, jerk: 0 }], limits.speed),
        top: { speed: limits.speed, accel: Infinity, jerk: Infinity },
      };
    }
  }
}

/** The seven-phase S-curve with all its short-move cases. */
export function sCurve(length: number, speed: number, accel: number, jerk: number): Profile {
  if (!(length > 0)) return still('s-curve');
  // Long enough to reach full speed?
  let tj = accel / jerk;
  let ta = tj + speed / accel;
  if (speed * jerk < accel * accel) {
    tj = Math.sqrt(speed / jerk);
    ta = 2 * tj;
  }
  let tv = length / speed - ta;
  if (tv < 0) {
    // Full speed is not reached: full acceleration is, or not even that.
    tv = 0;
    tj = accel / jerk;
    ta = (tj + Math.sqrt(tj * tj + (4 * length) / accel)) / 2;
    if (ta < 2 * tj) {
      tj = Math.cbrt(length / (2 * jerk));
      ta = 2 * tj;
    }
  }
  // The jerk that meets the length exactly with these times (equal to `jerk` but for rounding).
  const exact = length / (tj * (ta - tj) * (ta + tv));
  const top = exact * tj;
  const level = ta - 2 * tj;
  return {
    kind: 's-curve',
    length,
    duration: 2 * ta + tv,
    phases: laidOut([
      { seconds: tj, accel: 0, jerk: exact },
      { seconds: level, accel: top, jerk: 0 },
      { seconds: tj, accel: top, jerk: -exact },
      { seconds: tv, accel: 0, jerk: 0 },
      { seconds: tj, accel: 0, jerk: -exact },
      { seconds: level, accel: -top, jerk: 0 },
      { seconds: tj, accel: -top, jerk: exact },
    ]),
    top: { speed: top * (ta - tj), accel: top, jerk: exact },
  };
}

/** From one speed to another within acceleration and jerk, in the least time; position begins at 0. */
export function speedRamp(
  from: number,
  to: number,
  accel: number,
  jerk: number,
): { phases: Phase[]; seconds: number } {
  const by = Math.abs(to - from);
  const sign = Math.sign(to - from);
  const tj = by * jerk >= accel * accel ? accel / jerk : Math.sqrt(by / jerk);
  const level = tj > 0 ? by / (jerk * tj) - tj : 0;
  const top = sign * jerk * tj;
  const phases = laidOut(
    [
      { seconds: tj, accel: 0, jerk: sign * jerk },
      { seconds: level, accel: top, jerk: 0 },
      { seconds: tj, accel: top, jerk: -sign * jerk },
    ],
    from,
  );
  return { phases, seconds: 2 * tj + level };
}

function trapezoid(length: number, { speed, accel }: ScalarLimits): Profile {
  const cruise = Math.min(speed, Math.sqrt(accel * length));
  const ta = cruise / accel;
  const tv = Math.max(0, length / cruise - ta);
  return {
    kind: 'trapezoid',
    length,
    duration: 2 * ta + tv,
    phases: laidOut([
      { seconds: ta, accel, jerk: 0 },
      { seconds: tv, accel: 0, jerk: 0 },
      { seconds: ta, accel: -accel, jerk: 0 },
    ]),
    top: { speed: cruise, accel, jerk: Infinity },
  };
}

/** Peaks of 10τ³ − 15τ⁴ + 6τ⁵: speed in the middle, acceleration at τ = (3 ∓ √3)/6, jerk at both ends. */
const QUINTIC = { speed: 15 / 8, accel: 10 / Math.sqrt(3), jerk: 60 };
function minimumJerk(length: number, { speed, accel, jerk }: ScalarLimits): Profile {
  const duration = Math.max(
    (QUINTIC.speed * length) / speed,
    Math.sqrt((QUINTIC.accel * length) / accel),
    Math.cbrt((QUINTIC.jerk * length) / jerk),
  );
  const d3 = duration ** 3;
  return {
    kind: 'minimum-jerk',
    length,
    duration,
    phases: [
      {
        from: 0,
        c: [0, 0, 0, (10 * length) / d3, (-15 * length) / (d3 * duration), (6 * length) / (d3 * duration * duration)],
      },
    ],
    top: {
      speed: (QUINTIC.speed * length) / duration,
      accel: (QUINTIC.accel * length) / duration ** 2,
      jerk: (QUINTIC.jerk * length) / d3,
    },
  };
}

/** Halvings that bring a cruising speed to the last bit. */
const HALVINGS = 60;

function softStop(length: number, { speed, accel, jerk }: ScalarLimits): Profile {
  /** Braking from a speed within acceleration and jerk: its ramps and its level part, s. */
  const braking = (v: number): { tj: number; level: number } =>
    v >= (accel * accel) / jerk
      ? { tj: accel / jerk, level: v / accel - accel / jerk }
      : { tj: Math.sqrt(v / jerk), level: 0 };
  const time = (v: number): number => {
    const { tj, level } = braking(v);
    return 2 * tj + level;
  };
  const way = (v: number): number => (v * v) / (2 * accel) + (v * time(v)) / 2;
  let cruise = speed;
  if (way(speed) > length) {
    let [low, high] = [0, speed];
    for (let k = 0; k < HALVINGS; k++) {
      cruise = (low + high) / 2;
      if (way(cruise) > length) high = cruise;
      else low = cruise;
    }
    cruise = low;
  }
  const { tj, level } = braking(cruise);
  const top = cruise / (tj + level);
  const ramp = top / tj;
  const tv = (length - way(cruise)) / cruise;
  return {
    kind: 'soft-stop',
    length,
    duration: cruise / accel + tv + 2 * tj + level,
    phases: laidOut([
      { seconds: cruise / accel, accel, jerk: 0 },
      { seconds: tv, accel: 0, jerk: 0 },
      { seconds: tj, accel: 0, jerk: -ramp },
      { seconds: level, accel: -top, jerk: 0 },
      { seconds: tj, accel: -top, jerk: ramp },
    ]),
    top: { speed: cruise, accel, jerk: Infinity },
  };
}

/** Writes position, speed, acceleration and jerk at time t (s) of phases to out[0…3]. */
export function phasesInto(out: Float64Array, phases: readonly Phase[], t: number): void {
  let k = phases.length - 1;
  while (k > 0 && phases[k].from > t) k--;
  const { from, c } = phases[k];
  const u = t - from;
  if (c.length === 4) {
    out[0] = c[0] + u * (c[1] + u * (c[2] + u * c[3]));
    out[1] = c[1] + u * (2 * c[2] + u * 3 * c[3]);
    out[2] = 2 * c[2] + u * 6 * c[3];
    out[3] = 6 * c[3];
  } else {
    out[0] = u * u * u * (c[3] + u * (c[4] + u * c[5]));
    out[1] = u * u * (3 * c[3] + u * (4 * c[4] + u * 5 * c[5]));
    out[2] = u * (6 * c[3] + u * (12 * c[4] + u * 20 * c[5]));
    out[3] = 6 * c[3] + u * (24 * c[4] + u * 60 * c[5]);
  }
}

/** Writes position, speed, acceleration and jerk at time t (s, clamped into the motion) to out[0…3]. */
export function evaluateInto(out: Float64Array, profile: Profile, t: number): void {
  const { length, phases, duration } = profile;
  if (t <= 0 || t >= duration) {
    out[0] = t <= 0 ? 0 : length;
    out[1] = out[2] = out[3] = 0;
    return;
  }
  phasesInto(out, phases, t);
  // Rounding at the very end of a move goes no further than it.
  if (out[0] > length) out[0] = length;
}
