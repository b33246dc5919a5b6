/**
 * How warm a motor's winding and what is around it become by a current that goes on: ΔT(t) = P·Rth·(1 − e^(−t/τ)) with P = I²·R. What is not
 * entered is reckoned: the resistance from the current that flows when it is held fast, the thermal resistance of a compact body that loses
 * 10 W/(m²·K) to still air (Incropera & DeWitt, ch. 9), its time constant with 600 J/(kg·K).
 */
import type { Drive } from '../rig';
import { currentsOf } from './currents';

export interface Winding {
  readonly ohm: number;
  /** Coils that carry the current: two of a stepper. */
  readonly coils: number;
  readonly kPerW: number;
  readonly tauS: number;
  /** Share of the rise that arrives around it. */
  readonly outside: number;
}
/** Insulation of the lowest class in use: class A of IEC 60085, °C. */
export const INSULATION_C = 105;
const OUTSIDE = 0.6;
/** Mass (g) where none is known, density (kg/m³) of a motor with its gears, loss to still air, heat that a kilogram takes. */
const USUAL_G = 30;
const DENSITY = 2500;
const LOSS = 10;
const HEAT = 600;

/** Null where its resistance is neither entered nor follows from its currents. */
export function windingOf(drive: Drive): Winding | null {
  const { heat = {}, voltageV, massG } = drive;
  const stallA = drive.kind === 'stepper' ? 0 : (currentsOf(drive)?.stallA ?? 0);
  const ohm = heat.ohm ?? (voltageV && stallA > 0 ? voltageV / stallA : null);
  if (ohm === null) return null;
  const kg = (massG || USUAL_G) / 1000;
  // A cube's surface.
  const area = 6 * Math.cbrt(kg / DENSITY) ** 2;
  const kPerW = heat.kPerW ?? 1 / (LOSS * area);
  return {
    ...{ ohm, kPerW, coils: drive.kind === 'stepper' ? 2 : 1 },
    tauS: heat.tauS ?? kPerW * kg * HEAT,
    outside: heat.outside ?? OUTSIDE,
  };
}

/** What gives way by warmth: a motor's winding, and the part around it where it is known when that softens. */
export interface HeatBound {
  readonly of: 'winding' | 'around';
  readonly celsius: number;
  /** Share of the winding's rise that arrives there. */
  readonly share: number;
}
export const heatBounds = ({ thermalC, softensC }: Drive, { outside }: Winding): HeatBound[] => [
  { of: 'winding', celsius: thermalC ?? INSULATION_C, share: 1 },
  ...(softensC ? [{ of: 'around' as const, celsius: softensC, share: outside }] : []),
];
/** K that are left to what gives way first, of air of a temperature (°C) and a rise (K) of the winding. */
export const heatLeft = (drive: Drive, winding: Winding, airC: number, rise: number): number =>
  Math.min(...heatBounds(drive, winding).map(({ celsius, share }) => celsius - airC - share * rise));

/** Heat (W) of a mean square of currents (A²). */
export const wattsOf = ({ ohm, coils }: Winding, squareA2: number): number => coils * ohm * squareA2;
/** Rise (K) of the winding after so long (s) with so much heat (W), from cold. */
export const riseAt = ({ kPerW, tauS }: Winding, watts: number, s: number): number =>
  -watts * kPerW * Math.expm1(-s / tauS);
/** Seconds until it has risen by so much (K); Infinity: never. */
export function secondsTo({ kPerW, tauS }: Winding, watts: number, rise: number): number {
  const end = watts * kPerW;
  if (rise <= 0) return 0;
  return end > rise ? -tauS * Math.log1p(-rise / end) : Infinity;
}
/** The current (A) that may flow for ever with no more than this rise (K). */
export const ampsFor = ({ ohm, coils, kPerW }: Winding, rise: number): number =>
  Math.sqrt(Math.max(0, rise) / (kPerW * coils * ohm));

/** The mean of the squares (A²) over a run; it changes fast beside what the body takes to warm. */
export function meanSquare(timeS: Float64Array, amps: Float64Array): number {
  let sum = 0;
  // The square of a straight line between two looks.
  for (let i = 1; i < timeS.length; i++)
    sum += ((amps[i] ** 2 + amps[i] * amps[i - 1] + amps[i - 1] ** 2) / 3) * (timeS[i] - timeS[i - 1]);
  const whole = timeS.length ? timeS[timeS.length - 1] - timeS[0] : 0;
  return whole > 0 ? sum / whole : (amps[0] ?? 0) ** 2;
}
/** Share of the time that a run of this mean square may take, resting at another current in between; at most 1, null where resting is too much. */
export function dutyFor(mostA: number, squareA2: number, idleA: number): number | null {
  const [most, idle] = [mostA ** 2, idleA ** 2];
  if (squareA2 <= most) return 1;
  return idle > most ? null : (most - idle) / (squareA2 - idle);
}

export interface WarmReading {
  readonly s: number;
  /** K above the air. */
  readonly rise: number;
}
/**
 * The model that two readings from cold tell, with so much heat (W) all the time, taken on the outside; null where no such body warms like
 * that: the second reading has to be later, warmer, and by less than in proportion.
 */
export function refit(
  winding: Winding,
  watts: number,
  first: WarmReading,
  second: WarmReading,
): Pick<Winding, 'kPerW' | 'tauS'> | null {
  const ratio = second.rise / first.rise;
  const times = second.s / first.s;
  if (!(first.s > 0 && first.rise > 0 && watts > 0 && ratio > 1 && ratio < times)) return null;
  // (1 − e^(−t₂/τ)) / (1 − e^(−t₁/τ)) falls from t₂/t₁ to 1 as τ falls.
  const at = (tau: number): number => Math.expm1(-second.s / tau) / Math.expm1(-first.s / tau);
  let [low, high] = [first.s * 1e-3, second.s * 1e6];
  for (let i = 0; i < 200; i++) {
    const middle = Math.sqrt(low * high);
    if (at(middle) < ratio) low = middle;
    else high = middle;
  }
  const tauS = Math.sqrt(low * high);
  const end = -first.rise / Math.expm1(-first.s / tauS);
  return { tauS, kPerW: end / (watts * winding.outside) };
}
