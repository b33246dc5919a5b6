import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { ampsAt, currentsOf } from '../actuators';
import { driveSchema, railSchema, type Rig } from '../rig';
import { between } from '../units/between.testkit';
import { batteryHours, pinLoads, supplyBudget } from './index';

const drive = (more: object) =>
  driveSchema.parse({
    ...{ kind: 'servo', id: 'd', name: 'd', direction: 1, travelDeg: 180, centreUs: 1500, usPerDeg: 10 },
    ...{ speedDegPerS: 300, minUs: 500, maxUs: 2500, stallNm: 2, idleA: 0.1, movingA: 0.4, stallA: 2.1 },
    ...more,
  });
/** The dipper with its supply split in two: a battery, and a converter from it that feeds some of the motors. */
function split(count: number, volts: number, efficiency: number): Rig {
  const rig = structuredClone(tileDipper());
  rig.rails = [
    railSchema.parse({ id: 'main', name: 'main', volts: 7.4, source: 'battery', amps: 10, battery: { mAh: 2000 } }),
    railSchema.parse({
      id: 'low',
      name: 'low',
      volts,
      source: 'supply',
      amps: 3,
      from: { rail: 'main', efficiency },
    }),
  ];
  rig.wiring.forEach((wire, k) => (wire.rail = k < count ? 'low' : 'main'));
  rig.drives.forEach((d, k) => Object.assign(d, { idleA: 0.01 * (k + 1), movingA: 0.1 * (k + 1), stallA: k + 1 }));
  return rig;
}

describe('what a motor draws', () => {
  it('rises in a straight line with its torque, never under what moving takes nor over what it draws held fast', () => {
    const servo = drive({});
    expect(ampsAt(servo, 0, false)).toBeCloseTo(0.1, 12);
    expect(ampsAt(servo, 0, true)).toBeCloseTo(0.4, 12);
    expect(ampsAt(servo, -1, false)).toBeCloseTo(1.1, 12);
    expect(ampsAt(servo, 9, true)).toBeCloseTo(2.1, 12);
    expect(ampsAt(drive({ idleA: undefined, movingA: undefined, stallA: undefined }), 1, true)).toBeNull();
    expect(currentsOf(drive({ idleA: undefined, movingA: 0.5, stallA: undefined }))).toEqual({
      ...{ idleA: 0, movingA: 0.5, stallA: 0.5 },
    });
  });
});

