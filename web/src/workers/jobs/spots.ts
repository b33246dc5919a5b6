import { jobOf } from '@cork-elbow/core/jobs';
import { solveTogether, type Task } from '@cork-elbow/core/kinematics';
import { withTouches, type Answer } from '@cork-elbow/core/reach';
import { defineJob } from '../define-job';

/** Each work spot by itself, from home. */
export const spots = defineJob({
  label: 'Trying the work spots',
  run({ mechanism, scene, speedOnly, toolOf }, { toolId, tasks }: { toolId: string; tasks: readonly Task[] }) {
    const tool = toolOf(toolId);
    if (!tool) return null;
    return jobOf(
      (function* () {
        const results: Answer[] = [];
        for (const task of tasks) {
          yield results.length / tasks.length;
          results.push(withTouches(scene, solveTogether(mechanism, [{ tool, task }], mechanism.home, { speedOnly })));
        }
        return results;
      })(),
    );
  },
});
