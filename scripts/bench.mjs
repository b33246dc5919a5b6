/** `npm run bench [-- core|server|page]`: one JSON line a measure. */
import { join } from 'node:path';
import { build, bundleForNode, root, run } from './lib.mjs';
import { runBundled } from './bundled.mjs';

const [part] = process.argv.slice(2);
let code = 0;
const wanted = (name) => !part || part === name;
if (wanted('core')) code ||= await runBundled('core/bench/bench.ts');
if (wanted('server') || wanted('page')) code ||= await build();
if (wanted('server')) {
  const folder = join(root, '.cache/server-bench');
  await bundleForNode(folder, { load: 'server/bench/load.ts' });
  code ||= run(process.execPath, [join(folder, 'load.js'), join(root, 'server/dist/main.js')]);
}
if (wanted('page')) code ||= run(process.execPath, ['--import', 'tsx', join(root, 'e2e/page-bench.ts')]);
process.exit(code);
