/** How fast the motors of a board may go: at most, and while they are brought somewhere. */
import { isSpin, type CommandMap } from '../actuators';
import { boundsOf } from '../commands';
import { fromUnit } from '../mechanism';
import type { Described } from './described';

/** Native units a second of each motor; of one that is sent speeds nothing gently. */
export interface Speeds {
  readonly perS: readonly number[];
  readonly gentlePerS: readonly number[];
}

export function speedsOf({ rig, mechanism, motors }: Described): Speeds {
  const gentle = rig.powerUp.maxDegPerS;
  const perS = motors.map(({ map }) => boundsOf(map, mechanism, gentle).perS);
  return { perS, gentlePerS: motors.map(({ map }, k) => Math.min(perS[k], gently(map, perS[k]))) };

  /** The share of a motor's speed at which its joints go gently. */
  function gently(map: CommandMap, most: number): number {
    if (isSpin(map)) return 0;
    const share = Math.min(...map.slots.map((slot) => fromUnit(mechanism, slot, gentle) / mechanism.speed[slot]));
    return Math.max(1, Math.round(most * Math.min(1, share)));
  }
}
