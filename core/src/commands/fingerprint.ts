/** Whether firmware was made for a rig as it is calibrated by now. */
import { isSpin, nativeAt, type CommandMap } from '../actuators';
import type { Mechanism } from '../mechanism';

/** Places of a joint, as shares of its range, at which the values of its motors are looked at. */
const LOOKED_AT = [0, 0.25, 0.5, 0.75, 1];
/** Of a joint that goes round for ever, or of one without an end, so far either way (rad or m). */
const FAR = Math.PI;

/**
 * Eight hexadecimal digits over what the motors of a board are sent: pin, kind, range, and the value at places over the range of each of
 * their joints while the others are at home. Another calibration, gear, direction, limit, pin or joint gives others; what only has another
 * name does not. (FNV-1a, 32 bits: Fowler, Noll, Vo.)
 */
export function fingerprint(maps: readonly CommandMap[], mechanism: Mechanism): string {
  const text = maps.map((map) => `${map.channel} ${map.drive.kind} ${values(map, mechanism).join(' ')}`).sort();
  let hash = 0x811c9dc5;
  for (const letter of text.join('\n')) hash = Math.imul(hash ^ letter.charCodeAt(0), 0x01000193);
  return (hash >>> 0).toString(16).padStart(8, '0');
}

function values(map: CommandMap, mechanism: Mechanism): (number | null)[] {
  if (isSpin(map)) return [map.low, map.high, map.stopUs, ...map.nodes.flatMap(({ at, us }) => [at, us])];
  const at = map.slots.flatMap((slot) =>
    LOOKED_AT.map((share) => {
      const pose = mechanism.home.slice();
      const low = Math.max(-FAR, mechanism.lower[slot]);
      const high = Math.min(FAR, mechanism.upper[slot]);
      pose[slot] = low + share * (high - low);
      return nativeAt(map, mechanism, pose);
    }),
  );
  return [map.native.low, map.native.high, ...at];
}
