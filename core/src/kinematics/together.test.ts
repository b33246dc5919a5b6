import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply, axisOf, inverse, mul, positionOf, vec3 } from '../linear';
import { presetById, rigFromPreset } from '../presets';
import { compiled, fourAxis, poseOf, sixAxis } from './arms.testkit';
import {
  carriedFrame,
  closestPose,
  Follower,
  forward,
  solveInverse,
  solveTogether,
  type Ask,
  type Task,
} from './index';
import { between } from '../units/between.testkit';

const shares = fc.array(between(0, 1), { minLength: 8, maxLength: 8 });
const rig = (id: string) => {
  const parsed = rigFromPreset(presetById(id), id);
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  return compiled(parsed.value.mechanism);
};

describe('several tools at once', () => {
  const torso = rig('twin-arms');
  const hands = torso.tools.filter((t) => t.id.startsWith('hand'));
  it('both hands reach their places, and each place is where its own hand goes', () => {
    fc.assert(
      fc.property(shares, (f) => {
        const q = poseOf(torso, f, 0.1);
        const { tools } = forward(torso, q);
        const asks: Ask[] = hands.map((tool) => ({
          tool,
          task: { kind: 'free', position: positionOf(tools.get(tool.id)!) },
        }));
        const { reachable, solutions } = solveTogether(torso, asks, torso.home);
        expect(reachable).toBe(true);
        const found = forward(torso, solutions[0].q).tools;
        for (const { tool } of asks)
          expect(vec3.distance(positionOf(found.get(tool.id)!), positionOf(tools.get(tool.id)!))).toBeLessThan(1e-6);
      }),
      { numRuns: 40 },
    );
  });
  it('a hand out of reach is named, with what it misses by', () => {
    const { tools } = forward(torso, torso.home);
    const asks: Ask[] = hands.map((tool, i) => ({
      tool,
      task: { kind: 'free', position: i ? [3, 0, 0] : positionOf(tools.get(tool.id)!) },
    }));
    const { reachable, reasons } = solveTogether(torso, asks, torso.home);
    expect(reachable).toBe(false);
    expect(reasons.some((r) => r.code === 'tool-misses' && r.message.includes(hands[1].name) && r.byMm! > 1000)).toBe(
      true,
    );
  });
  it('a place given in the frame of the other hand moves with it', () => {
    const [left, right] = hands;
    fc.assert(
      fc.property(shares, (f) => {
        const q = poseOf(torso, f, 0.15);
        const { tools } = forward(torso, q);
        const on = { joint: right.parent, local: right.local };
        const local = apply(inverse(tools.get(right.id)!), positionOf(tools.get(left.id)!));
        const { reachable, solutions } = solveTogether(
          torso,
          [{ tool: left, task: { kind: 'free', position: local }, on }],
          torso.home,
        );
        expect(reachable).toBe(true);
        const answer = solutions[0].q;
        const at = apply(carriedFrame(torso, on, answer), local);
        expect(vec3.distance(at, positionOf(forward(torso, answer).tools.get(left.id)!))).toBeLessThan(1e-6);
      }),
      { numRuns: 40 },
    );
  });
});

