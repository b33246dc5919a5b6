import { jobOf } from '@cork-elbow/core/jobs';
import { solveTogether } from '@cork-elbow/core/kinematics';
import { vec3, type Vec3 } from '@cork-elbow/core/linear';
import { accuracyAt, heldBy, Loading } from '@cork-elbow/core/loads';
import { toSlots } from '@cork-elbow/core/mechanism';
import { taskOf, withTouches } from '@cork-elbow/core/reach';
import { toM } from '@cork-elbow/core/units';
import type { Holding } from './worst';
import { defineJob } from '../define-job';

/** How exactly the tool stands at one place: a spot, in the posture that is free and nearest, or a pose. */
export interface Exactness {
  readonly kind: 'spot' | 'pose';
  readonly id: string;
  readonly name: string;
  /** Null where the arm does not get there. */
  readonly stands: {
    readonly q: Float64Array;
    readonly rss: number;
    readonly worst: number;
    /** How far (m) it sinks under its load; negative: rises. */
    readonly sinks: number;
  } | null;
}

/** At all work spots and poses. */
export const exactness = defineJob({
  label: 'Looking how exactly it stands everywhere',
  run(
    { rig, build, mechanism, scene, speedOnly, toolOf },
    { toolId, holding }: { toolId: string; holding: Holding | null },
  ) {
    const tool = toolOf(toolId);
    if (!tool) return null;
    const holds = holding && toolOf(holding.toolId);
    const held = holds && holding.payload.massG > 0 ? [heldBy(holds, holding.payload)] : [];
    const loading = new Loading(rig, mechanism, held);
    const at = (q: Float64Array | null): Exactness['stands'] => {
      if (!q) return null;
      const { rss, worst, droop } = accuracyAt(rig, mechanism, build, tool, q, loading);
      return { q, rss, worst, sinks: -droop[2] };
    };
    return jobOf(
      (function* () {
        const found: Exactness[] = rig.poses.map(({ id, name, joints }) => ({
          ...{ kind: 'pose', id, name },
          stands: at(toSlots(mechanism, joints)),
        }));
        for (const [k, { id, name, xyzMm, direction }] of rig.spots.entries()) {
          yield k / rig.spots.length;
          const position = xyzMm.map(toM) as unknown as Vec3;
          const task = taskOf({ position, direction: direction && vec3.unit(direction) });
          const answer = withTouches(
            scene,
            solveTogether(mechanism, [{ tool, task }], mechanism.home, { speedOnly }),
          );
          found.push({ kind: 'spot', id, name, stands: at(answer.solutions[0]?.q ?? null) });
        }
        return found;
      })(),
    );
  },
});
