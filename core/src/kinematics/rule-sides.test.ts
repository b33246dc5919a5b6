import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { positionOf, vec3, type Vec3 } from '../linear';
import { rulesExcess, toSlots, type Mechanism } from '../mechanism';
import { seededRandom } from '../linear';
import { compiled, fourAxis, poseOf, sixAxis } from './arms.testkit';
import { Follower, forward, solveInverse, solveNumeric, type Task } from './index';
import { numericSolutions } from './search';
import { LIMIT_SLACK } from './solution';

/** Six axes with an offset wrist, a sum, a condition and a cable round two joints. */
function ruled(): Mechanism {
  const doc = sixAxis(18);
  doc.limitRules = [
    {
      terms: [
        { joint: 'j2', factor: 1 },
        { joint: 'j3', factor: 1 },
      ],
      min: -110,
      max: 120,
    },
    { while: { joint: 'j2', above: 40 }, joint: 'j3', max: 60 },
    { while: { joint: 'j5', below: -30 }, joint: 'j4', min: -90, max: 90 },
  ];
  doc.cables = [
    {
      id: 'hose',
      name: 'Air hose',
      slackMm: 45,
      around: [
        { joint: 'j4', radiusMm: 10, neutral: 0 },
        { joint: 'j6', radiusMm: 10, neutral: 20 },
      ],
    },
  ];
  return compiled(doc);
}
const mechanism = ruled();
const [tool] = mechanism.tools;

/** Seven shares at a time, drawn evenly from a seed. */
function evenly(seed: number): () => number[] {
  const random = seededRandom(seed);
  return () => Array.from({ length: 7 }, random);
}
const seed = fc.integer({ min: 1, max: 2 ** 31 - 3 });
/** A pose that keeps the rules, drawn from a seed. */
function allowedPose(of: Mechanism, draw: () => number[]): Float64Array {
  for (;;) {
    const q = poseOf(of, draw());
    if (rulesExcess(of, q) === 0) return q;
  }
}
const fullTask = (q: Float64Array): Task => {
  const frame = forward(mechanism, q).tools.get('tool')!;
  return { kind: 'full', position: positionOf(frame), rotation: frame };
};

describe('rules inside the iteration', () => {
  it('hold at whatever pose a solve ends, asked for what it may', () => {
    fc.assert(
      fc.property(seed, fc.boolean(), (s, whole) => {
        const draw = evenly(s);
        const goal = poseOf(mechanism, draw());
        const task = fullTask(goal);
        const asked: Task = whole
          ? task
          : { kind: 'free', position: vec3.scale(positionOf(forward(mechanism, goal).tools.get('tool')!), 1.3) };
        const { q } = solveNumeric(mechanism, tool, asked, poseOf(mechanism, draw()));
        expect(rulesExcess(mechanism, q)).toBeLessThanOrEqual(LIMIT_SLACK);
      }),
    );
  });
  it('do not keep a solver from what is in reach', () => {
    fc.assert(
      fc.property(seed, (s) => {
        const task = fullTask(allowedPose(mechanism, evenly(s)));
        const [solution] = numericSolutions(mechanism, [{ tool, task }], mechanism.home, { first: true });
        expect(solution.distance).toBeLessThan(1e-6);
        expect(solution.angle).toBeLessThan(1e-6);
        expect(rulesExcess(mechanism, solution.q)).toBeLessThanOrEqual(LIMIT_SLACK);
      }),
      { numRuns: 200 },
    );
  });
  it('are named where they are in the way, and the closest pose keeps them', () => {
    let blocked = 0;
    const draw = evenly(7);
    for (let i = 0; i < 120; i++) {
      const task = fullTask(poseOf(mechanism, draw()));
      const answer = solveInverse(mechanism, tool, task);
      if (answer.reachable) continue;
      expect(rulesExcess(mechanism, answer.closest!.q)).toBeLessThanOrEqual(LIMIT_SLACK);
      if (answer.reasons[0].code === 'rule-in-the-way') blocked++;
    }
    expect(blocked).toBeGreaterThan(5);
  });
  it('leave a closest pose that no other allowed pose comes nearer than', () => {
    const arm = compiled({
      ...fourAxis(),
      limitRules: [
        {
          terms: [
            { joint: 'shoulder', factor: 1 },
            { joint: 'elbow', factor: 1 },
          ],
          min: -50,
          max: 90,
        },
      ],
    });
    const draw = evenly(99);
    const others = Array.from({ length: 4000 }, () =>
      positionOf(forward(arm, allowedPose(arm, draw)).tools.get('tool')!),
    );
    let missed = 0;
    for (const [i, at] of others.slice(0, 60).entries()) {
      const position: Vec3 = [at[0] * 1.2, at[1] * 1.2, at[2] - 0.001 * i * 3];
      const answer = solveInverse(arm, arm.tools[0], { kind: 'free', position });
      if (answer.reachable) continue;
      missed++;
      const nearest = Math.min(...others.map((p) => vec3.distance(p, position)));
      expect(answer.closest!.distance).toBeLessThanOrEqual(nearest + 1e-9);
    }
    expect(missed).toBeGreaterThan(10);
  });
  it('let a drag slide along them: every pose keeps them, none jumps, and it ends nearer', () => {
    const arm = compiled({
      ...fourAxis(),
      limitRules: [{ while: { joint: 'shoulder', above: 25 }, joint: 'elbow', max: 70 }],
    });
    const follower = new Follower(arm, [{ tool: arm.tools[0] }]);
    let q = toSlots(arm, { turn: 0, shoulder: 10, elbow: 90, wrist: 80 });
    const from = positionOf(forward(arm, q).tools.get('tool')!).slice() as unknown as Vec3;
    // Down and out, the tool straight down: the shoulder wants past 25° with the elbow still past 70°.
    const to: Vec3 = [from[0] + 0.03, from[1], from[2] - 0.12];
    let stopped = 0;
    for (let i = 1; i <= 40; i++) {
      const position = vec3.add(from, vec3.scale(vec3.sub(to, from), i / 40));
      const before = q;
      const next = follower.step(q, [{ kind: 'direction', position, direction: [0, 0, -1] }]);
      q = next.q;
      if (!next.hit) stopped++;
      expect(rulesExcess(arm, q)).toBeLessThanOrEqual(LIMIT_SLACK);
      expect(Math.max(...q.map((v, s) => Math.abs(v - before[s])))).toBeLessThan(0.3);
    }
    expect(stopped).toBeGreaterThan(3);
    expect(stopped).toBeLessThan(40);
    const end = positionOf(forward(arm, q).tools.get('tool')!);
    expect(vec3.distance(end, to)).toBeLessThan(vec3.distance(from, to) / 2);
  });
});
