import { spawnSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { commandMaps } from '../actuators';
import { admit } from '../admit';
import { MAX_ROWS } from '../commands';
import { forward } from '../kinematics';
import { importOf } from '../imports';
import { asTree, type Rig } from '../rig';
import { presets, rigFromPreset } from '../presets';
import { planCommands, planRoutine } from '../routine';
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
        all.timeS.forEach((t, row) => {
          while (k + 1 < some.timeS.length && some.timeS[k + 1] <= t) k++;
          expect(some.motors[id][k]).toBe(numbers[row]);
        });
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
