/** `npm test`: everything that CI checks, with the time of each stage; the last line counts all suites together. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { build, install, root, run } from './lib.mjs';
import { spawn, spawnSync } from 'node:child_process';

const bin = (name) => join(root, 'node_modules/.bin', name);
let passed = 0;
let failed = 0;
const times = [];

/** Runs a stage; a check without tests of its own counts as one. */
async function stage(name, work) {
  const begun = Date.now();
  console.log(`\n── ${name}`);
  const result = await work();
  const [ok, bad] = typeof result === 'number' ? (result === 0 ? [1, 0] : [0, 1]) : result;
  passed += ok;
  failed += bad;
  times.push([name, (Date.now() - begun) / 1000, bad]);
}

function chromium() {
  if (process.env.CHROMIUM || existsSync('/usr/bin/chromium')) return 0;
  const apt = spawnSync('apt-get', ['--version']).status === 0 && process.getuid?.() === 0;
  if (
    apt &&
    run('apt-get', ['update', '-qq']) === 0 &&
    run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium']) === 0
  )
    return 0;
  console.error(
    'The browser tests need Chromium. Install it with:  sudo apt-get install chromium   (or set CHROMIUM to its path)',
  );
  return 1;
}
/** Runs a command while others run; its exit code. */
const beside = (command, args) =>
  new Promise((done) =>
    spawn(command, args, { cwd: root, stdio: 'inherit' }).once('exit', (code) => done(code ?? 1)),
  );
function counted(file, read) {
  const path = join(root, '.cache', file);
  return existsSync(path) ? read(JSON.parse(readFileSync(path, 'utf8'))) : [0, 1];
}

await stage('install', () => install());
await stage('browser at hand', chromium);
await stage('lint', () => run(bin('eslint'), ['.', '--max-warnings', '0']));
await stage('boundaries', () =>
  run(bin('depcruise'), [
    'core/src',
    'server/src',
    'web/src',
    'demo',
    '--config',
    '.dependency-cruiser.cjs',
    '--output-type',
    'err',
  ]),
);
// Two lanes side by side: the pages, and everything else one after the other.
await stage('types', async () => {
  const rest = async () => {
    for (const project of [
      'core/tsconfig.json',
      'core/tsconfig.test.json',
      'server/tsconfig.json',
      'e2e/tsconfig.json',
    ])
      if (await beside(bin('tsc'), ['-p', project])) return 1;
    return 0;
  };
  const codes = await Promise.all([beside(bin('vue-tsc'), ['-p', 'web/tsconfig.json', '--noEmit']), rest()]);
  return Math.max(...codes);
});
await stage('unit tests', () => {
  const code = run(bin('vitest'), ['run', '--reporter=dot', '--reporter=json', '--outputFile.json=.cache/unit.json']);
  const [ok, bad] = counted('unit.json', (r) => [r.numPassedTests, r.numFailedTests]);
  return [ok, Math.max(bad, code ? 1 : 0)];
});
let built = 0;
await stage('production build', async () => (built = await build()));
await stage('browser tests', () => {
  if (built) return [0, 1];
  const code = run(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts']);
  const [ok, bad] = counted('e2e.json', (r) => [r.stats.expected, r.stats.unexpected + r.stats.flaky]);
  return [ok, Math.max(bad, code ? 1 : 0)];
});

console.log('\nTime of each stage');
for (const [name, seconds, bad] of times)
  console.log(`  ${name.padEnd(18)} ${seconds.toFixed(1).padStart(6)} s${bad ? '   FAILED' : ''}`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);
