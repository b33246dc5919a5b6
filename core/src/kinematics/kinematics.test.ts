import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { axisOf, fromXyzRpy, identity, mul, positionOf, rotationBetween, vec3, type Vec3 } from '../linear';
import { compile } from '../mechanism';
import { mechanismSchema } from '../rig';
import { compiled, fourAxis, poseOf, sixAxis, threeAxis, treeDoc } from './arms.testkit';
import {
  forward,
  framesInto,
  jacobianInto,
  kinematicsSpace,
  solveInverse,
  solveNumeric,
  taskError,
  toolInto,
  type Task,
} from './index';
import { between } from '../units/between.testkit';

const shares = fc.array(between(0, 1), { minLength: 7, maxLength: 7 });
const RAD = Math.PI / 180;

/** Forward kinematics written plainly from the document, as an independent check. */
function plainForward(doc: ReturnType<typeof fourAxis>, values: Map<string, number>): Map<string, Float64Array> {
  const frames = new Map<string, Float64Array>();
  const valueOf = (id: string): number => {
    const joint = doc.joints.find((j) => j.id === id)!;
    if (joint.type === 'fixed') return 0;
    if (!joint.follows) return values.get(id)!;
    return (joint.offset ?? 0) + joint.follows.reduce((sum, f) => sum + f.factor * valueOf(f.joint), 0);
  };
  const frameOf = (id: string): Float64Array => {
    const known = frames.get(id);
    if (known) return known;
    const joint = doc.joints.find((j) => j.id === id)!;
    const parent = joint.parent ? frameOf(joint.parent) : identity();
    const mm = joint.origin.xyzMm.map((v) => v / 1000) as unknown as Vec3;
    let frame = mul(parent, fromXyzRpy(mm, joint.origin.rpyDeg.map((v) => v * RAD) as unknown as Vec3));
    if (joint.type !== 'fixed') {
      const a = vec3.unit(joint.axis)!;
      const v = valueOf(id);
      if (joint.type === 'prismatic')
        frame = mul(frame, Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1, ...vec3.scale(a, v / 1000)));
      else {
        const [s, c] = [Math.sin(v * RAD), Math.cos(v * RAD)];
        const [x, y, z] = a;
        const k = 1 - c;
        frame = mul(
          frame,
          Float64Array.of(
            c + x * x * k,
            x * y * k - z * s,
            x * z * k + y * s,
            y * x * k + z * s,
            c + y * y * k,
            y * z * k - x * s,
            z * x * k - y * s,
            z * y * k + x * s,
            c + z * z * k,
            0,
            0,
            0,
          ),
        );
      }
    }
    frames.set(id, frame);
    return frame;
  };
  doc.joints.forEach((joint) => frameOf(joint.id));
  return frames;
}

describe('forward kinematics', () => {
  it('of random trees agrees with a plain evaluation of the document', () => {
    fc.assert(
      fc.property(treeDoc, shares, (doc, f) => {
        const result = compile(doc);
        fc.pre(result.ok);
        if (!result.ok) return;
        const { mechanism } = result;
        const q = poseOf(mechanism, f);
        const values = new Map(mechanism.slotIds.map((id, s) => [id, q[s] / mechanism.siPerUnit[s]]));
        const plain = plainForward(doc, values);
        const { joints } = forward(mechanism, q);
        for (const [id, frame] of plain) frame.forEach((v, i) => expect(joints.get(id)![i]).toBeCloseTo(v, 9));
      }),
    );
  });
  it('puts the stretched arm where the ruler says', () => {
    const mechanism = compiled(fourAxis());
    const up = forward(mechanism, new Float64Array(4)).tools.get('tool')!;
    expect(positionOf(up).map((v) => Math.round(v * 1e6) / 1e3)).toEqual([0, 0, 456]);
  });
});

