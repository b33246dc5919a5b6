/** What joints have to give, and whether the base stays on its feet, for states of an arm. */
import { contractFindings, loadsAnswer, loadsBody } from '@cork-elbow/core/contract';
import { Dynamics, groundPoints, heldBy, Support } from '@cork-elbow/core/loads';
import { toMm } from '@cork-elbow/core/units';
import { refuse } from '../errors';
import { BATCH_LIMIT } from '../limits';
import { armOf, slots, someTool } from './asked';
import { defineCall, type Call } from './call';

const { fault } = contractFindings;

export const loadCalls: readonly Call[] = [
  defineCall({
    path: '/api/compute/loads',
    summary: 'What each joint has to give at rest or on the move, and how far the base is from tipping.',
    body: loadsBody,
    answer: loadsAnswer,
    bodyLimit: BATCH_LIMIT,
    async run({ states, payload, ...asked }, desk) {
      const arm = await armOf(desk, asked);
      const { doc, mechanism } = arm;
      const { siPerUnit, slotIds, m } = mechanism;
      const held = payload
        ? [heldBy(someTool(mechanism, payload.tool, 'payload.tool'), { ...payload, inertiaKgM2: null })]
        : [];
      const dynamics = new Dynamics(mechanism, held);
      const support = new Support(groundPoints(doc.base), mechanism.base);
      /** What changes a second, of joints that are named. */
      const changing = (values: Readonly<Record<string, number>>, path: string): Float64Array => {
        slots(arm, values, path);
        return Float64Array.from({ length: m }, (_, slot) => (values[slotIds[slot]] ?? 0) * siPerUnit[slot]);
      };
      const torques = new Float64Array(m);
      return {
        states: states.map(({ joints, speeds, accels }, k) => {
          desk.piece();
          const q = slots(arm, joints, `states[${k}].joints`);
          const wrench = dynamics.torquesInto(
            torques,
            q,
            changing(speeds, `states[${k}].speeds`),
            changing(accels, `states[${k}].accels`),
          );
          if (dynamics.gap > 0)
            refuse([
              fault('pose-open', `states[${k}].joints`, 'angles that let the forearms meet', 'angles that do not', {
                byMm: toMm(dynamics.gap),
              }),
            ]);
          const margin = support.stands ? support.marginOf(wrench) : null;
          return {
            torquesNm: Object.fromEntries(slotIds.map((id, slot) => [id, torques[slot]])),
            tip:
              margin === null
                ? { marginMm: null, why: 'no-feet' as const }
                : Number.isFinite(margin)
                  ? { marginMm: toMm(margin) }
                  : { marginMm: null, why: 'pulled-off' as const },
          };
        }),
      };
    },
  }),
];
