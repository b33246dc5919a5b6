import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { finish } from '../jobs';
import { solveInverse, type Task } from '../kinematics';
import { compiled, deltaDoc, fourAxis } from '../kinematics/arms.testkit';
import { vec3, type Vec3 } from '../linear';
import type { MechanismDoc } from '../rig';
import { applyFix, fixesJob, type Fix } from './index';

const down: Vec3 = [0, 0, -1];
const search = (doc: MechanismDoc, task: Task): Fix[] => {
  const arm = compiled(doc);
  return finish(fixesJob({ doc, toolId: arm.tools[0].id, task, near: arm.home }));
};
const reaches = (doc: MechanismDoc, task: Task): boolean => {
  const arm = compiled(doc);
  return solveInverse(arm, arm.tools[0], task).reachable;
};

describe('the smallest change that would do', () => {
  const doc = fourAxis();
  it('brings the target into reach, and a step less does not', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 240, max: 420 }),
        fc.integer({ min: -150, max: 150 }),
        fc.integer({ min: 0, max: 300 }),
        fc.boolean(),
        (x, y, z, free) => {
          const position: Vec3 = [x / 1000, y / 1000, z / 1000];
          const task: Task = free ? { kind: 'free', position } : { kind: 'direction', position, direction: down };
          fc.pre(!reaches(doc, task));
          for (const fix of search(doc, task)) {
            if (fix.kind === 'tilt') {
              expect(reaches(doc, { kind: 'direction', position, direction: fix.direction })).toBe(true);
              continue;
            }
            expect(reaches(applyFix(doc, fix), task)).toBe(true);
            const less = { ...fix, by: fix.by - Math.sign(fix.by) };
            if (less.by !== 0) expect(reaches(applyFix(doc, less), task)).toBe(false);
          }
        },
      ),
      { numRuns: 15 },
    );
  });

  it('offers a longer link, a wider limit, a nearer base and a tilt, as the case may be', () => {
    const far = search(doc, { kind: 'direction', position: [0.33, 0, 0.13], direction: down });
    expect(far.map((f) => f.kind)).toEqual(expect.arrayContaining(['link', 'base', 'tilt']));
    const base = far.find((f) => f.kind === 'base');
    expect(base && base.kind === 'base' && base.nearer).toBe(true);
    // Behind the arm only the turntable's limit is in the way.
    const behind = search(doc, { kind: 'direction', position: [-0.06, 0.17, 0.1], direction: down });
    const limit = behind.find((f) => f.kind === 'limit');
    expect(limit).toMatchObject({ id: 'turn', side: 'max', unit: '°' });
    expect(limit && limit.kind === 'limit' && limit.by).toBeGreaterThan(10);
  });

  it('never widens a limit past what the build can physically do', () => {
    const narrow = structuredClone(doc);
    const [turn] = narrow.joints;
    if (turn.type === 'revolute') turn.physical = { min: -97, max: 97 };
    const found = search(narrow, { kind: 'direction', position: [-0.06, 0.17, 0.1], direction: down });
    expect(found.filter((f) => f.kind === 'limit' && f.id === 'turn')).toHaveLength(0);
  });

  it('leaves the document that it is applied to as it was', () => {
    const before = structuredClone(doc);
    applyFix(doc, { kind: 'link', of: 'joint', id: 'elbow', name: '', by: 12 });
    applyFix(doc, { kind: 'base', along: [1, 0, 0], by: 5, nearer: true });
    expect(doc).toEqual(before);
    const longer = applyFix(doc, { kind: 'link', of: 'joint', id: 'elbow', name: '', by: 12 });
    const origin = longer.family === 'tree' && longer.joints.find((j) => j.id === 'elbow')!.origin.xyzMm;
    expect(origin && Math.hypot(...origin)).toBeCloseTo(vec3.norm(doc.joints[2].origin.xyzMm) + 12, 6);
  });

  it('of a delta are its own measures', () => {
    const delta = deltaDoc();
    const task: Task = { kind: 'free', position: [0.16, 0.1, 0.02] };
    expect(reaches(delta, task)).toBe(false);
    const found = search(delta, task);
    expect(found.some((f) => f.kind === 'delta' || f.kind === 'base' || f.kind === 'limit')).toBe(true);
    for (const fix of found) expect(reaches(applyFix(delta, fix), task)).toBe(true);
  });
});
