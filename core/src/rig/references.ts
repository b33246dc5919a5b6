/**
 * What names what in a document: one table, from which come the check for ids that are not there, what uses a thing, taking a
 * thing out, and giving it another id.
 */
import { pathText, type Fault } from '../findings';
import { fault } from './findings';
import { PLATFORM } from './delta';
import type { Rig, Step } from './schema';

export type Kind =
  'joint' | 'drive' | 'board' | 'rail' | 'signal' | 'sensor' | 'tool' | 'spot' | 'payload' | 'pose' | 'routine';

/** Words for kinds in sentences about ids that are not there. */
const kindWords: Record<Kind, string> = {
  ...{ joint: 'joint', drive: 'drive', board: 'board', rail: 'supply', signal: 'signal', sensor: 'sensor' },
  ...{ tool: 'tool', spot: 'spot', payload: 'payload', pose: 'pose', routine: 'routine' },
};

export const kinds = Object.keys(kindWords) as Kind[];

/** The list that things of a kind stand in. */
export function listOf(rig: Rig, kind: Kind): { id: string }[] {
  if (kind === 'joint') return rig.mechanism.joints;
  if (kind === 'tool') return rig.mechanism.tools;
  return rig[`${kind}s`];
}

/** What becomes of a place when the thing it names is taken out. */
type Gone =
  /** The part of the document marked by ! goes. */
  | 'drop'
  | 'null'
  /** What takes the thing's place (the parent of a joint) is named instead. */
  | 'heir'
  /** It stays: a finding says that the thing is gone, and where. */
  | 'keep';

interface Reference {
  readonly to: Kind;
  /**
   * Keys from the top, by dots: * any item of a list, # any key of a record (the key is the id). ! marks what goes where it is
   * dropped, else the last; ^ an item that goes too when its list would be left empty.
   */
  readonly at: string;
  readonly gone: Gone;
  /** A document with an id there that does not exist is no document. */
  readonly must?: true;
  /** Another key of the same object that becomes null with it. */
  readonly with?: string;
  /** Of steps of this kind alone. */
  readonly step?: Step['kind'];
}
const refs = (to: Kind, gone: Gone, places: readonly string[], must?: true): Reference[] =>
  places.map((at) => ({ to, at, gone, ...(must ? { must } : {}) }));

const TARGETS = ['target', 'via', 'second', 'through.*'].map((key) => `routines.*.steps.*.${key}`);

export const references: readonly Reference[] = [
  ...refs('joint', 'heir', ['mechanism.joints.*.parent', 'mechanism.tools.*.parent'], true),
  ...refs(
    'joint',
    'drop',
    [
      ...['mechanism.joints.*.follows.!*.joint', 'mechanism.tools.*.!grip.joint', 'frames.!*.fixedTo.joint'],
      ...['mechanism.limitRules.!*.terms.*.joint', 'mechanism.limitRules.!*.while.joint'],
      ...['mechanism.limitRules.!*.joint', 'mechanism.cables.^*.around.!*.joint', 'transmissions.!*.joints.*'],
      ...['mechanism.weights.!*.joint', 'mechanism.springs.!*.joint', 'mechanism.springs.!*.from.joint'],
      ...['mechanism.springs.!*.to.joint', 'drives.*.!seat.joint'],
    ],
    true,
  ),
  ...refs('joint', 'null', ['mechanism.base.wheels.*.joint'], true),
  ...refs('joint', 'null', ['sensors.*.joint']),
  ...refs('joint', 'drop', [
    ...[
      'poses.*.joints.#',
      'builds.*.lifts.*.joints.#',
      'leaders.!*.joint',
      'homing.axes.!*.joint',
      'homing.axes.*.waits.#',
    ],
    ...['builds.*.confirmed.#', 'builds.*.backlash.#', 'routines.*.steps.^*.joints.*', 'routines.*.steps.!*.joint'],
    ...TARGETS.flatMap((target) => [`${target}.joints.#`, `${target}.shift.joints.#`]),
  ]),
  ...refs(
    'drive',
    'drop',
    ['transmissions.!*.drives.*', 'wiring.!*.drive', 'builds.*.calibrations.!*.drive', 'builds.*.lifts.!*.drive'],
    true,
  ),
  ...refs('drive', 'drop', [
    ...['powerUp.order.*', 'powerUp.at.#', 'builds.*.turns.#', 'builds.*.speeds.#', 'builds.*.trims.#'],
  ]),
  ...refs('board', 'drop', ['wiring.!*.board'], true),
  ...refs('board', 'null', ['boards.*.host', 'rails.*.board'], true),
  ...refs('board', 'null', ['signals.*.board', 'sensors.*.board'], true).map((r) => ({ ...r, with: 'channel' })),
  ...refs('rail', 'null', ['wiring.*.rail'], true),
  ...refs('rail', 'drop', ['rails.*.!from.rail'], true),
  ...refs('sensor', 'drop', ['leaders.!*.sensor'], true),
  ...refs('sensor', 'drop', ['builds.*.sensors.#']),
  ...refs('signal', 'null', ['homing.axes.*.signal']),
  ...refs('signal', 'keep', [
    ...['mechanism.tools.*.grip.output', 'routines.*.steps.*.signal', 'routines.*.steps.*.until.signal'],
    'routines.*.steps.*.when.signal',
  ]),
  ...refs('pose', 'null', ['powerUp.rest']),
  ...refs('pose', 'drop', ['homing.!parked.pose']),
  ...refs(
    'pose',
    'keep',
    TARGETS.map((target) => `${target}.pose`),
  ),
  ...refs('spot', 'keep', [...TARGETS.map((target) => `${target}.spot`), 'routines.*.steps.*.places.spot']),
  // A grip that carried it carries nothing any more; what only picks it up has nothing else to do.
  ...refs('payload', 'drop', ['routines.*.steps.*.payload']).map((r) => ({ ...r, step: 'grip' as const })),
  ...refs('payload', 'keep', ['routines.*.steps.*.payload']).map((r) => ({ ...r, step: 'pick-up' as const })),
  ...refs('routine', 'keep', ['routines.*.steps.*.routine']),
  ...refs(
    'tool',
    'keep',
    ['tool', 'off', 'on'].map((key) => `routines.*.steps.*.${key}`),
  ),
];

