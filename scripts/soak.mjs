/**
 * `npm run soak [-- what …]`: what `npm test` asks, many times over, a JSON line each.
 *   reach [targets [seed [family]]]   inverse kinematics over families of arms
 *   kill [times [seed]]               the server killed during saves
 *   full [times]                      the server on a disk that is full (as root)
 *   line [lines [seed]]               damaged lines between computer and board
 *   fuzz [bodies [seed]]              bodies that nobody would send
 * Without a word: all of them.
 */
import { join } from 'node:path';
import { build, bundleForNode, install, root, run } from './lib.mjs';
import { runBundled } from './bundled.mjs';

const [what = 'all', ...rest] = process.argv.slice(2);
const main = join(root, 'server/dist/main.js');
async function server(name, args) {
  if (install() !== 0 || (await build()) !== 0) return 1;
  const folder = join(root, '.cache/server-soak');
  await bundleForNode(folder, { [name]: `server/soak/${name}.ts` });
  return run(process.execPath, [join(folder, `${name}.js`), main, ...args, ...rest]);
}
const works = {
  reach: () => runBundled('core/soak/reach.ts', rest),
  line: () => runBundled('core/soak/line.ts', rest),
  kill: () => server('kill', []),
  full: () => server('full', []),
  fuzz: () => server('fuzz', [join(root, 'docs/http.md')]),
};
if (what !== 'all' && !(what in works)) {
  console.error(`“${what}” is not among ${Object.keys(works).join(', ')}.`);
  process.exit(1);
}
let code = 0;
for (const [name, work] of Object.entries(works)) if (what === 'all' || what === name) code ||= await work();
process.exit(code);
