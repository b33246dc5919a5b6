import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { axisOf, positionOf } from '../linear';
import type { Mechanism } from '../mechanism';
import { presetById, rigFromPreset } from '../presets';
import type { TreeDoc } from '../rig';
import { compiled, poseOf, sixAxis, tree } from './arms.testkit';
import { closedFormOf, forward, numericSolutions, solveInverse, taskError, type Task } from './index';
import { between } from '../units/between.testkit';

const shares = fc.array(between(0, 1), { minLength: 8, maxLength: 8 });
const length = fc.integer({ min: 30, max: 220 });

const preset = (id: string, measures: Record<string, number> = {}): Mechanism => {
  const rig = rigFromPreset(presetById(id), id, measures);
  if (!rig.ok) throw new Error(rig.faults[0].message);
  return compiled(rig.value.mechanism);
};

/** Places where the arm's own tool stands in a random pose, as a task of each kind. */
function taskAt(mechanism: Mechanism, q: Float64Array, kind: 'free' | 'direction' | 'full'): Task {
  const [tool] = mechanism.tools;
  const frame = forward(mechanism, q).tools.get(tool.id)!;
  const position = positionOf(frame);
  if (kind === 'free') return { kind, position };
  return kind === 'direction' ? { kind, position, direction: axisOf(frame, 2) } : { kind, position, rotation: frame };
}

/** Every solution put through forward kinematics hits, inside its limits; the best is no further than where it came from. */
function check(mechanism: Mechanism, task: Task, from: Float64Array): void {
  const [tool] = mechanism.tools;
  const { solutions, reasons } = solveInverse(mechanism, tool, task, from);
  expect(reasons).toEqual([]);
  expect(solutions.length).toBeGreaterThan(0);
  for (const { q } of solutions) {
    const { distance, angle } = taskError(task, forward(mechanism, q).tools.get(tool.id)!);
    expect(distance).toBeLessThanOrEqual(1e-6);
    expect(angle).toBeLessThanOrEqual(1e-6);
    q.forEach((v, s) => {
      expect(v).toBeGreaterThanOrEqual(mechanism.lower[s]);
      expect(v).toBeLessThanOrEqual(mechanism.upper[s]);
    });
  }
}

