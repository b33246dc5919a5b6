/** The numbers that motors are told, in the ways programs want them. */
import { pulseForms, unitOf, type CommandMap } from '../actuators';

export const commandForms = ['whole', 'change', 'duty', 'driver', 'share'] as const;
/** whole: as they are told; change: since the row before; duty: share of the frame (%); driver: of 4096 a frame; share: of the range, 0 to 1. */
export type CommandForm = (typeof commandForms)[number];

const endings = { µs: 'us', counts: 'counts', steps: 'steps' } as const;
const ofPulse = { duty: 'duty_percent', driver: 'of_4096', share: 'share' } as const;

/** How one motor's numbers are said; motors that are sent no pulses are told whole numbers in any case. */
export interface FormOf {
  readonly ending: string;
  /** Row by row: a number with so many decimals, or a whole one. */
  readonly of: (natives: Int32Array, row: number) => number;
  readonly isWhole: boolean;
}
export function formOf(map: CommandMap, form: CommandForm): FormOf {
  const ending = endings[unitOf(map)];
  const { drive } = map;
  if (form === 'change')
    return {
      ending: `${ending}_change`,
      of: (natives, row) => (row ? natives[row] - natives[row - 1] : natives[row]),
      isWhole: true,
    };
  if (form === 'whole' || !('updateHz' in drive) || !('minUs' in drive))
    return { ending, of: (natives, row) => natives[row], isWhole: true };
  return {
    ending: ofPulse[form],
    of: (natives, row) => {
      const { dutyPercent, ticks, fraction } = pulseForms(drive, natives[row]);
      return form === 'duty' ? dutyPercent : form === 'driver' ? Math.round(ticks) : fraction;
    },
    isWhole: form === 'driver',
  };
}
