import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isSpin, nativeOf } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { Channels } from '@cork-elbow/core/commands';
import { seededRandom } from '@cork-elbow/core/linear';
import type { Rig } from '@cork-elbow/core/rig';
import { tileDipper } from '@cork-elbow/demo';
import { spinningDipper } from '../../../core/src/actuators/spin.testkit';
import { bench, driven, type Bench } from './bench.testkit';

/** Motors of a rig on boards, each with the range that it may get. */
function motors(rig: Rig) {
  const known = standing(rig, 'b1');
  if (!known.ok) throw new Error('not admitted');
  const { mechanism, build } = known;
  return new Channels(rig, mechanism, build).all.map((map) => ({
    map,
    range: isSpin(map) ? map : nativeOf(map.drive, build)!,
  }));
}
const on = (b: Bench, drive: string, value: number): void => b.loop.motorOn(drive, value, b.now());
const to = (b: Bench, value: number): void => b.loop.motorTo(value, b.now());
/** What was sent to channels from a time on. */
const sentFrom = (b: Bench, from: number) =>
  b.sent.filter(({ at }) => at >= from).flatMap(({ message }) => ('values' in message ? message.values : []));

describe('one motor alone', () => {
  it.each(driven)(
    '%s: whichever it is, only its channel is sent anything, inside its own range and gently',
    (_, rig) => {
      const all = motors(rig);
      fc.assert(
        fc.property(fc.integer({ min: 1, max: 1e9 }), (seed) => {
          const random = seededRandom(seed);
          const { map, range } = all[Math.floor(random() * all.length)];
          const anywhere = (): number =>
            Math.round(
              Math.max(-9999, range.low) + random() * (Math.min(9999, range.high) - Math.max(-9999, range.low)),
            );
          const b = bench(rig, false);
          on(b, map.drive.id, isSpin(map) ? map.stopUs : anywhere());
          b.to(300);
          expect(b.loop.state).toMatchObject({ armed: true, mode: 'one-motor', motor: map.drive.id });
          for (let k = 0; k < 8; k++) {
            to(b, anywhere());
            b.to(Math.floor(random() * 800));
            if (random() < 0.2) b.loop.stop(b.now());
          }
          const sent = sentFrom(b, 100);
          expect(new Set(sent.map(([channel]) => channel))).toEqual(new Set([map.channel]));
          for (const [, value] of sent) expect(value >= range.low && value <= range.high).toBe(true);
          if (!isSpin(map)) {
            const most = Math.abs(map.native.perDeg) * rig.powerUp.maxDegPerS * 0.02 + 1;
            const values = sent.map(([, value]) => value);
            values.forEach((v, i) => i && expect(Math.abs(v - values[i - 1])).toBeLessThanOrEqual(most * 2.51));
          }
          expect(b.refusals()).toEqual([]);
          expect(b.loop.state.notice).toBe('');
        }),
        { numRuns: 4 },
      );
    },
  );

  it('goes to each value and says what is read back; armed again, the arm is held where it was left', () => {
    const rig = tileDipper();
    const [{ map }] = motors(rig);
    if (isSpin(map)) throw new Error('a servo');
    const b = bench(rig, false);
    on(b, map.drive.id, 1500);
    b.to(300);
    to(b, 1717);
    b.to(9000);
    const last = b.events.findLast((e) => e.type === 'telemetry');
    if (last?.type !== 'telemetry') throw new Error('no telemetry');
    expect(last.telemetry.wire[map.drive.id]).toBe(1717);
    expect(last.telemetry.read[map.drive.id]).toBeGreaterThan(1700);
    const points = () => b.sent.filter(({ message }) => message.word === 'point').length;
    const before = points();
    b.to(1000);
    expect(points()).toBe(before);
    b.loop.disarm(b.now());
    b.to(300);
    expect(b.loop.state).toMatchObject({ armed: false, mode: 'normal', motor: null });
    const from = b.now();
    b.loop.arm('hold', b.now());
    b.to(3000);
    const woken = sentFrom(b, from).find(([channel]) => channel === map.channel)!;
    expect(Math.abs(woken[1] - 1717)).toBeLessThanOrEqual(6);
    // The board holds its channels to the joints' limits again.
    const bounds = b.sent.flatMap(({ message: m }) => (m.word === 'bounds' && m.channel === map.channel ? [m] : []));
    expect(bounds.at(-1)).toMatchObject({ low: bounds[0].low, high: bounds[0].high });
    expect(bounds).toHaveLength(3);
  });

  it('that is sent speeds is told them again and again, and stands when stopped or the page is gone', () => {
    const { rig } = spinningDipper();
    const { map } = motors(rig).find((m) => isSpin(m.map))!;
    if (!isSpin(map)) throw new Error('a continuous servo');
    const b = bench(rig, false);
    on(b, map.drive.id, map.stopUs);
    b.to(300);
    for (const end of [() => b.loop.stop(b.now()), () => b.loop.setAlone(true)]) {
      to(b, map.stopUs + 60);
      b.to(2000);
      const turning = sentFrom(b, b.now() - 1000).filter(([channel]) => channel === map.channel);
      expect(turning.length).toBeGreaterThan(40);
      end();
      b.to(200);
      expect(sentFrom(b, b.now() - 150).at(-1)?.[1] ?? map.stopUs).toBe(map.stopUs);
      b.loop.setAlone(false);
    }
  });

  it('is switched on only when nothing is, on a pin, inside its range; nothing else begins meanwhile', () => {
    const rig = tileDipper();
    const [{ map, range }] = motors(rig);
    const b = bench(rig, false);
    to(b, 1500);
    on(b, 'none', 1500);
    on(b, map.drive.id, range.high + 1);
    expect(b.loop.state.armed).toBe(false);
    on(b, map.drive.id, 1500);
    b.to(300);
    on(b, map.drive.id, 1500);
    to(b, range.low - 1);
    b.loop.byHand('r', rig, 'b1', b.now());
    b.loop.start({ id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId: 'dip' }, rig, () => b.now());
    expect(b.refusals()).toEqual([
      ...['motor-off', 'motor-no-pin', 'motor-range', 'motor-armed', 'motor-range', 'board-not-ready'],
      'board-not-ready',
    ]);
    b.loop.halt(b.now());
    b.to(300);
    expect(b.loop.state).toMatchObject({ armed: false, mode: 'normal', motor: null });
  });
});

