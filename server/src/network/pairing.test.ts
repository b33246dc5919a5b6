import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HOLDS, Pairing } from './pairing';

describe('a code that pairs', () => {
  it('is right once, while it holds', () => {
    const pairing = new Pairing();
    expect(pairing.try('00000000', 0)).toEqual({ is: 'none' });
    const code = pairing.show(0);
    expect(code).toMatch(/^\d{8}$/);
    expect(pairing.shown(1000)).toEqual({ text: code, forMs: HOLDS - 1000 });
    expect(pairing.try(`${code.slice(0, 4)} ${code.slice(4)}`, 1000)).toEqual({ is: 'right' });
    expect(pairing.try(code, 2000)).toEqual({ is: 'none' });
    const later = pairing.show(0);
    expect(pairing.try(later, HOLDS)).toEqual({ is: 'none' });
  });
  it('is looked at so seldom that it is not guessed, however often and when somebody tries', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: 20_000 }), fc.boolean()), { maxLength: 300 }),
        (tries) => {
          const pairing = new Pairing();
          let now = 0;
          let looked = 0;
          let code = pairing.show(now);
          for (const [pause, anew] of tries) {
            now += pause;
            if (anew || !pairing.shown(now)) code = pairing.show(now);
            const before = pairing.shown(now)!.text;
            const tried = pairing.try(before === '12345678' ? '87654321' : '12345678', now);
            expect(tried.is).not.toBe('right');
            if (tried.is === 'early') {
              // Not even the right one counts.
              expect(pairing.try(code, now).is).toBe('early');
              expect(tried.waitMs).toBeLessThanOrEqual(300_000);
            }
            if (tried.is === 'wrong') looked++;
          }
          // The k-th look is 2^(k−1) s after the one before, 300 s at most.
          let least = 0;
          for (let k = 1; k < looked; k++) least += Math.min(300_000, 1000 * 2 ** (k - 1));
          expect(now).toBeGreaterThanOrEqual(least);
        },
      ),
    );
  });
  it('holds no longer after eight wrong tries', () => {
    const pairing = new Pairing();
    const code = pairing.show(0);
    let now = 0;
    for (let k = 0; k < 8; k++) {
      const tried = pairing.try(code === '00000000' ? '1' : '00000000', now);
      expect(tried.is).toBe('wrong');
      if ('waitMs' in tried) now += tried.waitMs;
    }
    expect(pairing.shown(now)).toBeNull();
    expect(pairing.try(code, now)).toEqual({ is: 'none' });
  });
});
