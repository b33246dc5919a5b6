import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dotPainter, tileDipper } from '../../../demo';
import { tableToCsv } from '../commands';
import { driveMaps, resolutionAt } from '../actuators';
import { finish } from '../jobs';
import { lastBegun, profileKinds, sampleMotion } from '../motion';
import { compiled } from '../kinematics/arms.testkit';
import { limitExcess } from '../mechanism';
import type { Rig, Routine, Step } from '../rig';
import { contactFindings, describeStep, planJob, planMotion, planRoutine, preflight, stepAt } from './index';
import { commandTable } from '../commands';
import { between } from '../units/between.testkit';

const rig = tileDipper();
const mechanism = compiled(rig.mechanism);
const build = rig.builds[0];
const poseIds = rig.poses.map((p) => p.id);

/** A jump asks what no limit allows; it is a fault by itself. */
const limited = profileKinds.filter((kind) => kind !== 'jump');
const pace = fc.oneof(fc.record({ speedShare: between(0.05, 1) }), fc.record({ durationS: between(0.05, 6) }));
const step: fc.Arbitrary<Omit<Step, 'id'>> = fc.oneof(
  fc.record({
    kind: fc.constant('joint-move' as const),
    enabled: fc.boolean(),
    note: fc.constant(''),
    target: fc.oneof(
      fc.record({ pose: fc.constantFrom(...poseIds) }),
      fc.record({ joints: fc.record({ elbow: fc.integer({ min: -40, max: 160 }) }) }),
    ),
    pace,
    profile: fc.option(fc.constantFrom(...limited), { nil: undefined }),
  }),
  fc.record({
    kind: fc.constant('wait' as const),
    enabled: fc.boolean(),
    note: fc.constant(''),
    durationS: fc.integer({ min: 0, max: 3 }),
  }),
  fc.record({
    kind: fc.constant('grip' as const),
    enabled: fc.constant(true),
    note: fc.constant(''),
    tool: fc.constant('tongs'),
    to: fc.oneof(fc.constantFrom('open' as const, 'closed' as const), fc.integer({ min: -20, max: 60 })),
    pace,
    profile: fc.option(fc.constantFrom(...limited), { nil: undefined }),
  }),
);
const routine: fc.Arbitrary<Routine> = fc.array(step, { maxLength: 12 }).map((steps) => ({
  id: 'r',
  name: 'Any',
  note: '',
  role: null,
  profile: 's-curve' as const,
  steps: steps.map((s, i) => ({ ...s, id: `s${i}` }) as Step),
}));

describe('planning random routines', () => {
  it('keeps every sample inside every limit at ten times the rate, without a jump in position', () => {
    fc.assert(
      fc.property(routine, (r) => {
        const plan = planRoutine(rig, mechanism, build, r);
        const [p, v, a] = [0, 1, 2].map(() => new Float64Array(mechanism.m));
        const last = plan.start.slice();
        let worst = -Infinity;
        const n = Math.min(4000, Math.ceil(plan.durationS * 500));
        const dt = n ? plan.durationS / n : 0;
        for (let i = 0; i <= n; i++) {
          planMotion(plan).sampleInto(p, v, a, i * dt);
          worst = Math.max(worst, limitExcess(mechanism, p).by);
          for (let s = 0; s < mechanism.m; s++) {
            worst = Math.max(
              worst,
              Math.abs(v[s]) / mechanism.speed[s] - 1,
              Math.abs(a[s]) / mechanism.accel[s] - 1,
              Math.abs(p[s] - last[s]) - mechanism.speed[s] * dt * 1.001,
            );
            last[s] = p[s];
          }
        }
        expect(worst).toBeLessThanOrEqual(1e-9);
        const stepsTime = plan.steps.reduce((sum, s) => sum + s.endS - s.startS, 0);
        expect(stepsTime).toBeCloseTo(plan.durationS, 9);
      }),
    );
  });
  it('gives the same plan in pieces as at once', () => {
    fc.assert(
      fc.property(routine, fc.integer({ min: 1, max: 5 }), (r, budget) => {
        const job = planJob(rig, mechanism, build, r);
        let progress = 0;
        for (let s = job.step(budget); ; s = job.step(budget)) {
          if (s.done) {
            expect(s.value).toEqual(planRoutine(rig, mechanism, build, r));
            break;
          }
          expect(s.progress).toBeGreaterThanOrEqual(progress);
          progress = s.progress;
        }
      }),
    );
    expect(finish(planJob(rig, mechanism, build, rig.routines[0])).durationS).toBeGreaterThan(30);
  });
  it('samples end exactly on the end', () => {
    const plan = planRoutine(rig, mechanism, build, rig.routines[0]);
    const samples = sampleMotion(mechanism, planMotion(plan), 0.033);
    expect(samples.timeS.at(-1)).toBe(plan.durationS);
    expect([...samples.speeds].every((c) => c.at(-1) === 0)).toBe(true);
    expect(lastBegun(plan.blocks, 1e9)).toBe(plan.blocks.length - 1);
    expect(stepAt(plan, plan.durationS)?.index).toBe(rig.routines[0].steps.length - 1);
  });
});

