import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { driveMaps } from '../actuators';
import { forward } from '../kinematics';
import { compiled } from '../kinematics/arms.testkit';
import { positionOf } from '../linear';
import { plannedMotion, type Rig, type Step } from '../rig';
import {
  changedPose,
  compareSchools,
  cycleFigures,
  heldBack,
  jointTest,
  type NewStep,
  pickAndPlace,
  planCommands,
  planMotion,
  planRoutine,
  preflight,
  reversed,
} from './index';
import { poseAt } from '../motion';
import { commandedMotion, commandTable } from '../commands';

const rig = tileDipper();
const mechanism = compiled(rig.mechanism);
const build = rig.builds[0];
const maps = driveMaps(rig, mechanism, build);
const plan = planRoutine(rig, mechanism, build, rig.routines[0]);
const numbered = (steps: readonly NewStep[]): Step[] =>
  steps.map((body, k) => ({ enabled: true, note: '', ...body, id: `s${k}` }) as Step);
const planOf = (steps: readonly NewStep[], more: Partial<Rig> = {}) =>
  planRoutine({ ...rig, ...more }, mechanism, build, { ...rig.routines[0], id: 'r', steps: numbered(steps) });

describe('schools of motion', () => {
  const motion = { ...plannedMotion, school: 'low-pass' as const };
  it('of which only the planned one keeps every limit; all arrive at the same place', () => {
    const figures = compareSchools(mechanism, maps, plan, motion);
    const by = (school: string) => figures.find((f) => f.school === school)!;
    expect(by('planned').speed).toBeLessThanOrEqual(1);
    expect(by('planned').accel).toBeLessThanOrEqual(1.01);
    expect(by('low-pass').speed).toBeGreaterThan(1);
    expect(by('jump').speed).toBeGreaterThan(by('low-pass').speed);
    expect(by('low-pass').offPath).toBeGreaterThan(0.001);
    for (const school of ['planned', 'low-pass', 'jump'] as const) {
      const told = commandedMotion(mechanism, maps, planMotion(plan), { ...motion, school }, 2);
      poseAt(told, plan.durationS + 2).forEach((v, s) =>
        expect(v).toBeCloseTo(poseAt(planMotion(plan), plan.durationS)[s], 6),
      );
    }
  });
  it('fill the table of commands with what they send', () => {
    const [planned, smoothed] = [plannedMotion, motion].map((m) =>
      commandTable(mechanism, maps, planCommands({ motion: m }, mechanism, maps, plan), 50),
    );
    expect(smoothed.natives[0].at(-1)).toBe(planned.natives[0].at(-1));
    expect(smoothed.natives[0].subarray(0, planned.timeS.length)).not.toEqual(planned.natives[0]);
  });
  it('are each warned of where they ask too much', () => {
    const found = preflight({ ...rig, motion }, mechanism, build, plan).map((f) => f.code);
    expect(found).toContain('low-pass-first-tick');
    const slow = { ...motion, timeConstantS: 3 };
    const late = preflight({ ...rig, motion: slow }, mechanism, build, plan).map((f) => f.code);
    expect(late).toContain('low-pass-unsettled');
    expect(late).not.toContain('low-pass-first-tick');
    const rocking = { ...plannedMotion, rocking: { hz: 3, damping: 0.05 } };
    const still = preflight({ ...rig, motion: rocking }, mechanism, build, plan).map((f) => f.code);
    expect(still).toContain('settle-missing');
  });
});

describe('told each target at once', () => {
  const jump = { ...plannedMotion, school: 'jump' as const };
  it('an arm of servos is warned once, one of steppers is stopped for each that would lose steps', () => {
    const found = (each: Rig) => {
      const own = compiled(each.mechanism);
      const made = planRoutine(each, own, each.builds[0], each.routines[0]);
      const all = preflight({ ...each, motion: jump }, own, each.builds[0], made).filter((f) =>
        f.code.startsWith('jump-'),
      );
      return { own, made, all };
    };
    expect(found(rig).all.map((f) => [f.code, f.severity])).toEqual([['jump-unlimited', 'look']]);
    const { own, made, all } = found(kilnLoader());
    const steppers = all.filter((f) => f.code === 'jump-stepper');
    // Just those whose joints go anywhere, each at the first step that takes it there.
    const maps = driveMaps(kilnLoader(), own, kilnLoader().builds[0]).filter((m) => m.drive.kind === 'stepper');
    const moved = maps.flatMap((map) => {
      const at = made.blocks.find(({ block }) => map.slots.some((s) => Math.abs(block.to[s] - block.from[s]) > 0.01));
      return at ? [[map.drive.id, at.stepId]] : [];
    });
    expect(moved.length).toBeGreaterThan(2);
    expect(steppers.map((f) => [f.place.drive, f.place.step])).toEqual(moved);
    expect(steppers.every((f) => f.severity === 'stop')).toBe(true);
  });
  it('an arm that stands still has nothing to be told', () => {
    const still = planOf([{ kind: 'wait', durationS: 1 }]);
    const all = preflight({ ...rig, motion: jump }, mechanism, build, still).map((f) => f.code);
    expect(all.filter((code) => code.startsWith('jump-'))).toEqual([]);
  });
});

