/** Spots, payloads, poses and routines of another rig. */
import { z } from 'zod';
import { bringable, bringOver, parseRig, RIG_FORMAT, RIG_VERSION, type Bringable, type Rig } from '../rig';
import { say } from './findings';
import { counted, defineImport, unread } from './import';

const choices: Record<'all' | 'places' | 'routines', readonly Bringable[]> = {
  all: bringable,
  places: ['spot', 'pose'],
  routines: ['routine'],
};

function rigIn(text: string): Rig | readonly string[] {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return [say('rig-no-json')];
  }
  const parsed = parseRig(value);
  return parsed.ok ? parsed.value : parsed.faults.slice(0, 8).map((f) => f.message);
}

export const parts = defineImport({
  id: 'parts',
  name: 'From a rig',
  says: 'Spots, poses, payloads and routines from another rig’s file; what is here already is not doubled.',
  endings: ['.json'],
  example: JSON.stringify({
    ...{ format: RIG_FORMAT, version: RIG_VERSION, name: 'Shelf' },
    mechanism: { joints: [] },
    spots: [{ id: 'rim', name: 'Rim', xyzMm: [170, 60, 130] }],
  }),
  options: z.strictObject({
    what: z
      .enum(['all', 'places', 'routines'])
      .default('all')
      .meta({ title: 'Bring', titles: { all: 'all of them', places: 'spots and poses', routines: 'routines' } }),
  }),
  read: (text, rig, { what }) => {
    const other = rigIn(text);
    if (!('mechanism' in other)) return unread(other);
    const came = bringOver(JSON.parse(JSON.stringify(rig)) as Rig, other, choices[what]);
    const summary = bringable
      .flatMap((kind) => (came[kind] ? [counted(came[kind], kind)] : []))
      .join(', ')
      .replace(/, ([^,]*)$/, ' and $1');
    if (!summary) return unread([say('rig-nothing-new')]);
    return {
      ...{ problems: [], summary, label: `From “${other.name}”` },
      edit: (draft) => void bringOver(draft, other, choices[what]),
    };
  },
});
