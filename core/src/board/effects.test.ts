import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  boardReader,
  encodeHost,
  simulatedMotor,
  SimulatedBoard,
  type HostMessage,
  type SimulatedMotor,
} from './index';
import { atMost } from '../units/held.testkit';

const SPEED = 4000;
const model = { kind: 'servo' as const, speedPerS: SPEED, deadBand: 4, min: -1e6, max: 1e6 };
const live = (motor: SimulatedMotor, seconds: number): void => {
  for (let k = 0; k < seconds * 1000; k++) motor.advance(0.001);
};
/** Seconds that the position loop of a servo takes for what it is off. */
const LOOP = 0.035;

describe('a servo with a load', () => {
  it('is slower against it and faster with it, by the straight line from no-load speed to stall', () => {
    fc.assert(
      fc.property(fc.double({ min: -0.9, max: 0.9, noNaN: true }), fc.constantFrom(-1, 1), (load, way) => {
        const motor = simulatedMotor({ ...model, load }, 0);
        motor.command(way * 50_000);
        live(motor, 0.3);
        const from = motor.truly;
        live(motor, 0.5);
        expect((motor.truly - from) / 0.5).toBeCloseTo(way * SPEED + load * SPEED, 0);
      }),
    );
  });
  it('stands off its wish by what its loop needs to hold it, and no further', () => {
    fc.assert(
      fc.property(fc.double({ min: -0.9, max: 0.9, noNaN: true }), (load) => {
        const motor = simulatedMotor({ ...model, load }, 0);
        motor.command(500);
        live(motor, 3);
        const sag = load * LOOP * SPEED;
        // Inside its dead band it does nothing against it.
        expect(Math.abs(motor.truly - 500 - sag)).toBeLessThan(model.deadBand + 1);
      }),
    );
  });
  it('gives way where it is more than its stall torque', () => {
    for (const load of [1.2, -1.2]) {
      const motor = simulatedMotor({ ...model, load }, 0);
      motor.command(-Math.sign(load) * 20_000);
      live(motor, 1);
      expect(motor.truly * load).toBeGreaterThan(0);
    }
  });
});

describe('what a motor draws', () => {
  it('is its load while it stands, all it can as it sets off or is held fast, next to nothing at its full speed, and nothing while it is off', () => {
    fc.assert(
      fc.property(fc.double({ min: -0.9, max: 0.9, noNaN: true }), fc.constantFrom(-1, 1), (load, way) => {
        const motor = simulatedMotor({ ...model, deadBand: 0, load }, 0);
        live(motor, 0.2);
        expect(motor.effort).toBe(0);
        motor.command(way * 1e5);
        motor.advance(0.001);
        expect(motor.effort).toBeCloseTo(1, 6);
        live(motor, 0.3);
        // At its free speed under this load it gives just what the load takes.
        expect(motor.effort).toBeCloseTo(Math.abs(load), 3);
        motor.jam(true);
        live(motor, 0.1);
        expect(motor.effort).toBeCloseTo(1, 6);
        motor.jam(false);
        motor.command(motor.measured ?? 0);
        live(motor, 3);
        expect(motor.effort).toBeCloseTo(Math.abs(load), 2);
        motor.command(null);
        motor.advance(0.001);
        expect(motor.effort).toBe(0);
      }),
    );
  });
  it('does not hang on whether a stepper turns', () => {
    const motor = simulatedMotor({ kind: 'stepper', maxHz: 1e9 }, 0);
    expect(motor.effort).toBe(0);
    for (const to of [0, 0, 500]) {
      motor.command(to);
      motor.advance(0.001);
      expect(motor.effort).toBe(1);
    }
    motor.command(null);
    expect(motor.effort).toBe(0);
  });
});

describe('play', () => {
  const kinds = [
    ['servo', (slop: number) => simulatedMotor({ ...model, deadBand: 0, slop }, 0)],
    ['stepper', (slop: number) => simulatedMotor({ kind: 'stepper', maxHz: 1e9, slop }, 0)],
  ] as const;
  it.each(kinds)(
    'of a %s: what hangs on it is never further off than half of it, and turned round stands still for all of it',
    (_, make) => {
      fc.assert(
        fc.property(
          fc.integer({ min: 2, max: 80 }),
          fc.array(fc.integer({ min: -900, max: 900 }), { minLength: 1, maxLength: 6 }),
          (slop, ways) => {
            const motor = make(slop);
            for (const to of ways) {
              motor.command(to);
              for (let k = 0; k < 600; k++) {
                motor.advance(0.001);
                atMost(Math.abs(motor.truly - motor.measured!), slop / 2 + 1);
              }
            }
            const up = make(slop);
            up.command(1000);
            live(up, 2);
            const first = up.truly;
            expect(first).toBeCloseTo(1000 - slop / 2, -0.5);
            up.command(1000 - slop * 0.6);
            live(up, 2);
            expect(Math.abs(up.truly - first)).toBeLessThanOrEqual(slop * 0.1 + 1);
            up.command(1000 - 2 * slop);
            live(up, 2);
            expect(Math.abs(up.truly - (1000 - 1.5 * slop))).toBeLessThanOrEqual(1);
          },
        ),
        { numRuns: 30 },
      );
    },
  );
});

