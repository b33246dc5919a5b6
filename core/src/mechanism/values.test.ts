import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { poseOf, treeDoc } from '../kinematics/arms.testkit';
import { tileDipper } from '../../../demo';
import { compile, fromSlots, fromSlotsRounded, limitExcess, rulesExcess, toSlots } from './index';

const shares = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 7, maxLength: 7 });

describe('joint values between documents and the core', () => {
  it('come back the same, and rounded ones never cross a limit', () => {
    fc.assert(
      fc.property(treeDoc, shares, (doc, f) => {
        const result = compile(doc);
        fc.pre(result.ok);
        if (!result.ok) return;
        const { mechanism } = result;
        const q = poseOf(mechanism, f);
        toSlots(mechanism, fromSlots(mechanism, q)).forEach((v, s) => expect(v).toBeCloseTo(q[s], 12));
        const rounded = toSlots(mechanism, fromSlotsRounded(mechanism, q));
        expect(limitExcess(mechanism, rounded).by).toBeLessThanOrEqual(1e-12);
        rounded.forEach((v, s) =>
          expect(Math.abs(v - q[s]) / mechanism.siPerUnit[s]).toBeLessThanOrEqual(0.0005 + 1e-9),
        );
      }),
    );
  });
  it('a missing joint is at home, and followers of another are not taken', () => {
    const result = compile(tileDipper().mechanism);
    if (!result.ok) throw new Error();
    expect(toSlots(result.mechanism, {})).toEqual(result.mechanism.home);
  });
  it('a limit that depends on another joint holds over its sum', () => {
    const doc = structuredClone(tileDipper().mechanism);
    doc.limitRules = [
      {
        terms: [
          { joint: 'shoulder', factor: 1 },
          { joint: 'elbow', factor: 1 },
        ],
        min: -40,
        max: 120,
      },
    ];
    const result = compile(doc);
    if (!result.ok) throw new Error();
    const { mechanism } = result;
    expect(rulesExcess(mechanism, toSlots(mechanism, { shoulder: 40, elbow: 70 }))).toBeLessThanOrEqual(0);
    expect(
      rulesExcess(mechanism, toSlots(mechanism, { shoulder: 40, elbow: 90 })) / mechanism.siPerUnit[0],
    ).toBeCloseTo(10, 9);
  });
});