describe('what planning finds', () => {
  const plan = (steps: object[]): string[] =>
    planRoutine(rig, mechanism, build, {
      id: 'r',
      name: 'R',
      note: '',
      role: null,
      profile: 's-curve',
      steps: steps.map((s, i) => ({ id: `s${i}`, enabled: true, note: '', pace: { speedShare: 1 }, ...s })) as Step[],
    }).findings.map((f) => f.code);
  it('names each fault by its code', () => {
    expect(plan([])).toEqual(['routine-empty']);
    expect(plan([{ kind: 'joint-move', target: { pose: 'gone' } }])).toEqual(['pose-unknown']);
    expect(plan([{ kind: 'joint-move', target: { joints: { elbow: 200 } } }])).toEqual(['target-over-limit']);
    expect(plan([{ kind: 'joint-move', target: { joints: { elbow: 0 } }, pace: { durationS: 0.1 } }])).toEqual([
      'duration-too-short',
    ]);
    expect(plan([{ kind: 'grip', tool: 'spoon', to: 'open' }])).toEqual(['grip-no-tool']);
  });
  it('a motor that is too slow is worth a look', () => {
    const slow = structuredClone(rig);
    Object.assign(slow.drives[0], { speedDegPerS: 20 });
    const made = planRoutine(slow, mechanism, slow.builds[0], slow.routines[0]);
    const found = preflight(slow, mechanism, slow.builds[0], made).filter((f) => f.code === 'drive-too-slow');
    expect(found.length).toBeGreaterThan(0);
    expect(found[0]).toMatchObject({ severity: 'look', place: { joint: 'turn' } });
  });
  it('moves to a pose leave the jaw to the grip steps', () => {
    const made = planRoutine(rig, mechanism, build, rig.routines[0]);
    const jaw = mechanism.slotOf.get('jaw')!;
    const moving = new Set(
      made.blocks.filter(({ block }) => block.kind === 'move' && block.delta[jaw] !== 0).map((b) => b.stepId),
    );
    for (const id of moving) expect(rig.routines[0].steps.find((s) => s.id === id)!.kind).toBe('grip');
    expect(moving.size).toBe(2);
    expect(rig.routines[0].steps.map((s) => describeStep(rig, s))).toContain('Tongs closed, holding test tile');
  });
});

describe('the command table', () => {
  const made = planRoutine(rig, mechanism, build, rig.routines[0]);
  const maps = driveMaps(rig, mechanism, build);
  it('says in CSV what it says as a table, in either notation', () => {
    const table = commandTable(mechanism, maps, planMotion(made), 20);
    const lines = tableToCsv(rig, mechanism, table, { delimiter: ';', columns: 'both' }).trim().split('\r\n');
    expect(lines).toHaveLength(table.timeS.length + 1);
    const row = lines[101].split(';');
    expect(row[0]).toBe('5,000');
    expect(Number(row[1])).toBe(table.natives[0][100]);
    expect(Number(row[6].replace(',', '.'))).toBeCloseTo(table.joints[0][100], 2);
  });
  it('stays within half a pulse of the plan', () => {
    const table = commandTable(mechanism, maps, planMotion(made), 50);
    const samples = sampleMotion(mechanism, planMotion(made), 0.02);
    maps.forEach((map, k) => {
      const [perUnit] = resolutionAt(map, mechanism, mechanism.home)!;
      const worst = Math.max(...table.joints[k].map((v, i) => Math.abs(v - samples.joints[map.slots[0]][i])));
      expect(worst).toBeLessThanOrEqual(perUnit * 0.5001);
    });
  });
});