type Key = string | number;
export interface Use {
  readonly reference: Reference;
  readonly id: string;
  /** Keys from the top; the last is the id itself where a record is keyed by it. */
  readonly path: readonly Key[];
}

const isObject = (value: unknown): value is Record<Key, unknown> => typeof value === 'object' && value !== null;
const plain = (segment: string): string => segment.replace(/^[!^]/, '');

function* visit(value: unknown, segments: readonly string[], path: Key[], reference: Reference): Generator<Use> {
  const [first, ...rest] = segments;
  if (first === undefined) {
    if (typeof value === 'string') yield { reference, id: value, path };
    return;
  }
  if (!isObject(value)) return;
  const key = plain(first);
  if (key === '#') {
    for (const id of Object.keys(value)) yield { reference, id, path: [...path, id] };
  } else if (key === '*') {
    if (Array.isArray(value))
      for (let i = 0; i < value.length; i++) yield* visit(value[i], rest, [...path, i], reference);
  } else if (Object.hasOwn(value, key)) yield* visit(value[key], rest, [...path, key], reference);
}

const segmentsOf = new Map(references.map((reference) => [reference, reference.at.split('.')]));

/** Every place of the document that names something, of one kind or of all. */
export const usesIn = (rig: Rig, kind?: Kind): Generator<Use> =>
  usesBy(rig, kind === undefined ? references : references.filter(({ to }) => to === kind));
function* usesBy(rig: Rig, some: readonly Reference[]): Generator<Use> {
  for (const reference of some) {
    const { step } = reference;
    for (const use of visit(rig, segmentsOf.get(reference)!, [], reference))
      if (step === undefined || (at(rig, use.path.slice(0, 4)) as Step).kind === step) yield use;
  }
}
/** Every place that names one thing. */
export const usesOf = (rig: Rig, kind: Kind, id: string): Use[] =>
  [...usesIn(rig, kind)].filter((use) => use.id === id);

const isInMechanism = ({ at: place }: Reference): boolean => place.startsWith('mechanism.');
const neededInMechanism = references.filter((r) => r.must && isInMechanism(r));
const neededElsewhere = references.filter((r) => r.must && !isInMechanism(r));

