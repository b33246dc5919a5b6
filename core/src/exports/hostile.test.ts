import fc from 'fast-check';
import Papa from 'papaparse';
import { SaxesParser } from 'saxes';
import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { commandMaps } from '../actuators';
import { admit } from '../admit';
import { drawRig, toSvg } from '../drawing';
import { importOf } from '../imports';
import { vec3 } from '../linear';
import { finish } from '../jobs';
import { pointResultsToCsv, pointsJob } from '../reach';
import type { Rig } from '../rig';
import { planCommands, planRoutine } from '../routine';
import { exportList, type Source } from './index';

/** What somebody may have written where a name goes. */
const hostile = [
  '=1+1',
  '@SUM(A1)',
  '+1;=cmd|calc',
  '-2+3',
  '<script>alert(1)</script>',
  '"><img src=x onerror=alert(1)>',
  "'; drop table rigs; --",
  ']]>&lt;&amp;<!--',
  'javascript:alert(1)',
  'a,b;c d"e"',
  '{pull} {joint} ${1}',
  '𝔘 ünïcödé עברית',
  '*/ int x; /*',
  'ends in \\',
  'what??/',
];
const anyName = fc.constantFrom(...hostile);
/** Every word that people type in a rig, by hostile ones; each another one, so that names stay apart. */
function renamed(rig: Rig, words: readonly string[]): Rig {
  let k = 0;
  const next = (most: number): string => `${words[k++ % words.length]} ${k}`.slice(0, most);
  const typed: Record<string, number> = { name: 80, note: 200, colour: 40, label: 16, model: 80, reserved: 60 };
  const walk = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(walk);
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, own]) => [
        key,
        typeof own === 'string' && own !== '' && key in typed ? next(typed[key]) : walk(own),
      ]),
    );
  };
  return walk(rig) as Rig;
}
function sourceOf(rig: Rig): Source {
  const admitted = admit(rig);
  if (!admitted.ok) throw new Error(admitted.faults[0].message);
  const { mechanism, build } = admitted;
  const [routine] = admitted.rig.routines;
  const plan = planRoutine(admitted.rig, mechanism, build, routine);
  const motion = planCommands(admitted.rig, mechanism, commandMaps(admitted.rig, mechanism, build), plan);
  return { rig: admitted.rig, mechanism, build, rigId: 'one', q: mechanism.home, planned: { routine, plan, motion } };
}

/** Well-formed, with nothing in it that would run or fetch. */
function harmless(text: string): void {
  const parser = new SaxesParser({ xmlns: true });
  const bad: string[] = [];
  parser.on('error', (error) => bad.push(error.message));
  parser.on('opentag', ({ name, attributes }) => {
    if (/script|foreignObject|iframe|object|embed|^image$|^use$/i.test(name)) bad.push(`<${name}>`);
    for (const [key, { value }] of Object.entries(attributes))
      if (/^on/i.test(key) || /javascript:/i.test(String(value)) || /href$/i.test(key)) bad.push(`${key}=${value}`);
  });
  parser.write(text).close();
  expect(bad).toEqual([]);
}
/** A number, or one with what follows it, where another reader does not part them. */
const isNumber = (cell: string): boolean => /^-?[\d.]+(?:e[+-]?\d+)?(?:[,;\s].*)?$/is.test(cell);
/** No cell that a spreadsheet would work out, by whichever separator it takes. */
/** Names in sources stay in comments: none ends before its end, none goes on into the next line. */
function commented(text: string): void {
  const begun = text.startsWith('/*');
  expect(text.split('*/').length - 1).toBe(begun ? 1 : 0);
  if (begun)
    for (const row of text.slice(0, text.indexOf('*/')).split('\n').slice(1)) expect(row).toMatch(/^ \*?( |$)/);
  for (const row of text.split('\n')) if (row.includes('//')) expect(row).not.toMatch(/\\$|\?\?\/$/);
}
function plain(text: string): void {
  for (const delimiter of [',', ';', '\t'])
    for (const row of Papa.parse<string[]>(text, { delimiter }).data)
      for (const cell of row)
        if (/^\s*[=+@-]/.test(cell) && !isNumber(cell.trim())) expect([delimiter, cell]).toEqual('no formula');
}

