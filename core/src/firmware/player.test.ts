import fc from 'fast-check';
import { describe as group, expect, it } from 'vitest';
import { valuesAt } from '../commands';
import { sampleBuffers } from '../motion';
import { live } from './compiled.testkit';
import { beginMs, firstOf, made, toldNear, track } from './played.testkit';
import { pack, unpack } from '../commands';
import { atLeast, atMost } from '../units/held.testkit';

group('a table in flash', () => {
  const value = fc.oneof(fc.integer({ min: 500, max: 2500 }), fc.integer({ min: -99_999_999, max: 99_999_999 }));
  /** Frames that stand, go evenly, or jump. */
  const run = fc.record({
    count: fc.integer({ min: 1, max: 400 }),
    step: fc.constantFrom(0, 0, 1, 7, -300),
    jump: fc.option(value),
    level: fc.integer({ min: 0, max: 0xffffffff }),
  });
  const anyFrames = fc
    .tuple(fc.integer({ min: 0, max: 9 }), fc.array(run, { minLength: 1, maxLength: 6 }))
    .map(([width, runs]) => {
      const levels = Uint32Array.from(runs.flatMap(({ count, level }) => Array.from({ length: count }, () => level)));
      const columns = Array.from({ length: width }, (_, k) => {
        let now = 1500 + k;
        return Int32Array.from(
          runs.flatMap(({ count, step, jump }) => {
            if (jump !== null) now = jump;
            return Array.from({ length: count }, () => (now += step * (k + 1)));
          }),
        );
      });
      return { columns, levels };
    });
  it('is unpacked to what was packed, whatever it holds and wherever it begins anew', () => {
    fc.assert(
      fc.property(anyFrames, fc.integer({ min: 1, max: 120 }), (frames, restart) => {
        const back = unpack(pack(frames, restart), frames.columns.length, frames.levels.length, restart);
        expect(back).toEqual(frames);
      }),
    );
  });
  it('takes a byte for each 255 frames that stand, and a few for each that moves', () => {
    const still = {
      columns: [new Int32Array(2000).fill(1500), new Int32Array(2000).fill(900)],
      levels: new Uint32Array(2000),
    };
    expect(pack(still, 2000).length).toBe(2 + 2 + 1 + Math.ceil(1999 / 255));
  });
});

group('the compiled player', () => {
  const routines = [
    ['tile-dipper', 'dip'],
    ['dot-painter', 'rosette'],
    ['heron-greeter', 'greet'],
    ['twin-carriers', 'lift'],
    ['kiln-shelf-loader', 'round'],
    ['kiln-shelf-loader', 'fold'],
  ] as const;
  it.each(routines)('of %s, %s: sends what the plan says: pulses within 2 µs, steps within 1', (id, routineId) => {
    const player = made(id, routineId);
    const { described, motion } = player.made;
    const seconds = motion.durationS + beginMs(player.made.described, firstOf(player.table)) / 1000 + 1;
    const heard = live(player.program, ['> g', `. ${Math.round(seconds * 1e6)}`]);
    const happened = heard.flatMap((part) => part.happened);
    // A direction stands for a tick before the first step that goes that way.
    for (const { kind, pin, second } of described.motors) {
      if (kind !== 'stepper') continue;
      let turned = -Infinity;
      for (const {
        what,
        at,
        micros,
        values: [level],
      } of happened) {
        if (what !== 'level') continue;
        if (at === second) turned = micros;
        if (at === pin && level === 1) atLeast(micros - turned, 20);
      }
    }
    // Outputs have their level before they are outputs.
    expect(heard[0].happened.filter(({ what }) => what === 'pulse')).toEqual([]);
    const [p, v, a] = sampleBuffers(described.mechanism.m);
    const begun = beginMs(player.made.described, firstOf(player.table)) * 1000;
    let looked = 0;
    for (const [k, motor] of described.motors.entries()) {
      const told = track(happened, described, k);
      for (let t = 0; t <= motion.durationS; t += 0.02) {
        const got = told(begun + t * 1e6);
        // A millisecond of its motion, beside.
        const [near, far] = toldNear(described, motor.map, motion, t, 0.003);
        const room = motor.kind === 'stepper' ? 1 : 2;
        atLeast(got, near - room, () => `${motor.map.drive.name} at ${t.toFixed(2)} s`);
        atMost(got, far + room, () => `${motor.map.drive.name} at ${t.toFixed(2)} s`);
        looked++;
      }
      motion.sampleInto(p, v, a, motion.durationS);
      expect(told(Infinity)).toBe(valuesAt([motor.map], described.mechanism, p, v)[0][1]);
    }
    expect(looked).toBeGreaterThan(100);
  });
  it('comes on one motor after the other in the order of the plan, each where it is expected to stand', () => {
    const player = made('tile-dipper', 'dip');
    const { described } = player.made;
    const pulses = live(player.program, ['> g', '. 3000000'])
      .flatMap(({ happened }) => happened)
      .filter(({ what }) => what === 'pulse');
    const firsts = described.motors.map(({ pin }) => pulses.find(({ at }) => at === pin)!);
    for (const [k, { rest }] of described.motors.entries()) expect(firsts[k].values).toEqual([rest]);
    const order = [...firsts].sort((a, b) => a.micros - b.micros).map(({ at }) => at);
    expect(order).toEqual(described.order.map((k) => described.motors[k].pin));
    const times = firsts.map(({ micros }) => micros).sort((a, b) => a - b);
    for (let k = 1; k < times.length; k++) expect(times[k] - times[k - 1]).toBeGreaterThanOrEqual(299_000);
  });
  it('does nothing until it is told to, stops along its way, goes on, and lets go only where it stands', () => {
    const player = made('tile-dipper', 'dip');
    const motors = player.made.described.motors.length;
    // Into the middle of a move; all that is asked then.
    const moving = (beginMs(player.made.described, firstOf(player.table)) + 1500) * 1000;
    const orders = [
      '. 5000000',
      '> g',
      `. ${moving}`,
      '> o',
      '> s',
      '. 300000',
      '. 2000000',
      '> g',
      '. 400000',
      '> s',
      '. 300000',
      '> o',
    ];
    const parts = live(player.program, orders).map(({ happened }) => happened.filter(({ what }) => what === 'pulse'));
    const [boot, waits, , goes, keeps, , stops, stands, , goesOn, , stopsAgain, off] = parts;
    expect([...boot, ...waits]).toEqual([]);
    expect(goes.length).toBeGreaterThan(50);
    expect(keeps).toEqual([]);
    // It slows down over a quarter of a second, and then nothing changes any more.
    expect(stops.length).toBeGreaterThan(0);
    expect(stands).toEqual([]);
    expect(goesOn.length).toBeGreaterThan(0);
    expect(off.map(({ values }) => values)).toEqual(Array.from({ length: motors }, () => [0]));
    // Nothing jumps meanwhile: what one motor is told changes by a few µs at most.
    const last = new Map<number, number>();
    for (const {
      at,
      values: [us],
    } of [...goes, ...stops, ...goesOn, ...stopsAgain]) {
      expect(Math.abs(us - (last.get(at) ?? us))).toBeLessThan(12);
      last.set(at, us);
    }
  });
});
