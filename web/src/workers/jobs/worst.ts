import { heldBy, lightestJob, swapped, worstJob, type Swap, type WorstRequest } from '@cork-elbow/core/loads';
import type { CatalogueEntry, Payload } from '@cork-elbow/core/rig';
import { defineJob } from '../define-job';

/** What a tool holds. */
export interface Holding {
  readonly toolId: string;
  readonly payload: Pick<Payload, 'massG' | 'comMm' | 'inertiaKgM2'>;
}

interface Question {
  /** Null: nothing in its hand. */
  readonly holding: Holding | null;
}

/** The worst that the arm can be asked to hold anywhere; with other motors, where it is asked what those would do. */
export const worst = defineJob({
  label: 'Looking for the worst pose',
  run(
    { rig, mechanism, toolOf },
    {
      holding,
      samples,
      swaps = [],
      accelerating,
    }: Question & Pick<WorstRequest, 'samples' | 'accelerating'> & { swaps?: readonly Swap[] },
  ) {
    const tool = holding && toolOf(holding.toolId);
    if (holding && !tool) return null;
    const where = tool && heldBy(tool, holding.payload);
    const held = where && where.body.mass > 0 ? [where] : [];
    return worstJob(swapped(rig, swaps), mechanism, held, where, {
      ...{ samples, seed: 1 },
      ...(accelerating === undefined ? {} : { accelerating }),
    });
  },
});
export const trial = defineJob({ ...worst, label: 'Trying other motors' });

/** The lightest motors of a catalogue that are strong enough everywhere. */
export const lightest = defineJob({
  label: 'Looking for the lightest motors',
  run(
    { rig, mechanism, toolOf },
    { holding, wanted, entries }: Question & { wanted: number; entries: readonly CatalogueEntry[] },
  ) {
    const tool = holding && toolOf(holding.toolId);
    if (holding && !tool) return null;
    return lightestJob(rig, mechanism, tool ? [heldBy(tool, holding.payload)] : [], wanted, entries);
  },
});
