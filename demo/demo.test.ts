import { describe, expect, it } from 'vitest';
import { forward, solveInverse } from '@cork-elbow/core/kinematics';
import { positionOf, vec3 } from '@cork-elbow/core/linear';
import { compile, limitExcess, rulesExcess, toSlots, type Mechanism } from '@cork-elbow/core/mechanism';
import { planMotion, planRoutine, preflight } from '@cork-elbow/core/routine';
import { demoRigs, dotPainter, kilnLoader, twinCarriers } from './index';
import { poseAt, sampleTimes } from '@cork-elbow/core/motion';

function compiled(rig: ReturnType<typeof kilnLoader>): Mechanism {
  const result = compile(rig.mechanism);
  if (!result.ok) throw new Error(result.faults[0].message);
  return result.mechanism;
}

describe.each(demoRigs().map(({ id, rig }) => [id, rig] as const))('the demo rig %s', (_id, rig) => {
  const mechanism = compiled(rig);
  it('stands in poses that keep every limit and close', () => {
    for (const pose of rig.poses) {
      const q = toSlots(mechanism, pose.joints);
      expect([pose.name, limitExcess(mechanism, q).by, rulesExcess(mechanism, q)]).toEqual([pose.name, 0, 0]);
      expect(forward(mechanism, q).gap).toBe(0);
    }
  });
  it('runs its routines with nothing in the way, and never below the ground', () => {
    for (const routine of rig.routines) {
      const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
      expect(plan.findings.filter((f) => f.severity !== 'note')).toEqual([]);
      expect(preflight(rig, mechanism, rig.builds[0], plan).filter((f) => f.severity === 'stop')).toEqual([]);
      for (const t of sampleTimes(plan.durationS, 0.1)) {
        const { tools, joints, gap } = forward(mechanism, poseAt(planMotion(plan), t));
        expect(gap).toBe(0);
        for (const frame of [...tools.values(), ...joints.values()]) expect(frame[11]).toBeGreaterThan(-1e-9);
      }
    }
  });
});

it('the painter sets its dots on the tile, on one ring', () => {
  const rig = dotPainter();
  const mechanism = compiled(rig);
  for (const pose of rig.poses.filter((p) => p.id.startsWith('dot-'))) {
    const [x, y, z] = positionOf(forward(mechanism, toSlots(mechanism, pose.joints)).tools.get('brush')!);
    expect(Math.hypot(x, y) * 1000).toBeCloseTo(30, 1);
    expect(z * 1000).toBeCloseTo(18.5, 1);
  }
});
it('the loader reaches its spots straight down, and the carriers’ hands mirror one another', () => {
  const loader = kilnLoader();
  const mechanism = compiled(loader);
  for (const spot of loader.spots) {
    const result = solveInverse(mechanism, mechanism.tools[0], {
      kind: 'direction',
      position: vec3.scale(spot.xyzMm, 1e-3),
      direction: spot.direction!,
    });
    expect([spot.name, result.reachable]).toEqual([spot.name, true]);
  }
  const carriers = twinCarriers();
  const two = compiled(carriers);
  for (const pose of carriers.poses) {
    const { tools } = forward(two, toSlots(two, pose.joints));
    const [l, r] = [positionOf(tools.get('hand-l')!), positionOf(tools.get('hand-r')!)];
    expect(vec3.distance(l, [r[0], -r[1], r[2]])).toBeLessThan(1e-9);
  }
});
