/** The arm's joints from a Denavit–Hartenberg table. */
import { z } from 'zod';
import { counted, defineImport, unread } from '../import';
import { say } from '../findings';
import { jointsFromTable, replaceJoints } from './joints';
import { parseDhText } from './read';

export { parseDhText, type DhText, type DhTextOptions } from './read';
export { jointsFromTable, replaceJoints } from './joints';

export const dh = defineImport({
  id: 'dh',
  name: 'DH table',
  says: 'Joints from rows of θ, d, a, α, with or without a head line; they take the place of all there are.',
  endings: ['.tsv', '.csv', '.txt'],
  example: 'joint\ttheta\td\ta\talpha\nTurn\t0\t90\t0\t90\nShoulder\t0\t0\t120\t0\nElbow\t0\t0\t110\t0',
  options: z.strictObject({
    convention: z
      .enum(['standard', 'modified'])
      .default('standard')
      .meta({ title: 'Convention', description: 'where the text does not say it' }),
    angle: z
      .enum(['deg', 'rad'])
      .default('deg')
      .meta({ title: 'Angles in', titles: { deg: 'degrees', rad: 'radians' } }),
    length: z.enum(['mm', 'cm', 'm', 'in']).default('mm').meta({ title: 'Lengths in' }),
  }),
  read: (text, rig, { convention, ...units }) => {
    if (rig.mechanism.family === 'rotary-delta') return unread([say('family-no-table')]);
    const said = parseDhText(text, units);
    const frames = said.base || said.tool ? ', with the frames before and after them' : '';
    const summary = `${counted(said.rows.length, 'joint')}${frames}${said.convention ? `, ${said.convention} convention` : ''}`;
    if (said.problems.length || !said.rows.length)
      return unread(said.problems.length ? said.problems : [say('table-empty', { needs: 'θ, d, a and α' })], summary);
    const { joints, tool } = jointsFromTable(said, convention);
    return {
      ...{ problems: [], summary, label: 'Joints from a table' },
      edit: (draft) => replaceJoints(draft, joints, { origin: tool }),
    };
  },
});
