import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { commandMaps } from '../actuators';
import { admit } from '../admit';
import { MAX_ROWS, unfold } from '../commands';
import { forward } from '../kinematics';
import { importOf } from '../imports';
import { asTree, type Rig, type Step } from '../rig';
import { presets, rigFromPreset } from '../presets';
import { planCommands, planRoutine } from '../routine';
import { below } from '../units/held.testkit';
import { commandsOf, defaultsOf, exportList, exportOf, optionFields, optionsSchema, type Source } from './index';

/** A rig as the page hands it to exports, its first routine planned. */
function sourceOf(rig: Rig, q?: Float64Array): Source {
  const admitted = admit(rig);
  if (!admitted.ok) throw new Error(admitted.faults[0].message);
  const { mechanism, build } = admitted;
  const routine = rig.routines.at(0);
  const plan = routine && planRoutine(rig, mechanism, build, routine);
  const motion = plan && planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
  return {
    ...{ rig, mechanism, build, rigId: 'one', q: q ?? mechanism.home },
    planned: routine ? { routine, plan: plan!, motion: motion! } : null,
  };
}
const rigs = [
  ...demoRigs().map(({ rig }) => rig),
  ...presets.flatMap((preset) => {
    const made = rigFromPreset(preset, preset.name);
    return made.ok ? [made.value] : [];
  }),
];
const sources = rigs.map((rig) => sourceOf(rig));
const anySource = fc.constantFrom(...sources);
/** Any values of an export’s options. */
const anyOptions = (id: string): fc.Arbitrary<Record<string, unknown>> =>
  fc.record(
    Object.fromEntries(
      optionFields(exportOf(id)!.options).flatMap((field): [string, fc.Arbitrary<unknown>][] => {
        if (field.kind === 'choice') return [[field.key, fc.constantFrom(...field.choices.map((c) => c.value))]];
        if (field.kind === 'yes-no') return [[field.key, fc.boolean()]];
        if (field.kind === 'number')
          return [[field.key, fc.integer({ min: field.min, max: Math.min(field.max, 200) })]];
        return [];
      }),
    ),
    { requiredKeys: [] },
  );