/** Ids that must be there and are not. Of a mechanism alone (`root` begins its paths), what it names itself; of a rig, all else. */
export function unknownIds(rig: Rig | Pick<Rig, 'mechanism'>, root?: string): Fault[] {
  const known = new Map<Kind, Set<string>>();
  const idsOf = (kind: Kind): Set<string> => {
    const own = known.get(kind) ?? new Set(listOf(rig as Rig, kind).map((item) => item.id));
    known.set(kind, own);
    return own;
  };
  const needed = root === undefined ? neededElsewhere : neededInMechanism;
  return [...usesBy(rig as Rig, needed)].flatMap(({ reference: { to }, id, path }) => {
    if (idsOf(to).has(id)) return [];
    const [, list, ...rest] = path;
    // The platform of a delta carries tools without standing among the joints.
    if (list === 'tools' && id === PLATFORM && rig.mechanism.family === 'rotary-delta') return [];
    const kind = kindWords[to];
    const at = root === undefined ? path : [...(root ? [root] : []), list, ...rest];
    return [fault('id-unknown', pathText(at), `an existing ${kind}`, `“${id}”`, { id, kind })];
  });
}

const at = (value: unknown, path: readonly Key[]): unknown =>
  path.reduce<unknown>((v, key) => (isObject(v) ? v[key] : undefined), value);
/** Later in a list before earlier, deeper before what holds it: so that nothing moves that is still to be taken out. */
const later = (a: readonly Key[], b: readonly Key[]): number => {
  for (let k = 0; k < Math.min(a.length, b.length); k++)
    if (a[k] !== b[k])
      return typeof a[k] === 'number' && typeof b[k] === 'number'
        ? Number(b[k]) - Number(a[k])
        : String(b[k]) < String(a[k])
          ? -1
          : 1;
  return b.length - a.length;
};
function cut(draft: Rig, path: readonly Key[]): void {
  const holder = at(draft, path.slice(0, -1));
  const key = path[path.length - 1];
  if (Array.isArray(holder)) holder.splice(Number(key), 1);
  else if (isObject(holder))
    // A key that every document has is emptied, another one goes.
    if (key === 'parked') holder[key] = null;
    else delete holder[key];
}

/** Mends every place that names a thing which is taken out (or has been): by what the table says of that place. */
export function forget(draft: Rig, kind: Kind, id: string, heir: string | null = null): void {
  const dropped: (readonly Key[])[] = [];
  const lists: (readonly Key[])[] = [];
  for (const { reference, path } of usesOf(draft, kind, id)) {
    const holder = at(draft, path.slice(0, -1)) as Record<Key, unknown>;
    const last = path[path.length - 1];
    if (reference.gone === 'null') {
      holder[last] = null;
      if (reference.with) holder[reference.with] = null;
    } else if (reference.gone === 'heir') holder[last] = heir;
    else if (reference.gone === 'drop') {
      const segments = segmentsOf.get(reference)!;
      const mark = segments.findIndex((s) => s.startsWith('!'));
      const item = path.slice(0, mark < 0 ? path.length : mark + 1);
      if (!dropped.some((other) => later(other, item) === 0)) dropped.push(item);
      const emptied = segments.findIndex((s) => s.startsWith('^'));
      if (emptied >= 0) lists.push(path.slice(0, emptied + 1));
    }
  }
  dropped.sort(later).forEach((path) => cut(draft, path));
  const empty = lists.filter((path, k) => {
    const item = at(draft, path);
    return (
      lists.findIndex((other) => later(other, path) === 0) === k &&
      isObject(item) &&
      Object.values(item).some((value) => Array.isArray(value) && value.length === 0)
    );
  });
  empty.sort(later).forEach((path) => cut(draft, path));
}

/** Takes a thing out of its list and mends every place that named it. */
export function takeOut(draft: Rig, kind: Kind, id: string, heir: string | null = null): void {
  const list = listOf(draft, kind);
  const k = list.findIndex((item) => item.id === id);
  if (k >= 0) list.splice(k, 1);
  forget(draft, kind, id, heir);
}

/** Gives a thing another id, wherever it is named. */
export function rename(draft: Rig, kind: Kind, from: string, to: string): void {
  for (const { path } of usesOf(draft, kind, from)) {
    const holder = at(draft, path.slice(0, -1)) as Record<Key, unknown>;
    const last = path[path.length - 1];
    if (holder[last] === from) holder[last] = to;
    else {
      // The key of a record: it keeps its place among the others.
      const entries = Object.entries(holder).map(([key, value]) => [key === from ? to : key, value] as const);
      for (const key of Object.keys(holder)) delete holder[key];
      for (const [key, value] of entries) holder[key] = value;
    }
  }
  for (const item of listOf(draft, kind)) if (item.id === from) item.id = to;
}
