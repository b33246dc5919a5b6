/** A routine from plain sentences, one a step. */
import { z } from 'zod';
import { freeId } from '../rig';
import { parseRoutine } from '../routine';
import { say } from './findings';
import { counted, defineImport, unread } from './import';

export const sentences = defineImport({
  id: 'sentences',
  name: 'Sentences',
  says: 'A routine of its own from plain sentences, one a line, as Hand-off writes them.',
  endings: ['.txt'],
  example: 'Joint move to pose "Rest", at 50 %\nWait 1 s',
  options: z.strictObject({}),
  read: (text, rig) => {
    if (!text.trim()) return unread([say('sentences-none')]);
    const read = parseRoutine(rig, text.replace(/\s+$/, ''));
    if (!read.ok) return unread(read.faults.map((f) => f.message));
    const { steps } = read;
    if (!steps.length) return unread([say('sentences-none')]);
    return {
      problems: [],
      summary: counted(steps.length, 'step'),
      label: 'A routine from sentences',
      edit: ({ routines }) => {
        const id = freeId(
          'routine',
          routines.map((routine) => routine.id),
        );
        const name = `Routine ${routines.length + 1}`;
        routines.push({ id, name, note: '', role: null, profile: 's-curve', steps: [...steps] });
      },
    };
  },
});
