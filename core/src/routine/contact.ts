/** What the arm touches along a planned routine: itself, its base, the table, what stands around. */
import { commandMaps } from '../actuators';
import { contactScene, heldKey, sweepJob, type Held } from '../contact';
import type { Finding } from '../findings';
import { finding } from './findings';
import type { Job } from '../jobs';
import type { Mechanism } from '../mechanism';
import type { Build, Rig, Routine } from '../rig';
import { stepAt, type Plan } from './plan';
import { planCommands } from './schools';

/** Along what motors are told over the plan: one finding for each pair that meets, where it is deepest. A unit of work is one look at a pose. */
export function contactFindings(
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  routine: Routine,
  plan: Plan,
): Job<Finding[]> {
  const motion = planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
  const held = heldIn(plan);
  const sweep = sweepJob(contactScene(rig, mechanism, held.all), motion, held.at);
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

/** What tools hold along a plan, and what of it at a time. */
function heldIn({ carries }: Plan): { all: Held[]; at: (t: number) => ReadonlySet<string> } {
  const all = new Map<string, Held>();
  const now = new Map<string, string>();
  const changes = carries.map(({ timeS, tool, payload }) => {
    if (payload === null) now.delete(tool);
    else {
      const held = { tool, payload };
      now.set(tool, heldKey(held));
      all.set(heldKey(held), held);
    }
    return { timeS, keys: new Set(now.values()) };
  });
  const nothing = new Set<string>();
  return { all: [...all.values()], at: (t) => changes.findLast((change) => change.timeS <= t)?.keys ?? nothing };
}