describe('the Jacobian', () => {
  it('of random trees, followers included, agrees with differences', () => {
    fc.assert(
      fc.property(treeDoc, shares, (doc, f) => {
        const result = compile(doc);
        fc.pre(result.ok);
        if (!result.ok || result.mechanism.m === 0) return;
        const { mechanism } = result;
        const q = poseOf(mechanism, f, 0.05);
        const space = kinematicsSpace(mechanism);
        const at = (values: Float64Array): Float64Array => {
          framesInto(space, mechanism, values);
          const tool = new Float64Array(12);
          toolInto(tool, 0, mechanism, space, mechanism.tools[0]);
          return tool;
        };
        const J = new Float64Array(6 * mechanism.m);
        const frame = at(q);
        jacobianInto(J, mechanism, space, mechanism.tools[0], frame);
        const h = 1e-6;
        for (let s = 0; s < mechanism.m; s++) {
          const [plus, minus] = [h, -h].map((d) => at(q.map((v, i) => (i === s ? v + d : v))));
          const turns = rotationBetween(minus, plus);
          // Followers of followers may turn a hundred times as fast: what counts is the share.
          const close = (own: number, difference: number): void =>
            expect(Math.abs(own - difference)).toBeLessThan(2e-6 * (1 + Math.abs(own)));
          for (let r = 0; r < 3; r++) {
            close(J[6 * s + r], (plus[9 + r] - minus[9 + r]) / (2 * h));
            close(J[6 * s + 3 + r], turns[r] / (2 * h));
          }
        }
      }),
    );
  });
});

