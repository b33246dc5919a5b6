/** Places of a document as people name them: "Elbow: upper limit" for mechanism.joints[2].limits.max. */
import type { Fault } from '../findings';

type Path = readonly (string | number)[];

/** Segments of a path such as mechanism.joints[2].limits.min. */
export const segmentsOf = (path: string): Path =>
  [...path.matchAll(/[^.[\]]+/g)].map(([part]) => (/^\d+$/.test(part) ? Number(part) : part));

/** Fields that their own name does not say well. */
const fields: Readonly<Record<string, string>> = {
  min: 'lower limit',
  max: 'upper limit',
  maxSpeed: 'top speed',
  maxAccel: 'highest acceleration',
  maxJerk: 'highest jerk',
  home: 'resting place',
  parent: 'what it hangs on',
  xyzMm: 'place',
  rpyDeg: 'turn',
  comMm: 'centre of mass',
  massG: 'mass',
  inertiaKgM2: 'inertia',
  follows: 'what it follows',
  physical: 'hard stops',
  around: 'joints it goes round',
  slackMm: 'slack',
  terms: 'joints of the sum',
  at: 'angle',
  us: 'pulse',
  usPerDeg: 'pulse per degree',
  channel: 'pin',
  host: 'board that speaks for it',
  updateHz: 'pulses a second',
  can: 'what the pin can',
  boot: 'state at start',
  xyz: 'place',
  target: 'goal',
};
/** Parts that only hold others: what is in them says enough. */
const silent = new Set(['mechanism', 'origin', 'limits', 'link', 'base', 'motion', 'homing', 'powerUp']);
/** Where a silent part is all there is. */
const whole: Readonly<Record<string, string>> = {
  mechanism: 'the arm',
  origin: 'pivot',
  limits: 'limits',
  link: 'link',
  base: 'base',
  motion: 'smoothing',
  homing: 'homing',
  powerUp: 'power-up',
};
/** One item of a list that has no name of its own. */
const items: Readonly<Record<string, string>> = {
  joints: 'joint',
  tools: 'tool',
  drives: 'motor',
  transmissions: 'transmission',
  wiring: 'wire',
  limitRules: 'rule',
  cables: 'cable',
  weights: 'weight',
  springs: 'spring',
  lifts: 'lift',
  steps: 'step',
  routines: 'routine',
  poses: 'pose',
  builds: 'build',
  calibrations: 'points',
  points: 'point',
  axes: 'homing',
  boards: 'board',
  pins: 'pin',
  rails: 'supply',
  signals: 'input or output',
  sensors: 'sensor',
  leaders: 'guide',
  spots: 'spot',
  frames: 'frame',
  obstacles: 'thing around',
  payloads: 'payload',
  wheels: 'wheel',
  bodies: 'body',
  feet: 'foot',
  terms: 'joint of the sum',
  around: 'joint',
  rods: 'rod',
  branches: 'branch',
};
const units = /(?:DegPerS|Mm2|UsPerDeg|MmPerS|DegC|Mm|Deg|Us|Ms|Hz|Nm|Kg|G|S|A|V)$/;
/** A key as words: pulsesPerTurn is "pulses per turn"; the unit at its end goes. */
function plain(key: string): string {
  const bare = key.length > 2 ? key.replace(units, '') || key : key;
  return bare
    .replace(/[-_]/g, ' ')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase();
}
const corners: Readonly<Record<string, readonly string[]>> = {
  xyzMm: ['forward', 'left', 'up'],
  comMm: ['forward', 'left', 'up'],
  rpyDeg: ['roll', 'pitch', 'yaw'],
  axis: ['forward', 'left', 'up'],
  sizeMm: ['length', 'width', 'height'],
};

const isRecord = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null;

/** Names by id of everything in a document that has both; the first one of an id counts. */
export function namesOf(doc: unknown): Map<string, string> {
  const names = new Map<string, string>();
  const look = (value: unknown): void => {
    if (!isRecord(value)) return;
    if (typeof value.id === 'string' && typeof value.name === 'string' && value.name && !names.has(value.id))
      names.set(value.id, value.name);
    for (const part of Object.values(value)) look(part);
  };
  look(doc);
  return names;
}

/** What an item of a list is called: by its own name, by what it is for, or by its number. */
function itemWords(list: string, item: unknown, index: number, names: ReadonlyMap<string, string>): string {
  const word = items[list] ?? plain(list);
  const numbered = `${word} ${index + 1}`;
  if (!isRecord(item) || list === 'steps') return numbered;
  if (typeof item.name === 'string' && item.name) return item.name;
  const of = [item.drive, item.joint, ...(Array.isArray(item.joints) ? (item.joints as unknown[]) : [])]
    .filter((id): id is string => typeof id === 'string')
    .map((id) => names.get(id) ?? id);
  if (of.length && list !== 'terms' && list !== 'around') return `${word} of ${of.join(' and ')}`;
  if (of.length) return of[0];
  return typeof item.label === 'string' && item.label ? `${word} ${item.label}` : numbered;
}

