/** `npm run board -- --rig tile-dipper --port 7010 …`: simulated boards of a rig as a process of their own, behind TCP ports. */
import { join } from 'node:path';
import { bundleForNode, child, install, root } from './lib.mjs';

if (install() !== 0) process.exit(1);
const folder = join(root, '.cache/server-board');
await bundleForNode(folder, { board: 'server/src/board.ts' });
child(process.execPath, ['--enable-source-maps', join(folder, 'board.js'), ...process.argv.slice(2)]);
