/** `npm run bench`: one JSON line a measure. Bundled first, as the product is: loaders that keep names slow inner functions. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { install, root, run } from './lib.mjs';

if (install() !== 0) process.exit(1);
const { build } = await import('esbuild');
const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-bench-'));
const outfile = join(folder, 'bench.mjs');
await build({
  entryPoints: [`${root}core/bench/bench.ts`],
  bundle: true,
  platform: 'node',
  format: 'esm',
  outfile,
  logLevel: 'error',
});
const code = run(process.execPath, [outfile]);
rmSync(folder, { recursive: true });
process.exit(code);
