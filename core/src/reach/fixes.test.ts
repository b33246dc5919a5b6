import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { finish } from '../jobs';
import { forward, solveInverse, type Task } from '../kinematics';
import { compiled, deltaDoc, fourAxis } from '../kinematics/arms.testkit';
import { axisOf, positionOf, vec3, type Vec3 } from '../linear';
import type { MechanismDoc, Rig } from '../rig';
import { applyFix, applyToTask, fixesJob, type Fix, type FixChecks } from './index';
import type { Finding } from '../findings';
import { planRoutine, rigStops, runStops, stoppedRoutines } from '../routine';
import { presets, rigFromPreset } from '../presets';
import { contactScene, contactsAt, standsOnTable } from '../contact';
import { kilnLoader, tileDipper } from '../../../demo';
import { between } from '../units/between.testkit';

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
            if (fix.kind === 'tilt' || fix.kind === 'target') {
              expect(reaches(doc, applyToTask(task, fix))).toBe(true);
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
    applyFix(doc, { kind: 'link', of: 'joint', id: 'elbow', name: '', by: 12, to: 152 });
    applyFix(doc, { kind: 'base', along: [1, 0, 0], by: 5, nearer: true });
    expect(doc).toEqual(before);
    const longer = applyFix(doc, { kind: 'link', of: 'joint', id: 'elbow', name: '', by: 12, to: 152 });
    const origin = longer.family === 'tree' && longer.joints.find((j) => j.id === 'elbow')!.origin.xyzMm;
    expect(origin && Math.hypot(...origin)).toBeCloseTo(vec3.norm(doc.joints[2].origin.xyzMm) + 12, 6);
  });

  it('of a delta are its own measures', () => {
    const delta = deltaDoc();
    const task: Task = { kind: 'free', position: [0.16, 0.1, 0.02] };
    expect(reaches(delta, task)).toBe(false);
    const found = search(delta, task);
    expect(found.some((f) => f.kind === 'delta' || f.kind === 'base' || f.kind === 'limit')).toBe(true);
    for (const fix of found) expect(reaches(applyFix(delta, fix), applyToTask(task, fix))).toBe(true);
  });
});

