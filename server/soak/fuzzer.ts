/**
 * Bodies that nobody would send: calls as they are written in the docs, changed where and how their schemas would least like it. What comes
 * back is held to a few sentences that are always true.
 */
import type { z } from 'zod';
import { seededRandom } from '@cork-elbow/core/linear';

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };
type Place = { readonly holder: Json[] | { [key: string]: Json }; readonly key: number | string };

function places(value: Json, found: Place[] = []): Place[] {
  if (typeof value !== 'object' || value === null) return found;
  const entries: [number | string, Json][] = Array.isArray(value) ? [...value.entries()] : Object.entries(value);
  for (const [key, own] of entries) {
    found.push({ holder: value, key });
    places(own, found);
  }
  return found;
}

const numbers = [0, -0, 1, -1, 0.1, 1e-300, 5e-324, 1e9, -1e9, 1e16, -1e16, 1e308, -1e308, 2 ** 31, 2 ** 53, -32769];
const texts = [
  '',
  ' ',
  '__proto__',
  'constructor',
  'toString',
  '\u0000',
  '\ud800',
  '=1+1',
  '../../etc',
  '💥'.repeat(40),
];
const deep = (levels: number): Json => (levels ? [deep(levels - 1)] : 0);

/** One more change of a body at one of its places; what an earlier change took out of it may be changed as well. */
function change(all: readonly Place[], roll: () => number): void {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(roll() * list.length)]!;
  if (!all.length) return;
  const { holder, key } = pick(all);
  const at = holder as Record<number | string, Json>;
  const value = at[key]!;
  const ways: (() => void)[] = [
    () => void (at[key] = pick(numbers)),
    () => void (at[key] = pick(texts)),
    () => void (at[key] = pick<Json>([null, true, [], {}, [null], { a: 1 }])),
    () => void (at[key] = structuredClone(pick(all.map((p) => (p.holder as Record<string, Json>)[p.key]!)))),
    () => (Array.isArray(holder) ? void holder.splice(Number(key), 1) : void delete at[key]),
    () => void (at[pick(['id', 'name', 'kind', 'extra', 'version', '__proto__x'])] = pick([1, 'x', null])),
    () => void (Array.isArray(value) && value.length && value.push(...(value.slice(0, 60) as Json[]))),
    () => void (Array.isArray(value) && (at[key] = Array.from({ length: 3000 }, () => value[0] ?? 0))),
    () => void (typeof value === 'number' && (at[key] = value * pick([-1, 1e3, 1e-3, 1e12]))),
    () => void (typeof value === 'string' && (at[key] = value.repeat(pick([2, 50, 3000])))),
    () => void (at[key] = deep(pick([5, 200, 2000]))),
  ];
  pick(ways)();
}

export interface Target {
  readonly method: string;
  readonly path: string;
  readonly body: unknown;
  /** Of its answer. */
  readonly schema?: z.ZodType | undefined;
}
export interface Fuzzed {
  readonly statuses: Readonly<Record<number, number>>;
  readonly slowestMs: number;
  /** What should never be, with what was asked. */
  readonly wrong: readonly string[];
}

/** How many bodies are on their way at once. */
const LANES = 3;
/** Characters of a body. */
const LONGEST = 2e7;

/** `patienceMs`: an answer takes no longer. */
export async function fuzz(
  url: string,
  targets: readonly Target[],
  count: number,
  seed: number,
  patienceMs: number,
): Promise<Fuzzed> {
  const roll = seededRandom(seed);
  const asked = targets.map((target) => ({ ...target, text: JSON.stringify(target.body) }));
  const statuses: Record<number, number> = {};
  const wrong: string[] = [];
  let slowestMs = 0;
  let next = 0;

  /** The body of the next case, which hangs on the seed alone; null where it is deeper than can be written here either. */
  function bodyOf(text: string): string | null {
    const changed = JSON.parse(text) as Json;
    const all = places(changed);
    for (let n = 1 + Math.floor(roll() * 3); n > 0; n--) change(all, roll);
    let written: string;
    try {
      written = JSON.stringify(changed);
    } catch {
      return null;
    }
    return roll() < 0.03 ? written.slice(0, Math.floor(roll() * written.length)) : written;
  }
  async function lane(): Promise<void> {
    while (next < count && wrong.length < 10) {
      const k = next++;
      const { method, path, schema, text: whole } = asked[Math.floor(roll() * asked.length)]!;
      const text = bodyOf(whole);
      // Far beyond what any call takes: that is asked elsewhere, once.
      if (text === null || text.length > LONGEST) continue;
      const began = performance.now();
      const request = { method, headers: { 'content-type': 'application/json' }, body: text };
      let response: Response;
      let answer: string;
      try {
        response = await fetch(url + path, { ...request, signal: AbortSignal.timeout(2 * patienceMs) });
        answer = await response.text();
      } catch (error) {
        const { message, cause } = error as Error;
        wrong.push(
          `${message} (${String(cause)}): ${method} ${path} (case ${k}, ${text.length} characters) ${text.slice(0, 400)}`,
        );
        continue;
      }
      const ms = performance.now() - began;
      slowestMs = Math.max(slowestMs, ms);
      statuses[response.status] = (statuses[response.status] ?? 0) + 1;
      const say = (what: string): void =>
        void wrong.push(`${what}: ${method} ${path} (case ${k}) ${text.slice(0, 400)} → ${answer.slice(0, 300)}`);
      if (response.status >= 500) say(`status ${response.status}`);
      if (ms > patienceMs) say(`${Math.round(ms)} ms`);
      let read: unknown;
      try {
        read = answer ? JSON.parse(answer) : null;
      } catch {
        say('no JSON');
        continue;
      }
      if (response.status >= 400) {
        const { message } = (read ?? {}) as { message?: unknown };
        if (typeof message !== 'string' || !/[.!?]$/.test(message) || /\n| at .*:\d+:\d+/.test(message))
          say('no sentence');
      } else if (schema && read !== null) {
        const { error } = schema.safeParse(read);
        if (error) say(`not as described (${error.issues[0]!.path.join('.')}: ${error.issues[0]!.message})`);
      }
    }
  }
  await Promise.all(Array.from({ length: LANES }, lane));
  return { statuses, slowestMs, wrong };
}
