import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { compile } from '../mechanism';
import { treeDoc } from '../kinematics/arms.testkit';
import { checkMechanism, freeId, parseRig, RIG_VERSION, type Rig } from './index';

const rig = tileDipper();

const samples = join(import.meta.dirname, 'samples');

describe('the rig document', () => {
  it('reads every sample of an older version, and what it meant then', () => {
    const files = readdirSync(samples);
    expect(files).toContain(`tile-dipper.v${RIG_VERSION - 1}.json`);
    for (const file of files) {
      const old = JSON.parse(readFileSync(join(samples, file), 'utf8'));
      const parsed = parseRig(old);
      expect(parsed).toMatchObject({ ok: true, value: { version: RIG_VERSION, name: old.name, poses: old.poses } });
    }
  });
  it('comes back the same through text', () => {
    expect(parseRig(JSON.parse(JSON.stringify(rig)))).toEqual({ ok: true, value: rig });
  });
  it('answers any input with a document or with faults, each one sentence, never with a crash', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.jsonValue(),
          fc.object().map((extra) => ({ format: 'cork-elbow-rig', version: 1, ...extra })),
        ),
        (input) => {
          const parsed = parseRig(input);
          if (!parsed.ok) for (const f of parsed.faults) expect(f.message).toMatch(/\.$/);
        },
      ),
    );
  });
  it('survives any one value being replaced by any other', () => {
    const paths: (string | number)[][] = [];
    const walk = (value: unknown, path: (string | number)[]): void => {
      if (path.length) paths.push(path);
      if (Array.isArray(value)) value.slice(0, 3).forEach((v, i) => walk(v, [...path, i]));
      else if (value && typeof value === 'object') for (const [k, v] of Object.entries(value)) walk(v, [...path, k]);
    };
    walk(rig, []);
    fc.assert(
      fc.property(
        fc.constantFrom(...paths),
        fc.oneof(fc.jsonValue(), fc.constant(Number.NaN), fc.constant(Infinity)),
        (path, value) => {
          const copy = structuredClone(rig) as never;
          path.slice(0, -1).reduce<any>((at, key) => at[key], copy)[path.at(-1)!] = value;
          const parsed = parseRig(copy);
          if (parsed.ok) expect(compile(parsed.value.mechanism)).toBeDefined();
          else expect(parsed.faults[0].message.length).toBeGreaterThan(10);
        },
      ),
    );
  });
  it('finds loops of parents and of followers in random trees that it is given them in', () => {
    fc.assert(
      fc.property(treeDoc, fc.nat(), fc.nat(), (doc, a, b) => {
        expect(checkMechanism(doc)).toEqual([]);
        const n = doc.joints.length;
        const [i, j] = [a % n, b % n];
        const copy = structuredClone(doc);
        copy.joints[i].parent = copy.joints[j].id;
        const reaches = (from: string | null, to: string): boolean =>
          from !== null && (from === to || reaches(doc.joints.find((x) => x.id === from)!.parent, to));
        const expected = reaches(copy.joints[j].id, copy.joints[i].id);
        expect(checkMechanism(copy).some((f) => f.code === 'parent-loop')).toBe(expected);
      }),
    );
  });
  it('names a joint in any script and still gives it a short id', () => {
    expect(freeId('Épaule n°2', [])).toBe('e-paule-n-2');
    expect(freeId('肩', ['item'])).toBe('item-2');
    const named = structuredClone(rig) as Rig;
    named.mechanism.joints[1].name = '肩 كتف πλάτη';
    expect(parseRig(named).ok).toBe(true);
  });
});

describe('compile', () => {
  it('tightens a source by the limits of its follower, and refuses an empty range', () => {
    const doc = structuredClone(rig.mechanism);
    doc.joints.push({
      id: 'rod',
      type: 'revolute',
      parent: 'shoulder',
      origin: { xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] },
      axis: [0, 1, 0],
      home: 0,
      follows: [{ joint: 'shoulder', factor: -2 }],
      offset: 10,
      limits: { min: -60, max: 40 },
    });
    const tight = compile(doc);
    if (!tight.ok) throw new Error();
    const s = tight.mechanism.slotOf.get('shoulder')!;
    expect(tight.mechanism.lower[s] / tight.mechanism.siPerUnit[s]).toBeCloseTo(-15, 9);
    expect(tight.mechanism.upper[s] / tight.mechanism.siPerUnit[s]).toBeCloseTo(35, 9);
    (doc.joints.at(-1) as { limits: object }).limits = { min: 1000, max: 1001 };
    expect(compile(doc)).toMatchObject({ ok: false, faults: [{ code: 'limits-empty' }] });
  });
});
