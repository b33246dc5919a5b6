import { inOnePiece } from '@cork-elbow/core/jobs';
import { solveTogether, type Ask, type Carried, type Task } from '@cork-elbow/core/kinematics';
import { withTouches, type Answer } from '@cork-elbow/core/reach';
import { defineJob } from '../define-job';

/** What a question to the solver is made of, by ids. */
export interface PlainAsk {
  readonly toolId: string;
  readonly task: Task;
  readonly on?: Carried;
}

/** Where tools can be as asked, each posture looked at against what stands around. */
export const inverse = defineJob({
  label: 'Solving',
  run(
    { mechanism, scene, speedOnly, toolOf },
    { asks, near, held }: { asks: readonly PlainAsk[]; near: Float64Array; held: ReadonlySet<number> },
  ) {
    const whole = asks.flatMap(({ toolId, ...ask }): Ask[] => {
      const tool = toolOf(toolId);
      return tool ? [{ tool, ...ask }] : [];
    });
    if (whole.length < asks.length) return null;
    return inOnePiece((): Answer => withTouches(scene, solveTogether(mechanism, whole, near, { held, speedOnly })));
  },
});
