import fc from 'fast-check';
import { describe as group, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../../demo';
import { linedBoards } from '../../actuators';
import { compile, live, type Happened } from '../../firmware/compiled.testkit';
import { onDisplay } from '../../firmware/display';
import type { Rig } from '../../rig';
import { exportOf, type Source } from '../index';
import { sourceOf } from './source.testkit';

/**
 * A display as its controller's data sheet describes it, behind a port of eight lines: a half of a byte is taken as the enable line falls,
 * one for a whole instruction while it has eight lines, two once it has four.
 */
class Shown {
  private lines = 0;
  private hasFour = false;
  private half: number | null = null;
  private place = 0;
  private memory = new Map<number, string>();
  isOn = false;
  isLit = false;
  private last = -1e9;

  take({ micros, values }: Happened): void {
    for (const lines of values) {
      if (this.lines & 4 && !(lines & 4)) this.latch(this.lines >> 4, this.lines & 1, micros);
      // Register and data stand while the enable line rises and falls.
      if ((this.lines ^ lines) & 4) expect(this.lines & ~4).toBe(lines & ~4);
      this.lines = lines;
    }
    this.isLit = (this.lines & 8) !== 0;
  }
  private latch(four: number, letter: number, micros: number): void {
    if (!this.hasFour) return this.instruct(four << 4, micros);
    if (this.half === null) this.half = four;
    else {
      const byte = (this.half << 4) | four;
      this.half = null;
      if (letter) this.write(byte);
      else this.instruct(byte, micros);
    }
  }
  private write(byte: number): void {
    this.memory.set(this.place, String.fromCharCode(byte));
    this.place = (this.place + 1) & 127;
  }
  private instruct(byte: number, micros: number): void {
    // What empties it takes 1.6 ms, the first ones up to 4.1.
    expect(micros - this.last).toBeGreaterThan(4000);
    this.last = micros;
    if (byte & 128) this.place = byte & 127;
    else if (byte & 32) this.hasFour = !(byte & 16);
    else if (byte & 8) this.isOn = (byte & 4) !== 0;
    else if (byte === 1) [this.memory, this.place] = [new Map(), 0];
  }
  rows(columns: number, rows: number): string[] {
    return Array.from({ length: rows }, (_, row) =>
      Array.from(
        { length: columns },
        (__, k) => this.memory.get((row & 1 ? 64 : 0) + (row & 2 ? columns : 0) + k) ?? ' ',
      ).join(''),
    );
  }
}

/** The dipper, its board with a bus. */
function dipper(): Rig {
  const rig = structuredClone(tileDipper());
  for (const pin of rig.boards[0].pins) if (pin.pin >= 18) pin.can = ['bus', 'analog', 'output', 'input'];
  return rig;
}
const made = (source: Source, kind: string, display: string, displayAt = 39) => {
  const firmware = exportOf('firmware')!;
  const chosen = { kind, display, displayAt, board: linedBoards(source.rig)[0].id };
  return {
    lacks: firmware.lacks(source, chosen).map(({ code }) => code),
    files: () => [...firmware.write(source, chosen)].map(({ name, text }) => ({ name, text: String(text) })),
  };
};
/** The display after each order. */
const lived = (program: string, orders: readonly string[], columns: number, rows: number) => {
  const shown = new Shown();
  return live(program, orders).map(({ happened }) => {
    happened.filter(({ what, at }) => what === 'bus' && at === 39).forEach((event) => shown.take(event));
    return { rows: shown.rows(columns, rows), isOn: shown.isOn, isLit: shown.isLit };
  });
};

group('a text display', () => {
  it.each([
    ['table-player', ['. 5000000', '> g', '. 4000000'], ['motors off', 'playing']],
    ['step-player', ['. 5000000', '> g', '. 4000000'], ['motors off', 'playing']],
    ['bridge', ['. 5000000'], ['motors off']],
    ['register-slave', ['. 5000000'], ['motors off']],
  ] as const)('%s: says whose board it is, what it was made from, and what it does', (kind, orders, said) => {
    const source = sourceOf(dipper());
    for (const [size, columns, rows] of [
      ['16x2', 16, 2],
      ['20x4', 20, 4],
    ] as const) {
      const { lacks, files } = made(source, kind, size);
      expect(lacks).toEqual([]);
      const program = compile(files());
      const looks = lived(program, ['. 1000000', ...orders], columns, rows);
      const row = (words: string): string => words.padEnd(columns).slice(0, columns);
      const print = looks[1].rows;
      expect(looks[1]).toMatchObject({ isOn: true, isLit: true });
      expect(print[0]).toBe(row('Tile dipper'));
      // Two rows say what it was made from for a while; four have room for it.
      expect(print[rows === 2 ? 1 : 2]).toMatch(/^(rev )?7 [0-9a-f]{8} *$/);
      expect(looks[2].rows[1]).toBe(row(said[0]));
      expect(looks.at(-1)!.rows[1]).toBe(row(said[said.length - 1]));
      if (rows === 4) expect(looks.at(-1)!.rows[2]).toBe(print[2]);
    }
  });
  it('that is plugged in late, or goes and comes again, shows all of it', () => {
    const program = compile(made(sourceOf(dipper()), 'table-player', '16x2').files());
    const looks = lived(
      program,
      [
        'absent 39',
        '. 3000000',
        'present 39',
        '. 4000000',
        'absent 39',
        '> g',
        '. 3000000',
        'present 39',
        '. 3000000',
      ],
      16,
      2,
    );
    expect(looks[2].rows.join('').trim()).toBe('');
    expect(looks[4].rows).toEqual(['Tile dipper     ', 'motors off      ']);
    expect(looks.at(-1)!.rows).toEqual(['Tile dipper     ', 'playing         ']);
  });
  it('takes nothing from what motors are sent', () => {
    const source = sourceOf(dipper());
    const pulses = (display: string) =>
      live(compile(made(source, 'table-player', display).files()), ['. 2000000', '> g', '. 9000000'])
        .flatMap(({ happened }) => happened)
        .filter(({ what }) => what !== 'bus');
    expect(pulses('20x4')).toEqual(pulses('none'));
  });
  it('hangs on pins of a bus that nothing else is on, at an address of its own', () => {
    const on = (change: (rig: Rig) => void): string[] => {
      const rig = structuredClone(dipper());
      change(rig);
      return made(sourceOf(rig), 'bridge', '16x2').lacks;
    };
    expect(on(() => undefined)).toEqual([]);
    const board = (rig: Rig) => rig.boards[0];
    expect(on((rig) => board(rig).pins.forEach((pin) => (pin.can = pin.can.filter((can) => can !== 'bus'))))).toEqual(
      ['firmware-no-bus'],
    );
    expect(
      on((rig) => {
        const { pin } = board(rig).pins.find(({ can }) => can.includes('bus'))!;
        rig.wiring[0] = { ...rig.wiring[0], channel: pin };
        board(rig)
          .pins.find((each) => each.pin === pin)!
          .can.push('pulse');
      }),
    ).toContain('firmware-bus-taken');
    const encoder = (address: number) => (rig: Rig) => {
      rig.sensors.push({
        ...{
          id: 'e',
          name: 'Encoder',
          kind: 'encoder',
          joint: 'turn',
          side: 'joint',
          countsPerTurn: 4096,
          wraps: true,
        },
        ...{ board: board(rig).id, channel: 18, address, port: null, note: '' },
      } as Rig['sensors'][number]);
    };
    expect(on(encoder(39))).toEqual(['firmware-bus-address']);
    expect(on(encoder(38))).toEqual([]);
  });
  it('is counted in what a small board holds', () => {
    const sized = (display: string, motors: number): string[] => {
      const rig = dipper();
      Object.assign(rig.boards[0], { kind: 'small-8-bit' });
      // Motors side by side, each on a pin of its own, until memory is short.
      for (let k = rig.drives.length; k < motors; k++) {
        const [drive, tie, wire] = [rig.drives[0], rig.transmissions[0], rig.wiring[0]].map((each) =>
          structuredClone(each),
        ) as [Rig['drives'][number], Rig['transmissions'][number], Rig['wiring'][number]];
        rig.mechanism.joints.push({
          ...structuredClone(rig.mechanism.joints[0]),
          id: `j${k}`,
          name: `Joint ${k}`,
        } as never);
        rig.drives.push({ ...drive, id: `d${k}`, name: `Motor ${k}` });
        rig.transmissions.push({ ...tie, id: `t${k}`, joints: [`j${k}`], drives: [`d${k}`] } as never);
        rig.wiring.push({ ...wire, id: `w${k}`, drive: `d${k}`, channel: k });
      }
      return made(sourceOf(rig), 'bridge', display).lacks;
    };
    const full = Array.from({ length: 14 }, (_, k) => k + 5).find((motors) =>
      sized('20x4', motors).includes('firmware-memory'),
    )!;
    expect(sized('none', full)).not.toContain('firmware-memory');
    expect(sized('none', 5)).toEqual([]);
  });
  it('has letters that every display has', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 40 }), (name) => {
        for (const letter of onDisplay(name)) expect(letter).toMatch(/^[ -[\]-}]$/);
      }),
    );
    expect(onDisplay('Häuschen ß')).toBe('Hauschen ss');
    for (const { rig } of demoRigs()) expect(onDisplay(rig.name)).toBe(rig.name);
  });
});
