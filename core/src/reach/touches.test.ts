import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { contactsAt, contactScene } from '../contact';
import { finish } from '../jobs';
import { solveInverse, type Task } from '../kinematics';
import { compiled } from '../kinematics/arms.testkit';
import type { Vec3 } from '../linear';
import { isMoving, type Rig } from '../rig';
import { applyFix, applyToTask, fixesJob, pointsJob, withTouches, type Answer } from './index';

/** The dipper with an elbow that bends both ways. */
function bothWays(): Rig {
  const rig = structuredClone(tileDipper());
  const elbow = rig.mechanism.joints.find((j) => j.id === 'elbow')!;
  if (isMoving(elbow)) elbow.limits = { ...elbow.limits, min: -135, max: 135 };
  return rig;
}
const rig = bothWays();
const arm = compiled(rig.mechanism);
const scene = contactScene(rig, arm);
const tool = arm.tools.find((t) => t.mounted)!;
const down: Vec3 = [0, 0, -1];
const ask = (task: Task): Answer => withTouches(scene, solveInverse(arm, tool, task));
const cm = (low: number, high: number): fc.Arbitrary<number> =>
  fc.integer({ min: low * 10, max: high * 10 }).map((v) => v / 1000);

describe('postures among what stands around', () => {
  it('are all kept, those that touch nothing first, each with its deepest contact', () => {
    let mixed = 0;
    fc.assert(
      fc.property(cm(8, 28), cm(-12, 12), cm(0, 24), (x, y, z) => {
        const task: Task = { kind: 'free', position: [x, y, z] };
        const bare = solveInverse(arm, tool, task);
        const looked = withTouches(scene, bare);
        expect(new Set(looked.solutions)).toEqual(new Set(bare.solutions));
        looked.solutions.forEach((solution, k) => {
          const found = contactsAt(scene, solution.q);
          const touch = looked.touches[k];
          expect(touch === null).toBe(found.length === 0);
          if (touch) expect(touch.depth).toBe(Math.max(...found.map((c) => c.depth)));
          if (k > 0) expect(touch?.depth ?? 0).toBeGreaterThanOrEqual(looked.touches[k - 1]?.depth ?? 0);
        });
        expect(looked.isFree).toBe(looked.touches.includes(null));
        if (looked.isFree && looked.touches.some((t) => t)) mixed++;
      }),
      { numRuns: 300 },
    );
    expect(mixed).toBeGreaterThan(0);
  });
  it('say what is in the way where none is free', () => {
    // In the jar's wall, 20 mm above its floor.
    const { xyzMm, innerRadiusMm } = jarOf(rig);
    const wall: Vec3 = [(xyzMm[0] + innerRadiusMm) / 1000, xyzMm[1] / 1000, 0.02];
    const answer = ask({ kind: 'direction', position: wall, direction: down });
    expect(answer.reachable).toBe(true);
    expect(answer.isFree).toBe(false);
    expect(answer.reasons[0]).toMatchObject({ code: 'in-the-way' });
    expect(answer.reasons[0].message).toMatch(/would stand \d+(\.\d+)? mm deep in/);
  });
  it('without a posture are as before', () => {
    const answer = ask({ kind: 'free', position: [0.9, 0, 0.5] });
    expect(answer).toMatchObject({ reachable: false, isFree: false, touches: [] });
    expect(answer.reasons[0].code).toBe('too-far');
    expect(answer.closestTouch).toBeNull();
    // Far below the table the nearest pose stands in it.
    const below = ask({ kind: 'free', position: [0.2, 0, -0.6] });
    expect(below.closestTouch?.second).toBe('the table');
  });
});

const jarOf = (of: Rig): { xyzMm: readonly number[]; innerRadiusMm: number } => {
  const jar = of.obstacles.find((o) => o.kind === 'jar');
  if (jar?.kind !== 'jar') throw new Error('no jar');
  return jar;
};

describe('ways out of what is in the way', () => {
  it('touch nothing, and a step less does', () => {
    const { xyzMm } = jarOf(rig);
    const position: Vec3 = [xyzMm[0] / 1000 + 0.03, xyzMm[1] / 1000 + 0.03, 0.03];
    const task: Task = { kind: 'direction', position, direction: down };
    expect(ask(task).isFree).toBe(false);
    const fixes = finish(fixesJob({ doc: rig.mechanism, around: rig, toolId: tool.id, task, near: arm.home }));
    const isFree = (fix: (typeof fixes)[0]): boolean => {
      const doc = applyFix(rig.mechanism, fix);
      const changed = compiled(doc);
      const around = contactScene({ ...rig, mechanism: doc }, changed);
      const end = changed.tools.find((t) => t.id === tool.id)!;
      return withTouches(around, solveInverse(changed, end, applyToTask(task, fix), arm.home)).isFree;
    };
    expect(fixes.some((f) => f.kind === 'target')).toBe(true);
    for (const fix of fixes) {
      expect(isFree(fix)).toBe(true);
      const less = Math.abs(fix.by) > 1 && fix.kind !== 'tilt' ? { ...fix, by: fix.by - Math.sign(fix.by) } : null;
      if (less) expect(isFree(less)).toBe(false);
    }
  });
  it('are not offered where they would only lead into something else', () => {
    // Out of reach above the jar: with the surroundings every change is one that stands free.
    const task: Task = { kind: 'direction', position: [0.3, 0, 0.01], direction: down };
    const bare = finish(fixesJob({ doc: rig.mechanism, toolId: tool.id, task, near: arm.home }));
    const wary = finish(fixesJob({ doc: rig.mechanism, around: rig, toolId: tool.id, task, near: arm.home }));
    expect(bare.length).toBeGreaterThan(0);
    for (const fix of wary) {
      const same = bare.find((b) => JSON.stringify({ ...b, by: 0 }) === JSON.stringify({ ...fix, by: 0 }));
      if (same) expect(Math.abs(fix.by)).toBeGreaterThanOrEqual(Math.abs(same.by));
    }
  });
});

describe('points among what stands around', () => {
  it('take a free posture where there is one, and name what is touched where there is none', () => {
    const spots = rig.spots.map((s) => s.xyzMm.map((v) => v / 1000) as unknown as Vec3);
    const { xyzMm } = jarOf(rig);
    const inside: Vec3 = [xyzMm[0] / 1000 + 0.03, xyzMm[1] / 1000 + 0.03, 0.03];
    const results = finish(
      pointsJob(
        arm,
        tool,
        [...spots, inside].map((position, k) => ({ name: `${k}`, position, direction: down })),
        arm.home,
        0.05,
        { scene },
      ),
    );
    for (const result of results.slice(0, -1)) expect(result.touch).toBeNull();
    expect(results.at(-1)!.touch).not.toBeNull();
    expect(results.at(-1)!.reason?.code).toBe('in-the-way');
    expect(results.at(-1)!.solution).not.toBeNull();
  });
  it('refuse a motor that can only be told how fast to turn', () => {
    const [result] = finish(
      pointsJob(arm, tool, [{ name: '', position: [0.2, 0, 0.1], direction: null }], arm.home, 0.05, {
        speedOnly: new Set([0]),
      }),
    );
    expect(result.solution).toBeNull();
    expect(result.reason?.code).toBe('speed-only');
  });
});
