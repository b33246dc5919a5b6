import { describe, expect, it } from 'vitest';
import { compiled } from '../kinematics/arms.testkit';
import { forward } from '../kinematics';
import { positionOf, seededRandom } from '../linear';
import { rulesExcess } from '../mechanism';
import { idleSaving, Loading, sagOf } from './index';
import { anyPose, rigs } from './loads.testkit';

const lossy = rigs.filter(([name]) => !name.endsWith('giants'));

describe('an arm whose motor is let go', () => {
  it.each(lossy)('%s: stays where friction holds it, else goes down to where it hangs or ends', (_, rig) => {
    const mechanism = compiled(rig.mechanism);
    const loading = new Loading(rig, mechanism);
    const [tool] = mechanism.tools;
    const random = seededRandom(11);
    const height = (q: Float64Array): number => {
      // Potential energy of all that weighs, over its weight: the height of the centre of mass.
      loading.rest(q);
      return loading.dynamics.borne[2];
    };
    for (let i = 0; i < 25; i++) {
      const q = anyPose(mechanism, random);
      if (rulesExcess(mechanism, q) > 1e-9) continue;
      loading.motors.forEach(({ perJoint, slots: [slot] }, k) => {
        const sag = sagOf(loading, k, tool ?? null, q);
        if (perJoint === null) return void expect(sag).toBeNull();
        loading.rest(q);
        const held = Math.abs(loading.torques[slot]);
        const friction = loading.losses[k].friction / Math.abs(perJoint);
        expect(sag!.stays).toBe(held <= friction + 1e-9);
        const others = q.slice();
        others[slot] = sag!.q[slot];
        expect([...sag!.q]).toEqual([...others]);
        expect(sag!.q[slot]).toBeGreaterThanOrEqual(mechanism.lower[slot] - 1e-12);
        expect(sag!.q[slot]).toBeLessThanOrEqual(mechanism.upper[slot] + 1e-12);
        if (sag!.stays) return;
        if (!rig.mechanism.springs?.length) expect(height(sag!.q)).toBeLessThanOrEqual(height(q) + 1e-12);
        if (!sag!.atEnd) {
          loading.rest(sag!.q);
          expect(Math.abs(loading.torques[slot])).toBeLessThanOrEqual(friction + 1e-3 * (held + friction));
        }
        if (tool) {
          const z = (pose: Float64Array): number => positionOf(forward(mechanism, pose).tools.get(tool.id)!)[2];
          expect(sag!.dropM).toBeCloseTo(z(q) - z(sag!.q), 12);
        }
      });
    }
  });
  it('saves what it drew after it has stood for so long, each time anew', () => {
    const time = Float64Array.from({ length: 101 }, (_, i) => i / 10);
    const amps = time.map(() => 0.5);
    const still = Uint8Array.from(time, (t) => (t > 4 && t < 5 ? 0 : 1));
    // 0…4 s and 5…10 s at rest; after 1 s each: 3 s and 4 s of 10.
    expect(idleSaving(time, amps, still, 1)).toBeCloseTo((0.5 * (3 + 4)) / 10, 6);
    expect(idleSaving(time, amps, still, 6)).toBe(0);
    expect(idleSaving(time, amps, still, 0)).toBeCloseTo((0.5 * (4 + 5)) / 10, 6);
    expect(idleSaving(new Float64Array(), new Float64Array(), new Uint8Array(), 1)).toBe(0);
  });
});
