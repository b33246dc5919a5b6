import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { forward, framesInto, kinematicsSpace, toolInto } from '../kinematics';
import { compiled, fourAxis, sixAxis, threeAxis, tree } from '../kinematics/arms.testkit';
import { axisOf, vec3 } from '../linear';
import type { TreeDoc } from '../rig';
import { dhTable, jointsFromDh, type DhConvention, type DhRow, type DhTable } from './index';
import { between } from '../units/between.testkit';

const RAD = Math.PI / 180;
const angle = fc.integer({ min: -180, max: 180 });
const row: fc.Arbitrary<DhRow> = fc.record({
  type: fc.constantFrom('revolute' as const, 'prismatic' as const),
  thetaDeg: angle,
  dMm: fc.integer({ min: -200, max: 200 }),
  aMm: fc.integer({ min: -200, max: 200 }),
  alphaDeg: fc.oneof(fc.constantFrom(0, 90, -90, 180), angle),
});
const conventions: DhConvention[] = ['standard', 'modified'];

/** The definition itself, plainly: a product of turns and shifts per row. */
function plain(rows: readonly DhRow[], convention: DhConvention, q: readonly number[]): number[][] {
  const product = (a: number[][], b: number[][]): number[][] =>
    a.map((line) => b[0].map((_, j) => line.reduce((sum, v, k) => sum + v * b[k][j], 0)));
  const rz = (t: number): number[][] => [
    [Math.cos(t), -Math.sin(t), 0, 0],
    [Math.sin(t), Math.cos(t), 0, 0],
    [0, 0, 1, 0],
    [0, 0, 0, 1],
  ];
  const rx = (t: number): number[][] => [
    [1, 0, 0, 0],
    [0, Math.cos(t), -Math.sin(t), 0],
    [0, Math.sin(t), Math.cos(t), 0],
    [0, 0, 0, 1],
  ];
  const to = (x: number, z: number): number[][] => [
    [1, 0, 0, x],
    [0, 1, 0, 0],
    [0, 0, 1, z],
    [0, 0, 0, 1],
  ];
  return rows.reduce(
    (t, r, i) => {
      const own = [
        rz(r.thetaDeg * RAD + (r.type === 'revolute' ? q[i] : 0)),
        to(0, r.dMm / 1000 + (r.type === 'prismatic' ? q[i] : 0)),
      ];
      const link = [to(r.aMm / 1000, 0), rx(r.alphaDeg * RAD)];
      const order = convention === 'standard' ? [...own, ...link] : [link[1], link[0], ...own];
      return order.reduce(product, t);
    },
    [
      [1, 0, 0, 0],
      [0, 1, 0, 0],
      [0, 0, 1, 0],
      [0, 0, 0, 1],
    ],
  );
}

function docOf(table: Pick<DhTable, 'rows' | 'convention'> & Partial<DhTable>): TreeDoc {
  const made = jointsFromDh(table.rows, table.convention, table.base, table.tool);
  return tree({
    joints: made.joints.map((joint, i) => ({ ...joint, id: `j${i}`, parent: i ? `j${i - 1}` : null })),
    tools: [{ id: 'tool', parent: `j${made.joints.length - 1}`, origin: made.tool }],
  });
}
function tableOf(doc: TreeDoc, convention: DhConvention): DhTable | null {
  const mechanism = compiled(doc);
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, new Float64Array(mechanism.m));
  const tool = new Float64Array(12);
  toolInto(tool, 0, mechanism, space, mechanism.tools[0]);
  return dhTable(mechanism, mechanism.tools[0], space.frames, tool, convention);
}
const toolAt = (doc: TreeDoc, q: readonly number[]): Float64Array => {
  const mechanism = compiled(doc);
  return forward(
    mechanism,
    Float64Array.from({ length: mechanism.m }, (_, s) => q[s] ?? 0),
  ).tools.get(mechanism.tools[0].id)!;
};
const same = (a: ArrayLike<number>, b: ArrayLike<number>, digits: number): void =>
  Array.from(a).forEach((v, i) => expect(b[i]).toBeCloseTo(v, digits));

describe('Denavit–Hartenberg tables', () => {
  const values = fc.array(between(-0.5, 0.5), { minLength: 7, maxLength: 7 });
  it('become joints that stand where the plain products say', () => {
    fc.assert(
      fc.property(
        fc.array(row, { minLength: 1, maxLength: 7 }),
        fc.constantFrom(...conventions),
        values,
        (rows, convention, q) => {
          const t = plain(rows, convention, q);
          const frame = toolAt(docOf({ rows, convention }), q);
          same(
            [
              t[0][0],
              t[0][1],
              t[0][2],
              t[1][0],
              t[1][1],
              t[1][2],
              t[2][0],
              t[2][1],
              t[2][2],
              t[0][3],
              t[1][3],
              t[2][3],
            ],
            frame,
            6,
          );
        },
      ),
    );
  });
  it('are found again from any joints so made: the table moves the tool as the joints do', () => {
    fc.assert(
      fc.property(
        fc.array(row, { minLength: 1, maxLength: 6 }),
        fc.constantFrom(...conventions),
        fc.constantFrom(...conventions),
        values,
        (rows, made, shown, q) => {
          const doc = docOf({ rows, convention: made });
          const table = tableOf(doc, shown)!;
          expect(table.rows).toHaveLength(rows.length);
          same(toolAt(doc, q), toolAt(docOf(table), q), 5);
        },
      ),
    );
  });
  it('show usual arms with the lengths a person measured', () => {
    const table = tableOf(fourAxis(), 'standard')!;
    expect(table.rows.map((r) => [r.dMm, Math.abs(r.aMm)])).toEqual([
      [100, 0],
      [0, 140],
      [0, 128],
      expect.anything(),
    ]);
    for (const doc of [threeAxis(), sixAxis(), sixAxis(18)])
      for (const convention of conventions) {
        const q = [0.2, -0.3, 0.4, 0.1, -0.2, 0.3];
        same(toolAt(doc, q), toolAt(docOf(tableOf(doc, convention)!), q), 6);
      }
  });
  it('do not exist where a joint follows others', () => {
    const doc = structuredClone(fourAxis());
    Object.assign(doc.joints[3], { follows: [{ joint: 'elbow', factor: -1 }] });
    expect(tableOf(doc, 'standard')).toBeNull();
    expect(vec3.norm(axisOf(toolAt(doc, [0, 0, 0]), 2))).toBeCloseTo(1, 12);
  });
});