describe('supplies', () => {
  it('give what all their motors draw, and a converter’s power with its losses', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 5 }), between(3, 12), between(0.5, 1), (count, volts, efficiency) => {
        const rig = split(count, volts, efficiency);
        const [main, low] = supplyBudget(rig, null);
        const amps = (key: 'idleA' | 'movingA' | 'stallA', on: string): number =>
          rig.wiring.reduce(
            (sum, wire) => sum + (wire.rail === on ? rig.drives.find(({ id }) => id === wire.drive)![key]! : 0),
            0,
          );
        for (const key of ['idleA', 'movingA', 'stallA'] as const) {
          expect(low[key]).toBeCloseTo(amps(key, 'low'), 9);
          // Watts in times the efficiency are watts out.
          const watts = (main[key] - amps(key, 'main')) * 7.4;
          expect(watts * efficiency).toBeCloseTo(low[key] * volts, 9);
        }
        for (const { idleA, oneByOneA, stallA } of [main, low]) {
          expect(oneByOneA).toBeLessThanOrEqual(stallA + 1e-9);
          expect(oneByOneA).toBeGreaterThanOrEqual(idleA);
        }
      }),
    );
  });
  it('that feed each other in a ring are summed once, and end', () => {
    const rig = split(2, 5, 0.9);
    rig.rails[0].from = { rail: 'low', efficiency: 0.9 };
    for (const { stallA } of supplyBudget(rig, null)) expect(Number.isFinite(stallA)).toBe(true);
  });
  it('are asked for most at one moment of a run, and for the mean over its time', () => {
    const rig = split(0, 5, 1);
    const timeS = Float64Array.of(0, 1, 3, 4);
    const amps = new Map([
      [rig.drives[0].id, Float64Array.of(1, 1, 1, 1)],
      [rig.drives[1].id, Float64Array.of(0, 2, 2, 0)],
    ]);
    const [main, low] = supplyBudget(rig, { timeS, amps });
    expect(main.run).toEqual({ peakA: 3, peakAtS: 1, meanA: (2 + 6 + 2) / 4 });
    expect(low.run).toEqual({ peakA: 0, peakAtS: 0, meanA: 0 });
    // 2,000 mAh, four fifths of it, at 2.5 A.
    expect(batteryHours(main.rail, main.run!.meanA)).toBeCloseTo(0.64, 12);
    expect(batteryHours(low.rail, 1)).toBeNull();
    expect(batteryHours(main.rail, 0)).toBe(Infinity);
  });
  it('lose in a lead what its copper takes, there and back', () => {
    const rig = split(0, 5, 1);
    Object.assign(rig.wiring[0], { lengthMm: 1000, crossMm2: 0.5 });
    const { leads } = supplyBudget(rig, null)[0];
    const own = leads.find((lead) => lead.drive === rig.wiring[0].drive)!;
    const k = rig.drives.findIndex(({ id }) => id === own.drive);
    expect(own.stallV).toBeCloseTo(((2 * 0.017241 * 1) / 0.5) * (k + 1), 9);
    expect(leads.filter((lead) => lead !== own).every(({ stallV }) => stallV === null)).toBe(true);
  });
  it('go through all that is known of their way, and each of it is told; plugs and pins by what is drawn there', () => {
    const rig = split(1, 5, 0.9);
    Object.assign(rig.rails[0], { fuseA: 5, relayA: 4, connectorA: 3 });
    const [main, low] = supplyBudget(rig, null);
    expect(main.ratings).toEqual([
      { part: 'supply', amps: 10 },
      { part: 'fuse', amps: 5 },
      { part: 'relay', amps: 4 },
      { part: 'connector', amps: 3 },
    ]);
    expect(low.ratings).toEqual([{ part: 'supply', amps: 3 }]);
    const [board] = rig.boards;
    board.regulatorA = 0.8;
    Object.assign(rig.rails[1], { source: 'board', board: board.id });
    expect(supplyBudget(rig, null)[1].ratings).toEqual([{ part: 'regulator', amps: 0.8 }]);
    const wire = rig.wiring.find((w) => w.rail === 'main')!;
    wire.connectorA = 0.15;
    const of = (drawn: Parameters<typeof supplyBudget>[1]) =>
      supplyBudget(rig, drawn)[0].leads.find((lead) => lead.drive === wire.drive)!;
    const moving = rig.drives.find(({ id }) => id === wire.drive)!.movingA!;
    expect(of(null)).toMatchObject({ plugA: 0.15, peakA: moving });
    const amps = new Map([[wire.drive, Float64Array.of(0.1, 0.9, 0.2)]]);
    expect(of({ timeS: Float64Array.of(0, 1, 2), amps }).peakA).toBe(0.9);
    rig.signals = [
      { ...{ id: 'lamp', name: 'Lamp', way: 'out', board: board.id, channel: 9, note: '' }, drawsA: 0.03 },
      { ...{ id: 'bell', name: 'Bell', way: 'out', board: null, channel: null, note: '' }, drawsA: 0.5 },
      { ...{ id: 'key', name: 'Key', way: 'in', board: board.id, channel: 8, note: '' }, drawsA: 1 },
      { ...{ id: 'mute', name: 'Mute', way: 'out', board: board.id, channel: 7, note: '' } },
    ].map((signal) => ({ activeLow: null, pull: 'none', ...signal }) as Rig['signals'][number]);
    board.pinA = 0.02;
    expect(pinLoads(rig)).toEqual([
      { signal: 'lamp', drawsA: 0.03, pinA: 0.02 },
      { signal: 'bell', drawsA: 0.5, pinA: null },
    ]);
  });
  it('of every rig of the demo are known, and hold its motors moving', () => {
    for (const { rig } of demoRigs())
      for (const { drives, unknown, movingA, givesA } of supplyBudget(rig, null).filter((r) => r.drives.length)) {
        expect(unknown).toEqual([]);
        expect(drives.length).toBeGreaterThan(0);
        expect(movingA).toBeLessThan(givesA ?? 0);
      }
  });
});
