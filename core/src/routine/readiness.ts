/** How far a rig is ready to run, and what a run cannot do yet: said before the button is pressed, in the list of all findings. */
import type { Finding } from '../findings';
import type { bringUpFindings } from '../bring-up';
import type { wiringFindings } from '../wiring';
import { finding, type RoutineEntries } from './findings';
import { checkDrives, isLost } from '../bring-up';
import { linePins, wireOf } from '../actuators';
import type { Mechanism } from '../mechanism';
import type { OwnLines } from '../own-lines';
import { Channels, signalPins } from '../commands';
import { homingCodes, homingFindings } from './homing-ready';
import { jointName, type Build, type MechanismDoc, type Rig } from '../rig';
import { branches } from './parts';
import type { Plan, PlanEvent } from './plan';

/** What a routine may do on the stage and a run on a board does not do yet. */
const NOT_YET = {
  asks: 'takes one of two ways by an input while something moves',
  spins: 'spins until an input while something else moves',
  counts: 'spins a motor that is sent places until an input',
} as const;

/** An input that is waited for, and then the way goes on the same whatever happened. */
export interface InputWait {
  readonly signal: string;
  readonly is: boolean;
  /** For how long (s) at most; null: for as long as it takes. */
  readonly atMostS: number | null;
  /** Whether the way goes on when that is up; else the run ends. */
  readonly goesOn: boolean;
}
type Known = Pick<Rig, 'routines' | 'transmissions' | 'drives'>;
/** What an event waits for; or why a run cannot wait for it. */
function lookAt(
  { routines, transmissions, drives }: Known,
  { waitedS, routine, stepId, beside }: Extract<PlanEvent, { kind: 'input' }>,
): InputWait | keyof typeof NOT_YET {
  const step = routines.find(({ id }) => id === routine)?.steps.find(({ id }) => id === stepId);
  if (waitedS === null || !step) return 'asks';
  if (step.kind === 'wait-input' && typeof step.otherwise === 'string') {
    const { signal, is, timeoutS, otherwise } = step;
    return { signal, is, atMostS: timeoutS, goesOn: otherwise === 'go-on' };
  }
  if (step.kind !== 'spin' || typeof step.until === 'string' || !('signal' in step.until)) return 'asks';
  if (beside) return 'spins';
  // What is sent speeds goes on turning while the time of the run stands; what is sent places would not.
  const own = transmissions.filter(({ joints }) => joints.some((id) => id === step.joint)).flatMap((t) => t.drives);
  const isSent = own.every((id) => drives.find((drive) => drive.id === id)?.kind === 'continuous-servo');
  const { signal, is, atMostS } = step.until;
  return own.length && isSent ? { signal, is, atMostS, goesOn: true } : 'counts';
}
/** What an event of a run waits for where it is; null for what it does not wait for. */
export function waitOf(rig: Known, event: Extract<PlanEvent, { kind: 'input' }>): InputWait | null {
  const wait = lookAt(rig, event);
  return typeof wait === 'string' ? null : wait;
}

/**
 * The first step of each kind that a run would refuse, the first for each input and output that is on no pin, and those that let one of
 * several joints go that share their motors. `ownLines`: boards (ids) that are sent a builder's own lines, and what those can do.
 */
export function runFindings(rig: Rig, plan: Plan, ownLines: ReadonlyMap<string, OwnLines> = new Map()): Finding[] {
  // What is told of the routine itself is told once.
  const said = new Set<string>(
    plan.findings.flatMap(({ code, data }) => (code === 'signal-nowhere' ? [`nowhere ${data.id}`] : [])),
  );
  const pins = new Map(signalPins(rig).map((pin) => [pin.signal.id, pin.line]));
  const pinOf = linePins(rig);
  const lineOf = (drive: string): string | undefined => {
    const wire = wireOf(rig, drive);
    return wire ? pinOf(wire.board, wire.channel)?.line : undefined;
  };
  const boardName = (id: string): string => rig.boards.find((board) => board.id === id)?.name ?? id;
  const once = (key: string, make: () => Finding): Finding[] => {
    if (said.has(key)) return [];
    said.add(key);
    return [make()];
  };
  return plan.events.flatMap((event): Finding[] => {
    if (event.kind === 'counter' || event.kind === 'swap') return [];
    const { timeS, routine, stepId: step, index } = event;
    const place = { station: 'routine', routine, step, timeS } as const;
    if (event.kind === 'power') {
      const named = new Set(event.joints);
      const tied = rig.transmissions.filter(({ joints }) => joints.some((id) => named.has(id)));
      const clings = tied
        .flatMap(({ drives }) => drives.map(lineOf))
        .find((line) => line !== undefined && ownLines.get(line)?.letsGo === false);
      if (clings !== undefined)
        return once(`clings ${clings}`, () =>
          finding('run-lines', place, { step: index + 1, what: 'lets joints go', board: boardName(clings) }),
        );
      const other = tied.flatMap(({ joints }) => joints.filter((id) => !named.has(id)))[0];
      if (other === undefined) return [];
      const name = nameIn(rig.mechanism, other);
      return once(`shared ${step}`, () => finding('power-shared', place, { step: index + 1, joint: name }));
    }
    const wait = event.kind === 'output' || branches(rig, event) ? null : lookAt(rig, event);
    if (typeof wait === 'string')
      return once(wait, () => finding('run-not-yet', place, { step: index + 1, what: NOT_YET[wait] }));
    const { signal: id } = event;
    const line = pins.get(id);
    const lines = line === undefined ? undefined : ownLines.get(line);
    if (lines && (event.kind !== 'output' || !lines.switches)) {
      const what = event.kind === 'output' ? 'switches an output' : 'reads an input';
      return once(`${what} ${line}`, () =>
        finding('run-lines', place, { step: index + 1, what, board: boardName(line!) }),
      );
    }
    if (line !== undefined) return [];
    const signal = rig.signals.find((s) => s.id === id)?.name ?? id;
    return once(`nowhere ${id}`, () => finding('signal-nowhere', place, { step: index + 1, signal, id }));
  });
}
const nameIn = ({ joints }: MechanismDoc, id: string): string => {
  const joint = joints.find((j) => j.id === id);
  return joint ? jointName(joint) : id;
};