describe('inverse kinematics', () => {
  const arms = {
    fourAxis: fourAxis(),
    'four axes, shoulder beside the turn': fourAxis(14),
    threeAxis: threeAxis(),
    sixAxis: sixAxis(),
    'six axes, offset wrist': sixAxis(18),
  };
  for (const [name, doc] of Object.entries(arms)) {
    const mechanism = compiled(doc);
    const tool = mechanism.tools[0];
    const toolAt = (q: Float64Array): Float64Array => forward(mechanism, q).tools.get('tool')!;
    it(`finds ${name} again from where its tool stands, inside the limits`, () => {
      fc.assert(
        fc.property(shares, fc.constantFrom('free', 'direction', 'full'), (f, kind) => {
          const q = poseOf(mechanism, f, 0.02);
          const frame = toolAt(q);
          const position = positionOf(frame);
          const task: Task =
            kind === 'free'
              ? { kind, position }
              : kind === 'direction'
                ? { kind, position, direction: axisOf(frame, 2) }
                : { kind: 'full', position, rotation: frame };
          const { reachable, solutions } = solveInverse(mechanism, tool, task, q);
          expect(reachable).toBe(true);
          for (const solution of solutions) {
            const error = taskError(task, toolAt(solution.q));
            expect(error.distance).toBeLessThanOrEqual(1e-6);
            expect(error.angle).toBeLessThanOrEqual(1e-6);
            solution.q.forEach((v, s) => {
              expect(v).toBeGreaterThanOrEqual(mechanism.lower[s]);
              expect(v).toBeLessThanOrEqual(mechanism.upper[s]);
            });
          }
          expect(solutions[0].away).toBeLessThan(0.01);
        }),
      );
    });
  }

  it('keeps a small move of a redundant arm small', () => {
    const mechanism = compiled(fourAxis());
    fc.assert(
      fc.property(shares, (f) => {
        const q = poseOf(mechanism, f, 0.2);
        const frame = forward(mechanism, q).tools.get('tool')!;
        const position = vec3.add(positionOf(frame), [0, 0, 1e-4]);
        const { solutions } = solveInverse(mechanism, mechanism.tools[0], { kind: 'free', position }, q);
        fc.pre(
          solutions.length > 0 && solutions[0].limitMargin > 0.05 && Math.hypot(position[0], position[1]) > 0.03,
        );
        expect(solutions[0].away).toBeLessThan(5);
      }),
    );
  });

  it('gives both elbows and both sides where the limits allow', () => {
    const doc = threeAxis();
    const wide = compiled({
      ...doc,
      joints: doc.joints.map((j) => ({ ...j, limits: { min: -180, max: 180 } })) as typeof doc.joints,
    });
    const { solutions } = solveInverse(wide, wide.tools[0], { kind: 'free', position: [0.08, 0.05, 0.12] });
    expect(solutions.map((s) => s.posture).sort()).toEqual([
      'elbow down',
      'elbow down, reaching over',
      'elbow up',
      'elbow up, reaching over',
    ]);
  });

  it('closed form and numeric agree on a four-axis direction task', () => {
    const mechanism = compiled(fourAxis());
    fc.assert(
      fc.property(shares, (f) => {
        const q = poseOf(mechanism, f, 0.1);
        const frame = forward(mechanism, q).tools.get('tool')!;
        const task: Task = { kind: 'direction', position: positionOf(frame), direction: axisOf(frame, 2) };
        const numeric = solveNumeric(
          mechanism,
          mechanism.tools[0],
          task,
          q.map((v, s) => v + (s % 2 ? 0.03 : -0.03)),
        );
        fc.pre(numeric.distance < 1e-7 && numeric.angle < 1e-7);
        const { solutions } = solveInverse(mechanism, mechanism.tools[0], task, numeric.q);
        expect(solutions[0].away).toBeLessThan(0.01);
      }),
    );
  });

  it('says by how much a target is too far with the tool straight down', () => {
    const mechanism = compiled(fourAxis());
    const x = 0.305;
    const z = 0.018;
    const result = solveInverse(mechanism, mechanism.tools[0], {
      kind: 'direction',
      position: [x, 0, z],
      direction: [0, 0, -1],
    });
    expect(result.reachable).toBe(false);
    const far = result.reasons.find((r) => r.code === 'too-far')!;
    // Wrist 88 mm above the target, 268 mm of arm from the shoulder at 100 mm.
    expect(far.byMm).toBeCloseTo((Math.hypot(x, z + 0.088 - 0.1) - 0.268) * 1000, 2);
    expect(result.reasons.some((r) => r.code === 'direction-off')).toBe(true);
    expect(result.closest!.distance).toBeLessThan(1e-6);
  });

  it('names the limit in the way and by how much', () => {
    const doc = fourAxis();
    const tight = structuredClone(doc);
    (tight.joints[3] as { limits: object }).limits = { min: -60, max: 40 };
    const q = compiled(doc);
    const target = forward(q, Float64Array.of(0.2, 30 * RAD, 80 * RAD, 70 * RAD)).tools.get('tool')!;
    const task: Task = { kind: 'direction', position: positionOf(target), direction: axisOf(target, 2) };
    const { reachable, reasons } = solveInverse(compiled(tight), compiled(tight).tools[0], task);
    expect(reachable).toBe(false);
    expect(reasons[0]).toMatchObject({ code: 'limit-in-the-way', joint: 'wrist' });
    expect(reasons[0].byDeg).toBeCloseTo(30, 6);
  });

  it('says that three joints place a tool but cannot turn it as well, and no distance', () => {
    const arm = compiled(threeAxis());
    const [tool] = arm.tools;
    const frame = forward(arm, arm.home).tools.get('tool')!;
    const position = positionOf(frame);
    const direction = vec3.unit(vec3.cross(axisOf(frame, 2), [0, 0.6, 0.8]))!;
    for (const task of [
      { kind: 'direction', position, direction },
      { kind: 'full', position, rotation: fromXyzRpy([0, 0, 0], [0.7, 0.3, -0.4]) },
    ] as const) {
      const { reachable, reasons, closest } = solveInverse(arm, tool, task);
      expect(reachable).toBe(false);
      expect(closest!.distance).toBeLessThan(1e-6);
      expect(reasons.map((r) => r.code)).toContain('few-joints');
      expect(reasons[0].byDeg).toBeGreaterThan(1);
      expect(reasons.every((r) => r.byMm === undefined)).toBe(true);
    }
  });
  it('measures how far a direction leans out of the arm’s plane', () => {
    const mechanism = compiled(fourAxis());
    const lean = 12 * RAD;
    const result = solveInverse(mechanism, mechanism.tools[0], {
      kind: 'direction',
      position: [0.2, 0, 0.15],
      direction: [0, Math.sin(lean), -Math.cos(lean)],
    });
    expect(result.reasons[0].code).toBe('direction-out-of-plane');
    expect(result.reasons[0].byDeg).toBeCloseTo(12, 6);
  });

  it('has an answer for a target inside the base and for an arm without joints', () => {
    const mechanism = compiled(fourAxis());
    const inside = solveInverse(mechanism, mechanism.tools[0], { kind: 'free', position: [0, 0, 0.1] });
    for (const r of inside.reasons) expect(r.message).toMatch(/\.$/);
    const none = compiled(mechanismSchema.parse({ joints: [], tools: [{ id: 't' }] }));
    expect(solveInverse(none, none.tools[0], { kind: 'free', position: [0, 0, 0] }).reasons[0].code).toBe(
      'no-joints',
    );
  });

  it('keeps a continuous turntable on the turn nearest to where it is', () => {
    const doc = fourAxis();
    const joint = doc.joints[0] as { type: string; limits?: object };
    joint.type = 'continuous';
    delete joint.limits;
    const mechanism = compiled(doc);
    const near = mechanism.home.slice();
    near[0] = 6 * Math.PI + 0.1;
    const { solutions } = solveInverse(
      mechanism,
      mechanism.tools[0],
      { kind: 'direction', position: [0.18, 0.02, 0.15], direction: [0, 0, -1] },
      near,
    );
    expect(Math.abs(solutions[0].q[0] - near[0])).toBeLessThan(0.2);
  });
});

