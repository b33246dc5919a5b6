/** What stands on the solver comes through its answers, on the kinds of arm on which solving is hardest. */
import { describe, expect, it } from 'vitest';
import { finish } from '../jobs';
import { forward, solveInverse } from '../kinematics';
import { compiled } from '../kinematics/arms.testkit';
import { axisOf, positionOf, vec3, type Vec3 } from '../linear';
import { fromSlotsRounded, type Mechanism } from '../mechanism';
import { presetById, rigFromPreset } from '../presets';
import { lengthsJob, middleOf, pointsJob, reachMapJob } from '../reach';
import type { Rig, Step } from '../rig';
import { changedPose, pickAndPlace, planRoutine } from './index';

const kinds = [
  'servo-arm-4',
  'servo-arm-5',
  'stacking-arm',
  'scara',
  'rail-arm',
  'column-arm',
  'twin-arms',
  'six-offset',
];
const mm = (v: Vec3): [number, number, number] => v.map((x) => Math.round(x * 1e6) / 1e3) as [number, number, number];

describe.each(kinds)('%s', (id) => {
  const made = rigFromPreset(presetById(id), id);
  if (!made.ok) throw new Error(made.faults[0].message);
  const mechanism: Mechanism = compiled(made.value.mechanism);
  const tool = mechanism.tools.find((t) => t.mounted && t.slots.length >= 3)!;
  // A pose well inside the limits, bent, to work about.
  const at = mechanism.home.map((home, s) => {
    const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
    return Number.isFinite(high - low)
      ? Math.min(high - 0.2 * (high - low), Math.max(low + 0.2 * (high - low), home))
      : home;
  });
  const frame = forward(mechanism, at).tools.get(tool.id)!;
  const [place, direction] = [positionOf(frame), axisOf(frame, 2)];
  const spot = (name: string, xyz: Vec3): Rig['spots'][number] => ({
    ...{ id: name, name, xyzMm: mm(xyz), direction: null },
  });
  const back = vec3.scale(direction, -0.01);
  const near = vec3.add(place, [0, 0, 0.004]);
  const pose: Rig['poses'][number] = { id: 'at', name: 'at', joints: fromSlotsRounded(mechanism, at), note: '' };
  const rig: Rig = { ...made.value, spots: [spot('here', place), spot('there', near)], poses: [pose] };
  const pace = { speedShare: 0.5 };
  const stops = (steps: object[]): string[] => {
    const all = steps.map((s, k) => ({ id: `s${k}`, enabled: true, note: '', ...s })) as Step[];
    const routine = { id: 'r', name: 'R', note: '', role: null, profile: 's-curve' as const, steps: all };
    const own = { ...rig, routines: [routine] };
    return planRoutine(own, mechanism, own.builds[0], routine)
      .findings.filter((f) => f.severity === 'stop')
      .map((f) => f.message);
  };
  const begin = { kind: 'joint-move', target: { pose: 'at' }, pace };

  it('approaches, retreats and follows a pattern where it can stand', () => {
    const approach = { kind: 'approach', tool: tool.id, target: { pose: 'at' }, distanceMm: 8, pace };
    expect(stops([begin, approach, { kind: 'retreat', tool: tool.id, distanceMm: 8, pace }])).toEqual([]);
    const list = [place, near, place].map(mm);
    const places = { kind: 'list', pointsMm: list };
    expect(stops([begin, { kind: 'pattern', tool: tool.id, places, approachMm: 0, routine: null, pace }])).toEqual(
      [],
    );
  });
  it('takes and sets down with the builder’s steps', () => {
    const grips = rig.mechanism.tools.find((t) => t.id === tool.id)?.grip;
    const steps = pickAndPlace({
      ...{ tool: tool.id, payload: null, via: null, approachMm: 6, pace, slowMmPerS: 20 },
      from: { pose: 'at' },
      to: { spot: 'there', direction: null },
    }).filter((s) => grips || s.kind !== 'grip');
    expect(stops([begin, ...steps])).toEqual([]);
  });
  it('has a pose shifted sideways and mirrored for every lean of its tool', () => {
    for (const change of [
      { kind: 'shift', xyzMm: [0, 6, 0] },
      { kind: 'shift', xyzMm: [4, 0, 3] },
      { kind: 'shift', xyzMm: mm(back) },
    ] as const) {
      const q = changedPose(rig, mechanism, tool, change, at);
      expect(q, change.kind).not.toBeNull();
      const moved = positionOf(forward(mechanism, q!).tools.get(tool.id)!);
      const wish = vec3.add(place, vec3.scale(change.xyzMm, 1e-3));
      expect(vec3.distance(moved, wish)).toBeLessThan(1e-5);
    }
  });
  it('reaches in points and in length advice what the solver reaches', () => {
    const points = [
      { name: 'free', position: place, direction: null },
      { name: 'directed', position: place, direction },
      { name: 'tilted', position: near, direction: null, fromUp: vec3.angleBetween(direction, [0, 0, 1]) },
    ];
    const solved = finish(pointsJob(mechanism, tool, points, mechanism.home, 0.02));
    expect(solved.map((r) => r.reason?.message ?? 'reached')).toEqual(['reached', 'reached', 'reached']);
    const end = rig.mechanism.tools.find((t) => t.id === tool.id)!;
    const length = Math.hypot(...end.origin.xyzMm);
    const ranges = [
      {
        of: 'tool' as const,
        id: tool.id,
        min: Math.max(1, Math.round(length * 0.8)),
        max: Math.round(length * 1.3) + 2,
      },
    ];
    const ask = { doc: rig.mechanism, toolId: tool.id, spots: points.slice(0, 2), ranges, margin: 0, seed: 1 };
    const advice = finish(lengthsJob({ ...ask, generations: 6 }));
    expect(advice.spots.map((s) => s.reached)).toEqual([true, true]);
  });
});

