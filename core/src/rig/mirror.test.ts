import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { forward } from '../kinematics';
import { compiled, poseOf, tree, treeDoc } from '../kinematics/arms.testkit';
import { compile } from '../mechanism';
import { checkMechanism, mirrorLimb, mirrorName } from './index';
import { between } from '../units/between.testkit';

const shares = fc.array(between(0, 1), { minLength: 7, maxLength: 7 });
/** What a mirror in the XZ plane makes of a frame: M·T·M. */
const mirrored = (f: Float64Array): number[] => Array.from(f, (v, i) => ([1, 3, 5, 7, 10].includes(i) ? -v : v));

describe('a mirrored limb', () => {
  it('moves as the mirror image of the first when both get the same values', () => {
    fc.assert(
      fc.property(treeDoc, fc.nat(), shares, (doc, pick, f) => {
        fc.pre(compile(doc).ok);
        const root = doc.joints[pick % doc.joints.length];
        // Only a limb on the base has its mirror in the base's own plane.
        fc.pre(root.parent === null);
        const copy = mirrorLimb(doc, root.id);
        const both = tree({
          ...doc,
          joints: [...doc.joints, ...copy.joints],
          tools: [...doc.tools, ...copy.tools],
        });
        expect(checkMechanism(both)).toEqual([]);
        const mechanism = compiled(both);
        const q = poseOf(mechanism, f);
        for (const [id, other] of copy.renamed) {
          const [a, b] = [mechanism.slotOf.get(id), mechanism.slotOf.get(other)];
          if (a !== undefined && b !== undefined) q[b] = q[a];
        }
        const { joints, tools } = forward(mechanism, q);
        for (const [id, other] of copy.renamed) {
          const [a, b] = [joints.get(id) ?? tools.get(id)!, joints.get(other) ?? tools.get(other)!];
          // Frames agree where the tool or joint is; a joint's own frame turns the mirrored way with its axis.
          mirrored(a).forEach((v, i) => expect(b[i]).toBeCloseTo(v, 9));
        }
      }),
    );
  });
  it('changes sides in names, and says so where there are none', () => {
    expect(mirrorName('Left shoulder')).toBe('Right shoulder');
    expect(mirrorName('grip, right')).toBe('grip, left');
    expect(mirrorName('Elbow')).toBe('Elbow, mirrored');
  });
});
