/** Before the server's tests: it is bundled once with its threads and processes, as the build has them, and so is the board. */
import { join } from 'node:path';
import { bundleForNode, root, serverEntries } from './lib.mjs';

export default () =>
  bundleForNode(join(root, '.cache/server-threads'), { ...serverEntries, board: 'server/src/board.ts' });