/** The words for a place; "the document" for all of it. */
export function placeWords(doc: unknown, path: string | Path, names = namesOf(doc)): string {
  const parts = typeof path === 'string' ? segmentsOf(path) : path;
  const things: string[] = [];
  const rest: string[] = [];
  let value: unknown = doc;
  parts.forEach((part, k) => {
    value = isRecord(value) ? value[part] : undefined;
    const before = parts[k - 1];
    if (typeof part === 'number') {
      const corner = typeof before === 'string' ? corners[before]?.[part] : undefined;
      if (corner) rest.push(corner);
      else if (typeof before === 'string' && (isRecord(value) || before in items)) {
        // The list's own word is in the item's.
        if (rest.at(-1) === (fields[before] ?? plain(before))) rest.pop();
        things.push(...rest.splice(0), itemWords(before, value, part, names));
      } else rest.push(`number ${part + 1}`);
      return;
    }
    if (part === 'id' || part === 'name') return void rest.push(part);
    if (silent.has(part)) {
      if (k === parts.length - 1) rest.push(whole[part]);
      return;
    }
    // A record by id: the joint or motor that it is about.
    const named = typeof before === 'string' && names.get(part);
    rest.push(named || (fields[part] ?? plain(part)));
  });
  const head = things.join(', ');
  const tail = rest.join(', ');
  return head && tail ? `${head}: ${tail}` : head || tail || 'the document';
}

/** What is wrong, for people: the place in words, things by their names instead of their ids. */
export function faultSentence(doc: unknown, fault: Pick<Fault, 'code' | 'path' | 'message'>): string {
  const names = namesOf(doc);
  const begins = fault.path !== '' && fault.message.startsWith(fault.path);
  const words = begins ? placeWords(doc, fault.path, names) : '';
  const said = begins ? fault.message.slice(fault.path.length) : fault.message;
  // "Elbow, limits: the lower …": one colon is enough.
  const place = said.startsWith(':') ? words.replace(/: /g, ', ') : words;
  // A code name is written as it is, whatever it looks like.
  const named = (quoted: string, id: string): string =>
    fault.code !== 'code-twice' && names.has(id) ? `“${names.get(id)}”` : quoted;
  const sentence = place + said.replace(/“([^”]+)”/g, named);
  return sentence.charAt(0).toUpperCase() + sentence.slice(1);
}

/** Where two documents differ, each place once in words, at most so many, and how many more there are. */
export function differences(a: unknown, b: unknown, most = 8): { readonly places: string[]; readonly more: number } {
  const found: { doc: unknown; path: (string | number)[] }[] = [];
  const key = (item: unknown): unknown => (isRecord(item) ? (item.id ?? item.joint ?? item.drive) : undefined);
  const walk = (x: unknown, y: unknown, path: (string | number)[]): void => {
    if (Object.is(x, y)) return;
    if (Array.isArray(x) && Array.isArray(y)) {
      const isKeyed = [...x, ...y].length > 0 && [...x, ...y].every((item) => key(item) !== undefined);
      if (!isKeyed) {
        if (x.length !== y.length) return void found.push({ doc: a, path });
        return x.forEach((item, k) => walk(item, y[k], [...path, k]));
      }
      x.forEach((item, k) => {
        const other = y.find((o) => key(o) === key(item)) as unknown;
        if (other === undefined) found.push({ doc: a, path: [...path, k] });
        else walk(item, other, [...path, k]);
      });
      y.forEach((item, k) => {
        if (!x.some((o) => key(o) === key(item))) found.push({ doc: b, path: [...path, k] });
      });
      // The same things in another order.
      const kept = y.filter((o) => x.some((i) => key(i) === key(o))).map(key);
      const order = x.filter((i) => y.some((o) => key(o) === key(i))).map(key);
      if (order.some((id, k) => id !== kept[k])) found.push({ doc: a, path });
      return;
    }
    if (isRecord(x) && isRecord(y)) {
      for (const name of new Set([...Object.keys(x), ...Object.keys(y)])) walk(x[name], y[name], [...path, name]);
      return;
    }
    found.push({ doc: a, path });
  };
  walk(a, b, []);
  const places = [...new Set(found.map(({ doc, path }) => placeWords(doc, path)))];
  return { places: places.slice(0, most), more: Math.max(0, places.length - most) };
}