describe('a rig that is changed while its board is connected', () => {
  /** The dipper with one servo's trim further by so many µs. */
  const trimmed = (drive: string, us: number): Rig => {
    const rig = structuredClone(tileDipper()) as Rig & { builds: { trims: Record<string, number> }[] };
    rig.builds[0].trims[drive] = (rig.builds[0].trims[drive] ?? 0) + us;
    return rig;
  };
  it('is what arms, runs and hands go by, and nothing jumps for it', () => {
    const rig = tileDipper();
    const [{ map }] = motors(rig);
    const channel = map.channel!;
    for (const begin of ['run', 'hand'] as const) {
      const b = bench(rig);
      b.to(500);
      const stood = b.sent
        .flatMap(({ message: m }) => (m.word === 'wake' ? m.values : []))
        .find(([c]) => c === channel)![1];
      const other = trimmed(map.drive.id, -40);
      const from = b.now();
      if (begin === 'run')
        b.loop.start({ id: 'x', rigId: 'r', revision: 2, buildId: 'b1', routineId: 'dip' }, other, () => b.now());
      else {
        b.loop.byHand('r', other, 'b1', b.now());
        b.loop.guide({ joints: { turn: 1 }, share: 0.05 }, b.now());
      }
      b.to(400);
      expect(b.refusals()).toEqual([]);
      expect(sentFrom(b, from).length).toBeGreaterThan(3);
      let last = stood;
      for (const [c, value] of sentFrom(b, from)) {
        if (c !== channel) continue;
        expect(Math.abs(value - last)).toBeLessThan(12);
        last = value;
      }
      expect(b.loop.state).toMatchObject({ armed: true, notice: '' });
    }
  });

  it('switched on anew, goes by what is saved; a board that is not connected is told of', () => {
    const rig = tileDipper();
    const b = bench(rig, false);
    const [{ map }] = motors(rig);
    expect(b.loop.takeIn(trimmed(map.drive.id, 60))).toBe(true);
    const from = b.now();
    b.loop.arm('hold', b.now());
    b.to(3000);
    const woken = sentFrom(b, from).find(([c]) => c === map.channel)!;
    b.loop.disarm(b.now());
    b.to(300);
    // Held where it stands: what is read back counts, whatever the trim.
    expect(b.loop.takeIn(rig)).toBe(true);
    const again = b.now();
    b.loop.arm('hold', b.now());
    b.to(3000);
    expect(Math.abs(sentFrom(b, again).find(([c]) => c === map.channel)![1] - woken[1])).toBeLessThanOrEqual(6);
    b.loop.disarm(b.now());
    b.to(300);
    const moved = structuredClone(rig);
    moved.boards.push({ ...structuredClone(moved.boards[0]), id: 'second', name: 'Second board' });
    for (const wire of moved.wiring) wire.board = 'second';
    expect(b.loop.takeIn(moved)).toBe(false);
    expect(b.refusals()).toEqual(['board-changed']);
  });
});

it('a board is not called silent for as long as nobody listened here', () => {
  const rig = tileDipper();
  const b = bench(rig);
  // Its answers come only after the thread was held up: by planning, or a computer that was busy.
  let isHeldUp = false;
  const links = b.links();
  for (const link of links) {
    const read = link.read.bind(link);
    link.read = () => (isHeldUp ? [] : read());
  }
  isHeldUp = true;
  b.loop.tick(b.now() + 1500);
  expect(b.loop.state).toMatchObject({ link: 'connected', armed: true });
  isHeldUp = false;
  b.loop.tick(b.now() + 1510);
  expect(b.loop.state).toMatchObject({ link: 'connected', armed: true });
  // Silence that was listened to counts.
  isHeldUp = true;
  for (let ms = 1520; ms < 2900; ms += 10) b.loop.tick(b.now() + ms);
  expect(b.loop.state).toMatchObject({ link: 'lost', armed: false });
});
