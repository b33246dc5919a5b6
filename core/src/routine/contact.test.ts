import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { finish } from '../jobs';
import { forward } from '../kinematics';
import { compiled } from '../kinematics/arms.testkit';
import { positionOf, rpyOf, vec3, zOnto, type Vec3 } from '../linear';
import type { Routine, Step } from '../rig';
import { contactFindings, planRoutine, positionAt, type Plan } from './index';

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
        fc.double({ min: 0.2, max: 1, noNaN: true }),
        fc.double({ min: 0.3, max: 0.7, noNaN: true }),
        (joints, speedShare, share) => {
          const routine = routineOf(joints, speedShare);
          const made = plan(routine);
          fc.pre(made.findings.every((f) => f.severity !== 'stop') && made.blocks.length === 2);
          const { block, startS } = made.blocks[1];
          const t = startS + share * block.duration;
          const at = tip(positionAt(mechanism, made, t));
          const along = vec3.unit(vec3.sub(tip(positionAt(mechanism, made, t + 0.01)), at));
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
          const found = finish(contactFindings({ ...bare, obstacles: [plate] }, mechanism, routine, made));
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
