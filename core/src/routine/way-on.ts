/** The way from an arm that has just been made to one that has been rehearsed: what is done, and where the rest is. */
import type { Finding, PartOf, StationId } from '../findings';
import type { Mechanism } from '../mechanism';
import type { Rig } from '../rig';

export interface WayStep {
  readonly id: 'measures' | 'motors' | 'wires' | 'calibration' | 'poses' | 'routine' | 'rehearsal';
  readonly name: string;
  /** What is to be done, in a few words. */
  readonly says: string;
  readonly isDone: boolean;
  readonly to: { readonly station: StationId; readonly part?: PartOf<StationId> };
}

/** `findings`: the rig's own; `runs`: how many have been kept. */
export function wayOn(rig: Rig, mechanism: Mechanism, findings: readonly Finding[], runs: number): WayStep[] {
  const codes = new Set<string>(findings.map(({ code }) => code));
  const lacks = (...of: string[]): boolean => of.some((code) => codes.has(code));
  const hasMotors = rig.drives.length > 0;
  return [
    {
      ...{ id: 'measures', name: 'Measures', says: 'joints with their places and limits' },
      isDone: mechanism.m > 0,
      to: { station: 'measure', part: 'joints' },
    },
    {
      ...{ id: 'motors', name: 'Motors', says: 'one for each joint' },
      isDone: hasMotors && mechanism.m > 0 && !lacks('joint-without-motor'),
      to: { station: 'motors', part: 'joints' },
    },
    {
      ...{ id: 'wires', name: 'Wires', says: 'a pin and a supply for each motor' },
      isDone: hasMotors && !lacks('motor-unwired', 'rail-missing'),
      to: { station: 'motors', part: 'wires' },
    },
    {
      ...{ id: 'calibration', name: 'Calibration', says: 'two measured points for each servo' },
      isDone: hasMotors && !lacks('uncalibrated', 'stop-unmeasured'),
      to: { station: 'motors', part: 'joints' },
    },
    {
      ...{ id: 'poses', name: 'Poses', says: 'rest, and where it works' },
      isDone: rig.poses.length > 0,
      to: { station: 'poses' },
    },
    {
      ...{ id: 'routine', name: 'Routine', says: 'a few steps from pose to pose' },
      isDone: rig.routines.some(({ steps }) => steps.some((step) => step.enabled)),
      to: { station: 'routine', part: 'steps' },
    },
    {
      ...{ id: 'rehearsal', name: 'Rehearsal', says: 'a run on the simulated board' },
      isDone: runs > 0,
      to: { station: 'bench' },
    },
  ];
}
