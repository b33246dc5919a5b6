/** The order that a flat list of steps stands for: which `end` closes what, where markers are, what cannot be. */
import { signalPins } from '../commands';
import type { Finding, Needs } from '../findings';
import { finding, findingOf, type RoutineEntries, type RoutineSaying } from './findings';
import { usesOf, type Kind, type Rig, type Routine, type Step } from '../rig';

export const opens = (step: Step): boolean =>
  step.kind === 'repeat' || step.kind === 'if' || step.kind === 'alongside' || step.kind === 'group';

export interface Structure {
  /** Of an opener its `end`, of an `end` its opener; −1 where there is none. */
  readonly partner: readonly number[];
  /** Of an `if` its `else`, of an `else` its `if`; −1 where there is none. */
  readonly other: readonly number[];
  /** How many openers each step stands in; an opener and its `end` stand outside themselves. */
  readonly depth: readonly number[];
  /** Whether a step counts: itself and everything it stands in is enabled. */
  readonly enabled: readonly boolean[];
  readonly markers: ReadonlyMap<string, number>;
}

export function structureOf(steps: readonly Step[]): Structure {
  const partner = steps.map(() => -1);
  const other = steps.map(() => -1);
  const depth = steps.map(() => 0);
  const enabled = steps.map((step) => step.enabled);
  const markers = new Map<string, number>();
  const open: number[] = [];
  steps.forEach((step, i) => {
    const top = open.at(-1);
    if (step.kind === 'end' && top !== undefined) {
      open.pop();
      partner[i] = top;
      partner[top] = i;
    }
    const inside =
      step.kind === 'else' && top !== undefined && steps[top].kind === 'if' ? open.length - 1 : open.length;
    depth[i] = inside;
    if (step.kind === 'else' && top !== undefined && steps[top].kind === 'if' && other[top] < 0) {
      other[i] = top;
      other[top] = i;
    }
    if (step.kind === 'marker' && !markers.has(step.name)) markers.set(step.name, i);
    if (opens(step)) open.push(i);
  });
  // What is skipped is skipped to its end.
  steps.forEach((step, i) => {
    if (step.enabled || !opens(step) || partner[i] < 0) return;
    for (let k = i; k <= partner[i]; k++) enabled[k] = false;
  });
  return { partner, other, depth, enabled, markers };
}

/** Routines that this one runs by itself: calls, patterns, alongside. */
export const calledBy = (routine: Routine): string[] =>
  routine.steps.flatMap((step) =>
    (step.kind === 'call' || step.kind === 'alongside' || step.kind === 'pattern') && step.enabled && step.routine
      ? [step.routine]
      : [],
  );

/** Whether running `id` comes round to itself. */
function recurs(rig: Rig, id: string): boolean {
  const seen = new Set<string>();
  const queue = [id];
  for (let at = queue.pop(); at !== undefined; at = queue.pop())
    for (const next of calledBy(rig.routines.find((r) => r.id === at) ?? { ...rig.routines[0], steps: [] })) {
      if (next === id) return true;
      if (!seen.has(next)) {
        seen.add(next);
        queue.push(next);
      }
    }
  return false;
}

/** What can be seen without running it. */
export function structureFindings(rig: Rig, routine: Routine): Finding[] {
  const { steps } = routine;
  const { partner, other, enabled, markers } = structureOf(steps);
  const found: Finding[] = [];
  const say = <C extends keyof RoutineEntries>(
    code: C,
    i: number,
    ...[data]: Needs<RoutineEntries[C], 'step'>
  ): void => {
    const said = { code, data: { step: i + 1, ...data } } as unknown as RoutineSaying;
    found.push(findingOf(said, { station: 'routine', routine: routine.id, step: steps[i].id }));
  };
  const isCalled = rig.routines.some((r) => calledBy(r).includes(routine.id));
  const seen = new Map<string, number>();
  const usedMarkers = new Set(
    steps.flatMap((step) =>
      step.kind === 'jump'
        ? [step.to]
        : step.kind === 'wait-input' && typeof step.otherwise === 'object'
          ? [step.otherwise.jump]
          : [],
    ),
  );
  const pins = new Set(signalPins(rig).map((pin) => pin.signal.id));
  const signal = (id: string, way: 'in' | 'out', i: number): void => {
    const known = rig.signals.find((s) => s.id === id && s.way === way);
    if (!known) return say(way === 'in' ? 'input-unknown' : 'output-unknown', i);
    if (!pins.has(id)) say('signal-nowhere', i, { signal: known.name, id });
  };
  steps.forEach((step, i) => {
    if (!enabled[i]) return;
    if (opens(step) && partner[i] < 0) say('end-missing', i);
    switch (step.kind) {
      case 'end':
        if (partner[i] < 0) say('end-alone', i);
        break;
      case 'else':
        if (other[i] < 0) say('else-alone', i);
        break;
      case 'marker': {
        if (seen.has(step.name)) say('marker-twice', i, { name: step.name, other: seen.get(step.name)! + 1 });
        else seen.set(step.name, i);
        if (!usedMarkers.has(step.name)) say('marker-unused', i, { name: step.name });
        break;
      }
      case 'jump':
        if (!markers.has(step.to)) say('marker-missing', i, { name: step.to });
        break;
      case 'return':
        if (!isCalled) say('return-alone', i);
        break;
      case 'call':
      case 'alongside':
      case 'pattern':
        if (step.routine !== null && !rig.routines.some((r) => r.id === step.routine)) say('routine-unknown', i);
        break;
      case 'wait-input':
        signal(step.signal, 'in', i);
        if (step.timeoutS === null) say('wait-without-end', i);
        if (typeof step.otherwise === 'object' && !markers.has(step.otherwise.jump))
          say('marker-missing', i, { name: step.otherwise.jump });
        break;
      case 'if':
        if ('signal' in step.when) signal(step.when.signal, 'in', i);
        break;
      case 'output':
        signal(step.signal, 'out', i);
        break;
      default:
    }
  });
  if (recurs(rig, routine.id))
    found.push(finding('routine-recurs', { station: 'routine', routine: routine.id }, { routine: routine.name }));
  return found;
}

/** Steps that name a thing, each once: routine and number. */
export function stepsWith(
  rig: Rig,
  kind: Kind,
  id: string,
): { readonly routineId: string; readonly routine: string; readonly stepId: string; readonly step: number }[] {
  const named = new Set(
    usesOf(rig, kind, id).flatMap(({ path: [list, r, , k] }) => (list === 'routines' ? [`${r}/${k}`] : [])),
  );
  return rig.routines.flatMap((r, i) =>
    r.steps.flatMap((step, k) =>
      named.has(`${i}/${k}`) ? [{ routineId: r.id, routine: r.name, stepId: step.id, step: k + 1 }] : [],
    ),
  );
}
