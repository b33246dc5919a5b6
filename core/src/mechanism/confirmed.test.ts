import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { confirmedLimits } from './index';

describe('what has been confirmed on a build', () => {
  const mechanism = compiled(tileDipper().mechanism);
  const span = fc.tuple(fc.integer({ min: -200, max: 200 }), fc.integer({ min: -200, max: 200 }));
  it('narrows the limits of those joints, widens none, and is the same arm as long as it is the same', () => {
    fc.assert(
      fc.property(fc.dictionary(fc.constantFrom(...mechanism.slotIds, 'toString'), span), (spans) => {
        const confirmed = Object.fromEntries(
          Object.entries(spans).map(([id, [a, b]]) => [id, { min: Math.min(a, b), max: Math.max(a, b) }]),
        );
        const narrowed = confirmedLimits(mechanism, { confirmed });
        let isNarrower = false;
        mechanism.slotIds.forEach((id, s) => {
          const own = Object.hasOwn(confirmed, id) ? confirmed[id] : null;
          const k = mechanism.siPerUnit[s];
          expect(narrowed.lower[s]).toBe(own ? Math.max(mechanism.lower[s], own.min * k) : mechanism.lower[s]);
          expect(narrowed.upper[s]).toBe(own ? Math.min(mechanism.upper[s], own.max * k) : mechanism.upper[s]);
          isNarrower ||= narrowed.lower[s] > mechanism.lower[s] || narrowed.upper[s] < mechanism.upper[s];
          // Of the joint that is being found nothing is narrowed.
          const found = confirmedLimits(mechanism, { confirmed }, id);
          expect([found.lower[s], found.upper[s]]).toEqual([mechanism.lower[s], mechanism.upper[s]]);
        });
        expect(narrowed === mechanism).toBe(!isNarrower);
        expect(confirmedLimits(mechanism, { confirmed })).toBe(narrowed);
        expect(confirmedLimits(narrowed, { confirmed })).toBe(narrowed);
      }),
    );
  });
});
