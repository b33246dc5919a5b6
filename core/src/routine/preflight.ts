/** The one list of all that is to be looked at before a routine is run. */
import { bySeverity, type Finding } from '../findings';
import { driveMaps } from '../actuators';
import type { Mechanism } from '../mechanism';
import type { Build, Rig } from '../rig';
import type { Plan } from './plan';
import { pauseFindings } from './pauses';
import { checkRig, runFindings } from './readiness';
import { schoolFindings } from './schools';

/** Everything worth a look before this routine is run: the plan's findings, the rig's, and what a run cannot do yet. */
export const preflight = (rig: Rig, mechanism: Mechanism, build: Build, plan: Plan): Finding[] =>
  [
    ...plan.findings,
    ...schoolFindings(mechanism, driveMaps(rig, mechanism, build), plan, rig.motion),
    ...pauseFindings(plan, rig.motion, (routine, id) =>
      rig.routines.some((r) => r.id === routine && r.steps.some((step) => step.id === id && step.note !== '')),
    ),
    ...runFindings(rig, plan),
    ...checkRig(rig, mechanism, build),
  ].sort(bySeverity);
