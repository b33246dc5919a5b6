import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { compiled, tree } from '../kinematics/arms.testkit';
import { seededRandom } from '../linear';
import { inUnit } from '../mechanism';
import { presetById, rigFromPreset } from '../presets';
import { rigSchema, type Rig } from '../rig';
import { GRAVITY } from '../units';
import { Loading, samplesOf, shaftLoads, springFor, weightFor, type JointSample } from './index';
import { rigs } from './loads.testkit';

const plain = rigs.filter(([name, rig]) => !name.includes(' with') && rig.mechanism.family === 'tree');
const worst = (samples: readonly JointSample[]): number =>
  samples.reduce((most, { torque }) => Math.max(most, Math.abs(torque)), 0);

describe('a spring sized for a joint', () => {
  it.each(plain)('%s: put on the arm leaves what was said, and no other spring leaves less', (_, rig) => {
    const mechanism = compiled(rig.mechanism);
    const random = seededRandom(2);
    for (let slot = 0; slot < mechanism.m; slot++) {
      const samples = samplesOf(new Loading(rig, mechanism), slot, 800);
      const found = springFor(samples);
      const before = worst(samples);
      const left = (k: number, s: number): number =>
        worst(samples.map(({ q, torque }) => ({ q, torque: torque + k * (q - s) })));
      if (found) {
        expect(found.before).toBeCloseTo(before, 12);
        expect(found.after).toBeLessThanOrEqual(0.99 * before);
        expect(left(found.stiffness, found.slackAt)).toBeCloseTo(found.after, 9);
        const sprung = structuredClone(rig);
        (sprung.mechanism.springs ??= []).push({
          ...{ kind: 'at-joint', id: 'new', name: 'New', joint: mechanism.slotIds[slot] },
          stiffness: found.stiffness * mechanism.siPerUnit[slot],
          slackAt: inUnit(mechanism, slot, found.slackAt),
        });
        const made = compiled(sprung.mechanism);
        expect(worst(samplesOf(new Loading(sprung, made), slot, 800))).toBeCloseTo(found.after, 6);
      }
      const best = found?.after ?? before;
      for (let i = 0; i < 300; i++) {
        const values = samples.map(({ q }) => q);
        const span = Math.max(...values) - Math.min(...values);
        const least = before / (4 * span);
        const k = found ? Math.max(least, found.stiffness * (0.5 + random())) : least * (1 + 15 * random());
        const s = found ? found.slackAt + random() - 0.5 : 6 * random() - 3;
        expect(left(k, s)).toBeGreaterThanOrEqual(best * (found ? 1 - 1e-9 : 0.985));
      }
    }
  });
  it('is none for a joint that bears nothing, or of which nothing is known', () => {
    expect(springFor([])).toBeNull();
    expect(springFor([{ q: 1, torque: 2 }])).toBeNull();
    expect(springFor([0, 1, 2].map((q) => ({ q, torque: 0 })))).toBeNull();
    // What pulls harder the further it goes would need a spring that pushes away from its middle.
    expect(springFor([-1, 0, 1].map((q) => ({ q, torque: 3 * q })))).toBeNull();
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
      return worst(samplesOf(new Loading(other, compiled(other.mechanism)), slot));
    };
    expect(left(0)).toBeCloseTo(found.before, 9);
    expect(left(1000 * found.massKg)).toBeCloseTo(found.after, 6);
    for (const times of [0.5, 0.9, 1.1, 2])
      expect(left(1000 * found.massKg * times)).toBeGreaterThanOrEqual(found.after - 1e-6);
    // On the wrong side it helps nothing.
    expect(weightFor(rig, [], mechanism, slot, { ...place, xyzMm: [0, 0, 90] })).toBeNull();
  });
});

describe('what shafts bear', () => {
  const arm = (axis: number[], comMm: number[], overhangMm: number): Rig =>
    rigSchema.parse({
      ...{ format: 'cork-elbow-rig', version: 9, name: 'One' },
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
      for (const { worstNm, nowNm, id } of shaftLoads(rig, loading, mechanism.home, 500)) {
        expect(worstNm, id).toBeGreaterThanOrEqual(nowNm);
        expect(Number.isFinite(worstNm)).toBe(true);
      }
    }
    const delta = rigFromPreset(presetById('rotary-delta')!, 'Delta');
    if (!delta.ok) throw new Error('no delta');
    const mechanism = compiled(delta.value.mechanism);
    expect(shaftLoads(delta.value, new Loading(delta.value, mechanism), mechanism.home)).toEqual([]);
  });
});