/** Share of its speed that a run keeps to while the arm has not homed and nothing else is said. */
const UNVERIFIED = 0.25;

/**
 * Share of its speed that a run keeps to. Axes that are homed by something do not know where they are until then: the run is slow,
 * unless somebody says that the arm stands `asDrawn`. Not where motors are told to jump: those cannot be slowed.
 */
export function runPace(
  { homing, motion }: Pick<Rig, 'homing' | 'motion'>,
  asDrawn: boolean,
): { readonly share: number; readonly refused: Finding | null } {
  const share = homing.axes.length > 0 && !asDrawn ? (homing.parked?.speedShare ?? UNVERIFIED) : 1;
  const cannot = share < 1 && motion.school === 'jump';
  return {
    share,
    refused: cannot
      ? finding('jump-unverified', { station: 'routine', part: 'smoothing' }, { share: share * 100 })
      : null,
  };
}

/** Findings of the rig that hold whatever routine is run, and for a rig without any. */
export function checkRig(rig: Rig, mechanism: Mechanism, build: Build): Finding[] {
  const channels = new Channels(rig, mechanism, build);
  return [
    // A board that drives nothing is switched on for nothing.
    ...(channels.all.length
      ? []
      : [finding('motors-nowhere', { station: 'motors', part: rig.drives.length ? 'wires' : 'joints' })]),
    ...checkDrives(rig, mechanism, build),
    ...startFindings(rig, mechanism),
    ...homingFindings(rig, channels, build),
  ];
}

/** Motors that know nothing of where they stand when power comes, and no plan that finds it out or brings them in. */
function startFindings(rig: Rig, mechanism: Mechanism): Finding[] {
  const found: Finding[] = [];
  const homed = new Set(rig.homing.axes.map((axis) => axis.joint));
  for (const drive of rig.drives.filter(isLost)) {
    const joints = rig.transmissions.filter((t) => t.drives.includes(drive.id)).flatMap((t) => [...t.joints]);
    const joint = joints.find((id) => !homed.has(id));
    if (!joint) continue;
    const name = mechanism.names[mechanism.index.get(joint)!] ?? joint;
    found.push(
      finding('start-unhomed', { station: 'motors', joint, drive: drive.id, part: 'homing' }, { joint: name }),
    );
  }
  const servos = rig.drives.some((d) => d.kind === 'servo');
  if (servos && rig.powerUp.rest === null)
    found.push(finding('start-unplanned', { station: 'motors', part: 'power-up' }));
  return found;
}

/** stopped: a run is refused; simulated: a run on the simulated board; real: nothing known is missing for a real one either. */
export type Readiness = 'stopped' | 'simulated' | 'real';

/** What the simulated board does not mind and a real arm does: no motor, wire, supply, calibration, or way to its start. */
const forReal: ReadonlySet<string> = new Set<
  | keyof RoutineEntries
  | keyof typeof wiringFindings.entries
  | keyof typeof bringUpFindings.entries
  | (typeof homingCodes)[number]
>([
  'joint-without-motor',
  'motor-unwired',
  'counter-unwired',
  'uncalibrated',
  'stop-unmeasured',
  'rail-missing',
  'signal-unwired',
  'polarity-unknown',
  'input-floats',
  'output-boot-unknown',
  'start-unhomed',
  'start-unplanned',
  ...homingCodes,
]);

/** `findings`: the rig's and those of the routine on show. `missing`: what keeps it from the next state. */
export function readinessOf(findings: readonly Finding[]): {
  readonly state: Readiness;
  readonly missing: readonly Finding[];
} {
  const stops = findings.filter((f) => f.severity === 'stop');
  if (stops.length) return { state: 'stopped', missing: stops };
  const missing = findings.filter((f) => forReal.has(f.code));
  return { state: missing.length ? 'simulated' : 'real', missing };
}