describe('closed forms', () => {
  const kinds: [string, string, ('free' | 'direction' | 'full')[]][] = [
    ['a three-axis arm', 'servo-arm-3', ['free']],
    ['a four-axis arm', 'servo-arm-4', ['free', 'direction']],
    ['five axes, the last a roll', 'servo-arm-5', ['free', 'direction', 'full']],
    ['a stacking arm with level bars', 'stacking-arm', ['free', 'full']],
    ['an arm that swings level', 'scara', ['free', 'direction', 'full']],
    ['six axes, wrist in one point', 'six-spherical', ['full']],
    ['a rotary delta', 'rotary-delta', ['free', 'full']],
  ];
  it.each(kinds)('%s is found again from every pose, inside its limits', (_name, id, tasks) => {
    const mechanism = preset(id);
    const [tool] = mechanism.tools;
    if (!mechanism.delta) expect(closedFormOf(mechanism, tool)).not.toBeNull();
    fc.assert(
      fc.property(shares, fc.constantFrom(...tasks), (f, kind) => {
        const q = poseOf(mechanism, f, 0.02);
        // Poses that the arm's own rules forbid, or that a delta cannot take, are no targets.
        fc.pre(forward(mechanism, q).gap === 0 && isAllowed(mechanism, q));
        check(mechanism, taskAt(mechanism, q, kind), q);
      }),
    );
  });

  it.each([
    ['rail', 'rail-arm', 'direction'],
    ['rail, six axes on it', 'kiln', 'full'],
  ] as const)('on a %s the carriage takes part', (_name, id, kind) => {
    const mechanism = id === 'kiln' ? compiled(onRail(sixAxis())) : preset(id);
    const [tool] = mechanism.tools;
    const form = closedFormOf(mechanism, tool)!;
    expect(form.carriage).not.toBeNull();
    fc.assert(
      fc.property(shares, (f) => {
        const q = poseOf(mechanism, f, 0.05);
        const task = taskAt(mechanism, q, kind);
        check(mechanism, task, q);
        // From the pose itself the least move is none.
        expect(solveInverse(mechanism, tool, task, q).solutions[0].awayS).toBeLessThan(0.02);
        // A carriage that is held stays.
        const { slot } = form.carriage!;
        const still = solveInverse(mechanism, tool, task, q, { held: new Set([slot]) });
        for (const s of still.solutions) expect(s.q[slot]).toBe(q[slot]);
        expect(still.solutions.length).toBeGreaterThan(0);
      }),
      { numRuns: 40 },
    );
  });

  it('on random four-axis arms agrees with the numeric solver on which targets are in reach', () => {
    fc.assert(
      fc.property(length, length, length, shares, fc.boolean(), (upper, fore, hand, f, far) => {
        const mechanism = preset('servo-arm-4', { upper, fore, hand });
        const q = poseOf(mechanism, f, 0.05);
        const task = taskAt(mechanism, q, 'direction') as Extract<Task, { kind: 'direction' }>;
        const moved: Task = far
          ? { ...task, position: task.position.map((v) => v * 3.5) as unknown as typeof task.position }
          : task;
        const closed = solveInverse(mechanism, mechanism.tools[0], moved, q, { explained: false }).reachable;
        const numeric = numericSolutions(mechanism, [{ tool: mechanism.tools[0], task: moved }], q).length > 0;
        expect(closed).toBe(numeric);
      }),
    );
  });

  it('has two branches for a level-swinging arm and names them by the elbow’s side', () => {
    const mechanism = preset('scara');
    const q = mechanism.home.map((v, s) => v + [0.1, 0.2, 0.01, 0.1][s]);
    const { solutions } = solveInverse(mechanism, mechanism.tools[0], taskAt(mechanism, q, 'full'), q);
    expect(solutions.map((s) => s.posture).sort()).toEqual(['elbow left', 'elbow right']);
  });

  it('calls the posture that faces forward plain, whichever way the shoulder’s axis is drawn', () => {
    for (const axis of [
      [0, 1, 0],
      [0, -1, 0],
    ]) {
      const mechanism = compiled(
        tree({
          joints: [
            {
              id: 'turn',
              type: 'revolute',
              axis: [0, 0, 1],
              origin: { xyzMm: [0, 0, 60] },
              limits: { min: -90, max: 90 },
            },
            ...['shoulder', 'elbow'].map((id, k) => ({
              id,
              type: 'revolute',
              parent: k ? 'shoulder' : 'turn',
              axis,
              origin: { xyzMm: [0, 0, k ? 120 : 40] },
              limits: { min: -150, max: 150 },
            })),
          ],
          tools: [{ id: 'tool', parent: 'elbow', origin: { xyzMm: [0, 0, 110] } }],
        }),
      );
      const { solutions } = solveInverse(mechanism, mechanism.tools[0], {
        kind: 'free',
        position: [0.15, 0.02, 0.1],
      });
      const plain = solutions.find((s) => s.posture === 'elbow up')!;
      expect(Math.abs(plain.q[0])).toBeLessThan(0.3);
    }
  });

  it('folds a stacking arm’s level hand into the answer: the tool stays upright', () => {
    const mechanism = preset('stacking-arm');
    const home = forward(mechanism, mechanism.home).tools.get('cup')!;
    const up = axisOf(home, 2);
    const position = positionOf(home);
    const { solutions } = solveInverse(mechanism, mechanism.tools[0], {
      kind: 'direction',
      position: [position[0] + 0.01, 0.02, position[2] - 0.01],
      direction: up,
    });
    expect(solutions.length).toBeGreaterThan(0);
  });
});

const isAllowed = (mechanism: Mechanism, q: Float64Array): boolean =>
  mechanism.rules.every(({ terms, min, max }) => {
    const sum = terms.reduce((total, { slot, factor }) => total + factor * q[slot], 0);
    return sum >= min && sum <= max;
  });

/** The same arm on a carriage along Y. */
function onRail(doc: TreeDoc): TreeDoc {
  return tree({
    joints: [
      {
        id: 'rail',
        type: 'prismatic',
        axis: [0, 1, 0],
        origin: { xyzMm: [0, -300, 40] },
        limits: { min: 0, max: 600 },
      },
      ...doc.joints.map((joint) => ({ ...joint, parent: joint.parent ?? 'rail' })),
    ],
    tools: doc.tools,
  });
}
