/** What would stop a run of a rig: for telling whether a change of it brings something new. */
import { checkDrives } from '../bring-up';
import type { Finding } from '../findings';
import type { Mechanism } from '../mechanism';
import type { Build, Rig } from '../rig';
import { planRoutine } from './plan';

const keysOf = (findings: readonly Finding[]): string[] =>
  findings
    .filter((f) => f.severity === 'stop')
    .map(({ code, place }) => [code, place.joint, place.drive, place.routine, place.step].join(' '));

/** Keys of what stops a run whatever the routine. */
export const rigStops = (rig: Rig, mechanism: Mechanism, build: Build): string[] =>
  keysOf(checkDrives(rig, mechanism, build));

/** Keys of what stops any of the rig's routines from being planned to its end. */
export const routineStops = (rig: Rig, mechanism: Mechanism, build: Build): string[] =>
  rig.routines.flatMap((routine) => keysOf(planRoutine(rig, mechanism, build, routine).findings));
