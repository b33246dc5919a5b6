/** How much of what a motor may give is used, in words and in what it means. */
import { formatNumber } from '@cork-elbow/core/units';

/** From this share on little is left. */
export const TIGHT = 0.8;

export const shareState = (share: number): 'good' | 'tight' | 'over' =>
  share > 1 ? 'over' : share > TIGHT ? 'tight' : 'good';
/** In percent; what is ten times too much is no figure any more. */
export const shareText = (share: number): string => (share > 9.99 ? '> 999 %' : `${formatNumber(100 * share, 0)} %`);
