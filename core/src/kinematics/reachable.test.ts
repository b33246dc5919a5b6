/**
 * What must hold for every family of arms: a target taken from an allowed pose is never refused, every answer meets it
 * inside limits and rules, and what no length of the arm leads to is always refused. `npm run soak` asks more of the same.
 */
import { describe, expect, it } from 'vitest';
import { axisOf, positionOf, seededRandom, vec3 } from '../linear';
import { fromSlotsRounded, rulesExcess, toSlots, type Mechanism } from '../mechanism';
import { presetById, rigFromPreset } from '../presets';
import { compiled } from './arms.testkit';
import { allowedPose, armOf, families, kinds, pushedOut, question, taskMet, type Question } from './families.testkit';
import { closedFormOf, forward, solveInverse, taskError, type InverseResult, type Task } from './index';
import { closedFormBranches, solutionsOf } from './reached';
import { atLeast, atMost } from '../units/held.testkit';

const RAD = Math.PI / 180;
/** Targets asked in all; the soak asks fifty times as many. */
const TARGETS = 4000;

const preset = (id: string): Mechanism => {
  const rig = rigFromPreset(presetById(id), id);
  if (!rig.ok) throw new Error(rig.faults[0].message);
  return compiled(rig.value.mechanism);
};

const answerTo = ({ mechanism, task, near }: Pick<Question, 'mechanism' | 'task' | 'near'>): InverseResult =>
  solveInverse(mechanism, mechanism.tools[0], task, near, { explained: false });
/** Every answer meets the task inside limits and rules. */
function expectSound({ mechanism, task }: Pick<Question, 'mechanism' | 'task'>, { solutions }: InverseResult): void {
  for (const { q } of solutions) {
    const { distance, angle } = taskError(task, forward(mechanism, q).tools.get(mechanism.tools[0].id)!);
    atMost(distance, 1e-6);
    atMost(angle, 1e-6);
    atMost(rulesExcess(mechanism, q), 1e-9);
    q.forEach((v, s) => {
      atLeast(v, mechanism.lower[s]);
      atMost(v, mechanism.upper[s]);
    });
  }
}
const isReached = (question: Question): boolean => answerTo(question).reachable;
const inWords = ({ mechanism, kind, pose }: Question): string =>
  `${kind} at ${JSON.stringify(fromSlotsRounded(mechanism, pose))}`;

describe('a target that an allowed pose meets', () => {
  const names = Object.keys(families);
  it.each(names.map((name, i) => [name, i] as const))('is never refused: %s', (name, i) => {
    const random = seededRandom(100 + i);
    const each = Math.ceil(TARGETS / names.length);
    const refused: string[] = [];
    for (let asked = 0; asked < each;) {
      const mechanism = armOf(name, random);
      for (let k = 0; k < 8; k++, asked++) {
        const asks = question(random, mechanism);
        if (!asks) continue;
        const answer = answerTo(asks);
        if (!answer.reachable) refused.push(inWords(asks));
        expectSound(asks, answer);
        if (k === 0)
          expect(isReached({ ...asks, task: pushedOut(asks, random) }), 'pushed out of all its lengths').toBe(false);
      }
    }
    expect(refused).toEqual([]);
  });
});

describe('an answer without a solution', () => {
  it.each([
    'turn and 3 bars',
    'rail, 3 bars',
    'wrist apart',
    'sums between joints',
    'any chain of 5',
    'column, 2 bars',
  ])('has a closest pose that does not meet the task: %s', (name) => {
    const random = seededRandom(9);
    let refused = 0;
    for (let i = 0; i < 60; i++) {
      const mechanism = armOf(name, random);
      const asks = question(random, mechanism);
      if (!asks || asks.task.kind === 'aim') continue;
      // About the edge: a little off a place that is reached.
      const by = vec3.scale([random() - 0.5, random() - 0.5, random() - 0.5], 0.02 * random());
      const task = { ...asks.task, position: vec3.add(asks.task.position, by) };
      const { reachable, solutions, closest } = solveInverse(mechanism, mechanism.tools[0], task, asks.near);
      expect(reachable).toBe(solutions.length > 0);
      if (reachable) continue;
      refused++;
      const off = taskError(task, forward(mechanism, closest!.q).tools.get(mechanism.tools[0].id)!);
      const isMet = off.distance <= 1e-6 && off.angle <= 1e-6;
      expect(isMet && rulesExcess(mechanism, closest!.q) <= 1e-9).toBe(false);
    }
    expect(refused).toBeGreaterThan(0);
  });
});

