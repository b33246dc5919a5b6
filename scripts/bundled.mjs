/** Runs a TypeScript file of the core bundled, as the product is: loaders that keep names slow inner functions. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { install, root, run } from './lib.mjs';

export async function runBundled(file, args = []) {
  if (install() !== 0) return 1;
  const { build } = await import('esbuild');
  const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-'));
  const outfile = join(folder, 'main.mjs');
  await build({
    entryPoints: [`${root}${file}`],
    bundle: true,
    platform: 'node',
    format: 'esm',
    outfile,
    logLevel: 'error',
  });
  const code = run(process.execPath, [outfile, ...args]);
  rmSync(folder, { recursive: true });
  return code;
}