describe('six axes with a spherical wrist', () => {
  const mechanism = compiled(sixAxis());
  const [tool] = mechanism.tools;
  const full = (q: Float64Array): Task => {
    const frame = forward(mechanism, q).tools.get('tool')!;
    return { kind: 'full', position: positionOf(frame), rotation: frame };
  };
  it('gives every branch: each hits, no two are the same, and the pose asked from is among them', () => {
    fc.assert(
      fc.property(shares, (f) => {
        const q = poseOf(mechanism, f, 0.05);
        const task = full(q);
        const { reachable, solutions } = solveInverse(mechanism, tool, task, mechanism.home);
        expect(reachable).toBe(true);
        for (const s of solutions) {
          const error = taskError(task, forward(mechanism, s.q).tools.get('tool')!);
          expect(error.distance).toBeLessThan(1e-6);
          expect(error.angle).toBeLessThan(1e-6);
          expect(s.posture).toMatch(/^elbow (up|down)/);
        }
        const off = (s: { q: Float64Array }): number => Math.max(...s.q.map((v, i) => Math.abs(v - q[i])));
        expect(Math.min(...solutions.map(off))).toBeLessThan(1e-5);
        expect(new Set(solutions.map((s) => s.posture)).size).toBe(solutions.length);
      }),
    );
  });
  it('has eight branches where no limit is in the way, and the numeric solver finds one of them', () => {
    const free = structuredClone(sixAxis());
    for (const joint of free.joints) if (joint.type === 'revolute') joint.limits = { min: -360, max: 360 };
    const m = compiled(free);
    const q = Float64Array.of(0.4, 0.3, 1.7, 0.3, 0.9, -0.2);
    const frame = forward(m, q).tools.get('tool')!;
    const task: Task = { kind: 'full', position: positionOf(frame), rotation: frame };
    const { solutions } = solveInverse(m, m.tools[0], task, q);
    expect(solutions).toHaveLength(8);
    expect(solutions[0].away).toBeLessThan(1e-6);
    fc.assert(
      fc.property(shares, (f) => {
        const start = Float64Array.from({ length: 6 }, (_, s) => q[s] + (f[s] - 0.5) * 0.5);
        const numeric = solveNumeric(m, m.tools[0], task, start);
        fc.pre(numeric.distance < 1e-6 && numeric.angle < 1e-6);
        const turn = (a: number): number => Math.abs(Math.atan2(Math.sin(a), Math.cos(a)));
        const nearest = Math.min(...solutions.map((s) => Math.max(...s.q.map((v, i) => turn(v - numeric.q[i])))));
        expect(nearest).toBeLessThan(1e-4);
      }),
    );
  });
  it('keeps the first wrist joint where it was when the wrist is straight', () => {
    const q = Float64Array.of(0.3, 0.4, 0.5, 0.7, 0, 0.2);
    const { solutions } = solveInverse(mechanism, tool, full(q), q);
    expect(solutions[0].singular).toBe(true);
    expect(solutions[0].q[3]).toBeCloseTo(0.7, 6);
  });
  it('out of reach by as much as it says', () => {
    const q = Float64Array.of(0, 0.2, 0.1, 0, 0.3, 0);
    const frame = forward(mechanism, q).tools.get('tool')!.slice();
    frame[9] += 0.6;
    const { reachable, reasons, closest } = solveInverse(mechanism, tool, {
      kind: 'full',
      position: positionOf(frame),
      rotation: frame,
    });
    expect(reachable).toBe(false);
    expect(reasons.some((r) => r.code === 'too-far' && r.byMm! > 100)).toBe(true);
    expect(closest!.distance).toBeGreaterThan(0.1);
  });
});
