/** Joint values between documents (by id, ° or mm) and the core (by slot, SI). */
import { roundForDocument } from '../units/convert';
import type { Mechanism } from './compile';

/** Slots from values by id; a missing joint takes `fallback` (home by default), followers' values are ignored. */
export function toSlots(
  mechanism: Mechanism,
  joints: Readonly<Record<string, number>>,
  fallback: Float64Array = mechanism.home,
): Float64Array {
  return Float64Array.from(mechanism.slotIds, (id, s) =>
    Object.hasOwn(joints, id) ? joints[id] * mechanism.siPerUnit[s] : fallback[s],
  );
}

/** Values by id in the joints' own units, of the independent joints. */
export function fromSlots(mechanism: Mechanism, q: Float64Array): Record<string, number> {
  return Object.fromEntries(mechanism.slotIds.map((id, s) => [id, q[s] / mechanism.siPerUnit[s]]));
}

/** The same, rounded as documents keep computed values (0.001° or 0.001 mm), never past a limit. */
export function fromSlotsRounded(mechanism: Mechanism, q: Float64Array): Record<string, number> {
  return Object.fromEntries(
    mechanism.slotIds.map((id, s) => {
      const unit = mechanism.siPerUnit[s];
      const rounded = roundForDocument(q[s] / unit);
      const low = mechanism.lower[s] / unit;
      const high = mechanism.upper[s] / unit;
      return [
        id,
        q[s] >= mechanism.lower[s] && q[s] <= mechanism.upper[s] ? Math.min(high, Math.max(low, rounded)) : rounded,
      ];
    }),
  );
}

/** By how much (SI) the worst slot or rule is past its limit; 0 inside. */
export function limitExcess(mechanism: Mechanism, q: Float64Array): { slot: number; by: number } {
  let worst = { slot: -1, by: 0 };
  for (let s = 0; s < mechanism.m; s++) {
    const by = Math.max(mechanism.lower[s] - q[s], q[s] - mechanism.upper[s]);
    if (by > worst.by) worst = { slot: s, by };
  }
  return worst;
}

export function rulesExcess(mechanism: Mechanism, q: Float64Array): number {
  let worst = 0;
  for (const { terms, min, max } of mechanism.rules) {
    let sum = 0;
    for (const { slot, factor } of terms) sum += factor * q[slot];
    worst = Math.max(worst, min - sum, sum - max);
  }
  return worst;
}
