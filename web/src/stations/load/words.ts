/** Masses and torques as people read them, with no more digits than they are good for. */
import { dimensions, formatNumber } from '@cork-elbow/core/units';

/** N·m. */
const KG_CM = dimensions.torque.units['kg·cm'];

/** kg, in grams below one. */
export const massWords = (kg: number): string =>
  kg < 1 ? `${formatNumber(1000 * kg, 0)} g` : `${formatNumber(kg, kg < 10 ? 2 : 1)} kg`;

export type TorqueUnit = 'N·m' | 'kg·cm';
/** N·m (N of what slides) in the unit that is read: three figures. */
export function torqueFigure(value: number, unit: 'N·m' | 'N', read: TorqueUnit): { figure: string; unit: string } {
  if (!Number.isFinite(value)) return { figure: '–', unit: '' };
  const shown = unit === 'N' || read === 'N·m' ? value : value / KG_CM;
  const size = Math.abs(shown);
  const figure = formatNumber(shown, size >= 100 ? 0 : size >= 10 ? 1 : size >= 1 ? 2 : 3);
  return { figure, unit: unit === 'N' ? 'N' : read };
}
export function torqueWords(value: number, unit: 'N·m' | 'N', read: TorqueUnit): string {
  const said = torqueFigure(value, unit, read);
  return `${said.figure} ${said.unit}`;
}
