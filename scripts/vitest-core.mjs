/**
 * Tests compute with the core as browsers and the server have it: bundled once, modules of the language that call each
 * other directly. Through the runner's own modules every call across files goes by a getter, a quarter of all time.
 * Tests and their kits stay as they are; so does everything while files are watched, and in a mutation run, which asks
 * which tests belong to a file.
 */
import { existsSync, readdirSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import { bundleForNode, root } from './lib.mjs';

const sources = join(root, 'core/src');
const bundled = join(root, '.cache/core');
const own = '@cork-elbow/core/';
const isBundled = (file) => file.endsWith('.ts') && !/\.(test|testkit)\.ts$/.test(file);

/** Each file of the core under its own path: a test may ask for any of them. */
function bundle() {
  const files = readdirSync(sources, { recursive: true }).filter(isBundled);
  const entries = Object.fromEntries(files.map((file) => [file.replace(/\.ts$/, ''), join('core/src', file)]));
  return bundleForNode(bundled, entries, { splitting: true });
}

/** The file of the core that an import names; null: it names something else. */
function fileOf(id, importer) {
  if (id.startsWith(own)) return join(sources, id.slice(own.length), 'index.ts');
  if (!id.startsWith('.') || !importer) return null;
  const path = resolve(dirname(importer.split('?')[0]), id);
  return path.startsWith(sources) ? [`${path}.ts`, join(path, 'index.ts')].find((file) => existsSync(file)) : null;
}

/** What the runner leaves to the language. */
export const bundledCore = /\.cache\/core\//;
export function coreBundled() {
  /** All projects of a run share it. */
  let once;
  let isOn = process.env.TEST_CORE !== 'sources';
  return {
    name: 'core-bundled',
    enforce: 'pre',
    configureVitest: ({ vitest }) => {
      if (vitest.config.watch) isOn = false;
    },
    async resolveId(id, importer) {
      const file = isOn && fileOf(id, importer);
      if (!file || !isBundled(file)) return null;
      await (once ??= bundle());
      return join(bundled, relative(sources, file).replace(/\.ts$/, '.js'));
    },
  };
}
