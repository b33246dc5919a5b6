import { describe as group, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { linedBoards } from '../actuators';
import { presets, rigFromPreset } from '../presets';
import type { Rig } from '../rig';
import { track } from './played.testkit';
import { panelChecksum } from './registers.testkit';
import { compile, live, type Heard } from './compiled.testkit';
import { described } from './boards.testkit';
import { registersOf, sources } from './index';

const board = described(tileDipper(), 'pwm');
const registers = registersOf(board, 7, 19200);
const program = compile(sources(board, 'panel', { kind: 'registers', registers }));
const { joints } = registers;
const jointNo = (name: string): number => joints.findIndex((joint) => joint.name === name);
const [turn, elbow] = [jointNo('Turntable'), jointNo('Elbow')];

const framed = (bytes: readonly number[]): string =>
  `bytes ${[...bytes, ...panelChecksum(bytes)].map((byte) => byte.toString(16).padStart(2, '0')).join('')}`;
const word = (value: number): [number, number] => [(value >> 8) & 255, value & 255];
/** A frame, the silence that ends it, and what came back. */
const ask = (bytes: readonly number[]): string[] => [framed(bytes), '. 3000', 'out'];
const read = (where: number, count: number): string[] => ask([7, 3, ...word(where), ...word(count)]);
const write = (where: number, value: number): string[] => ask([7, 6, ...word(where), ...word(value)]);
/** Answers of a program that is asked this and that; others are lived through. */
function answers(orders: readonly (readonly string[])[]): { given: (number[] | null)[]; parts: Heard[] } {
  const flat = orders.flat();
  const parts = live(program, flat).slice(1);
  const given = parts
    .filter((_, k) => flat[k] === 'out')
    .map(({ bytes }) => {
      if (!bytes.length) return null;
      expect([...bytes.subarray(-2)]).toEqual(panelChecksum([...bytes.subarray(0, -2)]));
      return [...bytes.subarray(0, -2)];
    });
  return { given, parts };
}
const values = (answer: number[] | null): number[] =>
  Array.from(
    { length: (answer!.length - 3) / 2 },
    (_, k) => (((answer![3 + 2 * k] << 8) | answer![4 + 2 * k]) << 16) >> 16,
  );
const on = [write(1, 1), ['. 3000000']];
const pulsesOf = (parts: readonly Heard[], joint: number): number[] =>
  parts.flatMap(({ happened }) =>
    happened
      .filter(({ what, at }) => what === 'pulse' && at === board.motors[joints[joint].motors[0]].pin)
      .map(({ values: [us] }) => us),
  );

group('registers of an operator panel, compiled', () => {
  it('are after a reset what the head says: off, a fifth of the speeds, targets at rest; nothing moves', () => {
    const { given, parts } = answers([read(0, 5), read(5, 3), read(10, joints.length), read(70, joints.length)]);
    expect(values(given[0])).toEqual([0, 0, 0, 20, 0]);
    // What it was made for.
    expect(given[1]!.slice(3)).toEqual([...word(1), ...Buffer.from(board.fingerprint, 'hex')]);
    expect(values(given[2])).toEqual(joints.map(({ rest }) => rest));
    expect(values(given[3])).toEqual(joints.map(() => 0));
    expect(parts.flatMap(({ happened }) => happened)).toEqual([]);
  });
  it('come on at rest, go where they are told, and say where they are', () => {
    const { given, parts } = answers([
      ...on,
      write(3, 100),
      write(10 + turn, -300),
      ['. 8000000'],
      read(10 + turn, 1),
      read(40 + turn, 1),
      read(0, 1),
    ]);
    const [come, , told, target, now, state] = given;
    expect(come).toEqual([7, 6, 0, 1, 0, 1]);
    expect(told).toEqual([7, 6, 0, 10 + turn, ...word(-300)]);
    expect(values(target)).toEqual([-300]);
    // A tenth of a degree is less than a pulse is fine.
    expect(Math.abs(values(now)[0] + 300)).toBeLessThanOrEqual(1);
    expect(values(state)).toEqual([2]);
    const pulses = pulsesOf(parts, turn);
    expect(pulses[0]).toBe(board.motors[joints[turn].motors[0]].rest);
    const { low, high, places } = joints[turn];
    const part = ((-300 - low) / (high - low)) * 16;
    const wanted =
      places[0][Math.floor(part)] + (places[0][Math.floor(part) + 1] - places[0][Math.floor(part)]) * (part % 1);
    expect(Math.abs(pulses.at(-1)! - wanted)).toBeLessThanOrEqual(1);
  });
  it('are nudged, several at once or none, and go to kept poses', () => {
    const both = [7, 16, ...word(10), ...word(2), 4];
    const { given } = answers([
      ...[...on, write(70 + elbow, 25), read(10 + elbow, 1)],
      // The second one is out of range: neither is taken.
      ...[ask([...both, ...word(joints[0].rest + 10), ...word(30_000)]), read(10, 2)],
      ...[ask([...both, ...word(joints[0].rest + 10), ...word(joints[1].rest - 5)]), read(10, 2)],
      ...[write(3, 100), write(2, 1), ['. 9000000'], read(2, 1), read(40, joints.length)],
    ]);
    const [, nudged, target, refused, kept, taken, both2, , , preset, now] = given;
    expect(nudged![1]).toBe(6);
    expect(values(target)).toEqual([joints[elbow].rest + 25]);
    expect(refused).toEqual([7, 0x90, 3]);
    expect(values(kept)).toEqual([joints[0].rest, joints[1].rest]);
    expect(taken).toEqual([7, 16, 0, 10, 0, 2]);
    expect(values(both2)).toEqual([joints[0].rest + 10, joints[1].rest - 5]);
    expect(values(preset)).toEqual([1]);
    const pose = tileDipper().poses[0].joints as Record<string, number>;
    joints.forEach(({ motors: [k] }, n) => {
      const id = board.motors[k].map.transmission.joints[0];
      expect(Math.abs(values(now)[n] - 10 * pose[id]), id).toBeLessThanOrEqual(2);
    });
  });
  it('refuse what is not there, out of range, or may not be now; and answer no one else', () => {
    const { given } = answers([
      write(10 + turn, 0), // off
      read(9, 1),
      read(4, 7),
      ask([7, 4, 0, 0, 0, 1]),
      write(3, 0),
      ...on,
      write(10 + turn, joints[turn].high + 1),
      write(2, 99),
      ask([8, 3, 0, 0, 0, 1]),
      ask([0, 6, 0, 3, 0, 50]), // for all: done, not answered
      read(3, 1),
      ['bytes 070300000001ffff', '. 3000', 'out'], // a wrong checksum
      read(0, 1),
    ]);
    expect(given.slice(0, 5)).toEqual([
      [7, 0x86, 4],
      [7, 0x83, 2],
      [7, 0x83, 2],
      [7, 0x84, 1],
      [7, 0x86, 3],
    ]);
    expect(given.slice(6, 9)).toEqual([[7, 0x86, 3], [7, 0x86, 3], null]);
    expect(given[9]).toBeNull();
    expect(values(given[10])).toEqual([50]);
    expect(given[11]).toBeNull();
    expect(values(given[12])).toEqual([2]);
  });
  it('hold, go on, and let go; off is after a reset again', () => {
    const { given, parts } = answers([
      ...on,
      write(3, 100),
      write(10 + turn, 400),
      ['. 400000'],
      write(1, 2),
      ['. 1000000'],
      read(0, 1),
      read(10 + turn, 1),
      read(40 + turn, 1),
      write(1, 1),
      write(1, 3),
      read(10 + turn, 1),
      read(0, 1),
    ]);
    const [held, target, now] = given.slice(4, 7).map((answer) => values(answer)[0]);
    expect(held).toBe(3);
    expect(target).toBe(now);
    expect(now).not.toBe(400);
    expect(values(given[9])).toEqual([joints[turn].rest]);
    expect(values(given[10])).toEqual([0]);
    expect(pulsesOf(parts, turn).at(-1)).toBe(0);
  });

  it('lead a joint’s mirror image with it where they are told to, both or none', () => {
    const rig = rigFromPreset(
      presets.find(({ name }) => name.startsWith('Torso'))!,
      'Torso',
    );
    if (!rig.ok) throw new Error('no torso');
    const [{ id }] = linedBoards(rig.value);
    const own = described(rig.value, id);
    const panel = registersOf(own, 7, 19200);
    const twinned = compile(sources(own, 'panel', { kind: 'registers', registers: panel }));
    const left = panel.joints.findIndex(({ name, twin }) => /left/i.test(name) && twin !== null);
    const right = panel.joints[left].twin!;
    expect(panel.joints[right].twin).toBe(left);
    expect(panel.joints[right].name).toBe(panel.joints[left].name.replace('left', 'right').replace('Left', 'Right'));
    const { rest, low, high } = panel.joints[left];
    const target = Math.round(rest + (high - rest > rest - low ? 150 : -150));
    const asked = (orders: string[]): number[] => {
      const flat = [
        ...write(1, 1),
        `. ${own.rig.powerUp.gapMs * own.motors.length * 1000 + 1_000_000}`,
        ...orders,
        ...read(10, panel.joints.length),
      ];
      const heard = live(twinned, flat).at(-1)!;
      return values([...heard.bytes.subarray(0, -2)]);
    };
    const alone = asked(write(10 + left, target));
    expect([alone[left], alone[right]]).toEqual([target, panel.joints[right].rest]);
    const both = asked([...write(8, 1), ...write(10 + left, target)]);
    expect([both[left], both[right]]).toEqual([target, target]);
    const nudged = asked([...write(8, 1), ...write(70 + right, target > rest ? 20 : -20)]);
    expect(nudged[left] - rest).toBe(nudged[right] - panel.joints[right].rest);
    expect(Math.abs(nudged[left] - rest)).toBe(20);
    // Its image may not go there: neither goes.
    const narrow = structuredClone(rig.value) as {
      mechanism: { joints: { name?: string; id: string; limits?: { min?: number; max?: number } }[] };
    };
    const other = narrow.mechanism.joints.find((joint) => (joint.name ?? joint.id) === panel.joints[right].name)!;
    const end = target > rest ? { max: (target - 10) / 10 } : { min: (target + 10) / 10 };
    other.limits = { ...other.limits, ...end };
    const less = described(narrow, id);
    const lesser = compile(sources(less, 'panel', { kind: 'registers', registers: registersOf(less, 7, 19200) }));
    const refused = live(lesser, [
      ...write(1, 1),
      `. ${own.rig.powerUp.gapMs * own.motors.length * 1000 + 1_000_000}`,
      ...[write(8, 1), write(10 + left, target), read(10 + left, 1)].flat(),
    ]).filter(({ bytes }) => bytes.length);
    expect([...refused.at(-2)!.bytes.subarray(1, 3)]).toEqual([6 | 0x80, 3]);
    expect(values([...refused.at(-1)!.bytes.subarray(0, -2)])).toEqual([rest]);
    // A rig without sides has no such thing.
    const { given } = answers([write(8, 1), read(8, 1)]);
    expect(given[0]!.slice(1)).toEqual([6 | 0x80, 3]);
    expect(values(given[1])).toEqual([0]);
  });

  it.each(demoRigs().map(({ id }) => id))(
    'of %s: each joint that a motor moves alone goes where it is told',
    (id) => {
      const document = demoRigs().find((rig) => rig.id === id)!.rig as Rig;
      const own = described(document, linedBoards(document)[0].id);
      const panel = registersOf(own, 7, 19200);
      const panelled = compile(sources(own, 'panel', { kind: 'registers', registers: panel }));
      expect(panel.joints.length).toBeGreaterThan(1);
      // A third of the way from rest to an end of it, all at once.
      const targets = panel.joints.map(({ low, high, rest }) =>
        Math.round(rest + ((high - rest > rest - low ? high : low) - rest) / 3),
      );
      const heard = live(panelled, [
        ...write(1, 1),
        `. ${own.rig.powerUp.gapMs * own.motors.length * 1000 + 1_000_000}`,
        ...write(3, 100),
        ...targets.flatMap((target, k) => write(10 + k, target)),
        '. 60000000',
      ]);
      const happened = heard.flatMap((part) => part.happened);
      panel.joints.forEach(({ low, high, places, motors, name }, k) => {
        const at = ((targets[k] - low) / (high - low)) * (places[0].length - 1);
        const n = Math.min(places[0].length - 2, Math.floor(at));
        motors.forEach((motor, m) => {
          const wanted = places[m][n] + (places[m][n + 1] - places[m][n]) * (at - n);
          expect(Math.abs(track(happened, own, motor)(Infinity) - wanted), name).toBeLessThanOrEqual(1);
        });
      });
    },
  );
});
