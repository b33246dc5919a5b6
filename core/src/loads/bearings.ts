/** What shafts bear across their axes: the weight of all beyond a joint bends its shaft, the more the further the link is from its bearing. */
import { poseSampler } from '../kinematics/sampling';
import { hasRules, rulesExcess, TURNING } from '../mechanism';
import type { Hardware } from '../rig';
import { toM } from '../units';
import type { Loading } from './loading';
import { climbed, type Asked } from './worst';

export interface ShaftLoad {
  /** Id of the joint, and its number in the mechanism. */
  readonly id: string;
  readonly joint: number;
  /** A bearing on the other side bears it together with the shaft. */
  readonly second: boolean;
  /** Bending moment (N·m) at its bearing: at the pose, and the most anywhere; and what it may be, null where that is not known. */
  readonly nowNm: number;
  readonly worstNm: number;
  readonly ratedNm: number | null;
}

/** Of joints that turn about an axis of their own, in a tree. At rest. */
export function shaftLoads(
  { mechanism: { joints } }: Hardware,
  loading: Loading,
  now: Float64Array,
  samples = 3000,
): ShaftLoad[] {
  const { mechanism, dynamics, torques } = loading;
  if (mechanism.delta) return [];
  const shafts = joints.flatMap((doc) => {
    const joint = mechanism.index.get(doc.id) ?? -1;
    if (
      joint < 0 ||
      mechanism.type[joint] !== TURNING ||
      !('bearing' in doc || doc.type === 'revolute' || doc.type === 'continuous')
    )
      return [];
    const bearing = 'bearing' in doc ? doc.bearing : undefined;
    return [{ id: doc.id, joint, bearing, overhang: toM(bearing?.overhangMm ?? 0) }];
  });
  dynamics.gravityInto(torques, now);
  const nowNm = shafts.map(({ joint, overhang }) => dynamics.bendingOf(joint, overhang));
  const ruled = hasRules(mechanism);
  const asked: Asked = {
    count: shafts.length,
    into(out, q) {
      if (ruled && rulesExcess(mechanism, q) > 1e-9) return false;
      dynamics.gravityInto(torques, q);
      shafts.forEach(({ joint, overhang }, k) => (out[k] = dynamics.bendingOf(joint, overhang)));
      return true;
    },
  };
  const worst = shafts.map((_, k) => ({ q: now.slice(), value: nowNm[k] }));
  const sampler = poseSampler(mechanism, 1);
  const [q, values] = [mechanism.home.slice(), new Float64Array(shafts.length)];
  for (let i = 0; i < samples; i++) {
    sampler.into(q, i);
    if (!asked.into(values, q)) continue;
    for (let k = 0; k < shafts.length; k++)
      if (values[k] > worst[k].value) worst[k] = { q: q.slice(), value: values[k] };
  }
  const tops = worst.map((start, k) => climbed(mechanism, asked, k, start).value);
  return shafts.map(({ id, joint, bearing }, k) => ({
    ...{ id, joint, second: bearing?.second ?? false },
    ...{ nowNm: nowNm[k], worstNm: tops[k], ratedNm: bearing?.ratedNm ?? null },
  }));
}
