import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compile } from '../mechanism';
import { poseOf, treeDoc } from './arms.testkit';
import { AXIS_STRIDE, chainInto, chainJacobianInto, chainOf, chainSpace } from './chain';
import { framesInto, jacobianInto, kinematicsSpace, toolInto } from './forward';
import { between } from '../units/between.testkit';

describe('the chain to a tool', () => {
  it('gives the tool frame, axes and Jacobian of the whole tree', () => {
    fc.assert(
      fc.property(treeDoc, fc.array(between(0, 1), { minLength: 7, maxLength: 7 }), (doc, f) => {
        const result = compile(doc);
        fc.pre(result.ok);
        if (!result.ok) return;
        const { mechanism } = result;
        const q = poseOf(mechanism, f);
        const [tool] = mechanism.tools;
        const space = kinematicsSpace(mechanism);
        framesInto(space, mechanism, q);
        const frame = new Float64Array(12);
        toolInto(frame, 0, mechanism, space, tool);
        const J = new Float64Array(6 * mechanism.m);
        jacobianInto(J, mechanism, space, tool, frame);

        const chain = chainOf(mechanism, tool);
        const own = chainSpace(chain);
        const ownJ = new Float64Array(6 * mechanism.m).fill(9);
        chainInto(own, chain, q);
        chainJacobianInto(ownJ, own, chain);
        frame.forEach((v, i) => expect(own.tool[i]).toBeCloseTo(v, 9));
        J.forEach((v, i) => expect(ownJ[i]).toBeCloseTo(v, 7));
        for (let i = 0; i < chain.count; i++)
          expect(Math.hypot(...own.axes.slice(AXIS_STRIDE * i, AXIS_STRIDE * i + 3))).toBeCloseTo(1, 12);
      }),
    );
  });
});
