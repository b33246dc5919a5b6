import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { forward } from '../kinematics';
import { compiled, poseOf, treeDoc } from '../kinematics/arms.testkit';
import { apply, symmetricEigenvalues, vec3, type Vec3 } from '../linear';
import { isMoving, type Tool, type TreeDoc } from '../rig';
import { compile } from './index';
import { between } from '../units/between.testkit';

const number = between(-50, 50);
const weight = fc.record({
  massG: between(0, 900),
  comMm: fc.tuple(number, number, number),
  inertiaKgM2: fc.option(fc.tuple(number, number, number, number, number, number)),
});
type Weight = Pick<Tool, 'massG' | 'comMm' | 'inertiaKgM2'>;
/** A tree whose links all weigh something. */
const heavy: fc.Arbitrary<TreeDoc> = fc
  .tuple(treeDoc, fc.array(weight, { minLength: 12, maxLength: 12 }))
  .map(([doc, weights]) => ({
    ...doc,
    joints: doc.joints.map((joint, k) => ({ ...joint, link: { ...weights[k], radiusMm: 0 } })) as TreeDoc['joints'],
  }))
  .filter((doc) => compile(doc).ok);
const eigenvalues = ([xx, yy, zz, xy, xz, yz]: readonly number[]): number[] =>
  [...symmetricEigenvalues(Float64Array.of(xx, xy, xz, xy, yy, yz, xz, yz, zz), 3)].sort((a, b) => a - b);

describe('masses of links', () => {
  it('hang where the document has them: the centre of mass is the same place of the world from either frame', () => {
    fc.assert(
      fc.property(heavy, fc.array(between(0, 1), { minLength: 7, maxLength: 7 }), (doc, f) => {
        const mechanism = compiled(doc);
        const { joints } = forward(mechanism, poseOf(mechanism, f));
        for (const joint of doc.joints) {
          const body = mechanism.bodies[mechanism.index.get(joint.id)!];
          const { massG, comMm } = joint.link as Weight;
          expect(body.mass).toBeCloseTo(massG / 1000, 12);
          // The document's frame, which forward gives, is the aligned one turned back.
          const frame = joints.get(joint.id)!;
          const there = apply(frame, vec3.scale(comMm, 1e-3) as Vec3);
          const o = 12 * mechanism.index.get(joint.id)!;
          const u = mechanism.unalign;
          // p_document = Rᵀ·p_aligned, R being the turn of `unalign`.
          const back: Vec3 = [0, 1, 2].map(
            (k) => u[o + k] * body.com[0] + u[o + 3 + k] * body.com[1] + u[o + 6 + k] * body.com[2],
          ) as unknown as Vec3;
          apply(frame, back).forEach((v, k) => expect(v).toBeCloseTo(there[k], 9));
        }
      }),
    );
  });
  it('keep the moments of inertia along their own axes, however the frame is turned', () => {
    fc.assert(
      fc.property(heavy, (doc) => {
        const mechanism = compiled(doc);
        for (const joint of doc.joints) {
          const { inertia } = mechanism.bodies[mechanism.index.get(joint.id)!];
          const given = (joint.link as Weight).inertiaKgM2 ?? [0, 0, 0, 0, 0, 0];
          eigenvalues(given).forEach((v, k) => expect(eigenvalues(inertia)[k]).toBeCloseTo(v, 7));
          // About the joint's own axis it is what the document says of that direction.
          const axis = isMoving(joint) ? vec3.unit(joint.axis)! : ([0, 0, 1] as Vec3);
          const [xx, yy, zz, xy, xz, yz] = given;
          const [x, y, z] = axis;
          const about = x * x * xx + y * y * yy + z * z * zz + 2 * (x * y * xy + x * z * xz + y * z * yz);
          expect(inertia[2]).toBeCloseTo(about, 7);
        }
      }),
    );
  });
  it('of every demo rig add up to what its document weighs', () => {
    for (const { rig } of demoRigs()) {
      const mechanism = compiled(rig.mechanism);
      const links = rig.mechanism.joints.reduce((sum, joint) => sum + (joint.link?.massG ?? 0), 0);
      const { masses } = rig.mechanism.family === 'rotary-delta' ? rig.mechanism.delta : { masses: null };
      const delta = masses ? 3 * (masses.upperArmG + masses.forearmG) + masses.platformG : 0;
      expect(mechanism.bodies.reduce((sum, body) => sum + body.mass, 0)).toBeCloseTo((links + delta) / 1000, 9);
      const tools = rig.mechanism.tools.reduce((sum, tool) => sum + tool.massG, 0);
      expect(mechanism.tools.reduce((sum, tool) => sum + tool.body.mass, 0)).toBeCloseTo(tools / 1000, 9);
      expect(mechanism.baseBody.mass).toBeCloseTo(rig.mechanism.base.massG / 1000, 12);
    }
  });
});
