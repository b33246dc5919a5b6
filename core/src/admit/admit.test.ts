import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { forward } from '../kinematics';
import { apply, fromXyzRpy } from '../linear';
import { compile } from '../mechanism';
import { presets, rigFromPreset } from '../presets';
import { asTree, parseRig, type Rig } from '../rig';
import { admit, standing } from './index';

const codes = (input: unknown): string[] => {
  const admitted = admit(input);
  return admitted.ok ? [] : admitted.faults.map((f) => `${f.code} ${f.path}`);
};

describe('the door to a rig', () => {
  it('lets every demo rig and every preset in as they are, with the arm that compile makes of them', () => {
    const rigs = [...demoRigs().map(({ rig }) => rig)];
    for (const preset of presets) {
      const made = rigFromPreset(preset, preset.name);
      if (made.ok) rigs.push(made.value);
    }
    expect(rigs.length).toBe(demoRigs().length + presets.length);
    for (const rig of rigs) {
      const admitted = admit(JSON.parse(JSON.stringify(rig)));
      const compiled = compile(rig.mechanism, rig.builds[0].mounting);
      expect(admitted).toEqual({
        ...{ ok: true, rig, build: rig.builds[0] },
        mechanism: compiled.ok && compiled.mechanism,
      });
    }
  });
  it('refuses transmissions that cannot work, each where it is wrong', () => {
    const spoilt = (change: (rig: Rig) => void, rig = structuredClone(kilnLoader()) as Rig): Rig => {
      change(rig);
      return rig;
    };
    const last = kilnLoader().transmissions.length - 1;
    const matrix = (rows: number[][]) => (rig: Rig) => void Object.assign(rig.transmissions[last], { matrix: rows });
    expect(
      codes(
        spoilt(
          matrix([
            [1, 2],
            [2, 4],
          ]),
        ),
      ),
    ).toEqual([`matrix-singular transmissions[${last}].matrix`]);
    expect(codes(spoilt((rig) => void Object.assign(rig.transmissions[0], { reduction: 0 })))).toEqual([
      'ratio-zero transmissions[0].reduction',
    ]);
    const points = [
      { driveDeg: 0, joints: [0] },
      { driveDeg: 20, joints: [5] },
      { driveDeg: 10, joints: [9] },
    ];
    const back = spoilt((rig) => {
      const { id, joints, drives } = rig.transmissions[0];
      rig.transmissions[0] = { kind: 'table', id, joints, drives, points } as never;
    });
    expect(codes(back)).toEqual(['table-not-rising transmissions[0].points']);
  });
  it('looks at references before couplings, and at both before the arm', () => {
    const rig = structuredClone(tileDipper()) as Rig;
    Object.assign(rig.transmissions[0], { reduction: 0 });
    rig.wiring[0].board = 'nowhere';
    expect(codes(rig)).toEqual(['id-unknown wiring[0].board']);
    rig.wiring[0].board = tileDipper().wiring[0].board;
    asTree(rig.mechanism).joints.push({
      ...{ id: 'rod', type: 'revolute', parent: 'shoulder', axis: [0, 1, 0], home: 0, offset: 0 },
      ...{ origin: { xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] }, follows: [{ joint: 'shoulder', factor: 1 }] },
      limits: { min: 1000, max: 1001 },
    });
    expect(codes(rig)).toEqual(['ratio-zero transmissions[0].reduction']);
    Object.assign(rig.transmissions[0], { reduction: 1 });
    expect(codes(rig)[0]).toMatch(/^limits-empty /);
    // Shape and references alone find nothing there: the door is more than they are.
    expect(parseRig(rig).ok).toBe(true);
  });
  it('answers anything with a rig or with faults that are sentences', () => {
    fc.assert(
      fc.property(fc.anything(), (input) => {
        const admitted = admit(input);
        expect(admitted.ok).toBe(false);
        if (!admitted.ok) for (const f of admitted.faults) expect(f.message).toMatch(/\.$/);
      }),
    );
  });
});

describe('where the arm stands', () => {
  const place = fc.record({
    xyzMm: fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: -500, max: 500 }))),
    rpyDeg: fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: -180, max: 180 }))),
  });
  it('is where its build has it: every frame of the design, carried by the build’s place', () => {
    fc.assert(
      fc.property(fc.constantFrom(...demoRigs()), place, ({ rig }, mounting) => {
        const doc = structuredClone(rig) as Rig;
        doc.builds.push({ ...structuredClone(doc.builds[0]), id: 'elsewhere', mounting: mounting as never });
        const [design, there] = [admit(doc), admit(doc, 'elsewhere')];
        if (!design.ok || !there.ok) throw new Error('not let in');
        expect([design.build.id, there.build.id]).toEqual([doc.builds[0].id, 'elsewhere']);
        expect(standing(doc, 'elsewhere')).toMatchObject({ ok: true, mechanism: there.mechanism });
        const own = doc.builds[0].mounting ?? doc.mechanism.base.mounting;
        const frame = (f: { xyzMm: readonly number[]; rpyDeg: readonly number[] }): Float64Array =>
          fromXyzRpy(f.xyzMm.map((v) => v / 1000) as never, f.rpyDeg.map((v) => (v * Math.PI) / 180) as never);
        const [from, to] = [frame(own), frame(mounting as never)];
        const [a, b] = [design, there].map(({ mechanism }) => forward(mechanism, mechanism.home).joints);
        for (const [id, f] of a) {
          // Back into the base by the design's place, out again by the build's.
          const p = [f[9] - from[9], f[10] - from[10], f[11] - from[11]];
          const inBase = [0, 1, 2].map((k) => from[k] * p[0] + from[3 + k] * p[1] + from[6 + k] * p[2]);
          apply(to, inBase as never).forEach((v, k) => expect(b.get(id)![9 + k]).toBeCloseTo(v, 9));
        }
      }),
      { numRuns: 40 },
    );
  });
  it('is by the first build where none is named or it is gone', () => {
    const rig = tileDipper();
    for (const id of [undefined, null, 'gone'])
      expect(standing(rig, id)).toMatchObject({ ok: true, build: { id: rig.builds[0].id } });
  });
});
