import fc from 'fast-check';
import { describe as group, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { linedBoards } from '../actuators';
import { admit } from '../admit';
import { encodeHost, MAX_LINE, pointLines } from '../board';
import { described } from './boards.testkit';
import { busyPercent, linkBudget, type Described } from './index';

const boards = demoRigs().flatMap(({ rig }) => {
  const admitted = admit(rig);
  return admitted.ok ? linedBoards(admitted.rig).map(({ id }) => described(rig, id)) : [];
});

group('what a line carries', () => {
  it('is asked for by no point more than is said, whatever motors are told', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...boards),
        fc.integer({ min: 0, max: 999_999 }),
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 16, maxLength: 16 }),
        (board, seq, shares) => {
          const { pointBytes, out, carries, pointOnLineMs } = linkBudget(board, 115_200);
          const values = board.motors.map(
            ({ channel, low, high }, k) => [channel, Math.round(low + shares[k] * (high - low))] as const,
          );
          const bytes = pointLines(seq, 20, values, MAX_LINE).reduce((sum, line) => sum + encodeHost(line).length, 0);
          expect(bytes).toBeLessThanOrEqual(pointBytes);
          // Ten bits a byte, fifty points a second.
          expect(out).toBeCloseTo((pointBytes * 50 * 10) / (10 * carries), 9);
          // And each is on the line for its own bytes.
          expect((bytes * 10_000) / 115_200).toBeLessThanOrEqual(pointOnLineMs + 1e-9);
          expect((pointOnLineMs * 115_200) / 10_000).toBeCloseTo(pointBytes, 9);
        },
      ),
    );
  });
  it('is half as much on a line that is twice as fast, and has room for every rig of the demo', () => {
    for (const board of boards) {
      const [slow, fast] = [115_200, 230_400].map((baud) => linkBudget(board, baud));
      expect(fast.out).toBeCloseTo(slow.out / 2, 9);
      expect(fast.back).toBeCloseTo(slow.back / 2, 9);
      expect(Math.max(slow.out, slow.back)).toBeLessThan(1);
    }
  });
});

group('time', () => {
  it('a program is busy for its motors, more for steppers, and nothing is said of boards that are not known', () => {
    const document = structuredClone(tileDipper());
    const on = (kind: Described['board']['kind'], of: Described): Described => ({
      ...of,
      board: { ...of.board, kind },
    });
    const dipper = described(document, 'pwm');
    const loader = described(kilnLoader(), 'steps');
    for (const kind of ['bridge', 'player', 'steps', 'hand', 'registers', 'sticks'] as const) {
      expect(busyPercent(dipper, kind)).toBeNull();
      const small = busyPercent(on('small-8-bit', dipper), kind)!;
      // What running five servos on the small class gave was under 60.
      expect(small).toBeLessThan(60);
      const fewer = { ...on('small-8-bit', dipper), motors: dipper.motors.slice(1) };
      expect(busyPercent(fewer, kind)!).toBeLessThan(small);
      const servos = loader.motors.map((motor) => ({ ...motor, kind: 'pulse-pin' as const }));
      expect(busyPercent(on('small-8-bit', loader), kind)!).toBeGreaterThan(
        busyPercent({ ...on('small-8-bit', loader), motors: servos }, kind)!,
      );
    }
  });
});
