/** What a planned routine asks of motors and base that they cannot give, or only just. */
import { holdShare } from '../actuators';
import type { Finding } from '../findings';
import { jobOf, piecesOf, type Job } from '../jobs';
import { alongJob, loadedMotors, type LoadedMotor, type LoadsAlong } from '../loads';
import type { Mechanism } from '../mechanism';
import type { Rig } from '../rig';
import { finding } from './findings';
import { heldAlong } from './held';
import { planMotion, type Plan } from './plan';

/** One finding a motor and sort, where it is worst. A unit of work is a few looks at a moment. */
export const loadFindings = (rig: Rig, mechanism: Mechanism, plan: Plan): Job<Finding[]> =>
  jobOf(
    (function* (): Generator<number, Finding[], void> {
      const along = yield* piecesOf(alongJob(rig, mechanism, planMotion(plan), heldAlong(rig, mechanism, plan)));
      return [...motorFindings(rig, mechanism, plan, along), ...tipFindings(plan, along)];
    })(),
  );

/** What people read: at the joint where the motor is its alone, else at the shaft. */
function words(motor: LoadedMotor, mechanism: Mechanism): { joint: string; times: number; unit: string } {
  const { perJoint, slots, units, drive } = motor;
  if (perJoint === null) return { joint: drive.name, times: 1, unit: 'N·m' };
  const joint = mechanism.names[mechanism.jointOfSlot[slots[0]]];
  return { joint, times: 1 / Math.abs(perJoint), unit: units[0] === 'mm' ? 'N' : 'N·m' };
}

function motorFindings(rig: Rig, mechanism: Mechanism, plan: Plan, { weak, worst }: LoadsAlong): Finding[] {
  return loadedMotors(rig, mechanism).flatMap((motor, k) => {
    const own = weak.filter((stretch) => stretch.motor === k);
    const { joint, times, unit } = words(motor, mechanism);
    const place = (timeS: number) => ({
      ...{ station: 'load' as const, part: 'lift' as const, routine: plan.routineId, timeS },
      joint: mechanism.slotIds[motor.slots[0]],
    });
    const over = own.filter(({ kind }) => kind === 'over');
    if (over.length) {
      const { timeS, ask } = worst[k];
      const [need, has] = [ask.needNm * times, ask.usableNm! * times];
      if (!Number.isFinite(need)) return [];
      const stalls = need > has / holdShare(motor.drive);
      return [
        finding(stalls ? 'load-stalls' : 'load-over', place(timeS), { joint, need, has, kind: unit, at: timeS }),
      ];
    }
    const [first] = own;
    if (!first) return [];
    const { missingNm, atS } = own.reduce((most, w) => (w.missingNm > most.missingNm ? w : most), first);
    return [finding('load-down-only', place(atS), { joint, missing: missingNm * times, kind: unit, at: atS })];
  });
}

function tipFindings(plan: Plan, { tipWorst }: LoadsAlong): Finding[] {
  if (!tipWorst || tipWorst.margin >= 0) return [];
  const { timeS, margin } = tipWorst;
  const place = { station: 'load' as const, part: 'stand' as const, routine: plan.routineId, timeS };
  return Number.isFinite(margin)
    ? [finding('load-tips', place, { by: -margin * 1000, at: timeS })]
    : [finding('load-lifts-off', place, { at: timeS })];
}
