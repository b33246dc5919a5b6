import { homingMotion, planHoming, planPowerUp, powerUpMotion } from '@cork-elbow/core/bring-up';
import { sweepJob } from '@cork-elbow/core/contact';
import { defineJob } from '../define-job';

/** A motion that brings an arm in. */
export type Bringing =
  | { readonly kind: 'power-up'; readonly planned: boolean }
  | { readonly kind: 'homing'; readonly start: Float64Array };

/** What is touched while the motors get power, or while the axes home. */
export const sweep = defineJob({
  label: 'Looking for contact',
  run({ rig, mechanism, build, scene }, motion: Bringing) {
    if (motion.kind === 'power-up')
      return sweepJob(scene, powerUpMotion(planPowerUp(rig, mechanism, build, motion.planned)));
    return sweepJob(scene, homingMotion(planHoming(rig, mechanism, motion.start), mechanism));
  },
});