describe('joints held, directions to a spot, refusals', () => {
  const six = compiled(sixAxis(18));
  const [tool] = six.tools;
  it('a held joint keeps its value and the rest does the work', () => {
    fc.assert(
      fc.property(shares, fc.integer({ min: 0, max: 5 }), (f, slot) => {
        const q = poseOf(six, f, 0.1);
        const near = six.home.slice();
        near[slot] = q[slot];
        const position = positionOf(forward(six, q).tools.get('tool')!);
        const { reachable, solutions } = solveInverse(six, tool, { kind: 'free', position }, near, {
          held: new Set([slot]),
        });
        expect(reachable).toBe(true);
        for (const s of solutions) expect(s.q[slot]).toBe(q[slot]);
      }),
      { numRuns: 40 },
    );
  });
  it('a head points at a spot from wherever it is', () => {
    const neck = rig('neck');
    const gaze = neck.tools[0];
    fc.assert(
      fc.property(shares, between(0.2, 2), (f, far) => {
        const q = poseOf(neck, f, 0.1);
        const frame = forward(neck, q).tools.get(gaze.id)!;
        const at = vec3.add(positionOf(frame), vec3.scale(axisOf(frame, 2), far));
        const { reachable, solutions } = solveInverse(neck, gaze, { kind: 'aim', at }, neck.home);
        expect(reachable).toBe(true);
        const found = forward(neck, solutions[0].q).tools.get(gaze.id)!;
        const towards = vec3.unit(vec3.sub(at, positionOf(found)))!;
        expect(vec3.angleBetween(axisOf(found, 2), towards)).toBeLessThan(1e-6);
      }),
    );
  });
  it('what cannot be asked is refused in a sentence', () => {
    const code = (task: Task, options = {}): string | undefined =>
      solveInverse(six, tool, task, six.home, options).reasons[0]?.code;
    expect(code({ kind: 'free', position: [NaN, 0, 0] })).toBe('target-not-numbers');
    expect(code({ kind: 'direction', position: [0.1, 0, 0], direction: [Infinity, 0, 0] })).toBe(
      'target-not-numbers',
    );
    expect(code({ kind: 'free', position: [0.1, 0, 0.2] }, { held: new Set([0, 1, 2, 3, 4, 5]) })).toBe('all-held');
    expect(code({ kind: 'free', position: [0.1, 0, 0.2] }, { speedOnly: new Set([2]) })).toBe('speed-only');
  });
  it('an arm with joints to spare gives one solution per posture, each another', () => {
    const { solutions } = solveInverse(six, tool, { kind: 'free', position: [0.2, 0.05, 0.2] });
    const names = solutions.map((s) => s.posture);
    expect(names.length).toBeGreaterThan(1);
    expect(new Set(names).size).toBe(names.length);
  });
});

describe('following a drag', () => {
  it('keeps the tool level and slides along the edge of reach, without jumps', () => {
    const arm = compiled(fourAxis());
    const [tool] = arm.tools;
    const start = solveInverse(arm, tool, { kind: 'direction', position: [0.2, 0, 0.15], direction: [1, 0, 0] });
    let q = start.solutions[0].q;
    const follower = new Follower(arm, [{ tool }]);
    // Out past the reach, then up, then back in: 10 mm a move, as a hand drags.
    const way: [number, number][] = [];
    for (let x = 0.2; x < 0.6; x += 0.01) way.push([x, 0.15]);
    for (let z = 0.15; z < 0.45; z += 0.01) way.push([0.6, z]);
    for (let x = 0.6; x > 0.18; x -= 0.01) way.push([x, 0.25]);
    let missed = 0;
    for (const [x, z] of way) {
      const next = follower.step(q, [{ kind: 'direction', position: [x, 0, z], direction: [1, 0, 0] }]);
      const jump = Math.max(...next.q.map((v, s) => Math.abs(v - q[s])));
      expect(jump).toBeLessThan(0.6);
      next.q.forEach((v, s) => {
        expect(v).toBeGreaterThanOrEqual(arm.lower[s]);
        expect(v).toBeLessThanOrEqual(arm.upper[s]);
      });
      q = next.q;
      if (!next.hit) missed++;
      const frame = forward(arm, q).tools.get('tool')!;
      expect(vec3.angleBetween(axisOf(frame, 2), [1, 0, 0])).toBeLessThan(0.02);
    }
    expect(missed).toBeGreaterThan(10);
    // Back inside the reach it is on the target again.
    const end = positionOf(forward(arm, q).tools.get('tool')!);
    expect(vec3.distance(end, [way.at(-1)![0], 0, 0.25])).toBeLessThan(1e-6);
  });
  it('ends where the closest pose is, for a target straight out', () => {
    const arm = compiled(fourAxis());
    const [tool] = arm.tools;
    const task: Task = { kind: 'free', position: [0.8, 0, 0.1] };
    const followed = new Follower(arm, [{ tool }]).step(arm.home, [task]);
    const closest = closestPose(arm, [{ tool, task }], arm.home, 'position');
    const left = vec3.distance(positionOf(forward(arm, followed.q).tools.get('tool')!), task.position);
    expect(left).toBeCloseTo(closest.distance, 3);
  });
  it('a frame carried by a joint turns with it', () => {
    const arm = compiled(fourAxis());
    const q = arm.home.map((v, s) => v + 0.1 * s);
    const { joints } = forward(arm, q);
    const j = arm.index.get('elbow')!;
    const local = arm.unalign.slice(12 * j, 12 * j + 12);
    const frame = carriedFrame(arm, { joint: j, local }, q);
    const back = mul(inverse(joints.get('elbow')!), frame);
    expect(Math.max(...positionOf(back).map(Math.abs))).toBeLessThan(1e-12);
  });
});
