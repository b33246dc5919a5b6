/**
 * What torque a motor's shaft may be asked for. A hobby servo holds a share of its stall torque for long and loses torque in a straight line
 * as it gets faster (a DC motor's characteristic); a stepper is good for its holding torque until it turns, and for less the faster it steps.
 */
import type { Drive } from '../rig';
import { driveSpeed } from './native';

/** Share of their stall torque that motors may hold where nothing else is known, as those of the catalogue may. */
const USUAL_HOLD = 0.4;

/** Share of a motor's torque that may be asked for: what it may hold for long of its stall torque. */
export function holdShare({ kind, holdNm, stallNm }: Drive): number {
  if (holdNm && stallNm > 0) return Math.min(1, holdNm / stallNm);
  return kind === 'stepper' ? 1 : USUAL_HOLD;
}

/** Torque (N·m) that may be asked for at speeds of the shaft (°/s): a line through these points, rising in speed; none past the last. */
export type TorqueLine = readonly { readonly degPerS: number; readonly nm: number }[];

/** Null where no torque of it is known. */
export function torqueLine(drive: Drive): TorqueLine | null {
  const { stallNm, holdNm, torqueAtSpeed = [] } = drive;
  const rated = stallNm > 0 ? stallNm : (holdNm ?? 0);
  if (!(rated > 0)) return null;
  const share = stallNm > 0 ? holdShare(drive) : 1;
  const first = { degPerS: 0, nm: rated * share };
  const measured = torqueAtSpeed.map(({ degPerS, nm }) => ({ degPerS, nm: nm * share }));
  if (!measured.length) return [first, { degPerS: driveSpeed(drive), nm: 0 }];
  return measured[0].degPerS > 0 ? [first, ...measured] : measured;
}

/** By how much the torque changes with the speed there (N·m per °/s, of speeds that are not negative). */
export function slopeAt(line: TorqueLine, speed: number): number {
  const k = line.findIndex((point) => point.degPerS > speed);
  return k <= 0 ? 0 : (line[k].nm - line[k - 1].nm) / (line[k].degPerS - line[k - 1].degPerS);
}

/** Torque (N·m) on a line at a speed of the shaft (°/s, either way). */
export function torqueAt(line: TorqueLine, degPerS: number): number {
  const speed = Math.abs(degPerS);
  const k = line.findIndex((point) => point.degPerS > speed);
  if (k === 0) return line[0].nm;
  if (k < 0) return speed > line[line.length - 1].degPerS ? 0 : line[line.length - 1].nm;
  const [a, b] = [line[k - 1], line[k]];
  return a.nm + ((b.nm - a.nm) * (speed - a.degPerS)) / (b.degPerS - a.degPerS);
}
