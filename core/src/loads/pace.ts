/**
 * How much faster a motion may be: at k times its pace speeds are k times and accelerations k² times as large, so what a joint gives is
 * g + k²·d, linear in k²; what a motor has left falls with k along the pieces of its torque line. Closed form, piece by piece.
 */
import { torqueAt, type TorqueLine } from '../actuators';

/** Less torque than this (N·m) is none: sums that should be nothing. */
export const NO_NM = 1e-9;

/** What a motor's shaft gives at a moment of a motion (N·m): at rest and what moving adds, its speed (°/s), and its losses. */
export interface Moment {
  readonly rest: number;
  readonly adds: number;
  readonly degPerS: number;
  readonly efficiency: number;
  readonly friction: number;
}

/** The least k above 0 at which a motor would be asked for more than it has: Infinity: never; 0: at rest already. */
export function paceLeft(line: TorqueLine, moment: Moment): number {
  return Math.min(...([1, -1] as const).map((sense) => leastOver(line, moment, sense)));
}

/**
 * What is left for a load of one sense of a motor's torque, as scale·torque + off: against the motion friction and losses are borne too, with it
 * they help. What stands still is about to go against the load.
 */
export const borneOf = (
  { degPerS, efficiency, friction }: Pick<Moment, 'degPerS' | 'efficiency' | 'friction'>,
  sense: 1 | -1,
): { readonly scale: number; readonly off: number } =>
  sense * degPerS < 0 ? { scale: 1 / efficiency, off: friction } : { scale: efficiency, off: -friction };

/** The greatest share of what is left for a load that a motor gives at rest, about to turn as it does. */
export function restShare(line: TorqueLine, moment: Omit<Moment, 'adds'>): number {
  return Math.max(
    ...([1, -1] as const).map((sense) => {
      const { scale, off } = borneOf(moment, sense);
      const [has, load] = [scale * torqueAt(line, 0) + off + NO_NM, sense * moment.rest];
      // Friction may be more than the motor has, without any load.
      if (load > has) return Infinity;
      return load > 0 ? load / has : 0;
    }),
  );
}

function leastOver(line: TorqueLine, moment: Moment, sense: 1 | -1): number {
  const { rest, adds, degPerS } = moment;
  const speed = Math.abs(degPerS);
  const borne = borneOf(moment, sense);
  const { scale } = borne;
  const off = borne.off + NO_NM;
  const has = (k: number): number => scale * torqueAt(line, k * speed) + off;
  const [g, d] = [sense * rest, sense * adds];
  if (g > has(0)) return 0;
  if (speed < 1e-9) return d > 0 ? Math.sqrt(Math.max(0, (has(0) - g) / d)) : Infinity;
  for (let i = 0; i < line.length; i++) {
    const [from, to] = [line[i].degPerS / speed, i + 1 < line.length ? line[i + 1].degPerS / speed : Infinity];
    // On this piece it has a + b·k; past the last one nothing.
    const last = to === Infinity;
    const slope = last ? 0 : (scale * (line[i + 1].nm - line[i].nm)) / (to - from);
    const a = last ? off : scale * line[i].nm + off - slope * from;
    const root = firstOver(d, -slope, g - a, from, to);
    if (root !== null) return root;
  }
  return Infinity;
}

/** The least k in (from, to) from which on p·k² + q·k + r is above 0, `from` itself where it is so at once; null where none is. */
function firstOver(p: number, q: number, r: number, from: number, to: number): number | null {
  const value = (k: number): number => (p * k + q) * k + r;
  const slack = 1e-12 * (Math.abs(p) * from * from + Math.abs(q) * from + Math.abs(r));
  if (value(from) > slack) return from;
  const roots: number[] = [];
  if (Math.abs(p) < 1e-300) {
    if (q !== 0) roots.push(-r / q);
  } else {
    const square = q * q - 4 * p * r;
    if (square >= 0) {
      // Without cancellation: Press et al., Numerical Recipes, 5.6.
      const t = -(q + (q < 0 ? -1 : 1) * Math.sqrt(square)) / 2;
      roots.push(t / p);
      if (t !== 0) roots.push(r / t);
    }
  }
  const rising = roots.filter((k) => k >= from && k < to && 2 * p * k + q > 0);
  return rising.length ? Math.min(...rising) : null;
}
