/** What is found along the way of a plan, moment by moment: it takes longer than the plan, and comes in pieces. */
import type { Finding } from '../findings';
import { jobOf, piecesOf, type Job } from '../jobs';
import type { Mechanism } from '../mechanism';
import type { Build, Rig, Routine } from '../rig';
import { contactFindings } from './contact';
import { loadFindings } from './load-checks';
import type { Plan } from './plan';

/** What the arm touches, and what is too heavy for it. */
export const wayFindings = (
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  routine: Routine,
  plan: Plan,
): Job<Finding[]> =>
  jobOf(
    (function* (): Generator<number, Finding[], void> {
      const touched = yield* piecesOf(contactFindings(rig, mechanism, build, routine, plan));
      return [...touched, ...(yield* piecesOf(loadFindings(rig, mechanism, plan)))];
    })(),
  );
