/** The way from the base to a tool as a Denavit–Hartenberg table. */
import { z } from 'zod';
import { framesInto, kinematicsSpace, toolInto } from '../../kinematics';
import { dhTable, type DhConvention, type DhTable, type Mechanism } from '../../mechanism';
import { fileName } from '../../rig';
import { defineExport } from '../export';
import { finding } from '../findings';
import { dhToText } from './text';

export { dhHead, dhToText } from './text';

/** The table at all joints' 0; null where none describes the way to that tool. */
export function dhOf(mechanism: Mechanism, toolId: string | undefined, convention: DhConvention): DhTable | null {
  const tool = toolOf(mechanism, toolId);
  if (!tool) return null;
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, new Float64Array(mechanism.m));
  const frame = new Float64Array(12);
  toolInto(frame, 0, mechanism, space, tool);
  return dhTable(mechanism, tool, space.frames, frame, convention);
}
const toolOf = ({ tools }: Mechanism, id: string | undefined): Mechanism['tools'][number] | undefined =>
  tools.find((tool) => tool.id === id) ?? tools[0];

export const dh = defineExport({
  id: 'dh',
  name: 'DH table',
  says: 'The joints on the way to a tool by Denavit and Hartenberg’s four numbers, for other programs.',
  takes: [],
  options: z.strictObject({
    convention: z
      .enum(['standard', 'modified'])
      .default('standard')
      .meta({ title: 'Convention', titles: { standard: 'standard', modified: 'modified' } }),
    tool: z.string().optional().meta({ title: 'The way to', description: 'id of the tool', of: 'tools' }),
  }),
  lacks: ({ mechanism }, { tool, convention }) => {
    const found = toolOf(mechanism, tool);
    if (!found) return [finding('export-no-tool', { station: 'measure', part: 'tools' })];
    return dhOf(mechanism, tool, convention)
      ? []
      : [finding('export-no-dh', { station: 'measure', part: 'table' }, { tool: found.name })];
  },
  write: ({ mechanism, rigId }, { tool, convention }) => {
    const table = dhOf(mechanism, tool, convention);
    if (!table) return [];
    const name = fileName(rigId, `dh-${convention}`, 'tsv');
    return [{ name, mediaType: 'text/tab-separated-values', text: dhToText(table) }];
  },
});
