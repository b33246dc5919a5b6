import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { admit } from '../admit';
import { dhOf, dhToText } from '../exports';
import { compiled } from '../kinematics/arms.testkit';
import type { Rig } from '../rig';
import { formatRoutine } from '../routine';
import { between } from '../units/between.testkit';
import { importList, importOf } from './index';

const anyRig = fc.constantFrom(...demoRigs().map(({ rig }) => rig));
const cell = fc.oneof(
  fc.constantFrom('x', 'y', 'z', 'theta', 'd', 'a', 'alpha', 'frame', 'pi/2', '-', '"'),
  fc.string({ maxLength: 6 }),
  between(-900, 900).map(String),
);
const anyText = fc
  .tuple(fc.array(fc.array(cell, { maxLength: 8 }), { maxLength: 8 }), fc.constantFrom('\t', ';', ',', ' '))
  .map(([rows, sign]) => rows.map((row) => row.join(sign)).join('\n'));

/** Files as they really are, by who reads them. */
const files: Record<string, readonly string[]> = {
  points: [
    'name;x;y;z;dx;dy;dz\nrim;1;2;3.5;0;0;-1\n"a;b ""c""";4;5;6;;;',
    'x\ty\tz\n1\t2\t3\n-4,5\t5\t6',
    '\ufeff1 2 3\r\n4 5 6\r\n',
  ],
  sentences: demoRigs().flatMap(({ rig }) => rig.routines.map((routine) => formatRoutine(rig, routine))),
  parts: demoRigs().map(({ rig }) => JSON.stringify(rig)),
  dh: demoRigs().flatMap(({ rig }) => {
    const table = dhOf(compiled(rig.mechanism), undefined, 'standard');
    return table ? [dhToText(table)] : [];
  }),
};
const oddities = ['\0', '\ud800', '"', '\n', '\r', '\t', ';', ',', '1e999', '-', 'NaN', '__proto__', '[', '}', '💥'];
const ways = ['cut', 'drop', 'double', 'move', 'odd', 'long', 'swap'] as const;
/** What mail, editors and half a download make of a file: cut, doubled, spliced, with odd characters, many times as long. */
const damage = fc.record({
  at: between(0, 1),
  to: between(0, 1),
  way: fc.constantFrom(...ways),
  odd: fc.constantFrom(...oddities),
});
type Damage = typeof damage extends fc.Arbitrary<infer D> ? D : never;
function damaged(text: string, { at, to, way, odd }: Damage): string {
  const [a, b] = [at, to].sort((p, q) => p - q).map((share) => Math.floor(share * text.length));
  const part = text.slice(a, b);
  switch (way) {
    case 'cut':
      return text.slice(0, b);
    case 'drop':
      return text.slice(0, a) + text.slice(Math.min(b, a + 40));
    case 'double':
      return text.slice(0, b) + part + text.slice(b);
    case 'move':
      return text.slice(0, a) + text.slice(b) + part;
    case 'odd':
      return text.slice(0, a) + odd + text.slice(a);
    case 'long':
      return text.slice(0, a) + part.slice(0, 30).repeat(200) + text.slice(a);
    case 'swap':
      return text.replaceAll(text[a] ?? ' ', odd);
  }
}

