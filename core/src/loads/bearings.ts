/** What shafts bear across their axes: the weight of all beyond a joint bends its shaft, the more the further the link is from its bearing. */
import { slotSampler } from '../kinematics/sampling';
import { hasRules, rulesExcess, TURNING } from '../mechanism';
import type { Hardware } from '../rig';
import { toM } from '../units';
import type { Loading } from './loading';

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
  samples = 6000,
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
  const worst = nowNm.slice();
  const sampler = slotSampler(
    mechanism,
    Array.from({ length: mechanism.m }, (_, s) => s),
    1,
  );
  const ruled = hasRules(mechanism);
  const q = mechanism.home.slice();
  for (let i = 0; i < samples; i++) {
    sampler.into(q, i);
    if (ruled && rulesExcess(mechanism, q) > 1e-9) continue;
    dynamics.gravityInto(torques, q);
    for (let k = 0; k < shafts.length; k++)
      worst[k] = Math.max(worst[k], dynamics.bendingOf(shafts[k].joint, shafts[k].overhang));
  }
  return shafts.map(({ id, joint, bearing }, k) => ({
    ...{ id, joint, second: bearing?.second ?? false },
    ...{ nowNm: nowNm[k], worstNm: worst[k], ratedNm: bearing?.ratedNm ?? null },
  }));
}
