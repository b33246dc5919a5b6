import { heldBy, worstJob } from '@cork-elbow/core/loads';
import type { Payload } from '@cork-elbow/core/rig';
import { defineJob } from '../define-job';

/** What a tool holds. */
export interface Holding {
  readonly toolId: string;
  readonly payload: Pick<Payload, 'massG' | 'comMm' | 'inertiaKgM2'>;
}

/** The worst that the arm can be asked to hold anywhere; `holding` null: nothing in its hand. */
export const worst = defineJob({
  label: 'Looking for the worst pose',
  run({ rig, mechanism, toolOf }, { holding, samples }: { holding: Holding | null; samples: number }) {
    const tool = holding && toolOf(holding.toolId);
    if (holding && !tool) return null;
    const where = tool && heldBy(tool, holding.payload);
    const held = where && where.body.mass > 0 ? [where] : [];
    return worstJob(rig, mechanism, held, where, { samples, seed: 1 });
  },
});
