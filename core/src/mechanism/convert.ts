/** From people's units to SI. */
import { fromXyzRpy, type Vec3 } from '../linear';
import { isSliding, type AnyJoint, type Frame } from '../rig';
import { M_PER_MM, RAD_PER_DEG } from '../units/convert';

export const frameToSi = (frame: Frame): Float64Array =>
  fromXyzRpy(
    frame.xyzMm.map((v) => v * M_PER_MM) as unknown as Vec3,
    frame.rpyDeg.map((v) => v * RAD_PER_DEG) as unknown as Vec3,
  );

/** SI per document unit of a joint's value. */
export const siPerUnitOf = (joint: AnyJoint): number => (isSliding(joint) ? M_PER_MM : RAD_PER_DEG);

/** A joint's value as offset + Σ factor·q over slots (SI). */
export interface Row {
  offset: number;
  terms: Map<number, number>;
}
