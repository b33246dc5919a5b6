import { fromUnit, type Mechanism } from '@cork-elbow/core/mechanism';
import type { Build } from '@cork-elbow/core/rig';

/** The mechanism with its limits narrowed to what has been confirmed on this build; `except` of a joint (id) of which that is being found. */
export function confirmedLimits(mechanism: Mechanism, build: Build, except?: string): Mechanism {
  const narrow = (values: Float64Array, end: 'min' | 'max', pick: (a: number, b: number) => number): Float64Array =>
    values.map((v, s) => {
      const id = mechanism.slotIds[s];
      return id !== except && Object.hasOwn(build.confirmed, id)
        ? pick(v, fromUnit(mechanism, s, build.confirmed[id][end]))
        : v;
    });
  return {
    ...mechanism,
    lower: narrow(mechanism.lower, 'min', Math.max),
    upper: narrow(mechanism.upper, 'max', Math.min),
  };
}
