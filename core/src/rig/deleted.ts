/** What an edit took out of a document, and what used it until then. */
import { namesOf, placeWords } from './place-words';
import { kinds, listOf, usesIn, type Kind } from './references';
import type { Rig } from './schema';

export interface Deleted {
  /** Things that other things may name, by their names. */
  readonly names: readonly string[];
  /** Who named them, in words, each once; at most so many, and how many there were beside them. */
  readonly usedBy: readonly string[];
  readonly more: number;
}

/** How many keys from the top say who it is that names something. */
const depthOf = ([first]: readonly (string | number)[]): number =>
  first === 'routines' ? 4 : first === 'mechanism' ? 3 : first === 'builds' ? 4 : first === 'homing' ? 3 : 2;

/** Between two states of a document. What went together is not counted as a user of each other. */
export function deletedBetween(before: Rig, after: Rig, most = 3): Deleted {
  const gone = new Map<Kind, Set<string>>();
  for (const kind of kinds) {
    const stays = new Set(listOf(after, kind).map(({ id }) => id));
    const own = listOf(before, kind).flatMap(({ id }) => (stays.has(id) ? [] : [id]));
    if (own.length) gone.set(kind, new Set(own));
  }
  const words = namesOf(before);
  const names: string[] = [];
  const users = new Set<string>();
  for (const [kind, ids] of gone) {
    for (const item of listOf(before, kind) as { id: string; name?: string }[])
      if (ids.has(item.id)) names.push(item.name ?? item.id);
    for (const { id, path } of usesIn(before, kind)) {
      if (!ids.has(id)) continue;
      const isGoneToo = [...gone].some(([other, others]) => {
        const list = listOf(before, other);
        const [first, second, third] = path;
        const at =
          first === 'mechanism' ? (second === `${other}s` ? third : null) : first === `${other}s` ? second : null;
        return typeof at === 'number' && others.has(list[at]?.id);
      });
      if (!isGoneToo) users.add(placeWords(before, path.slice(0, depthOf(path)), words));
    }
  }
  const all = [...users];
  return { names, usedBy: all.slice(0, most), more: Math.max(0, all.length - most) };
}
