/** The arm of a build: no joint goes further than it was found to go there. */
import type { Build } from '../rig';
import type { Mechanism } from './mechanism';
import { fromUnit } from './values';

const known = new WeakMap<Mechanism, WeakMap<Build['confirmed'], Mechanism>>();

/**
 * The mechanism with its limits narrowed to what has been confirmed on this build: what is planned, run and handed off of it keeps to
 * those. `except` of a joint (id) of which that is being found. The mechanism itself where nothing is narrower.
 */
export function confirmedLimits(
  mechanism: Mechanism,
  { confirmed }: Pick<Build, 'confirmed'>,
  except?: string,
): Mechanism {
  if (except !== undefined) return narrowed(mechanism, confirmed, except);
  let own = known.get(mechanism);
  if (!own) known.set(mechanism, (own = new WeakMap()));
  let arm = own.get(confirmed);
  if (!arm) own.set(confirmed, (arm = narrowed(mechanism, confirmed)));
  return arm;
}

function narrowed(mechanism: Mechanism, confirmed: Build['confirmed'], except?: string): Mechanism {
  const lower = mechanism.lower.slice();
  const upper = mechanism.upper.slice();
  let isNarrower = false;
  for (const [s, id] of mechanism.slotIds.entries()) {
    if (id === except || !Object.hasOwn(confirmed, id)) continue;
    lower[s] = Math.max(lower[s], fromUnit(mechanism, s, confirmed[id].min));
    upper[s] = Math.min(upper[s], fromUnit(mechanism, s, confirmed[id].max));
    isNarrower ||= lower[s] !== mechanism.lower[s] || upper[s] !== mechanism.upper[s];
  }
  return isNarrower ? { ...mechanism, lower, upper } : mechanism;
}
