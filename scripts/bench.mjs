/** `npm run bench [-- core|server]`: one JSON line a measure. */
import { join } from 'node:path';
import { build, bundleServer, root, run } from './lib.mjs';
import { runBundled } from './bundled.mjs';

const [part] = process.argv.slice(2);
let code = 0;
if (part !== 'server') code ||= await runBundled('core/bench/bench.ts');
if (part !== 'core') {
  code ||= await build();
  const folder = join(root, '.cache/server-bench');
  await bundleServer(folder, { load: 'server/bench/load.ts' });
  code ||= run(process.execPath, [join(folder, 'load.js'), join(root, 'server/dist/main.js')]);
}
process.exit(code);
