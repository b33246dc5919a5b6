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

/** Runs a command while others run; its exit code. */
const beside = (command, args) =>
  new Promise((done) =>
    spawn(command, args, { cwd: root, stdio: 'inherit' }).once('exit', (code) => done(code ?? 1)),
  );

async function chromium() {
  if (process.env.CHROMIUM || existsSync('/usr/bin/chromium')) return 0;
  const apt = spawnSync('apt-get', ['--version']).status === 0 && process.getuid?.() === 0;
  if (
    apt &&
    (await beside('apt-get', ['update', '-qq'])) === 0 &&
    (await beside('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium'])) === 0
  )
    return 0;
  console.error(
    'The browser tests need Chromium. Install it with:  sudo apt-get install chromium   (or set CHROMIUM to its path)',
  );
  return 1;
}
/** What firmware is proved with: a compiler, and Python for its script. */
async function compiler() {
  const missing = [process.env.CXX ?? 'g++', 'python3'].filter((name) => spawnSync(name, ['--version']).status !== 0);
  if (!missing.length) return 0;
  if (
    process.getuid?.() === 0 &&
    (await beside('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing])) === 0
  )
    return 0;
  console.error(`The tests of firmware need these. Install them with:  sudo apt-get install ${missing.join(' ')}`);
  return 1;
}
function counted(file, read) {
  const path = join(root, '.cache', file);
  return existsSync(path) ? read(JSON.parse(readFileSync(path, 'utf8'))) : [0, 1];
}

await stage('install', () => install());
// Two lanes side by side, about as long: the types of the pages, and the rest one after the other.
// A browser that is not there yet is fetched meanwhile.
await stage('lint, boundaries, types', async () => {
  // One after the other: both may have to be fetched.
  const tools = chromium().then(async (code) => code || compiler());
  const boundaries = ['core/src', 'server/src', 'web/src', 'demo', '--config', '.dependency-cruiser.cjs'];
  // Plain projects by the compiler that is a program of its own; vue-tsc needs the one that is written in JavaScript.
  const types = (project) => ['../typescript-native/bin/tsc', '-p', project];
  const lanes = [
    [['vue-tsc', '-p', 'web/tsconfig.json', '--noEmit']],
    [
      ['oxlint', '--max-warnings', '0', '--disable-nested-config'],
      types('core/tsconfig.json'),
      types('server/tsconfig.json'),
      types('e2e/tsconfig.json'),
      ['eslint', '.', '--max-warnings', '0'],
      ['depcruise', ...boundaries, '--output-type', 'err'],
    ],
  ];
  // What fails holds nothing back: all that is wrong is told at once.
  const walk = async (lane) => {
    const codes = [];
    for (const [name, ...args] of lane) codes.push(await beside(bin(name), args));
    return codes;
  };
  const codes = (await Promise.all([...lanes.map(walk), tools.then((code) => [code])])).flat();
  return [codes.filter((code) => code === 0).length, codes.filter((code) => code !== 0).length];
});
await stage('unit tests', () => {
  const code = run(bin('vitest'), ['run', '--reporter=dot', '--reporter=json', '--outputFile.json=.cache/unit.json']);
  const [ok, bad] = counted('unit.json', (r) => [r.numPassedTests, r.numFailedTests]);
  return [ok, Math.max(bad, code ? 1 : 0)];
});
/** Titles of browser tests that passed only when they were run again. */
const again = [];
const unsteady = (suites) =>
  suites.flatMap(({ specs = [], suites: inner = [] }) => [
    ...specs.filter(({ tests }) => tests.some(({ status }) => status === 'flaky')).map(({ title }) => title),
    ...unsteady(inner),
  ]);
let built = 0;
await stage('production build', async () => (built = await build()));
await stage('browser tests', () => {
  if (built) return [0, 1];
  const code = run(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts']);
  const [ok, bad] = counted('e2e.json', (r) => {
    again.push(...unsteady(r.suites));
    return [r.stats.expected + r.stats.flaky, r.stats.unexpected];
  });
  return [ok, Math.max(bad, code ? 1 : 0)];
});

console.log('\nTime of each stage');
for (const [name, seconds, bad] of times)
  console.log(`  ${name.padEnd(18)} ${seconds.toFixed(1).padStart(6)} s${bad ? '   FAILED' : ''}`);
for (const title of again) console.log(`Passed only when it was run again, to be mended: ${title}`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);