describe('every export', () => {
  it('has a field with words for each of its options, and defaults that its schema takes', () => {
    for (const { options, id } of exportList) {
      const fields = optionFields(options);
      expect(fields.map(({ key }) => key)).toEqual(Object.keys(optionsSchema(options).properties ?? {}));
      for (const { key, title } of fields) expect(title, `${id}.${key}`).not.toBe(key);
      expect(options.safeParse(defaultsOf(options)).success).toBe(true);
    }
    expect(new Set(exportList.map(({ id }) => id)).size).toBe(exportList.length);
  });
  it.each(exportList.map(({ id }) => id))('%s writes whole files, or says what is missing for them', (id) => {
    const made = exportOf(id)!;
    fc.assert(
      fc.property(anySource, anyOptions(id), (source, options) => {
        const lacks = made.lacks(source, options);
        const files = made.write(source, options);
        // One of both, never neither: what is offered can be had.
        expect(files.length > 0).toBe(lacks.length === 0);
        for (const { severity, place } of lacks) {
          expect(severity).toBe('stop');
          expect(place.station).not.toBe('');
        }
        for (const { name, text } of files) {
          expect(name).toMatch(/^(one[a-z0-9-]*\/)?(one[a-z0-9-]*|rig)(\.rig)?\.[a-z]+$/);
          expect(text.length).toBeGreaterThan(10);
          expect(text).not.toMatch(/NaN|undefined|Infinity/);
        }
      }),
      { numRuns: 25 },
    );
  });
  it('commands as a C header are the numbers of the table, in a header that compiles', () => {
    const made = exportOf('commands')!;
    for (const source of sources.filter((one) => !made.lacks(one, {}).length)) {
      const [{ text, name }] = made.write(source, { format: 'h', rateHz: 20 });
      expect(name).toMatch(/\.h$/);
      const table = commandsOf(source, 20)!;
      const rows = [...text.matchAll(/^ {2}\{([-\d, ]+)\},$/gm)].map((m) => m[1].split(', ').map(Number));
      expect(rows).toEqual(Array.from(table.timeS, (_, k) => table.natives.map((numbers) => numbers[k])));
      const { status, stderr } = spawnSync(
        process.env.CXX ?? 'g++',
        [
          '-fsyntax-only',
          '-Wall',
          '-Wextra',
          '-Werror',
          '-Wno-unused-variable',
          '-Wno-unused-const-variable',
          '-x',
          'c++',
          '-',
        ],
        { input: text.replace('#pragma once', ''), encoding: 'utf8' },
      );
      expect(status, stderr).toBe(0);
    }
  });
  it('a packed header reads back to the rows of the table, in C', () => {
    const made = exportOf('commands')!;
    const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-header-'));
    for (const [n, source] of sources.filter((one) => !made.lacks(one, {}).length).entries()) {
      for (const form of ['whole', 'change'] as const) {
        const [plain, packed] = [false, true].map(
          (is) => made.write(source, { format: 'h', rateHz: 50, form, packed: is })[0].text,
        );
        const rows = [...plain.matchAll(/^ {2}\{([-\d, ]+)\},$/gm)].map((m) => m[1].split(', ').map(Number));
        const main = `${packed.replace('#pragma once', '')}
#include <stdio.h>
int main(void) {
  CommandReader r = {0};
  while (commands_next(&r)) {
    for (int k = 0; k < COMMAND_COLUMNS; k++) printf("%ld ", (long)r.now[k]);
    printf("\\n");
  }
}`;
        const program = join(folder, `read-${n}-${form}`);
        const { status, stderr } = spawnSync(
          process.env.CC ?? 'gcc',
          ['-std=c99', '-Wall', '-Wextra', '-Werror', '-x', 'c', '-', '-o', program],
          { input: main, encoding: 'utf8' },
        );
        expect(status, stderr).toBe(0);
        const read = spawnSync(program, { encoding: 'utf8', maxBuffer: 1 << 26 })
          .stdout.trimEnd()
          .split('\n')
          .map((line) => line.trim().split(' ').map(Number));
        expect(read).toEqual(rows);
        const size = (text: string): number => Number(/(\d+) bytes\.$/m.exec(text)![1]);
        if (form === 'whole') expect(size(packed)).toBeLessThan(size(plain));
      }
    }
    rmSync(folder, { recursive: true });
  });
  it('commands say the same in each form: changes add up, duty, counts of 4096 and share are the pulse', () => {
    const made = exportOf('commands')!;
    for (const source of sources.filter((one) => !made.lacks(one, {}).length)) {
      const of = (form: string) =>
        JSON.parse(made.write(source, { format: 'json', rateHz: 20, form })[0].text) as {
          units: Record<string, string>;
          motors: Record<string, number[]>;
        };
      const [whole, change, duty, driver, share] = ['whole', 'change', 'duty', 'driver', 'share'].map(of);
      for (const [id, numbers] of Object.entries(whole.motors)) {
        let sum = 0;
        expect(change.motors[id].map((by) => (sum += by))).toEqual(numbers);
        const drive = source.rig.drives.find((d) => d.id === id)!;
        if (!('updateHz' in drive) || !('minUs' in drive)) {
          expect(duty.motors[id]).toEqual(numbers);
          continue;
        }
        const { updateHz, minUs, maxUs } = drive;
        expect(driver.motors[id]).toEqual(numbers.map((us) => Math.round((us * updateHz * 4096) / 1e6)));
        numbers.forEach((us, row) => {
          below(Math.abs(duty.motors[id][row] - (us * updateHz) / 1e4), 5e-10);
          below(Math.abs(share.motors[id][row] - (us - minUs) / (maxUs - minUs)), 5e-10);
        });
        expect(driver.units[id]).toBe('of_4096');
      }
    }
  });
  it('commands of poses only have a row where each move ends, and loops once say how often', () => {
    const made = exportOf('commands')!;
    let folded = 0;
    const dipper = tileDipper();
    const [first] = dipper.routines;
    const step = (kind: string, of: object = {}) =>
      ({ id: kind, kind, note: '', enabled: true, ...of }) as unknown as Step;
    const lapping = { ...first, steps: [step('repeat', { times: 4 }), ...first.steps, step('end')] };
    const looping = sourceOf({ ...dipper, routines: [lapping, ...dipper.routines.slice(1)] });
    for (const source of [looping, ...sources.filter((one) => !made.lacks(one, {}).length)]) {
      const { planned } = source;
      const read = (rows: string) =>
        JSON.parse(made.write(source, { format: 'json', rows })[0].text) as {
          timeS: number[];
          motors: Record<string, number[]>;
          again?: { first: number; last: number; times: number }[];
        };
      const poses = read('poses');
      expect(poses.again).toBeUndefined();
      for (const { startS, block } of planned!.plan.blocks)
        expect(Math.min(...poses.timeS.map((t) => Math.abs(t - startS - block.duration)))).toBeLessThan(1e-6);
      const once = read('folded');
      folded += once.again!.length;
      // Done again and again it is all the poses, each taking as long.
      const order = unfold({ kept: [...once.timeS.keys()], folds: once.again! });
      for (const [id, numbers] of Object.entries(poses.motors))
        expect(order.map((k) => once.motors[id][k])).toEqual(numbers);
      const takes = (k: number, times: number[]): number => (k ? times[k] - times[k - 1] : 0);
      order.forEach((k, row) => expect(takes(k, once.timeS)).toBeCloseTo(takes(row, poses.timeS), 2));
    }
    expect(folded).toBeGreaterThan(0);
  });
  it('a CSV has the decimals, first column, and head that were chosen', () => {
    const made = exportOf('commands')!;
    const source = sources.find((one) => !made.lacks(one, {}).length)!;
    const lines = (of: object): string[][] =>
      made
        .write(source, { rateHz: 20, ...of })[0]
        .text.trimEnd()
        .split('\r\n')
        .map((line) => line.split(','));
    const [plain, bare, numbered] = [lines({}), lines({ head: false }), lines({ first: 'number', decimals: 4 })];
    expect(bare).toEqual(plain.slice(1));
    expect(numbered.slice(1).map(([first]) => first)).toEqual(plain.slice(1).map((_, k) => String(k)));
    expect(numbered[0][0]).toBe('row');
    const joint = plain[0].findIndex((name) => name.endsWith('_deg'));
    expect(plain[1][joint]).toMatch(/^-?\d+\.\d{2}$/);
    expect(numbered[1][joint]).toMatch(/^-?\d+\.\d{4}$/);
    expect(Math.abs(Number(numbered[1][joint]) - Number(plain[1][joint]))).toBeLessThan(0.006);
  });
  it('commands of what changes leave out rows that say nothing new, and no others', () => {
    const made = exportOf('commands')!;
    for (const source of sources.filter((one) => !made.lacks(one, {}).length)) {
      const [all, some] = ['all', 'changed'].map((rows) => {
        const [{ text }] = made.write(source, { format: 'json', rateHz: 50, rows });
        return JSON.parse(text) as { timeS: number[]; motors: Record<string, number[]> };
      });
      expect(some.timeS.length).toBeLessThanOrEqual(all.timeS.length);
      // What a motor is told at any moment is what the last row before it says.
      for (const [id, numbers] of Object.entries(all.motors)) {
        let k = 0;
        const lastSaid = all.timeS.map((t) => {
          while (k + 1 < some.timeS.length && some.timeS[k + 1] <= t) k++;
          return some.motors[id][k];
        });
        expect(lastSaid).toEqual(numbers);
      }
      const told = Object.values(some.motors);
      for (let k = 1; k < some.timeS.length - 1; k++)
        expect(told.some((numbers) => numbers[k] !== numbers[k - 1])).toBe(true);
    }
  });
  it('refuses options that its schema does not have', () => {
    for (const { write, lacks } of exportList) {
      expect(() => write(sources[0], { no: 1 })).toThrow();
      expect(() => lacks(sources[0], { no: 1 })).toThrow();
    }
  });
});

