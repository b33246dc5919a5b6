/** What the arm touches along a planned routine: itself, its base, the table, what stands around. */
import { contactScene, sweepJob } from '../contact';
import { finding, type Finding } from '../contract/finding';
import type { Job } from '../jobs';
import type { Mechanism } from '../mechanism';
import type { Rig, Routine } from '../rig';
import { positionAt, stepAt, type Plan } from './plan';

/** One finding for each pair that meets, where it is deepest; a unit of work is one look at a pose. */
export function contactFindings(rig: Rig, mechanism: Mechanism, routine: Routine, plan: Plan): Job<Finding[]> {
  const sweep = sweepJob(
    contactScene(rig, mechanism),
    (t, out) => {
      out.set(positionAt(mechanism, plan, t));
      return out;
    },
    plan.durationS,
  );
  return {
    step(budget) {
      const done = sweep.step(budget);
      if (!done.done) return done;
      const found = done.value.map(({ a, b, depth, fromS, deepestS }) => {
        const step = stepAt(plan, deepestS);
        return finding(
          'contact',
          {
            station: 'routine',
            routine: step?.routine ?? routine.id,
            ...(step ? { step: step.stepId } : {}),
            timeS: deepestS,
          },
          { first: a.name, second: b.name, depth: depth * 1000, from: fromS, step: (step?.index ?? 0) + 1 },
        );
      });
      return { done: true, value: found };
    },
  };
}
