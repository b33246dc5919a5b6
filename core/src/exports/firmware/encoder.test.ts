import { describe as group, expect, it } from 'vitest';
import { commandMaps, isSpin, nativeAt } from '../../actuators';
import { dipperWithEncoders, encoderPins } from '../../firmware/boards.testkit';
import { compile, live, type Heard } from '../../firmware/compiled.testkit';
import { sampleBuffers } from '../../motion';
import type { Rig } from '../../rig';
import { newBoard } from '../../wiring';
import { exportOf } from '../index';
import { sourceOf } from './source.testkit';

const firmware = exportOf('firmware')!;
/** The dipper with encoders, changed. */
function changed(edit: (rig: Rig) => void): Rig {
  const document = dipperWithEncoders(2);
  edit(document);
  return document;
}
/** What keeps a bridge from being made. */
const said = (edit: (rig: Rig) => void): string[] =>
  firmware
    .lacks(sourceOf(changed(edit)), { kind: 'bridge', board: 'big' })
    .map(({ code, message }) => `${code}: ${message}`);
const wire = (rig: Rig): Rig['wiring'][number] => rig.wiring.find(({ drive }) => drive === 'm-elbow')!;
const elbow = (rig: Rig) => rig.drives.find(({ id }) => id === 'm-elbow') as { speedDegPerS: number };

group('firmware for motors with an encoder', () => {
  it('is made where all pins are given, and names what is not driven where one is missing', () => {
    expect(said(() => {})).toEqual([]);
    for (const role of ['direction', 'firstTrack', 'secondTrack'] as const)
      expect(said((rig) => delete wire(rig)[role]).join()).toMatch(/^firmware-strange: Elbow servo .*both tracks/);
  });
  it('refuses tracks that are faster than the tick, and takes just those that are not', () => {
    // 2248 counts a turn: 10,000 a second are 1601.4 °/s.
    expect(said((rig) => (elbow(rig).speedDegPerS = 1601))).toEqual([]);
    expect(said((rig) => (elbow(rig).speedDegPerS = 1602))).toEqual([
      expect.stringMatching(/^firmware-counts: .* 10004 counts .* 10000/),
    ]);
  });
  it('refuses duties on pins whose timers are taken', () => {
    const on = (pin: number, more: (rig: Rig) => void = () => {}): string[] =>
      said((rig) => {
        wire(rig).channel = pin;
        more(rig);
      });
    for (const pin of [9, 10]) expect(on(pin)).toEqual([expect.stringMatching(/firmware-duty-pin: .*the tick/)]);
    expect(on(45)).toEqual([expect.stringMatching(/firmware-duty-pin: .*servos/)]);
    expect(on(8)).toEqual([]);
    // Servos on a driver leave their timer alone.
    const driver = (rig: Rig): void => {
      rig.boards.push({ ...newBoard('pwm-driver', 'd'), host: 'big', address: 64 });
      for (const each of rig.wiring) if (each.firstTrack === undefined) Object.assign(each, { board: 'd' });
    };
    expect(on(45, driver)).toEqual([]);
  });
});

group('players with motors with an encoder', () => {
  const source = sourceOf(dipperWithEncoders(2));
  const { mechanism, rig, build } = source;
  const { motion } = source.planned;
  const most = (2248 * 600) / 360;
  const ids = ['m-elbow', 'm-shoulder'];
  const turning = (k: number, full: number): string => {
    const { duty, direction, first, second } = encoderPins[k];
    return `turning ${duty} ${direction} ${first} ${second} ${full} 30 0`;
  };
  const begin = [turning(0, most), turning(1, most), '. 1000', ...ids.map((_, k) => `shaft ${encoderPins[k].duty}`)];
  const where = (heard: readonly Heard[], k: number): number[] =>
    heard.flatMap(({ happened }) =>
      happened.flatMap(({ what, at, values }) => (what === 'shaft' && at === encoderPins[k].duty ? values : [])),
    );
  const program = (kind: string): string =>
    compile(
      [...firmware.write(source, { kind, board: 'big' })].map(({ name, text }) => ({ name, text: String(text) })),
    );
  const dutiesOf = (heard: readonly Heard[], k: number): number[] =>
    heard.flatMap(({ happened }) =>
      happened.flatMap(({ what, at, values }) => (what === 'duty' && at === encoderPins[k].duty ? values : [])),
    );

  it.each(['step-player', 'table-player'])('%s: they end where the plan does', (kind) => {
    const end = sampleBuffers(mechanism.m);
    motion.sampleInto(...end, motion.durationS);
    const heard = live(program(kind), [
      ...begin,
      '> g',
      `. ${Math.round((motion.durationS + 12) * 1e6)}`,
      ...ids.map((_, k) => `shaft ${encoderPins[k].duty}`),
    ]);
    ids.forEach((id, k) => {
      const map = commandMaps(rig, mechanism, build).find(({ drive }) => drive.id === id)!;
      if (isSpin(map)) throw new Error(id);
      // Woken where the arm is expected to rest.
      const rest = rig.poses.find((pose) => pose.id === rig.powerUp.rest)!.joints;
      const q = mechanism.home.slice();
      for (const [joint, value] of Object.entries(rest)) {
        const slot = mechanism.slotIds.indexOf(joint);
        if (slot >= 0) q[slot] = (value * Math.PI) / 180;
      }
      const [from, to] = where(heard, k);
      expect(
        Math.abs(to - from - (nativeAt(map, mechanism, end[0])! - nativeAt(map, mechanism, q)!)),
      ).toBeLessThanOrEqual(3);
      expect(dutiesOf(heard, k).length).toBeGreaterThan(20);
    });
  });
  it('step-player: says that they do not know where they are, and why it homes none', () => {
    const [main] = [...firmware.write(source, { kind: 'step-player', board: 'big' })];
    expect(String(main.text)).toMatch(
      /Motors with an encoder do not know where they are: .* This program homes nothing\. \w+ .*\./,
    );
  });
  it.each(['step-player', 'table-player'])(
    '%s: all stands where one is stuck, and begins anew once all are off',
    (kind) => {
      const heard = live(program(kind), [
        ...begin,
        '> g',
        '. 9000000',
        turning(0, 0),
        '. 6000000',
        // From here on nothing moves, though it is told to go on.
        '> g',
        '. 3000000',
        turning(0, most),
        '> o',
        '. 1000000',
        '> g',
        '. 6000000',
      ]);
      // What it says as it begins comes first.
      const [going, stopping, held, again] = [7, 9, 11, 16].map((k) => [heard[k]]);
      expect(dutiesOf(going, 0).length).toBeGreaterThan(0);
      expect(dutiesOf(stopping, 0).at(-1)).toBe(0);
      const pulses = (parts: readonly Heard[]): number =>
        parts.flatMap(({ happened }) => happened).filter(({ what }) => what === 'pulse').length;
      expect([pulses(held), dutiesOf(held, 0)]).toEqual([0, []]);
      expect(dutiesOf(again, 0).length).toBeGreaterThan(0);
    },
  );
});