describe('ways between poses', () => {
  const moves = (joints: Record<string, number>[]): Rig['routines'][number] => ({
    id: 'r',
    name: 'R',
    note: '',
    role: null,
    profile: 's-curve',
    steps: joints.map((target, i) => ({
      id: `s${i}`,
      kind: 'joint-move' as const,
      enabled: true,
      note: '',
      target: { joints: target },
      pace: { speedShare: 0.5 },
    })),
  });
  it('are refused where they break a conditional limit on the way, though both ends keep it', () => {
    const rig = structuredClone(tileDipper());
    rig.mechanism.limitRules = [
      { while: { joint: 'shoulder', above: 20 }, joint: 'elbow', max: 80 },
      { while: { joint: 'shoulder', above: 60 }, joint: 'elbow', max: 70 },
    ];
    const mechanism = compiled(rig.mechanism);
    // Elbow 120 at shoulder 0, elbow 60 at shoulder 80: half-way, 90 at 40 is over the 80 allowed there.
    const plan = planRoutine(
      rig,
      mechanism,
      rig.builds[0],
      moves([
        { shoulder: 0, elbow: 120 },
        { shoulder: 80, elbow: 60 },
      ]),
    );
    expect(plan.findings.filter((f) => f.severity === 'stop')).toMatchObject([
      {
        code: 'rule-over-limit',
        data: { step: 2, rule: 'the limit of Elbow while Shoulder is above 60°' },
      },
    ]);
    const round = planRoutine(
      rig,
      mechanism,
      rig.builds[0],
      moves([
        { shoulder: 0, elbow: 120 },
        { shoulder: 0, elbow: 60 },
        { shoulder: 80, elbow: 60 },
      ]),
    );
    expect(round.findings.filter((f) => f.severity === 'stop')).toEqual([]);
  });
  it('of a delta are refused where its forearms would come apart', () => {
    const rig = structuredClone(dotPainter());
    if (rig.mechanism.family !== 'rotary-delta') throw new Error();
    // Short rods, which meet with the arms down but not with the arms level.
    rig.mechanism.delta.forearmMm = 110;
    for (const joint of rig.mechanism.joints) joint.home = 60;
    const mechanism = compiled(rig.mechanism);
    const plan = planRoutine(rig, mechanism, rig.builds[0], moves([{ one: 0, two: 0, three: 0 }]));
    expect(plan.findings.some((f) => f.code === 'rods-apart' && f.message.includes('too short to meet'))).toBe(true);
  });
});

describe('contact along a routine', () => {
  it('is none in the demo; a keep-out in the way is named with step, moment and depth', () => {
    const clear = tileDipper();
    const of = (rig: Rig) => {
      const mechanism = compiled(rig.mechanism);
      const [routine] = rig.routines;
      const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
      return { plan, found: finish(contactFindings(rig, mechanism, rig.builds[0], routine, plan)) };
    };
    expect(of(clear).found).toEqual([]);
    const blocked = structuredClone(clear);
    blocked.obstacles.push({
      ...{ id: 'post', name: 'post', kind: 'box', rpyDeg: [0, 0, 0] },
      // Thin and upright between rack and jar, where the tongs sweep by.
      xyzMm: [160, 90, 0],
      sizeMm: [4, 4, 260],
    });
    const { plan, found } = of(blocked);
    const post = found.find((f) => f.data.second === 'post' || f.data.first === 'post')!;
    expect(post.code).toBe('contact');
    expect(post.data.depth).toBeGreaterThan(1);
    const step = stepAt(plan, post.place.timeS!)!;
    expect(post.place.step).toBe(step.stepId);
    expect(post.data.from).toBeLessThanOrEqual(post.place.timeS!);
  });
});