const rigs = demoRigs().map(({ rig }) => rig);
describe('what people write as names', () => {
  it('is text in every export: nothing runs, nothing is a formula, everything is well-formed', () => {
    const seen = new Set<string>();
    fc.assert(
      fc.property(fc.nat(rigs.length - 1), fc.shuffledSubarray(hostile, { minLength: 3 }), (k, words) => {
        const source = sourceOf(renamed(rigs[k], words));
        for (const made of exportList)
          for (const { text, mediaType, name } of made.write(source, made.options.parse({}))) {
            seen.add(mediaType);
            expect(name).toMatch(/^([\w-]+\/)?[\w.-]+$/);
            if (mediaType === 'image/svg+xml') harmless(text);
            if (mediaType === 'text/csv') plain(text);
            if (mediaType === 'text/x-c++src') commented(text);
            if (mediaType === 'application/json') JSON.parse(text);
          }
        for (const kind of ['side', 'plan'] as const) {
          const { mechanism } = source;
          const look = { rig: source.rig, mechanism, q: mechanism.home, kind, width: 400, height: 300, spots: true };
          harmless(toSvg(drawRig(look as Parameters<typeof drawRig>[0])));
        }
      }),
      { numRuns: 12 },
    );
    expect([...seen].sort()).toEqual(expect.arrayContaining(['image/svg+xml', 'text/csv', 'text/x-c++src']));
  });
  it('comes back from a table of points as it was', () => {
    const { rig, mechanism } = sourceOf(rigs[0]);
    const [tool] = mechanism.tools;
    fc.assert(
      fc.property(fc.array(anyName, { minLength: 1, maxLength: 6 }), (names) => {
        const points = names.map((name, k) => ({ name, position: [0.17, 0.01 * k, 0.12] as const, direction: null }));
        const results = finish(pointsJob(mechanism, tool, points, mechanism.home, 0.04, {}));
        const csv = pointResultsToCsv(mechanism, results);
        plain(csv);
        const read = importOf('points')!.read(
          csv,
          { ...rig, spots: [] } as Rig,
          importOf('points')!.options.parse({}),
        );
        expect(read.problems).toEqual([]);
        const draft = structuredClone({ ...rig, spots: [] }) as Rig;
        read.edit!(draft);
        expect(draft.spots.map((spot) => spot.name)).toEqual(names.map((name) => name.trim()));
        for (const [k, { xyzMm }] of draft.spots.entries())
          expect(vec3.distance(xyzMm as never, [170, 10 * k, 120])).toBeLessThan(1e-6);
      }),
      { numRuns: 30 },
    );
  });
  it('with control characters is refused, wherever it stands', () => {
    const bad = fc.constantFrom('\u0000', '\u0001', '\u000b', '\u001b[2J', '\u0085', '\ud800', '\uffff', '\u2028');
    fc.assert(
      fc.property(fc.nat(rigs.length - 1), bad, fc.nat(1000), (k, sign, at) => {
        const rig = rigs[k];
        let places = 0;
        const count = (value: unknown, change: number | null): unknown => {
          if (Array.isArray(value)) return value.map((own) => count(own, change));
          if (typeof value !== 'object' || value === null) return value;
          return Object.fromEntries(
            Object.entries(value).map(([key, own]) => {
              if (typeof own !== 'string' || !['name', 'colour', 'label'].includes(key))
                return [key, count(own, change)];
              return [key, places++ === change ? `a${sign}b` : own];
            }),
          );
        };
        count(rig, null);
        const chosen = at % places;
        places = 0;
        const admitted = admit(count(rig, chosen));
        expect(admitted.ok).toBe(false);
        if (!admitted.ok) expect(admitted.faults[0].message).toMatch(/without control characters/);
      }),
    );
  });
});
