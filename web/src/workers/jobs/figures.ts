import { jobOf, piecesOf } from '@cork-elbow/core/jobs';
import type { Rig } from '@cork-elbow/core/rig';
import { loadFigures, type Figure } from '@cork-elbow/core/routine';
import { defineJob, openContext } from '../define-job';

/** All figures of its loads, and those of another version of it; null where that cannot stand. */
export const figures = defineJob({
  label: 'Reckoning the whole sheet',
  run(
    { rig, mechanism, build },
    { airC, other }: { airC: number; other: { readonly rig: Rig; readonly buildId: string } | null },
  ) {
    return jobOf(
      (function* (): Generator<number, { own: Figure[]; other: Figure[] | null }, void> {
        const own = yield* piecesOf(loadFigures(rig, mechanism, build, airC), 0, other ? 0.5 : 1);
        const context = other && openContext(other.rig, other.buildId);
        if (!context) return { own, other: null };
        const second = loadFigures(context.rig, context.mechanism, context.build, airC);
        return { own, other: yield* piecesOf(second, 0.5, 1) };
      })(),
    );
  },
});
