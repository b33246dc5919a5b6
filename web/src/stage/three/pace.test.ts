import { describe, expect, it } from 'vitest';
import { LONGEST_REST_MS, Pace, SLOW_MS } from './pace';

/** Pictures drawn in `ms`, asked for at every 1/60 s, on a machine that needs `costMs` for one. */
function drawn(costMs: number, ms: number): { pictures: number; busyMs: number } {
  const pace = new Pace();
  let [pictures, busyMs, doneAt] = [0, 0, Infinity];
  for (let now = 0; now < ms; now += 1000 / 60) {
    if (now >= doneAt) {
      pace.end(doneAt);
      doneAt = Infinity;
    }
    if (!pace.isFree(now)) continue;
    pace.begin(now);
    doneAt = now + costMs;
    pictures++;
    busyMs += costMs;
  }
  return { pictures, busyMs };
}

describe('the pace of pictures', () => {
  it('is that of the screen on a machine that draws fast', () => {
    expect(drawn(3, 10_000).pictures).toBeGreaterThan(590);
  });
  it.each([12, 30, 80, 200, 450])('leaves half of the time for everything else where one takes %d ms', (cost) => {
    const { pictures, busyMs } = drawn(cost, 20_000);
    expect(busyMs).toBeLessThanOrEqual(10_000 + cost);
    // And gives up no more than the screen's own step beside it.
    expect(pictures).toBeGreaterThanOrEqual(Math.floor(20_000 / (2 * cost + 2 * (1000 / 60))));
  });
  it('rests half as long after a coarse picture, which is made so that a motion is seen', () => {
    for (const [share, rest] of [
      [0.1, 20],
      [1, 40],
      [0.7, 40],
    ]) {
      const pace = new Pace();
      pace.begin(0, share);
      pace.end(40);
      expect([share, pace.isFree(40 + rest - 1), pace.isFree(40 + rest)]).toEqual([share, false, true]);
    }
  });
  it('comes back in half a second after a page that slept over a picture', () => {
    const pace = new Pace();
    pace.begin(0);
    pace.end(3_600_000);
    expect(pace.isFree(3_600_000 + LONGEST_REST_MS - 1)).toBe(false);
    expect(pace.isFree(3_600_000 + LONGEST_REST_MS)).toBe(true);
  });
  it('never begins a second picture while one is being drawn', () => {
    const pace = new Pace();
    expect(pace.isFree(0)).toBe(true);
    pace.begin(0);
    expect(pace.isFree(10_000)).toBe(false);
    pace.end(10_000);
    pace.end(20_000);
    expect(pace.isFree(10_000 + LONGEST_REST_MS)).toBe(true);
  });
  it.each([
    [SLOW_MS + 1, 1, true],
    [SLOW_MS - 1, 1, false],
    [SLOW_MS / 2, 1 / 4, true],
    [SLOW_MS / 5, 1 / 4, false],
  ])('calls a machine slow by what a whole picture takes: %d ms for %d of one', (ms, share, slow) => {
    const pace = new Pace();
    expect(pace.isSlow).toBe(false);
    pace.begin(1000, share);
    pace.end(1000 + ms);
    expect(pace.isSlow).toBe(slow);
  });
});
