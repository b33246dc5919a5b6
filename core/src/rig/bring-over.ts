/** What of one rig is put into another: both go on meaning what they meant, by the table of what names what. */
import { idMaker } from './defaults';
import { differences } from './place-words';
import { forget, listOf, rename, type Kind } from './references';
import type { Rig } from './schema';

/** What can be brought over, in the order in which they name each other. */
export const bringable = ['spot', 'payload', 'pose', 'routine'] as const;
export type Bringable = (typeof bringable)[number];
const others: readonly Kind[] = ['joint', 'tool', 'signal', 'sensor', 'drive', 'board', 'rail'];

/**
 * Puts things of another rig into this one and gives how many of each came. What is there already, the same to the letter, is not
 * doubled; an id that is taken by something else becomes another one, wherever it is named. Joints that this rig does not have are left
 * out of poses and targets; what else a routine names and is not here stays named, so that a finding says it.
 */
export function bringOver(
  draft: Rig,
  from: Rig,
  kinds: readonly Bringable[] = bringable,
): Readonly<Record<Bringable, number>> {
  const copy = JSON.parse(JSON.stringify(from)) as Rig;
  const has = (kind: Kind, id: string): boolean => listOf(draft, kind).some((item) => item.id === id);
  for (const kind of others) for (const { id } of listOf(copy, kind)) if (!has(kind, id)) forget(copy, kind, id);
  const came = { spot: 0, payload: 0, pose: 0, routine: 0 };
  for (const kind of bringable.filter((one) => kinds.includes(one))) {
    const [here, there] = [listOf(draft, kind), listOf(copy, kind)];
    const freshId = idMaker([...here, ...there].map(({ id }) => id));
    for (const item of [...there]) {
      const same = here.find(({ id }) => id === item.id);
      if (same && !differences(same, item, 1).places.length) continue;
      if (same) rename(copy, kind, item.id, freshId(item.id));
      came[kind]++;
    }
    for (const item of there) if (!has(kind, item.id)) here.push(item);
  }
  // One routine parks and one unparks: those that were here.
  for (const role of ['park', 'unpark'] as const)
    for (const [k, routine] of draft.routines.filter((one) => one.role === role).entries())
      if (k) routine.role = null;
  return came;
}
