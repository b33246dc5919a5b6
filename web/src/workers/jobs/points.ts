import { pointsJob, type TablePoint } from '@cork-elbow/core/reach';
import { defineJob } from '../define-job';

/** Many points one after the other, from `start` (slots, SI), at `speed` m/s. */
export const points = defineJob({
  label: 'Solving the points',
  run(
    { mechanism, scene, speedOnly, toolOf },
    ask: { toolId: string; points: readonly TablePoint[]; start: Float64Array; speed: number },
  ) {
    const tool = toolOf(ask.toolId);
    return tool && pointsJob(mechanism, tool, ask.points, ask.start, ask.speed, { scene, speedOnly });
  },
});