describe('the carriage of an arm', () => {
  it('is where the direction says, of which there is one place', () => {
    const mechanism = preset('rail-arm');
    const { slot } = closedFormOf(mechanism, mechanism.tools[0])!.carriage!;
    const random = seededRandom(5);
    let asked = 0;
    while (asked < 60) {
      const pose = allowedPose(mechanism, random)!;
      const task = taskMet(mechanism, pose, 'direction') as Extract<Task, { kind: 'direction' }>;
      // Along the turn's axis, or the rail, the direction leaves the place open.
      if (Math.hypot(task.direction[0], task.direction[1]) < 0.2 || Math.abs(task.direction[0]) < 0.2) continue;
      asked++;
      const { solutions } = solveInverse(mechanism, mechanism.tools[0], task, mechanism.home);
      expect(Math.min(...solutions.map(({ q }) => Math.abs(q[slot] - pose[slot])))).toBeLessThan(1e-6);
    }
  });
  it('is found on a rail of any length, however narrow the window', () => {
    for (const length of [400, 2000, 8000]) {
      const arm = compiled(families['long rail'](seededRandom(3)));
      arm.upper[0] = length / 1000;
      const random = seededRandom(length);
      for (let i = 0; i < 40; i++) {
        const pose = allowedPose(arm, random)!;
        // Just inside the outer edge: the two bars and the hand all but in a line.
        pose[3] = 1e-3 * random();
        pose[4] = 1e-3 * random();
        for (const kind of kinds)
          expect(isReached({ mechanism: arm, pose, kind, task: taskMet(arm, pose, kind), near: arm.home })).toBe(
            true,
          );
      }
    }
  });
});

describe('where the arm stands', () => {
  it.each(['servo-arm-4', 'servo-arm-5', 'rail-arm', 'six-spherical', 'scara', 'column-arm', 'stacking-arm'])(
    '%s is told that it can be there, its pose rounded as documents round, at limits too',
    (id) => {
      const mechanism = preset(id);
      const random = seededRandom(11);
      // Limits with more digits than documents keep, as followers leave them.
      mechanism.upper.forEach((v, s) => (mechanism.upper[s] = v - 0.0004 * mechanism.siPerUnit[s]));
      for (let i = 0; i < 60; i++) {
        const pose = allowedPose(mechanism, random)!;
        const rounded = toSlots(
          mechanism,
          Object.fromEntries(
            mechanism.slotIds.map((joint, s) => [joint, Math.round((pose[s] / mechanism.siPerUnit[s]) * 1e3) / 1e3]),
          ),
        );
        if (rulesExcess(mechanism, rounded) > 1e-6) continue;
        for (const kind of kinds) {
          const task = taskMet(mechanism, rounded, kind);
          const { solutions } = solveInverse(mechanism, mechanism.tools[0], task, rounded, { explained: false });
          expect(solutions[0]?.away).toBeLessThan(0.0011);
        }
      }
    },
  );
  it('but not far past a limit', () => {
    const mechanism = preset('servo-arm-3');
    const past = mechanism.upper.slice();
    past[1] += 0.05 * RAD;
    expect(solveInverse(mechanism, mechanism.tools[0], taskMet(mechanism, past, 'free'), past).reachable).toBe(false);
  });
});

describe('a tool on the turn’s axis', () => {
  const four = (): Mechanism => preset('servo-arm-4');
  const five = (): Mechanism => preset('servo-arm-5');
  const six = (): Mechanism => armOf('wrist in one point, over the turn', seededRandom(1));
  it.each([
    ['four axes', four, 'free'],
    ['four axes', four, 'direction'],
    ['five axes', five, 'full'],
    ['six axes', six, 'full'],
  ] as const)('%s stand at the turn that a rule allows (%s, %s)', (_name, make, kind) => {
    const arm = make();
    const up = arm.home.map(() => 0);
    const task = taskMet(arm, up, kind);
    expect(Math.hypot(...positionOf(forward(arm, up).tools.get(arm.tools[0].id)!).slice(0, 2))).toBeLessThan(1e-9);
    const [turn, shoulder] = arm.tools[0].slots;
    const wanted = arm.upper[turn] - 0.03;
    const terms = [
      { slot: turn, factor: 1 },
      { slot: shoulder, factor: 0.1 },
    ];
    const rule = { terms, min: wanted - 0.01, max: wanted + 0.01, joint: 0, words: 'the rule', unit: '°' as const };
    const ruled: Mechanism = { ...arm, rules: [rule] };
    const { solutions } = solveInverse(ruled, ruled.tools[0], task, arm.home);
    expect(solutions.length).toBeGreaterThan(0);
    for (const { q } of solutions) expect(Math.abs(q[turn] + 0.1 * q[shoulder] - wanted)).toBeLessThan(0.0101);
  });
});