describe('what a plan’s time goes into', () => {
  it('is without gaps, and names the limit where one is reached', () => {
    const full = planOf([
      { kind: 'joint-move', target: { pose: 'over-jar' }, pace: { speedShare: 1 } },
      { kind: 'wait', durationS: 1 },
      { kind: 'joint-move', target: { pose: 'over-bat' }, pace: { speedShare: 0.3 } },
    ]);
    const stretches = heldBack(mechanism, full);
    stretches.slice(1).forEach((s, k) => expect(s.startS).toBeCloseTo(stretches[k].endS, 9));
    expect(stretches.at(-1)!.endS).toBeCloseTo(full.durationS, 9);
    const during = (t: number) => stretches.find((s) => s.startS <= t && s.endS > t)!.by;
    const [first, , last] = full.blocks;
    expect(['speed', 'accel', 'jerk']).toContain(during(first.block.duration * 0.1));
    expect(during(first.block.duration + 0.5)).toBe('still');
    expect(during(last.startS + last.block.duration / 2)).toBe('pace');
    const figures = cycleFigures(mechanism, full);
    expect(figures.waitingS).toBeCloseTo(1, 9);
    expect(figures.perHour).toBeCloseTo(3600 / full.durationS, 9);
    expect(figures.slowest!.seconds).toBeLessThanOrEqual(first.block.duration);
  });
});

describe('steps that are made', () => {
  it('pick up, carry over and set down', () => {
    const steps = pickAndPlace({
      tool: 'tongs',
      payload: 'tile',
      from: { pose: 'at-rack' },
      to: { pose: 'on-bat' },
      via: { pose: 'over-jar' },
      approachMm: 50,
      pace: { speedShare: 0.6 },
      slowMmPerS: 30,
    });
    const made = planOf(steps);
    expect(made.findings.filter((f) => f.severity === 'stop')).toEqual([]);
    expect(made.carries.map((c) => c.payload)).toEqual(['tile', null]);
    const held = made.carries[1].timeS - made.carries[0].timeS;
    expect(held).toBeGreaterThan(3);
  });
  it('try every joint of every arm and come home', () => {
    for (const each of [rig, kilnLoader()]) {
      const own = compiled(each.mechanism);
      const made = planRoutine(each, own, each.builds[0], {
        ...each.routines[0],
        id: 'r',
        steps: numbered(jointTest(own)),
      });
      expect(made.findings.filter((f) => f.severity === 'stop')).toEqual([]);
      made.blocks.at(-1)!.block.to.forEach((v, s) => expect(v).toBeCloseTo(own.home[s], 6));
      const moved = new Set(
        made.blocks.flatMap(({ block }) => [...block.to].flatMap((v, s) => (v !== block.from[s] ? [s] : []))),
      );
      expect(moved.size).toBe(own.m);
    }
  });
  it('mirror, invert, scale and shift a pose; twice mirrored is where it was', () => {
    const tool = mechanism.tools.find((t) => t.mounted)!;
    const tip = (q: Float64Array) => positionOf(forward(mechanism, q).tools.get(tool.id)!);
    const at = poseAt(planMotion(plan), 3);
    const there = changedPose(rig, mechanism, tool, { kind: 'mirror' }, at)!;
    const [a, b] = [tip(at), tip(there)];
    expect([b[0], -b[1], b[2]].every((v, k) => Math.abs(v - a[k]) < 1e-6)).toBe(true);
    const back = changedPose(rig, mechanism, tool, { kind: 'mirror' }, there)!;
    back.forEach((v, s) => expect(v).toBeCloseTo(at[s], 5));
    const up = changedPose(rig, mechanism, tool, { kind: 'shift', xyzMm: [0, 0, -5] }, at)!;
    expect(tip(up)[2] - a[2]).toBeCloseTo(-0.005, 6);
    expect(changedPose(rig, mechanism, tool, { kind: 'shift', xyzMm: [0, 0, 900] }, at)).toBeNull();
    const twice = changedPose(
      rig,
      mechanism,
      tool,
      { kind: 'invert' },
      changedPose(rig, mechanism, tool, { kind: 'invert' }, at)!,
    )!;
    twice.forEach((v, s) => expect(v).toBeCloseTo(at[s], 9));
  });
  it('turn the order round, but never tear an opener from its end', () => {
    const steps = numbered([
      { kind: 'wait', durationS: 1 },
      { kind: 'repeat', times: 2 },
      { kind: 'wait', durationS: 2 },
      { kind: 'end' },
      { kind: 'wait', durationS: 3 },
    ]);
    expect(reversed(steps, new Set(['s0', 's4']))!.map((s) => s.id)).toEqual(['s4', 's1', 's2', 's3', 's0']);
    expect(reversed(steps, new Set(['s0', 's1']))).toBeNull();
  });
});