describe('every import', () => {
  it.each(importList.map(({ id }) => id))('%s reads damaged files: takes in what opens, or says why not', (id) => {
    const made = importOf(id)!;
    const seen = { taken: 0, refused: 0 };
    fc.assert(
      fc.property(
        anyRig,
        fc.constantFrom(...files[id], made.example),
        fc.array(damage, { maxLength: 3 }),
        (rig, whole, how) => {
          const { problems, edit } = made.read(how.reduce(damaged, whole), rig);
          expect(edit === null).toBe(problems.length > 0);
          for (const problem of problems) expect(problem).toMatch(/^[^\n\0]{1,2000}[.]$/u);
          seen[edit ? 'taken' : 'refused']++;
          if (!edit) return;
          const draft = structuredClone(rig) as Rig;
          edit(draft);
          const back = admit(draft);
          expect(back.ok ? '' : back.faults[0].message).toBe('');
        },
      ),
      { numRuns: 150 },
    );
    // Both sides are tried.
    expect(seen.taken).toBeGreaterThan(3);
    expect(seen.refused).toBeGreaterThan(20);
  });
  it.each(importList.map(({ id }) => id))('%s makes an edit that leaves a rig which opens, or says why not', (id) => {
    const made = importOf(id)!;
    let taken = 0;
    fc.assert(
      fc.property(anyRig, fc.oneof(anyText, fc.constant(made.example)), (rig, text) => {
        const { problems, edit, label } = made.read(text, rig);
        expect(edit === null).toBe(problems.length > 0);
        for (const problem of problems) expect(problem).toMatch(/[.]$/);
        if (!edit) return;
        taken++;
        const draft = structuredClone(rig) as Rig;
        edit(draft);
        const back = admit(draft);
        expect(back.ok ? '' : back.faults[0].message).toBe('');
        expect(label).not.toBe('');
      }),
      { numRuns: 120 },
    );
    expect(taken).toBeGreaterThan(0);
  });
});

describe('spots from points', () => {
  const read = (text: string, options: object): [Rig, string] => {
    const rig = structuredClone(tileDipper()) as Rig;
    const { edit, summary } = importOf('points')!.read(text, rig, options);
    edit!(rig);
    return [rig, summary];
  };
  it('are added with their directions and with ids of their own, or moved where they are there already', () => {
    const [{ name }] = tileDipper().spots;
    const text = `name;x;y;z;dx;dy;dz\n${name};1;2;3.1234;0;0;-2\nnew;4;5;6;;;\nnew;7;8;9;;;`;
    const [added, said] = read(text, { already: 'keep' });
    const before = tileDipper().spots;
    expect(said).toBe('3 spots');
    expect(added.spots.slice(0, before.length)).toEqual(before);
    expect(added.spots.slice(before.length)).toEqual([
      { id: expect.any(String), name, xyzMm: [1, 2, 3.123], direction: [0, 0, -1] },
      { id: 'new', name: 'new', xyzMm: [4, 5, 6], direction: null },
      { id: 'new-2', name: 'new', xyzMm: [7, 8, 9], direction: null },
    ]);
    const [moved, told] = read(text, { already: 'replace' });
    expect(told).toBe('3 spots, of which 1 are there already');
    expect(moved.spots.length).toBe(before.length + 2);
    expect(moved.spots[0]).toEqual({ ...before[0], xyzMm: [1, 2, 3.123], direction: [0, 0, -1] });
  });
  it('are at most as many as a person works with', () => {
    const rows = Array.from({ length: 2001 }, (_, k) => `${k} 0 0`).join('\n');
    const { problems, edit } = importOf('points')!.read(rows, tileDipper());
    expect([problems, edit]).toEqual([['The table has 2001 points; at most 2000 become spots.'], null]);
  });
});

describe('parts of another rig', () => {
  const read = (text: string, options = {}) => importOf('parts')!.read(text, tileDipper(), options);
  it('say what would come before it does: all of them, or only what is asked for', () => {
    const other = structuredClone(demoRigs().find(({ id }) => id === 'kiln-shelf-loader')!.rig) as Rig;
    const text = JSON.stringify(other);
    const all = read(text);
    expect(all.problems).toEqual([]);
    expect(all.summary).toContain(`${other.routines.length} routine`);
    expect(all.label).toBe(`From “${other.name}”`);
    const places = read(text, { what: 'places' });
    expect(places.summary).not.toContain('routine');
    const draft = structuredClone(tileDipper()) as Rig;
    places.edit!(draft);
    expect(draft.spots.length).toBe(tileDipper().spots.length + other.spots.length);
    expect(draft.routines).toEqual(tileDipper().routines);
  });
  it('are none of the rig itself, of what is no JSON, and of what is no rig', () => {
    expect(read(JSON.stringify(tileDipper())).problems).toEqual([
      'All that could be brought from it is here already.',
    ]);
    expect(read('miaow').problems).toEqual(['The text is not a rig file: it is no JSON.']);
    expect(read('{"format":"cork-elbow-rig","version":6,"name":"X"}').problems[0]).toMatch(/mechanism/);
    expect(read('null').edit).toBeNull();
  });
});
