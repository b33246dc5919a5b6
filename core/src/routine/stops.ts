/** What a run is refused for: asked as it begins, and for telling whether a change of a rig brings something new. */
import { checkDrives } from '../bring-up';
import type { Finding } from '../findings';
import { jobOf, piecesOf, type Job } from '../jobs';
import type { Mechanism } from '../mechanism';
import type { Build, Rig } from '../rig';
import { loadFindings } from './load-checks';
import { planRoutine, type Plan } from './plan';
import { preflight } from './preflight';

const stopping = (findings: readonly Finding[]): Finding[] => findings.filter((f) => f.severity === 'stop');

/** These; where there are none, what is too heavy on the way, which takes longer to look at. */
const orTooHeavy = (found: readonly Finding[], rig: Rig, mechanism: Mechanism, plan: Plan): Job<Finding[]> =>
  jobOf(
    (function* (): Generator<number, Finding[], void> {
      const stops = stopping(found);
      return stops.length ? stops : stopping(yield* piecesOf(loadFindings(rig, mechanism, plan)));
    })(),
  );

/** What a run of a planned routine is refused for, whatever the way to its boards. */
export const runStops = (rig: Rig, mechanism: Mechanism, build: Build, plan: Plan): Job<Finding[]> =>
  orTooHeavy(preflight(rig, mechanism, build, plan), rig, mechanism, plan);

/** Keys of what stops a run whatever the routine. */
export const rigStops = (rig: Rig, mechanism: Mechanism, build: Build): string[] =>
  stopping(checkDrives(rig, mechanism, build)).map(({ code, place }) => [code, place.joint, place.drive].join(' '));

/** Ids of the rig's routines that could not be run, whatever else its motors and wires lack. */
export const stoppedRoutines = (rig: Rig, mechanism: Mechanism, build: Build): Job<string[]> =>
  jobOf(
    (function* (): Generator<number, string[], void> {
      const stopped: string[] = [];
      for (const routine of rig.routines) {
        const plan = planRoutine(rig, mechanism, build, routine);
        yield 1;
        if ((yield* piecesOf(orTooHeavy(plan.findings, rig, mechanism, plan))).length) stopped.push(routine.id);
      }
      return stopped;
    })(),
  );
