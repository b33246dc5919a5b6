/** Rigs for tests of loads: the demo's, each with losses and friction that differ, and each with motors that bear anything. */
import { demoRigs } from '../../../demo';
import { poseOf } from '../kinematics/arms.testkit';
import type { Mechanism } from '../mechanism';
import type { Rig } from '../rig';
import { heldBy, type Held } from './index';

export const anyPose = (mechanism: Mechanism, random: () => number): Float64Array =>
  poseOf(mechanism, Array.from({ length: mechanism.m }, random));
export const point = (mechanism: Mechanism, massG: number): Held[] => {
  const [tool] = mechanism.tools;
  return tool ? [heldBy(tool, { massG, comMm: [0, 0, 10], inertiaKgM2: null })] : [];
};
/** The rigs of the demo, and each with losses and friction that differ. */
export const rigs: readonly (readonly [string, Rig])[] = demoRigs().flatMap(({ id, rig }) => {
  const lossy = structuredClone(rig);
  lossy.transmissions.forEach((t, k) => (t.efficiency = 0.7 + 0.04 * (k % 6)));
  lossy.mechanism.joints.forEach((joint, k) => joint.type !== 'fixed' && (joint.friction = 0.01 * (k % 4)));
  const giant = structuredClone(rig);
  giant.drives.forEach((drive) => Object.assign(drive, { stallNm: 900, holdNm: 600 }));
  return [
    [id, rig],
    [`${id} with losses`, lossy],
    [`${id} with giants`, giant],
  ] as const;
});
