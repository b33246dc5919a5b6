import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { poseOf, treeDoc } from '../kinematics/arms.testkit';
import { kilnLoader, tileDipper } from '../../../demo';
import type { Cable, TreeDoc } from '../rig';
import {
  cableLeft,
  compile,
  fromSlots,
  fromSlotsRounded,
  inOwnUnit,
  limitExcess,
  rangeFrom,
  rulesExcess,
  toSlots,
  worstRule,
  type Mechanism,
} from './index';
import { between } from '../units/between.testkit';

const shares = fc.array(between(0, 1), { minLength: 7, maxLength: 7 });

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
  it('a limit that holds while another joint is past a value stops either joint, whichever moves', () => {
    const doc = structuredClone(tileDipper().mechanism);
    doc.limitRules = [{ while: { joint: 'shoulder', above: 70 }, joint: 'elbow', max: 40 }];
    const result = compile(doc);
    if (!result.ok) throw new Error();
    const { mechanism } = result;
    const unit = mechanism.siPerUnit[0];
    const range = (joints: Record<string, number>, id: string): number[] =>
      rangeFrom(mechanism, toSlots(mechanism, joints), mechanism.slotOf.get(id)!).map((v) => v / unit);
    expect(range({ shoulder: 80, elbow: 20 }, 'elbow')[1]).toBeCloseTo(40, 9);
    expect(range({ shoulder: 60, elbow: 20 }, 'elbow')[1]).toBeCloseTo(135, 9);
    expect(range({ shoulder: 60, elbow: 90 }, 'shoulder')[1]).toBeCloseTo(70, 9);
    expect(range({ shoulder: 60, elbow: 30 }, 'shoulder')[1]).toBeCloseTo(95, 9);
    expect(rulesExcess(mechanism, toSlots(mechanism, { shoulder: 75, elbow: 60 })) / unit).toBeCloseTo(5, 9);
  });
  it('within the range that rules leave, no rule is broken; just beyond it, one is', () => {
    const doc = structuredClone(tileDipper().mechanism);
    doc.limitRules = [
      { while: { joint: 'shoulder', above: 30 }, joint: 'elbow', max: 70 },
      { while: { joint: 'elbow', below: 20 }, joint: 'wrist', min: -10, max: 60 },
      {
        terms: [
          { joint: 'shoulder', factor: 1 },
          { joint: 'wrist', factor: -0.5 },
        ],
        min: -70,
        max: 80,
      },
    ];
    const result = compile(doc);
    if (!result.ok) throw new Error();
    const { mechanism } = result;
    fc.assert(
      fc.property(shares, fc.nat(mechanism.m - 1), between(0, 1), (f, slot, at) => {
        const q = poseOf(mechanism, f);
        fc.pre(rulesExcess(mechanism, q) === 0);
        const [low, high] = rangeFrom(mechanism, q, slot);
        q[slot] = low + at * (high - low);
        expect(rulesExcess(mechanism, q)).toBeLessThan(1e-8);
        for (const [end, beyond] of [
          [low, -1e-5],
          [high, 1e-5],
        ] as const) {
          if (Math.min(end - mechanism.lower[slot], mechanism.upper[slot] - end) < 1e-12) continue;
          q[slot] = end + beyond;
          // However little: where a rule's condition all but ends, so does its excess.
          expect(rulesExcess(mechanism, q)).toBeGreaterThan(0);
        }
      }),
    );
  });
  it('a cable led round two joints takes its slack from both, whichever way they turn', () => {
    const doc = structuredClone(tileDipper().mechanism);
    doc.cables = [
      {
        id: 'hose',
        name: 'Air hose',
        slackMm: 40,
        around: [
          { joint: 'turn', radiusMm: 20, neutral: 0 },
          { joint: 'wrist', radiusMm: 10, neutral: 30 },
        ],
      },
    ];
    const result = compile(doc);
    if (!result.ok) throw new Error();
    const { mechanism } = result;
    const slackLeft = (turn: number, wrist: number): number =>
      40 - (20 * Math.abs(turn) + 10 * Math.abs(wrist - 30)) * (Math.PI / 180);
    fc.assert(
      fc.property(between(-95, 95), between(-60, 110), (turn, wrist) => {
        const excess = rulesExcess(mechanism, toSlots(mechanism, { turn, wrist }));
        expect(excess * 1000).toBeCloseTo(Math.max(0, -slackLeft(turn, wrist)), 9);
      }),
    );
  });
  it('a cable round one joint that turns without end gives it limits', () => {
    const doc = structuredClone(tileDipper().mechanism);
    if (doc.family !== 'tree') throw new Error();
    const { limits: _, physical: __, ...rest } = doc.joints[0] as never as Record<string, unknown>;
    doc.joints[0] = { ...rest, type: 'continuous' } as never;
    doc.cables = [
      { id: 'lead', name: 'Lead', slackMm: 62.8318530718, around: [{ joint: 'turn', radiusMm: 10, neutral: 0 }] },
    ];
    const result = compile(doc);
    if (!result.ok) throw new Error();
    expect(result.mechanism.upper[0]).toBeCloseTo(2 * Math.PI, 9);
    expect(result.mechanism.continuous[0]).toBe(0);
  });
});

describe('a rule between joints', () => {
  const loaderWith = (slackMm: number): { mechanism: Mechanism; cable: Cable } => {
    const doc = structuredClone(kilnLoader().mechanism) as TreeDoc;
    doc.limitRules = [];
    doc.cables![0].slackMm = slackMm;
    const made = compile(doc);
    if (!made.ok) throw new Error(made.faults[0].message);
    return { mechanism: made.mechanism, cable: doc.cables![0] };
  };
  it('of a cable speaks in its own millimetres and by its own name', () => {
    fc.assert(
      fc.property(between(20, 130), shares, (slackMm, f) => {
        const { mechanism, cable } = loaderWith(slackMm);
        const q = mechanism.home.map((_, s) => mechanism.lower[s] + f[s] * (mechanism.upper[s] - mechanism.lower[s]));
        const { rule, by } = worstRule(mechanism, q);
        const left = cableLeft(mechanism, cable, q);
        if (left >= 0) {
          expect(rule).toBeNull();
          return;
        }
        expect(inOwnUnit(rule!, by)).toBeCloseTo(-left, 9);
        expect(rule).toMatchObject({ words: `the slack of ${cable.name}`, unit: 'mm' });
      }),
    );
  });
  it('of a sum names the sum as it is written', () => {
    const doc = structuredClone(kilnLoader().mechanism) as TreeDoc;
    doc.cables = [];
    doc.limitRules = [
      {
        terms: [
          { joint: 'shoulder', factor: 1 },
          { joint: 'elbow', factor: -0.5 },
        ],
        min: -10,
        max: 10,
      },
    ];
    const made = compile(doc);
    if (!made.ok) throw new Error(made.faults[0].message);
    const q = toSlots(made.mechanism, { shoulder: 40, elbow: 20 });
    const { rule, by } = worstRule(made.mechanism, q);
    expect(rule).toMatchObject({ words: 'the limit of Shoulder − 0.5 × Elbow', unit: '°' });
    expect(inOwnUnit(rule!, by)).toBeCloseTo(20, 9);
  });
});
