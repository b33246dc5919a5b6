import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { compiled, tree } from '../kinematics/arms.testkit';
import { seededRandom } from '../linear';
import { inUnit, rulesExcess } from '../mechanism';
import { presetById, rigFromPreset } from '../presets';
import { RIG_VERSION, rigSchema, type Rig } from '../rig';
import { GRAVITY } from '../units';
import { Loading, shaftLoads, springFor, weightFor } from './index';
import { anyPose, rigs } from './loads.testkit';

const plain = rigs.filter(([name, rig]) => !name.includes(' with') && rig.mechanism.family === 'tree');
/** The worst torque of a slot over many poses, of a sequence of its own. */
function worst(rig: Rig, slot: number, seed: number): number {
  const mechanism = compiled(rig.mechanism);
  const loading = new Loading(rig, mechanism);
  const random = seededRandom(seed);
  let most = 0;
  for (let i = 0; i < 4000; i++) {
    const q = anyPose(mechanism, random);
    if (rulesExcess(mechanism, q) > 1e-9) continue;
    loading.rest(q);
    most = Math.max(most, Math.abs(loading.torques[slot]));
  }
  return most;
}
const sprung = (rig: Rig, joint: string, stiffness: number, slackAt: number): Rig => {
  const other = structuredClone(rig);
  (other.mechanism.springs ??= []).push({ kind: 'at-joint', id: 'new', name: 'New', joint, stiffness, slackAt });
  return other;
};

describe('a spring sized for a joint', () => {
  it.each(plain)(
    '%s: put on the arm nowhere leaves more than was said, and no other spring leaves less',
    (_, rig) => {
      const mechanism = compiled(rig.mechanism);
      const random = seededRandom(2);
      let found = 0;
      for (let slot = 0; slot < mechanism.m; slot++) {
        const advice = springFor(new Loading(rig, mechanism), slot);
        if (!advice) continue;
        found++;
        const { stiffness, slackAt, before, after } = advice;
        const joint = mechanism.slotIds[slot];
        const unit = mechanism.siPerUnit[slot];
        expect(worst(rig, slot, 5)).toBeLessThanOrEqual(before * (1 + 1e-9));
        const own = worst(sprung(rig, joint, stiffness * unit, inUnit(mechanism, slot, slackAt)), slot, 5);
        expect(own).toBeLessThanOrEqual(after * (1 + 1e-6));
        expect(after).toBeLessThanOrEqual(0.99 * before);
        for (let i = 0; i < 4; i++) {
          const k = stiffness * (0.6 + 0.8 * random());
          const at =
            slackAt + 0.6 * (random() - 0.5) * (mechanism.units[mechanism.jointOfSlot[slot]] === 'mm' ? 0.1 : 1);
          const other = worst(sprung(rig, joint, k * unit, inUnit(mechanism, slot, at)), slot, 5);
          // Random poses come near the worst, not to it.
          expect(other).toBeGreaterThanOrEqual(0.9 * after);
        }
      }
      expect(found).toBeGreaterThan(0);
    },
  );
  it('is none for a joint that bears nothing', () => {
    const rig = tileDipper();
    const mechanism = compiled(rig.mechanism);
    expect(springFor(new Loading(rig, mechanism), mechanism.slotOf.get('turn')!)).toBeNull();
  });
});

describe('a counterweight sized for a joint', () => {
  it('put on the arm leaves what was said, and no other mass there leaves less', () => {
    const rig = tileDipper();
    const mechanism = compiled(rig.mechanism);
    const slot = mechanism.slotOf.get('shoulder')!;
    const place = { joint: 'shoulder', xyzMm: [0, 0, -70] as [number, number, number] };
    const found = weightFor(rig, [], mechanism, slot, place)!;
    const left = (massG: number): number => {
      const other = structuredClone(rig);
      (other.mechanism.weights ??= []).push({ id: 'new', name: 'New', ...place, massG });
      return worst(other, slot, 7);
    };
    expect(left(0)).toBeLessThanOrEqual(found.before * (1 + 1e-9));
    expect(left(1000 * found.massKg)).toBeLessThanOrEqual(found.after * (1 + 1e-6));
    for (const times of [0.5, 0.8, 1.2, 2])
      expect(left(1000 * found.massKg * times)).toBeGreaterThanOrEqual(0.95 * found.after);
    // On the wrong side it helps nothing.
    expect(weightFor(rig, [], mechanism, slot, { ...place, xyzMm: [0, 0, 90] })).toBeNull();
  });
});

describe('what shafts bear', () => {
  const arm = (axis: number[], comMm: number[], overhangMm: number): Rig =>
    rigSchema.parse({
      ...{ format: 'cork-elbow-rig', version: RIG_VERSION, name: 'One' },
      mechanism: tree({
        joints: [
          {
            ...{ id: 'j', type: 'revolute', axis, origin: { xyzMm: [0, 0, 100] } },
            bearing: { overhangMm, ratedNm: 2 },
            link: { massG: 2000, comMm },
          },
        ],
      }),
    });
  const of = (rig: Rig) => {
    const mechanism = compiled(rig.mechanism);
    return shaftLoads(rig, new Loading(rig, mechanism), new Float64Array(mechanism.m))[0];
  };
  it('is weight times its arm across the axis: an upright shaft by how far out it hangs, a lying one by how far along', () => {
    const weight = 2 * GRAVITY;
    const upright = of(arm([0, 0, 1], [100, 0, 30], 50));
    expect(upright.nowNm).toBeCloseTo(weight * 0.1, 9);
    expect(upright).toMatchObject({ id: 'j', second: false, ratedNm: 2 });
    expect(of(arm([0, 1, 0], [100, 20, 0], 15)).nowNm).toBeCloseTo(weight * 0.035, 9);
    // However it is turned about a lying axis.
    expect(of(arm([0, 1, 0], [100, 20, 0], 15)).worstNm).toBeCloseTo(weight * 0.035, 6);
  });
  it('is together with the torque all that the weight beyond does, whichever axis a joint has', () => {
    for (const [, rig] of plain) {
      const mechanism = compiled(rig.mechanism);
      const loading = new Loading(rig, mechanism);
      const random = seededRandom(8);
      const shafts = shaftLoads(rig, loading, mechanism.home, 1500);
      expect(shafts.length).toBeGreaterThan(0);
      // No pose of another sequence bends one more than was said.
      for (let i = 0; i < 400; i++) {
        const q = anyPose(mechanism, random);
        if (rulesExcess(mechanism, q) > 1e-9) continue;
        loading.rest(q);
        for (const { joint, worstNm, nowNm, id } of shafts) {
          expect(loading.dynamics.bendingOf(joint, 0), id).toBeLessThanOrEqual(worstNm * (1 + 1e-6) + 1e-12);
          expect(nowNm).toBeLessThanOrEqual(worstNm);
        }
      }
    }
    const delta = rigFromPreset(presetById('rotary-delta')!, 'Delta');
    if (!delta.ok) throw new Error('no delta');
    const mechanism = compiled(delta.value.mechanism);
    expect(shaftLoads(delta.value, new Loading(delta.value, mechanism), mechanism.home)).toEqual([]);
  });
});
