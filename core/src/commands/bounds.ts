/** What a board holds a channel to, whatever it is sent: between which values, and by how much these may change. */
import { FARTHEST } from '../board';
import {
  hasConstantRatio,
  isSpin,
  shaftSpeed,
  steepest,
  type CommandMap,
  type DriveMap,
  type Native,
} from '../actuators';
import { fromUnit, type Mechanism } from '../mechanism';

export interface ChannelBounds {
  readonly low: number;
  readonly high: number;
  /** Most by which the value may change in a second. */
  readonly perS: number;
  /** What stops a motor that is sent speeds. */
  readonly still?: number;
}

/** In no less than this (s) a channel may cross its whole range, where nothing closer is known. */
const ACROSS_S = 0.02;
/** Room for what planned motion is rounded by. */
const ROOM = 1.05;

/**
 * Of one motor. `gentle`: speed (°/s or mm/s of joints, °/s of shafts) at which arms are brought up. `sudden`: joints are told places
 * at once, which no limit of their speed holds.
 *
 * A motor at one ratio to its joints is held to what their own limits of speed come to together, exactly: |Δn| ≤ |dn/dφ| Σ |∂φ/∂q| q̇max.
 * Where the ratio changes along the way, or a motor is sent speeds, only a jump across the range is refused.
 */
export function boundsOf(
  map: CommandMap,
  mechanism: Mechanism,
  gentle: number,
  sudden = false,
  { low, high }: Pick<Native, 'low' | 'high'> = isSpin(map) ? map : map.native,
): ChannelBounds {
  const across = Math.min(FARTHEST, Math.max(1, Math.ceil((high - low) / ACROSS_S)));
  if (isSpin(map)) return { low, high, perS: across, still: map.stopUs };
  const own = sudden || !hasConstantRatio(map) ? Infinity : fastest(map, mechanism, gentle);
  return { low, high, perS: Number.isFinite(own) ? Math.min(FARTHEST, Math.max(1, Math.ceil(own * ROOM))) : across };
}

/** Native units a second at the limits of speed of all its joints. */
function fastest(map: DriveMap, mechanism: Mechanism, gentle: number): number {
  const shaft = map.slots.reduce((sum, slot) => {
    const speeds = new Float64Array(mechanism.m);
    speeds[slot] = Math.max(mechanism.speed[slot], fromUnit(mechanism, slot, gentle));
    return sum + Math.abs(shaftSpeed(map, mechanism, mechanism.home, speeds)?.degPerS ?? Infinity);
  }, 0);
  return steepest(map.native) * Math.max(shaft, gentle);
}
