import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { admit } from '../admit';
import { finish } from '../jobs';
import { presets, rigFromPreset } from '../presets';
import type { Rig } from '../rig';
import { changeOf, figuresCsv, laidBeside, loadFigures, type Figure } from './index';

const figuresOf = (document: Rig): Figure[] => {
  const made = admit(document);
  if (!made.ok) throw new Error(made.faults[0].message);
  const { rig, mechanism } = made;
  return finish(loadFigures(rig, mechanism, rig.builds[0], 25));
};
const named = (figures: readonly Figure[], group: RegExp, name: RegExp): Figure[] =>
  figures.filter((f) => group.test(f.group) && name.test(f.name));

describe('all figures of an arm’s loads', () => {
  it('are there for every kind of arm, each once, and none is no number', () => {
    const kinds = presets.flatMap((preset) => {
      const made = rigFromPreset(preset, preset.name);
      return made.ok ? [made.value] : [];
    });
    expect(kinds.length).toBe(presets.length);
    for (const rig of [...kinds, demoRigs()[0].rig]) {
      const figures = figuresOf(rig);
      const keys = figures.map(({ group, name }) => `${group}: ${name}`);
      // Two joints of one name are told apart by nobody else either.
      if (new Set(rig.mechanism.joints.map(({ name }) => name)).size === rig.mechanism.joints.length)
        expect(keys).toEqual([...new Set(keys)]);
      for (const { value, name } of figures) expect(Number.isNaN(value ?? 0), name).toBe(false);
      expect(figures[0]).toMatchObject({ group: 'The arm', unit: 'kg' });
    }
  }, 60_000);
  it('of a stronger, heavier shoulder motor say what is better by it and what is worse, beside the arm before', () => {
    const before = tileDipper();
    before.routines = before.routines.slice(0, 1);
    const after = structuredClone(before);
    const id = after.transmissions.find(({ joints }) => joints.includes('shoulder'))!.drives[0];
    const drive = after.drives.find((d) => d.id === id)!;
    Object.assign(drive, { stallNm: 2 * drive.stallNm, massG: 3 * drive.massG!, stallA: 3 * drive.stallA! });
    const rows = laidBeside(figuresOf(after), figuresOf(before));
    const is = (group: RegExp, name: RegExp) =>
      rows.filter((row) => group.test(row.group) && name.test(row.name)).map((row) => changeOf(row)?.is);
    expect(is(/worst pose/, /^Shoulder/)).toEqual(['better']);
    expect(is(/worst pose/, /^Elbow/)).toEqual(['same']);
    expect(is(/The arm/, /motors weigh/)).toEqual(['worse']);
    expect(is(/Supply/, /held fast/)).toEqual(['worse']);
    expect(named(figuresOf(after), /worst pose/, /^Wrist/)[0].state).toBe('over');
    // What one motor draws is not known: nor is what all of them draw.
    for (const key of ['idleA', 'movingA', 'stallA', 'holdA'] as const)
      delete (drive as Record<string, unknown>)[key];
    const supply = named(figuresOf(after), /Supply/, /held fast|in any routine/);
    expect(supply.map(({ value, state }) => [value, state])).toEqual([
      [null, null],
      [null, null],
    ]);
  });
});

const figure = fc.record({
  group: fc.constantFrom('a', 'b', 'c'),
  name: fc.constantFrom('x', 'y', 'z', '=1'),
  value: fc.oneof(fc.constant(null), fc.constant(Infinity), fc.double({ min: -1e4, max: 1e4, noNaN: true })),
  unit: fc.constantFrom('', 'mm'),
  digits: fc.integer({ min: 0, max: 3 }),
  better: fc.constantFrom('more' as const, 'less' as const, null),
  state: fc.constant(null),
}) satisfies fc.Arbitrary<Figure>;
const figures = fc.uniqueArray(figure, { selector: ({ group, name }) => group + name, maxLength: 12 });

describe('two versions side by side', () => {
  it('have every figure of both once, the same thing in one row, groups together', () => {
    fc.assert(
      fc.property(figures, figures, (own, other) => {
        const rows = laidBeside(own, other);
        const of = (list: readonly Figure[]) => list.map(({ group, name }) => group + name).sort();
        expect(of(rows.flatMap((row) => row.own ?? []))).toEqual(of(own));
        expect(of(rows.flatMap((row) => row.other ?? []))).toEqual(of(other));
        for (const row of rows)
          if (row.own && row.other) expect([row.own.group, row.own.name]).toEqual([row.other.group, row.other.name]);
        const groups = rows.map(({ group }) => group);
        expect(groups.filter((group, k) => group !== groups[k - 1])).toEqual([...new Set(groups)]);
        const lines = figuresCsv(rows, ['one', 'two']).trim().split('\r\n');
        expect(lines.length).toBe(rows.length + 1);
        for (const line of lines.slice(1)) expect(line.split(',')[1]).not.toMatch(/^[=+@]/);
      }),
    );
  });
  it('are better one way and worse the other, and the same within half a last digit', () => {
    fc.assert(
      fc.property(figure, fc.double({ min: -9, max: 9, noNaN: true }), (own, by) => {
        const { value } = own;
        if (value === null || !Number.isFinite(value)) return;
        const other = { ...own, value: value - by };
        const row = { group: own.group, name: own.name, own, other };
        const there = changeOf(row)!;
        const back = changeOf({ ...row, own: other, other: own })!;
        if (own.better === null) expect(there.is).toBe('same');
        else if (Math.abs(by) > 10 ** -own.digits) {
          expect(there.is).toBe(by > 0 === (own.better === 'more') ? 'better' : 'worse');
          expect(back.is).toBe(there.is === 'better' ? 'worse' : 'better');
        }
        expect(changeOf({ ...row, other: { ...own, value: null } })).toBeNull();
        expect(changeOf({ ...row, own: { ...own, value: Infinity } })).toBeNull();
      }),
    );
  });
});