describe('a stepper that is driven too fast', () => {
  it('loses a whole number of four full steps, sooner under load', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 4, max: 256 }),
        fc.double({ min: 0, max: 0.9, noNaN: true }),
        fc.integer({ min: 1, max: 40 }),
        (cycle, load, ms) => {
          const maxHz = 20_000;
          const motor = simulatedMotor({ kind: 'stepper', maxHz, cycle, load }, 0) as SimulatedMotor & {
            lost: number;
          };
          const run = (hz: number, k: number): void => {
            let at = motor.measured!;
            for (let n = 0; n < k; n++) {
              at += hz / 1000;
              motor.command(Math.round(at));
              motor.advance(0.001);
            }
          };
          run(maxHz * (1 - load) * 0.9, 30);
          expect(motor.lost).toBe(0);
          run(maxHz * (1 - load) * 1.3 + 2000, ms);
          run(0, 5);
          expect(Math.abs(motor.lost % cycle)).toBe(0);
          const sent = (ms * (maxHz * (1 - load) * 1.3 + 2000)) / 1000;
          expect(Math.abs(motor.lost - sent)).toBeLessThanOrEqual(cycle / 2 + 2);
          expect(motor.truly).toBe(motor.measured! - motor.lost);
        },
      ),
    );
  });
});

describe('what goes wrong with a motor', () => {
  it('held fast it stays where it is, and goes on once it is free; a stepper has lost what it did not make', () => {
    const servo = simulatedMotor(model, 0);
    servo.command(1000);
    live(servo, 0.1);
    servo.jam(true);
    const stood = servo.truly;
    live(servo, 1);
    expect([servo.truly, servo.measured]).toEqual([stood, Math.round(stood)]);
    servo.jam(false);
    live(servo, 2);
    expect(Math.abs(servo.truly - 1000)).toBeLessThan(model.deadBand);
    const stepper = simulatedMotor({ kind: 'stepper', maxHz: 1e9 }, 0);
    stepper.jam(true);
    stepper.command(400);
    live(stepper, 0.1);
    expect([stepper.measured, stepper.truly]).toEqual([400, 0]);
    stepper.jam(false);
    stepper.command(500);
    live(stepper, 0.1);
    expect([stepper.measured, stepper.truly]).toEqual([500, 100]);
  });
  it('slipped, what hangs on it stands so much further, and nothing reads that back', () => {
    for (const kind of [model, { kind: 'stepper' as const, maxHz: 1e9 }]) {
      const motor = simulatedMotor(kind, 100);
      motor.command(300);
      live(motor, 1);
      const [before, read] = [motor.truly, motor.measured];
      motor.slip(-40);
      expect(motor.truly - before).toBeCloseTo(-40, 6);
      expect(motor.measured).toBe(read);
      motor.command(350);
      live(motor, 1);
      expect(motor.truly - motor.measured!).toBeCloseTo(-40, -0.4);
    }
  });
});

describe('a board that begins anew', () => {
  it('says who it is, is asleep, knows no bounds, reports nothing, and counts from where the arm rests', () => {
    const board = new SimulatedBoard(
      4,
      [
        { channel: 0, motor: model, restsAt: 100 },
        { channel: 1, motor: { kind: 'stepper', maxHz: 1e9 }, restsAt: 50 },
      ],
      { pins: [3] },
    );
    const reader = boardReader();
    let number = 0;
    const ask = (message: object): unknown[] => {
      board.write(encodeHost({ ...message, number: number++ } as HostMessage));
      return board.read().flatMap((bytes) => reader.push(bytes));
    };
    ask({ word: 'hello' });
    for (const channel of [0, 1]) ask({ word: 'bounds', channel, low: -5000, high: 5000, perS: 100_000 });
    ask({ word: 'output', channel: 3, safe: 0 });
    ask({ word: 'report', everyMs: 20 });
    ask({
      word: 'wake',
      values: [
        [0, 100],
        [1, 50],
      ],
    });
    board.write(
      encodeHost({
        word: 'point',
        seq: 0,
        ms: 100,
        values: [
          [0, 400],
          [1, 350],
        ],
        goesOn: false,
      }),
    );
    board.advance(60_000);
    board.read();
    board.restart();
    expect(board.read().flatMap((bytes) => reader.push(bytes))).toMatchObject([
      { word: 'board', version: 2, channels: 4 },
    ]);
    board.advance(500_000);
    expect(board.read()).toEqual([]);
    number = 0;
    expect(ask({ word: 'wake', values: [[0, 100]] })).toMatchObject([{ word: 'refused', why: 'no-bounds' }]);
    expect(board.levelAt(3)).toBeNull();
    ask({ word: 'report', everyMs: 1 });
    board.advance(1000);
    const [here] = board.read().flatMap((bytes) => reader.push(bytes));
    expect(here).toMatchObject({
      word: 'here',
      state: 'asleep',
      measured: expect.arrayContaining([[1, 50]]) as unknown,
    });
  });
});
