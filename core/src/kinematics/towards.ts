/** Moving one joint by hand: as far towards a wish as limits, rules and closed loops let it go. */
import { rangeFrom, type Mechanism } from '../mechanism';
import { deltaForward } from '../mechanism/delta';

/** Halvings of the way to the last value at which a delta still closes. */
const HALVINGS = 40;

/**
 * The value (SI) of `slot` nearest to `wish` that can be reached from pose q by moving this joint alone: inside its limits
 * and the rules that depend on the other joints, and for a delta with its forearms still meeting.
 */
export function valueTowards(mechanism: Mechanism, q: Float64Array, slot: number, wish: number): number {
  const [low, high] = rangeFrom(mechanism, q, slot);
  const value = Math.min(high, Math.max(low, wish));
  const { delta } = mechanism;
  if (!delta || slot > 2) return value;
  const trial = q.slice();
  const closes = (v: number): boolean => {
    trial[slot] = v;
    return deltaForward(delta, trial).gap === 0;
  };
  if (closes(value)) return value;
  let [inside, outside] = [q[slot], value];
  if (!closes(inside)) return inside;
  for (let i = 0; i < HALVINGS; i++) {
    const middle = (inside + outside) / 2;
    if (closes(middle)) inside = middle;
    else outside = middle;
  }
  return inside;
}