describe('what is offered on a whole rig', () => {
  const rig = tileDipper();
  const arm = compiled(rig.mechanism);
  const [build] = rig.builds;
  const checks: FixChecks = {
    rig: (r, m) => rigStops(r, m, build),
    routines: (r, m) => stoppedRoutines(r, m, build),
  };
  const offers = (task: Task, around = rig): Fix[] =>
    finish(
      fixesJob(
        { doc: around.mechanism, around, toolId: arm.tools[0].id, task, near: arm.home },
        around === rig ? checks : undefined,
      ),
    );
  const far: Task = { kind: 'direction', position: [0.31, 0.02, 0.06], direction: down };
  it('asks for another target first and for other links last where the arm has motors', () => {
    const kinds = offers(far).map((f) => f.kind);
    expect(kinds[0]).toMatch(/target|tilt/);
    const rank = kinds.map((k) => (k === 'target' || k === 'tilt' ? 0 : k === 'link' ? 2 : 1));
    expect(rank).toEqual([...rank].sort((a, b) => a - b));
    expect(rank).toContain(2);
    const unbuilt = offers(far, { ...rig, drives: [], transmissions: [], wiring: [] }).map((f) => f.kind);
    expect(unbuilt.length).toBeGreaterThan(0);
  });
  it('says what a length or a limit comes to', () => {
    for (const fix of offers(far)) {
      if (fix.kind !== 'link' || fix.of !== 'joint') continue;
      const changed = applyFix(rig.mechanism, fix);
      const joint = changed.family === 'tree' && changed.joints.find((j) => j.id === fix.id);
      expect(joint && Math.hypot(...joint.origin.xyzMm)).toBeCloseTo(fix.to, 2);
    }
  });
  it('widens no limit past the pulses of its servo', () => {
    // Behind the turntable: its limit alone is in the way, and its motor goes no further.
    const behind: Task = { kind: 'free', position: [-0.1, 0.13, 0.12] };
    const bare = fixesJob({ doc: rig.mechanism, around: rig, toolId: arm.tools[0].id, task: behind, near: arm.home });
    const wide = finish(bare).find((f) => f.kind === 'limit' && f.id === 'turn');
    expect(wide).toBeDefined();
    const over = rigStops(rig, arm, build);
    for (const fix of offers(behind)) {
      if (fix.kind === 'target' || fix.kind === 'tilt') continue;
      const changed = applyFix(rig.mechanism, fix);
      const stops = rigStops({ ...rig, mechanism: changed }, compiled(changed), build);
      expect(stops.filter((key) => !over.includes(key))).toEqual([]);
    }
    expect(offers(behind).some((f) => f.kind === 'limit' && f.id === 'turn')).toBe(false);
  });
  it('touches nothing, the table included, wherever the base goes, and no routine stops that did not before', () => {
    expect(standsOnTable(arm)).toBe(true);
    // Just above the table: a lower base would reach it and stand in it.
    const low: Task = { kind: 'direction', position: [0.3, 0, 0.004], direction: down };
    for (const task of [low, far]) {
      const found = offers(task);
      expect(found.length).toBeGreaterThan(0);
      const before = finish(stoppedRoutines(rig, arm, build));
      for (const fix of found) {
        const mechanism = applyFix(rig.mechanism, fix);
        const changed = compiled(mechanism);
        expect(changed.base[11]).toBeGreaterThanOrEqual(0);
        const { solutions } = solveInverse(changed, changed.tools[0], applyToTask(task, fix), arm.home);
        const scene = contactScene({ ...rig, mechanism }, changed, [], true);
        expect(solutions.some(({ q }) => contactsAt(scene, q).length === 0)).toBe(true);
        if (fix.kind === 'target' || fix.kind === 'tilt') continue;
        const stops = finish(stoppedRoutines({ ...rig, mechanism }, changed, build));
        expect(stops.filter((key) => !before.includes(key))).toEqual([]);
      }
    }
  }, 60_000);
  it('leaves every routine light enough for its motors, where they have little to spare', () => {
    const weakened = (share: number): Rig => ({
      ...rig,
      drives: rig.drives.map((drive): Rig['drives'][number] =>
        drive.stallNm === undefined ? drive : { ...drive, stallNm: share * drive.stallNm },
      ),
    });
    const stoppedWith = (share: number): string[] => finish(stoppedRoutines(weakened(share), arm, build));
    // The weakest motors that still do.
    let [does, fails] = [1, 0];
    expect(stoppedWith(does)).toEqual([]);
    for (let k = 0; k < 7; k++) {
      const middle = (does + fails) / 2;
      if (stoppedWith(middle).length) fails = middle;
      else does = middle;
    }
    const weak = weakened(does * 1.02);
    const tried = (own?: FixChecks): Fix[] =>
      finish(
        fixesJob({ doc: weak.mechanism, around: weak, toolId: arm.tools[0].id, task: far, near: arm.home }, own),
      );
    const stopsOf = (fix: Fix): Finding[] => {
      const mechanism = applyFix(weak.mechanism, fix);
      const changed = { ...weak, mechanism };
      return weak.routines.flatMap((routine) => {
        const arm = compiled(mechanism);
        return finish(runStops(changed, arm, build, planRoutine(changed, arm, build, routine)));
      });
    };
    const stays = (fix: Fix): boolean => fix.kind === 'target' || fix.kind === 'tilt';
    // Longer links ask more: there is something to leave out.
    expect(tried().some((fix) => !stays(fix) && stopsOf(fix).some(({ code }) => code === 'load-stalls'))).toBe(true);
    const offered = tried(checks).filter((fix) => !stays(fix));
    expect(offered.flatMap(stopsOf)).toEqual([]);
  }, 60_000);
});

describe('on every kind of arm', () => {
  it.each([
    ...presets.flatMap((preset) => {
      const rig = rigFromPreset(preset, preset.name);
      return rig.ok ? [[preset.id, rig.value] as const] : [];
    }),
    ['the loader', kilnLoader()] as const,
  ])('%s: what is offered for a target out of its reach does', (_id, rig) => {
    const arm = compiled(rig.mechanism);
    const [tool] = arm.tools;
    if (!tool || tool.slots.length < 3) return;
    const at = forward(arm, arm.home).tools.get(tool.id)!;
    const position = vec3.add(positionOf(at), [0.06, 0.05, 0.08]);
    for (const task of [
      { kind: 'free', position },
      { kind: 'direction', position, direction: axisOf(at, 2) },
    ] as const) {
      if (solveInverse(arm, tool, task, arm.home, { explained: false }).reachable) continue;
      const question = { doc: rig.mechanism, around: rig, toolId: tool.id, task, near: arm.home };
      for (const fix of finish(fixesJob(question))) {
        const changed = compiled(applyFix(rig.mechanism, fix));
        const end = changed.tools.find((t) => t.id === tool.id)!;
        expect(solveInverse(changed, end, applyToTask(task, fix), arm.home, { explained: false }).reachable).toBe(
          true,
        );
      }
    }
  });
});

describe('a target that is reached already', () => {
  it('is offered no change, wherever the arm can stand', () => {
    const doc = tileDipper().mechanism;
    const mechanism = compiled(doc);
    const [tool] = mechanism.tools;
    fc.assert(
      fc.property(fc.array(between(0.05, 0.95), { minLength: mechanism.m, maxLength: mechanism.m }), (share) => {
        const { lower, upper } = mechanism;
        const q = Float64Array.from(share, (f, s) => lower[s] + f * (upper[s] - lower[s]));
        const position = positionOf(forward(mechanism, q).tools.get(tool.id)!);
        const task = { kind: 'free', position } as const;
        expect(finish(fixesJob({ doc, toolId: tool.id, task, near: q }))).toEqual([]);
      }),
      { numRuns: 20 },
    );
  });
});