describe('an angle from up, whatever the heading', () => {
  it('is met by headings that a fixed direction does not allow', () => {
    const mechanism = preset('servo-arm-4');
    const random = seededRandom(2);
    for (let i = 0; i < 100; i++) {
      const pose = allowedPose(mechanism, random)!;
      const task = taskMet(mechanism, pose, 'tilt');
      const answer = answerTo({ mechanism, task, near: mechanism.home });
      expect(answer.solutions.length).toBeGreaterThan(0);
      expectSound({ mechanism, task }, answer);
    }
  });
  it('straight up and straight down are those directions', () => {
    const mechanism = preset('servo-arm-4');
    const position = [0.16, 0.02, 0.06] as const;
    const tilt = (fromUp: number): Task => ({ kind: 'tilt', position, fromUp, up: [0, 0, 1] });
    const down = solveInverse(mechanism, mechanism.tools[0], tilt(Math.PI)).solutions;
    const same = solveInverse(mechanism, mechanism.tools[0], { kind: 'direction', position, direction: [0, 0, -1] });
    expect(down.map((s) => [...s.q])).toEqual(same.solutions.map((s) => [...s.q]));
    expect(down.length).toBeGreaterThan(0);
  });
  it('the lifting column’s own home is level, and found', () => {
    const mechanism = preset('column-arm');
    const home = forward(mechanism, mechanism.home).tools.get(mechanism.tools[0].id)!;
    const task: Task = { kind: 'tilt', position: positionOf(home), fromUp: Math.PI / 2, up: [0, 0, 1] };
    expect(Math.abs(axisOf(home, 2)[2])).toBeLessThan(1e-9);
    const { solutions } = solveInverse(mechanism, mechanism.tools[0], task);
    expect(solutions[0].awayS).toBeLessThan(1e-6);
    expect(vec3.distance(positionOf(home), task.position)).toBe(0);
  });
});

describe('the first reason', () => {
  const why = (mechanism: Mechanism, task: Task): ReturnType<typeof solveInverse>['reasons'] =>
    solveInverse(mechanism, mechanism.tools[0], task).reasons;
  it('is the turntable where a target stands behind it, though an elbow bent the other way would do as well', () => {
    const mechanism = preset('servo-arm-4');
    const limit = mechanism.upper[0] / RAD;
    for (const past of [5, 30, 60]) {
      const angle = (limit + past) * RAD;
      const [r, z] = [0.15, 0.08];
      const position = [r * Math.cos(angle), r * Math.sin(angle), z] as const;
      for (const task of [
        { kind: 'free', position },
        { kind: 'direction', position, direction: [0, 0, -1] },
      ] as const) {
        const { reachable, reasons } = solveInverse(mechanism, mechanism.tools[0], task);
        if (reachable) continue;
        expect(reasons[0]).toMatchObject({ code: 'turn-in-the-way', joint: 'turn' });
        expect(reasons[0].byDeg).toBeCloseTo(past, 4);
      }
    }
  });
  it('is the column where it cannot go low enough, never “too near”', () => {
    const mechanism = preset('column-arm');
    const { slot } = closedFormOf(mechanism, mechanism.tools[0])?.carriage ?? { slot: mechanism.tools[0].slots[0] };
    const low = mechanism.home.slice();
    low[slot] = mechanism.lower[slot];
    const task = taskMet(mechanism, low, 'tilt') as Extract<Task, { kind: 'tilt' }>;
    const [x, y, z] = task.position;
    for (const by of [0.004, 0.03, 0.2]) {
      const [reason] = why(mechanism, { ...task, position: [x, y, z - by] });
      expect(reason).toMatchObject({ code: 'slide-in-the-way' });
      expect(reason.byMm).toBeCloseTo(by * 1000, 3);
    }
  });
  it('holds: with that limit as much wider the target is reached, and not with less', () => {
    const random = seededRandom(21);
    let told = 0;
    for (const id of ['servo-arm-4', 'servo-arm-5', 'rail-arm', 'column-arm', 'six-offset']) {
      const mechanism = preset(id);
      // Poses of a roomier arm are the targets of this one.
      const roomy: Mechanism = { ...mechanism, lower: mechanism.lower.slice(), upper: mechanism.upper.slice() };
      mechanism.tools[0].slots.forEach((s) => {
        const more = mechanism.units[mechanism.jointOfSlot[s]] === 'mm' ? 0.05 : 0.4;
        roomy.lower[s] -= more;
        roomy.upper[s] += more;
      });
      for (let i = 0; i < 40; i++) {
        const task = taskMet(mechanism, allowedPose(roomy, random)!, 'direction');
        const [reason] = why(mechanism, task);
        if (!reason || !/^(turn|limit|slide)-in-the-way$/.test(reason.code)) continue;
        const slot = mechanism.slotOf.get(reason.joint!)!;
        const by = reason.byMm === undefined ? reason.byDeg! * RAD : reason.byMm / 1000;
        const reaches = (room: number): boolean => {
          const wide = { ...mechanism, lower: mechanism.lower.slice(), upper: mechanism.upper.slice() };
          wide.lower[slot] -= room;
          wide.upper[slot] += room;
          return solveInverse(wide, wide.tools[0], task, wide.home, { explained: false }).reachable;
        };
        const others = why(mechanism, task).filter((r) => /-in-the-way$/.test(r.code)).length;
        if (others > 1) continue;
        told++;
        expect(reaches(by + 1e-4)).toBe(true);
      }
    }
    expect(told).toBeGreaterThan(20);
  });
});

