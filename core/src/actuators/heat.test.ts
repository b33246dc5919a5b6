import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Drawing, heatModel, catalogue, Warmth, type HeatModel } from '.';
import type { Drive } from '../rig';

const models: [string, HeatModel][] = catalogue.flatMap(({ words, figures }) => {
  const model = heatModel({ id: 'm', name: words, ...figures } as Drive);
  return model ? [[words, model] as [string, HeatModel]] : [];
});
const model = fc.constantFrom(...models.map(([, each]) => each));
const share = fc.double({ min: 0, max: 3, noNaN: true });

describe('how warm a motor becomes', () => {
  it('is known of most of the catalogue, and of no stepper', () => {
    expect(models.length).toBeGreaterThan(5);
    for (const { figures } of catalogue)
      if (figures.kind === 'stepper') expect(heatModel({ id: 'm', name: '', ...figures } as Drive)).toBeNull();
    for (const [words, { idleA, enduresA, stallA, tauS }] of models) {
      expect(enduresA, words).toBeGreaterThan(idleA);
      expect(enduresA, words).toBeLessThanOrEqual(stallA);
      // Seconds, not minutes, of what nobody should do; minutes for the body to cool.
      const cold = new Warmth({ idleA, enduresA, stallA, tauS, movingA: idleA });
      expect(cold.leftS(stallA), words).toBeGreaterThan(2);
      expect(cold.leftS(stallA), words).toBeLessThan(120);
      expect(tauS).toBeGreaterThan(20);
      expect(tauS).toBeLessThan(600);
    }
  });
  it('does not depend on how often it is looked at, and comes to its limit when it is said to', () => {
    fc.assert(
      fc.property(
        model,
        share,
        fc.double({ min: 0.1, max: 4, noNaN: true }),
        fc.integer({ min: 1, max: 40 }),
        (m, from, times, pieces) => {
          const amps = times * m.enduresA;
          const [whole, cut] = [new Warmth(m), new Warmth(m)];
          whole.share = cut.share = from;
          whole.draw(amps, 20);
          for (let k = 0; k < pieces; k++) cut.draw(amps, 20 / pieces);
          expect(cut.share).toBeCloseTo(whole.share, 9);
          // Towards what this current comes to, and never past it.
          expect(Math.abs(whole.share - times ** 2)).toBeLessThanOrEqual(Math.abs(from - times ** 2) + 1e-12);
          const until = new Warmth(m);
          until.share = Math.min(from, 0.99);
          const left = until.leftS(amps);
          if (times <= 1) {
            expect(left).toBe(Infinity);
            return;
          }
          until.draw(amps, left);
          expect(until.share).toBeCloseTo(1, 9);
          expect(until.leftS(amps)).toBeLessThan(1e-6);
        },
      ),
    );
  });
  it('holds what it may for ever without becoming too warm', () => {
    for (const [, m] of models) {
      const warm = new Warmth(m);
      for (let k = 0; k < 1000; k++) warm.draw(m.enduresA, 10);
      expect(warm.share).toBeCloseTo(1, 9);
    }
  });
});

describe('what a motor draws', () => {
  const [, m] = models[0];
  it('is that of stall once it is held fast while it stands off, and no more once it is free', () => {
    const drawing = new Drawing(m, 1000, 20);
    expect(drawing.amps(null, 1500, 0.05)).toBe(0);
    let amps = 0;
    for (let k = 0; k < 20; k++) amps = drawing.amps(1600, 1500, 0.05);
    expect([amps, drawing.stalledS]).toEqual([m.stallA, expect.closeTo(1, 6)]);
    // It lags on its way, as every motor does.
    for (let at = 1505; at < 1600; at += 5) expect(drawing.amps(1600, at, 0.05)).not.toBe(m.stallA);
    expect(drawing.amps(1600, 1599, 0.05)).toBe(m.idleA);
    expect(drawing.stalledS).toBe(0);
  });
  it('is never that of stall where nothing is read back, or within what it may stand off', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 500, max: 2500 }), { maxLength: 60 }), (way) => {
        const [blind, near] = [new Drawing(m, 1000, 20), new Drawing(m, 1000, 20)];
        for (const sent of way) {
          expect(blind.amps(sent, null, 0.05)).not.toBe(m.stallA);
          expect(near.amps(sent, sent - 15, 0.05)).not.toBe(m.stallA);
        }
      }),
    );
  });
});
