import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { differences, faultSentence, parseRig, placeWords, type Rig } from './index';

type Path = (string | number)[];
/** Every place of a document that holds a number or a text. */
function leaves(value: unknown, path: Path = []): Path[] {
  if (typeof value !== 'object' || value === null) return [path];
  return Object.entries(value).flatMap(([key, part]) =>
    leaves(part, [...path, Array.isArray(value) ? Number(key) : key]),
  );
}
const docs = [tileDipper(), kilnLoader()];
const anyLeaf = fc
  .constantFrom(...docs)
  .chain((doc) => fc.constantFrom(...leaves(doc)).map((path) => ({ doc: doc as Rig, path })));
const text = (path: Path): string =>
  path.reduce<string>((s, p) => (typeof p === 'number' ? `${s}[${p}]` : s ? `${s}.${p}` : p), '');

describe('places in words', () => {
  it('say whose they are and what they are', () => {
    const doc = tileDipper();
    const elbow = doc.mechanism.joints.findIndex((j) => j.id === 'elbow');
    for (const [path, words] of [
      [`mechanism.joints[${elbow}].limits.max`, 'Elbow: upper limit'],
      [`mechanism.joints[${elbow}].limits`, 'Elbow: limits'],
      [`mechanism.joints[${elbow}].origin.xyzMm[2]`, 'Elbow: place, up'],
      [`mechanism.joints[${elbow}]`, 'Elbow'],
      ['drives[0].updateHz', `${doc.drives[0].name}: pulses a second`],
      ['builds[0].trims.m-elbow', 'build 1: trims, Elbow servo'],
      ['routines[0].steps[2].pace.speedShare', `${doc.routines[0].name}, step 3: pace, speed share`],
      ['boards[0].pins[4].boot', `${doc.boards[0].name}, pin 4: state at start`],
      ['motion.timeConstantS', 'time constant'],
      ['powerUp', 'power-up'],
      ['', 'the document'],
    ])
      expect(placeWords(doc, path)).toBe(words);
  });
  it('have no brackets, dots between keys or ids, wherever in a document', () => {
    fc.assert(
      fc.property(anyLeaf, ({ doc, path }) => {
        const words = placeWords(doc, path);
        expect(placeWords(doc, text(path))).toBe(words);
        expect(words).not.toMatch(/\[|\]|\w\.\w/);
        expect(words).not.toMatch(/[a-z][A-Z]|undefined|object/);
        expect(words.length).toBeGreaterThan(0);
      }),
      { numRuns: 400 },
    );
  });
  it('stand in sentences about faults instead of the path', () => {
    const doc = structuredClone(tileDipper()) as Rig;
    const elbow = doc.mechanism.joints.find((j) => j.id === 'elbow')!;
    if (elbow.type !== 'revolute') throw new Error('no elbow');
    elbow.limits = { ...elbow.limits, min: 50, max: 20 };
    const parsed = parseRig(doc);
    expect(parsed.ok ? '' : faultSentence(doc, parsed.faults[0])).toBe(
      'Elbow, limits: the lower limit 50 is not below the upper limit 20.',
    );
    const other = structuredClone(tileDipper()) as Rig;
    (other.mechanism.joints[0] as { parent: string | null }).parent = 'elbow';
    const looped = parseRig(other);
    expect(looped.ok ? '' : faultSentence(other, looped.faults[0])).toMatch(
      /^Turntable, what it hangs on: the joint “/,
    );
    expect(looped.ok ? '' : faultSentence(other, looped.faults[0])).not.toMatch(/“turn”|\[|mechanism/);
  });
  it('name no path in any sentence about a document with one wrong value', () => {
    fc.assert(
      fc.property(anyLeaf, fc.constantFrom<unknown>(-1e12, '', 'nonsense', null, [], {}), ({ doc, path }, wrong) => {
        const broken = JSON.parse(JSON.stringify(doc)) as Record<string, unknown>;
        let at = broken as Record<string | number, never>;
        for (const part of path.slice(0, -1)) at = at[part];
        at[path.at(-1)!] = wrong as never;
        const parsed = parseRig(broken);
        if (parsed.ok) return;
        for (const fault of parsed.faults.slice(0, 3)) {
          const said = faultSentence(broken, fault);
          expect(said).not.toMatch(/\[\d+\]|mechanism\.|[a-z]\.[a-z]/);
          expect(said).toMatch(/^[A-Z0-9“]/);
        }
      }),
      { numRuns: 400 },
    );
  });
});

describe('what differs between two documents', () => {
  it('is nothing between the same, and the place of a change between others', () => {
    for (const doc of docs) expect(differences(doc, structuredClone(doc))).toEqual({ places: [], more: 0 });
    fc.assert(
      fc.property(anyLeaf, ({ doc, path }) => {
        fc.pre(path.at(-1) !== 'id' && !['joint', 'drive'].includes(String(path.at(-1))));
        const other = JSON.parse(JSON.stringify(doc)) as Record<string | number, unknown>;
        let at = other;
        for (const part of path.slice(0, -1)) at = at[part] as typeof other;
        at[path.at(-1)!] = 'something else';
        expect(differences(doc, other)).toEqual({ places: [placeWords(doc, path)], more: 0 });
        expect(differences(other, doc).places).toHaveLength(1);
      }),
      { numRuns: 200 },
    );
  });
  it('counts things that are only in one, another order, and what is too much to say', () => {
    const [a] = docs;
    const b = structuredClone(a) as Rig;
    b.poses.splice(1, 1);
    expect(differences(a, b).places).toEqual([a.poses[1].name]);
    expect(differences(b, a).places).toEqual([a.poses[1].name]);
    const c = structuredClone(a) as Rig;
    c.poses.reverse();
    expect(differences(a, c).places).toEqual(['poses']);
    const d = structuredClone(a) as Rig;
    d.poses.forEach((pose) => (pose.note = 'x'));
    expect(differences(a, d, 2)).toMatchObject({ places: { length: 2 }, more: d.poses.length - 2 });
  });
});
