/** What a builder's own lines cannot do: told before anybody asks for it, and refused, in the same words. */
import type { Rig } from '../rig';
import { contractFindings } from './findings';

export const linesCannot = (
  { boards }: Pick<Rig, 'boards'>,
  line: string,
  what: 'home joints' | 'switch outputs' | 'speak of one motor alone',
): { readonly code: 'lines-cannot'; readonly message: string } => ({
  code: 'lines-cannot',
  message: contractFindings.say('lines-cannot', {
    board: boards.find(({ id }) => id === line)?.name ?? line,
    what,
  }),
});
