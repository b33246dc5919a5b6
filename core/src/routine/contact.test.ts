import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { finish } from '../jobs';
import { forward } from '../kinematics';
import { compiled } from '../kinematics/arms.testkit';
import { positionOf, rpyOf, vec3, zOnto, type Vec3 } from '../linear';
import type { Rig, Routine, Step } from '../rig';
import { contactFindings, type Plan, planMotion, planRoutine } from './index';
import { poseAt } from '../motion';
import { between } from '../units/between.testkit';

const rig = tileDipper();
const bare = { ...rig, obstacles: [] };
const mechanism = compiled(rig.mechanism);
const tip = (q: Float64Array): Vec3 => positionOf(forward(mechanism, q).tools.get('tongs')!);
const routineOf = (joints: Record<string, number>, speedShare: number): Routine => ({
  ...{ id: 'r', name: 'R', note: '', role: null, profile: 's-curve' as const },
  steps: [
    { id: 'a', kind: 'joint-move', enabled: true, note: '', target: { pose: 'over-jar' }, pace: { speedShare: 1 } },
    { id: 'b', kind: 'joint-move', enabled: true, note: '', target: { joints }, pace: { speedShare } },
  ] as Step[],
});
const plan = (routine: Routine): Plan => planRoutine(bare, mechanism, bare.builds[0], routine);

describe('plates of 2 mm across the way', () => {
  it('are never gone through unseen, however fast', () => {
    let placed = 0;
    fc.assert(
      fc.property(
        fc.record({
          turn: fc.integer({ min: -90, max: 90 }),
          shoulder: fc.integer({ min: 0, max: 30 }),
          elbow: fc.integer({ min: 60, max: 110 }),
          wrist: fc.integer({ min: 40, max: 90 }),
        }),
        between(0.2, 1),
        between(0.3, 0.7),
        (joints, speedShare, share) => {
          const routine = routineOf(joints, speedShare);
          const made = plan(routine);
          fc.pre(made.findings.every((f) => f.severity !== 'stop') && made.blocks.length === 2);
          const { block, startS } = made.blocks[1];
          const t = startS + share * block.duration;
          const at = tip(poseAt(planMotion(made), t));
          const along = vec3.unit(vec3.sub(tip(poseAt(planMotion(made), t + 0.01)), at));
          // The tips of the tongs go through: well off the ground, and on their way.
          fc.pre(along !== null && at[2] > 0.05 && block.duration > 0.5);
          placed++;
          const rpy = rpyOf(zOnto(along!)).map((v) => (v * 180) / Math.PI) as [number, number, number];
          const plate = {
            ...{
              id: 'plate',
              name: 'plate',
              kind: 'box' as const,
              rpyDeg: rpy,
              sizeMm: [36, 36, 2] as [number, number, number],
            },
            xyzMm: at.map((v) => v * 1000) as [number, number, number],
          };
          const found = finish(
            contactFindings({ ...bare, obstacles: [plate] }, mechanism, bare.builds[0], routine, made),
          );
          const hit = found.find((f) => f.data.first === 'plate' || f.data.second === 'plate');
          // Another part may meet it earlier; deeper than a millimetre unseen it is never entered.
          expect(hit).toBeDefined();
          expect(hit!.data.depth).toBeGreaterThan(0);
        },
      ),
      { numRuns: 25 },
    );
    expect(placed).toBeGreaterThan(10);
  }, 60_000);
});

describe('what a tool holds', () => {
  const at = (id: string, joints: Record<string, number>, speedShare = 0.5): Step =>
    ({ ...{ id, kind: 'joint-move', enabled: true, note: '' }, target: { joints }, pace: { speedShare } }) as Step;
  const ready = { turn: 0, shoulder: 20, elbow: 90, wrist: 70 };
  const aside = { ...ready, turn: 60 };
  const grip = (id: string, to: 'open' | 'closed', payload: string | null): Step =>
    ({
      ...{ id, kind: 'grip', enabled: true, note: '' },
      tool: 'tongs',
      to,
      payload,
      pace: { speedShare: 0.5 },
    }) as Step;
  const tile = { ...rig.payloads[0], sizeMm: [4, 120, 120] as [number, number, number], comMm: [0, 0, 60] as never };
  /** A post that only the tile's far edge meets, half-way between the two poses. */
  const post = (() => {
    const frame = forward(
      mechanism,
      Float64Array.of(0.52, ...[20, 90, 70].map((v) => (v * Math.PI) / 180), 0.6),
    ).tools.get('tongs')!;
    const out = vec3.unit([frame[9], frame[10], 0])!;
    const [x, y] = vec3.add(positionOf(frame), vec3.scale(out, 0)).map((v) => v * 1000);
    const top = frame[11] * 1000 - 40;
    return {
      id: 'post',
      name: 'post',
      kind: 'cylinder' as const,
      xyzMm: [x, y, 0] as never,
      rpyDeg: [0, 0, 0] as never,
      radiusMm: 4,
      heightMm: top,
    };
  })();
  const found = (steps: Step[]): string[] => {
    const routine = { ...routineOf({}, 1), steps };
    const own = { ...bare, payloads: [tile], obstacles: [post] };
    const made = planRoutine(own, mechanism, own.builds[0], routine);
    return finish(contactFindings(own, mechanism, own.builds[0], routine, made)).map(
      (f) => `${f.data.first} ${f.data.second}`,
    );
  };
  it('is looked for along what motors are told, not along the plan that they leave', () => {
    const steps = [at('a', ready), at('b', aside), at('c', ready)];
    const routine = { ...routineOf({}, 1), steps };
    const own: Rig = { ...bare, obstacles: [] };
    const made = planRoutine(own, mechanism, own.builds[0], routine);
    const smooth: Rig = { ...own, motion: { ...own.motion, school: 'low-pass', timeConstantS: 0.02 } };
    // A low pass is at its target long before the plan is: something there for a moment only the one meets earlier.
    const first = (rig: Rig): number | undefined => {
      const q = poseAt(planMotion(made), made.blocks[1].startS + made.blocks[1].block.duration);
      const frame = forward(mechanism, q).tools.get(mechanism.tools[0].id)!;
      const there = {
        ...rig,
        obstacles: [{ ...post, xyzMm: [frame[9] * 1000, frame[10] * 1000, 0] as never, heightMm: 400 }],
      };
      return finish(contactFindings(there, mechanism, there.builds[0], routine, made))[0]?.place.timeS;
    };
    const [planned, smoothed] = [first(own), first(smooth)];
    expect(planned).toBeDefined();
    expect(smoothed! - made.blocks[1].startS).toBeLessThan((planned! - made.blocks[1].startS) * 0.7);
  });
  it('meets what the bare arm goes past, and only while it is held', () => {
    expect(found([at('a', ready), at('b', aside)])).toEqual([]);
    const held = found([at('a', ready), grip('g', 'closed', tile.id), at('b', aside)]);
    expect(held).toHaveLength(1);
    expect(held[0]).toContain(tile.name);
    expect(found([at('a', ready), grip('g', 'closed', tile.id), grip('o', 'open', null), at('b', aside)])).toEqual(
      [],
    );
  });
  it('may touch what it is taken from until it is clear of it, and what it is put down on', () => {
    const half = { ...ready, turn: 29.8 };
    // Taken where it touches the post: not told; put down there: neither; but gone back to, it is.
    expect(found([at('a', half), grip('g', 'closed', tile.id), at('b', aside)])).toEqual([]);
    expect(
      found([at('a', half), grip('g', 'closed', tile.id), at('b', aside), at('c', half), at('d', aside)]),
    ).toHaveLength(1);
  });
});