describe('what is written', () => {
  it('comes back by its import: sentences as the same steps, a table of joints as the same arm', () => {
    for (const source of sources) {
      const [text] = exportOf('sentences')!.write(source, {});
      if (text) {
        const read = importOf('sentences')!.read(text.text, source.rig);
        expect(read.problems).toEqual([]);
        const draft = structuredClone(source.rig) as Rig;
        read.edit!(draft);
        const bare = (steps: readonly { id: string }[]): unknown[] => steps.map(({ id: _, ...step }) => step);
        expect(bare(draft.routines.at(-1)!.steps)).toEqual(bare(source.planned!.routine.steps));
        expect(admit(draft).ok).toBe(true);
      }
    }
    for (const convention of ['standard', 'modified'] as const)
      for (const rig of [tileDipper(), kilnLoader()]) {
        const source = sourceOf(rig);
        const tool = source.mechanism.tools.find(({ id }) => !exportOf('dh')!.lacks(source, { tool: id }).length);
        if (!tool) continue;
        const [file] = exportOf('dh')!.write(source, { convention, tool: tool.id });
        // The wrong settings are chosen: the text says its own.
        const read = importOf('dh')!.read(file.text, rig, { convention: 'standard', angle: 'deg', length: 'mm' });
        const draft = structuredClone(rig) as Rig;
        read.edit!(draft);
        const back = admit(draft);
        if (!back.ok) throw new Error(back.faults[0].message);
        expect(asTree(back.rig.mechanism).joints.length).toBeGreaterThan(2);
        const [a, b] = [source.mechanism, back.mechanism].map((m, k) =>
          forward(m, new Float64Array(m.m)).tools.get(k ? 'tool' : tool.id)!,
        );
        a.forEach((v, i) => expect(b[i]).toBeCloseTo(v, 9));
      }
  });
  it('a rig file opens as the same rig', () => {
    for (const source of sources) {
      const [{ text }] = exportOf('rig')!.write(source, {});
      const back = admit(JSON.parse(text));
      expect(back.ok && back.rig).toEqual(source.rig);
    }
  });
  it('a program that would be busy all the time of a small board is refused, and no other', () => {
    const loader = kilnLoader();
    const on = (kind: string): Rig => ({
      ...loader,
      boards: loader.boards.map((board) => (board.id === 'steps' ? { ...board, kind } : board)) as Rig['boards'],
    });
    const codes = (kind: string, program: string): string[] =>
      exportOf('firmware')!
        .lacks(sourceOf(on(kind)), { kind: program, board: 'steps' })
        .map(({ code }) => code);
    for (const program of ['bridge', 'register-slave']) {
      expect(codes('large-8-bit', program)).toEqual(['firmware-slow']);
      expect(codes('32-bit', program)).toEqual([]);
    }
  });
  it('a step player says what it cannot do of a routine, each in a sentence of its own', () => {
    const dipper = tileDipper();
    const [first, ...others] = dipper.routines;
    const step = (kind: string, k: number, of: object): Step =>
      ({ id: `x${k}`, kind, note: '', enabled: true, ...of }) as unknown as Step;
    const counter = (name: string, add: number, k: number): Step =>
      step('counter', k, { counter: name, change: { add } });
    const lacksOf = (...steps: Step[]): string[] => {
      const rig = {
        ...dipper,
        routines: [{ ...first, steps: [...steps, ...first.steps] }, ...others],
        signals: [
          ...dipper.signals,
          {
            id: 'afar',
            name: 'Afar',
            note: '',
            way: 'in',
            board: null,
            channel: null,
            activeLow: null,
            pull: 'none',
          },
        ],
      } as unknown as Rig;
      return exportOf('firmware')!
        .lacks(sourceOf(rig), { kind: 'step-player' })
        .map(({ code }) => code);
    };
    expect(lacksOf()).toEqual([]);
    expect(lacksOf(counter('half', 0.5, 0))).toEqual(['firmware-fraction']);
    expect(lacksOf(...Array.from({ length: 256 }, (_, k) => counter(`c${k}`, 1, k)))).toEqual(['firmware-too-many']);
    expect(lacksOf(...Array.from({ length: 255 }, (_, k) => counter(`c${k}`, 1, k)))).toEqual([]);
    const waits = step('wait-input', 0, { signal: 'afar', is: true, timeoutS: 1, otherwise: 'go-on' });
    expect(lacksOf(waits)).toEqual(['firmware-elsewhere']);
    const wander = { target: { shift: { joints: { turn: 0.2 } } }, pace: { speedShare: 1 } };
    expect(lacksOf(step('repeat', 0, { times: null }), step('joint-move', 1, wander), step('end', 2, {}))).toEqual([
      'firmware-endless',
    ]);
  });
  it('a board by itself plays no step past what is confirmed of a joint on the build, whatever build was asked before', () => {
    const rig = tileDipper();
    const [build] = rig.builds;
    const codes = (own: typeof build): string[] =>
      exportOf('firmware')!
        .lacks({ ...sourceOf(rig), build: own }, { kind: 'step-player' })
        .map(({ code }) => code);
    expect(codes(build)).toEqual([]);
    expect(codes({ ...build, confirmed: { turn: { min: -1, max: 1 } } })).toEqual(['firmware-fault']);
    expect(codes(build)).toEqual([]);
  });
  it('commands say what is missing: motion, motors on pins, or room for the rows', () => {
    const { write, lacks } = exportOf('commands')!;
    const source = sourceOf(tileDipper());
    const codes = (s: Source, options: object): string[] => lacks(s, options).map(({ code }) => code);
    expect(codes({ ...source, planned: null }, {})).toEqual(['export-no-routine']);
    const unwired = { ...structuredClone(tileDipper()), wiring: [] } as Rig;
    // What is on no pin is handed off all the same, and says so.
    expect(codes({ ...sourceOf(unwired), planned: source.planned }, {})).toEqual([]);
    expect(write(sourceOf(unwired), {})[0].text.split('\r\n')[0]).toContain('turn_us (no pin)');
    const bare = { ...unwired, drives: [], transmissions: [] } as Rig;
    bare.builds = [{ ...bare.builds[0], calibrations: [], trims: {} }];
    expect(codes({ ...sourceOf(bare), planned: source.planned }, {})).toEqual(['export-no-motors']);
    const motion = { ...source.planned!.motion, durationS: MAX_ROWS / 100 };
    const long = { ...source, planned: { ...source.planned!, motion } };
    expect(codes(long, { rateHz: 100 })).toEqual([]);
    expect(codes(long, { rateHz: 101 })).toEqual(['table-too-long']);
    expect(write(long, { rateHz: 101 })).toEqual([]);
  });
  it('commands are the same numbers as CSV and as JSON', () => {
    const source = sourceOf(tileDipper());
    const [csv, json] = ['csv', 'json'].map((format) => exportOf('commands')!.write(source, { format })[0].text);
    const { timeS, motors } = JSON.parse(json) as { timeS: number[]; motors: Record<string, number[]> };
    const rows = csv.trim().split('\r\n').slice(1);
    expect(rows.length).toBe(timeS.length);
    rows.forEach((row, i) => {
      const cells = row.split(',').map(Number);
      expect(cells.slice(1, 1 + Object.keys(motors).length)).toEqual(Object.values(motors).map((of) => of[i]));
    });
  });
  it('a drawing shows what its options say', () => {
    const source = sourceOf(tileDipper());
    const drawn = (options: object): string => exportOf('drawing')!.write(source, options)[0].text;
    for (const [option, mark] of [
      ['dimensions', 'class="dimension'],
      ['frames', 'class="frame-axis'],
      ['path', 'class="trace'],
    ] as const) {
      expect(drawn({ [option]: true }), option).toContain(mark);
      expect(drawn({ [option]: false }), option).not.toContain(mark);
    }
    expect(drawn({ view: 'plan' })).not.toBe(drawn({ view: 'side' }));
    const bent = source.q.map((v, k) => v + 0.1 * (k + 1));
    expect(exportOf('drawing')!.write({ ...source, q: bent }, {})[0].text).not.toBe(drawn({}));
  });
});
