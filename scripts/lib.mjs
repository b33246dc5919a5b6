/** Shared by the entry points: install when needed, build when needed. Bare Node, nothing installed yet. */
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

export const root = new URL('..', import.meta.url).pathname;
const npm = process.platform === 'win32' ? 'npm.cmd' : 'npm';

/** Runs a command to its end with its output shown; returns its exit code. */
export function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (error) console.error(`${command} could not be started: ${error.message}`);
  return status ?? 1;
}

const stampFile = (name) => join(root, '.cache', name);
const readStamp = (name) => (existsSync(stampFile(name)) ? readFileSync(stampFile(name), 'utf8') : '');
function writeStamp(name, value) {
  mkdirSync(join(root, '.cache'), { recursive: true });
  writeFileSync(stampFile(name), value);
}
const hash = (text) => createHash('sha256').update(text).digest('hex');

/** Installs the locked packages unless they are there already. */
export function install() {
  const wanted = hash(readFileSync(join(root, 'package-lock.json')));
  if (existsSync(join(root, 'node_modules')) && readStamp('installed') === wanted) return 0;
  console.log('Installing packages …');
  const code = run(npm, ['ci', '--no-audit', '--no-fund']);
  if (code === 0) writeStamp('installed', wanted);
  return code;
}

function* files(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist'].includes(entry.name)) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* files(path);
    else if (!/\.test\.ts$/.test(entry.name)) yield path;
  }
}

/**
 * Entry points by name, each with all of our own packages in it; everything from the registry stays outside. `splitting`: what several
 * of them have in them is a file of its own, read once.
 */
export async function bundleForNode(outdir, entries, { splitting = false } = {}) {
  const { build: bundle } = await import('esbuild');
  await bundle({
    entryPoints: Object.fromEntries(Object.entries(entries).map(([name, file]) => [name, join(root, file)])),
    outdir,
    bundle: true,
    splitting,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    sourcemap: true,
    logLevel: 'warning',
    plugins: [
      {
        name: 'outside',
        setup: (b) =>
          b.onResolve({ filter: /^[^./]/ }, (args) =>
            args.kind === 'entry-point' || args.path.startsWith('@cork-elbow/')
              ? null
              : { path: args.path, external: true },
          ),
      },
    ],
  });
}

/** The server's own: where it begins, its threads, and the process of a serial port. */
export const serverEntries = {
  main: 'server/src/main.ts',
  worker: 'server/src/run/worker.ts',
  compute: 'server/src/compute/worker.ts',
  serial: 'server/src/links/serial-port.ts',
};

/** Builds pages and server unless nothing changed since the last build. */
export async function build() {
  const sources = ['core/src', 'demo', 'server/src', 'web/src', 'web/public'].flatMap((folder) => [
    ...files(join(root, folder)),
  ]);
  sources.push(
    join(root, 'core/package.json'),
    join(root, 'web/index.html'),
    join(root, 'web/vite.config.ts'),
    join(root, 'package-lock.json'),
  );
  const wanted = hash(sources.map((path) => `${path}:${statSync(path).size}:${hash(readFileSync(path))}`).join('\n'));
  if (
    existsSync(join(root, 'web/dist/index.html')) &&
    existsSync(join(root, 'server/dist/main.js')) &&
    readStamp('built') === wanted
  )
    return 0;
  console.log('Building …');
  const code = run(process.execPath, [
    join(root, 'node_modules/vite/bin/vite.js'),
    'build',
    'web',
    '--config',
    'web/vite.config.ts',
    '--logLevel',
    'warn',
  ]);
  if (code !== 0) return code;
  await bundleForNode(join(root, 'server/dist'), serverEntries);
  writeStamp('built', wanted);
  return 0;
}

/** Starts a long-running child that ends with this process. */
export function child(command, args, options = {}) {
  const started = spawn(command, args, { cwd: root, stdio: 'inherit', ...options });
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => started.kill(signal));
  started.on('exit', (code) => process.exit(code ?? 0));
  return started;
}