describe('maps of an arm on a rail', () => {
  const made = rigFromPreset(presetById('rail-arm'), 'r');
  if (!made.ok) throw new Error(made.faults[0].message);
  const mechanism = compiled(made.value.mechanism);
  const [tool] = mechanism.tools;
  it.each([
    ['side', [0, 0, -1] as Vec3],
    ['side', 'outward' as const],
    ['plan', [0, 0, -1] as Vec3],
    ['plan', { fromUp: (125 * Math.PI) / 180 }],
  ] as const)('%s agree with brute force over the rail’s travel', (plane, direction) => {
    const map = finish(
      reachMapJob(mechanism, tool, { plane, height: 0.12, direction, samples: 1000, seed: 1, cell: 0.05 }),
    );
    const { grid, origin, postures } = map;
    const [slot] = tool.slots;
    let [reached, wrong] = [0, 0];
    for (let at = 0; at < postures.length; at++) {
      const [a, b] = middleOf(grid, at);
      const position: Vec3 = plane === 'side' ? [origin[0] + a, origin[1], b] : [a, b, 0.12];
      const outward = vec3.unit([position[0] - origin[0], position[1] - origin[1], 0]) ?? [1, 0, 0];
      const task =
        direction !== 'outward' && 'fromUp' in direction
          ? ({ kind: 'tilt', position, fromUp: direction.fromUp, up: [0, 0, 1] } as const)
          : ({ kind: 'direction', position, direction: direction === 'outward' ? outward : direction } as const);
      // Carriage by carriage, the arm on it by itself.
      let brute = false;
      for (let k = 0; k <= 60 && !brute; k++) {
        const near = mechanism.home.slice();
        near[slot] = mechanism.lower[slot] + (k / 60) * (mechanism.upper[slot] - mechanism.lower[slot]);
        brute = solveInverse(mechanism, tool, task, near, { held: new Set([slot]), explained: false }).reachable;
      }
      if (brute) reached++;
      if (brute && !postures[at]) wrong++;
    }
    expect(wrong).toBe(0);
    const marked = postures.reduce((n, v) => n + (v > 0 ? 1 : 0), 0);
    expect(marked).toBeGreaterThan(5);
    expect(reached).toBeLessThanOrEqual(marked);
  });
});
