import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  ampsFor,
  catalogue,
  dutyFor,
  heatLeft,
  meanSquare,
  refit,
  riseAt,
  secondsTo,
  wattsOf,
  windingOf,
  type Winding,
} from '.';
import type { Drive } from '../rig';

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const windings = fc.record({
  ohm: number(0.5, 20),
  coils: fc.constantFrom(1, 2),
  kPerW: number(2, 90),
  tauS: number(20, 4000),
  outside: number(0.1, 1),
}) satisfies fc.Arbitrary<Winding>;
const servo = catalogue.find(({ figures }) => figures.kind === 'servo' && figures.stallA)!;
const drive = { id: 'm', name: '', ...servo.figures } as Drive;

describe('how warm a winding becomes', () => {
  it('solves what one body does that is heated and cools: its rate at every moment is what the balance of heat says', () => {
    fc.assert(
      fc.property(windings, number(0.1, 3), number(1, 5000), (winding, amps, s) => {
        const watts = wattsOf(winding, amps ** 2);
        const h = winding.tauS * 1e-4;
        const rate =
          (riseAt(winding, watts, s + h) - riseAt(winding, watts, s - Math.min(s, h))) / (h + Math.min(s, h));
        // C·dΔT/dt = P − ΔT/Rth, with C = τ/Rth.
        const balance = (watts - riseAt(winding, watts, s) / winding.kPerW) * (winding.kPerW / winding.tauS);
        expect(rate).toBeCloseTo(balance, 3);
        expect(riseAt(winding, watts, 0)).toBeCloseTo(0, 12);
      }),
    );
  });
  it('reaches what it is asked for when it is said to, or never; and the current that is said to be enough ends there', () => {
    fc.assert(
      fc.property(windings, number(0.1, 3), number(1, 120), (winding, amps, rise) => {
        const watts = wattsOf(winding, amps ** 2);
        const s = secondsTo(winding, watts, rise);
        if (s === Infinity) expect(watts * winding.kPerW).toBeLessThanOrEqual(rise);
        else expect(riseAt(winding, watts, s)).toBeCloseTo(rise, 6);
        const most = ampsFor(winding, rise);
        expect(riseAt(winding, wattsOf(winding, most ** 2), 1e9)).toBeCloseTo(rise, 6);
      }),
    );
  });
  it('runs so much of the time that the heat is what is allowed', () => {
    fc.assert(
      fc.property(number(0.1, 2), number(0.01, 9), number(0, 0.5), (most, square, idle) => {
        const duty = dutyFor(most, square, idle);
        if (duty === null) expect(idle).toBeGreaterThan(most);
        else if (duty === 1) expect(square).toBeLessThanOrEqual(most ** 2);
        else expect(duty * square + (1 - duty) * idle ** 2).toBeCloseTo(most ** 2, 9);
      }),
    );
  });
  it('is found again from two readings of it, and from none that no such body has', () => {
    fc.assert(
      fc.property(windings, number(0.5, 20), number(0.05, 1), number(1.3, 6), (winding, watts, share, later) => {
        const first = share * winding.tauS;
        const on = (s: number) => ({ s, rise: winding.outside * riseAt(winding, watts, s) });
        const found = refit(winding, watts, on(first), on(later * first))!;
        expect(found.tauS / winding.tauS).toBeCloseTo(1, 4);
        expect(found.kPerW / winding.kPerW).toBeCloseTo(1, 4);
        const { rise } = on(first);
        expect(refit(winding, watts, on(first), { s: later * first, rise: rise * later * 1.01 })).toBeNull();
        expect(refit(winding, watts, on(first), { s: later * first, rise: rise * 0.99 })).toBeNull();
        expect(refit(winding, 0, on(first), on(later * first))).toBeNull();
      }),
    );
  });
  it('takes the mean of the squares of what is drawn, along straight lines between looks', () => {
    const time = Float64Array.from([0, 1, 3]);
    // 0…2 in a second, then 2 for two: ∫ = 4/3 + 8.
    expect(meanSquare(time, Float64Array.from([0, 2, 2]))).toBeCloseTo((4 / 3 + 8) / 3, 12);
    expect(meanSquare(Float64Array.from([0]), Float64Array.from([3]))).toBe(9);
    expect(meanSquare(new Float64Array(), new Float64Array())).toBe(0);
  });
});

describe('what gives way by warmth', () => {
  it('is the winding, and what is around it by its share of the rise, whichever comes first', () => {
    const winding = windingOf({ ...drive, heat: { outside: 0.5 } })!;
    const bare = { ...drive, thermalC: undefined, softensC: undefined };
    expect(heatLeft(bare, winding, 25, 30)).toBeCloseTo(105 - 25 - 30, 12);
    expect(heatLeft({ ...bare, softensC: 55 }, winding, 25, 30)).toBeCloseTo(55 - 25 - 15, 12);
    expect(heatLeft({ ...bare, thermalC: 60, softensC: 55 }, winding, 25, 30)).toBeCloseTo(5, 12);
    expect(heatLeft({ ...bare, softensC: 55 }, winding, 25, 80)).toBeCloseTo(-10, 12);
  });
});

describe('the figures of a winding', () => {
  it('follow from what is known of a motor, and are what is entered', () => {
    const own = windingOf(drive)!;
    expect(own.ohm).toBeCloseTo(drive.voltageV! / drive.stallA!, 12);
    const heat = { ohm: 3, kPerW: 12, tauS: 400, outside: 0.5 };
    expect(windingOf({ ...drive, heat })).toEqual({ ...heat, coils: 1 });
    // A heavier body loses more and takes longer.
    const heavy = windingOf({ ...drive, massG: 8 * drive.massG! })!;
    expect(own.kPerW / heavy.kPerW).toBeCloseTo(4, 9);
    expect(heavy.tauS / own.tauS).toBeCloseTo(2, 9);
  });
  it('are none without a resistance: of a stepper it has to be entered, and both its coils count', () => {
    expect(windingOf({ ...drive, voltageV: undefined })).toBeNull();
    expect(windingOf({ ...drive, idleA: undefined, movingA: undefined, stallA: undefined })).toBeNull();
    const stepper = { ...drive, kind: 'stepper' } as Drive;
    expect(windingOf(stepper)).toBeNull();
    const known = windingOf({ ...stepper, heat: { ohm: 2 } })!;
    expect(wattsOf(known, 1.5)).toBeCloseTo(6, 12);
  });
});