describe('what each part of the solver finds by itself', () => {
  /** Of the free tasks; the rest is led inside or searched for. */
  const CHOSEN = 0.95;
  const ruled = [
    'sums between joints',
    'cable over two',
    'cable over three',
    'conditions between joints',
    'rail, rule',
  ];
  /** Seeded questions of arms with rules: whether the closed form by itself has an allowed answer, and the whole solver. */
  function* asked(): Generator<{ chosen: boolean; reached: boolean; kind: string }> {
    for (const [i, name] of ruled.entries()) {
      const random = seededRandom(400 + i);
      for (let k = 0; k < 240; k++) {
        const mechanism = armOf(name, random);
        const asks = question(random, mechanism);
        if (!asks || asks.task.kind === 'aim') continue;
        const ask = { tool: mechanism.tools[0], task: asks.task };
        const branches = closedFormBranches(mechanism, ask, mechanism.home);
        if (!branches) continue;
        const isAllowed = (q: Float64Array): boolean =>
          rulesExcess(mechanism, q) <= 1e-9 &&
          q.every((v, s) => v >= mechanism.lower[s] - 1e-9 && v <= mechanism.upper[s] + 1e-9);
        yield {
          kind: asks.kind,
          chosen: branches.list.some(({ q }) => isAllowed(q)),
          reached: isReached({ ...asks, near: mechanism.home }),
        };
      }
    }
  }
  const all = [...asked()];
  it('a joint to spare is chosen by rules too: the closed form itself has an allowed pose', () => {
    const free = all.filter((a) => a.kind === 'free');
    expect(free.length).toBeGreaterThan(100);
    expect(free.filter((a) => a.chosen).length / free.length).toBeGreaterThan(CHOSEN);
  });
  it('where a closed form has not said all there is, the search decides; where it has, nothing is searched', () => {
    expect(all.every((a) => a.reached)).toBe(true);
    const mechanism = preset('servo-arm-4');
    const task = taskMet(mechanism, allowedPose(mechanism, seededRandom(8))!, 'free');
    if (task.kind === 'aim') throw new Error('not a place');
    const ask = { tool: mechanism.tools[0], task };
    const found = (said: { complete: boolean; by: number }): number => {
      const result = { list: [], miss: { kind: 'far' as const, by: said.by }, complete: said.complete };
      return solutionsOf(mechanism, ask, result, mechanism.home, {}).length;
    };
    expect(found({ complete: false, by: 1 })).toBeGreaterThan(0);
    // A miss within rounding is none.
    expect(found({ complete: true, by: 1e-6 })).toBeGreaterThan(0);
    // Nor is one without an amount: nothing was found, and that is all it says.
    expect(found({ complete: true, by: Infinity })).toBeGreaterThan(0);
    expect(found({ complete: true, by: 0.01 })).toBe(0);
  });
});
