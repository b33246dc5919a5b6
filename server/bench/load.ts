/**
 * The built server under load, a JSON line a measure: four plans that are heavy are computed without end and eight pages watch, while a
 * routine runs on the simulated board in real time. Run by `npm run bench`; nothing here is asserted.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import WebSocket from 'ws';
import { tileDipper } from '@cork-elbow/demo';
import type { ClientMessageInput, ServerMessage, Status } from '@cork-elbow/core/contract';

const [main = ''] = process.argv.slice(2);
/** Seconds that the arm is watched, and how often each short call is timed. */
const SECONDS = 60;
const TRIES = 200;
const HALTS = 20;

const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-bench-'));
const child = spawn(process.execPath, [main, '--demo'], {
  stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  env: { ...process.env, PORT: '0', CORK_ELBOW_DATA: folder },
});
const url = await new Promise<string>((done) =>
  child.once('message', (m) => done((m as { address: string }).address)),
);

const say = (name: string, times: readonly number[]): void => {
  const sorted = [...times].sort((a, b) => a - b);
  const at = (share: number): number => Math.round(100 * sorted[Math.floor(share * (sorted.length - 1))]!) / 100;
  console.log(JSON.stringify({ name, ms: at(0.5), p99: at(0.99), max: at(1), n: times.length }));
};

interface Watcher {
  say(message: ClientMessageInput): void;
  until(test: (status: Status) => boolean): Promise<Status>;
}
async function watcher(): Promise<Watcher> {
  const socket = new WebSocket(`${url.replace('http', 'ws')}/api/live`);
  let status: Status | null = null;
  const waiting = new Set<() => void>();
  socket.on('message', (data) => {
    const message = JSON.parse(String(data)) as ServerMessage;
    if (message.type === 'ping') socket.send('{"type":"beat"}');
    if (message.type !== 'status') return;
    status = message.status;
    waiting.forEach((wake) => wake());
  });
  await new Promise((done) => socket.once('open', done));
  return {
    say: (message) => socket.send(JSON.stringify(message)),
    until: (test) =>
      new Promise((done) => {
        const wake = (): void => {
          if (!status || !test(status)) return;
          waiting.delete(wake);
          done(status);
        };
        waiting.add(wake);
        wake();
      }),
  };
}

// A routine that goes on for as long as it is watched, and plans that never come to an end in their time.
const rig = structuredClone(tileDipper());
const [routine] = rig.routines;
const away = {
  ...rig,
  routines: [
    {
      ...routine!,
      steps: Array.from({ length: 40 }, (_, k) => routine!.steps.map((s) => ({ ...s, id: `${s.id}-${k}` }))).flat(),
    },
  ],
};
const heavy = JSON.stringify({ rig: away, routineId: routine!.id, sampleMs: 1 });
let goesOn = true;
const load = Array.from({ length: 4 }, async () => {
  while (goesOn)
    await fetch(`${url}/api/compute/plan`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: heavy,
    }).then((r) => r.arrayBuffer());
});

const page = await watcher();
await Promise.all(Array.from({ length: 8 }, watcher));
page.say({ type: 'connect', rigId: 'tile-dipper', buildId: 'b1' });
await page.until((s) => s.link === 'connected');
page.say({ type: 'arm' });
await page.until((s) => s.armed && s.mode === 'normal');
const run = async (): Promise<void> => {
  page.say({ type: 'run', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: routine!.id });
  await page.until((s) => s.run === 'running');
};

const health: number[] = [];
const began = performance.now();
const late: { p99Ms: number; mostMs: number }[] = [];
await run();
while (performance.now() - began < SECONDS * 1000) {
  const ended = page.until((s) => ['finished', 'failed', 'stopped'].includes(s.run)).then((s) => s.late);
  const asked = (async () => {
    for (let k = 0; k < TRIES; k++) {
      const at = performance.now();
      await fetch(`${url}/api/health`).then((r) => r.text());
      health.push(performance.now() - at);
      await new Promise((done) => setTimeout(done, 20));
    }
  })();
  const figures = await ended;
  await asked;
  if (figures) late.push(figures);
  if (performance.now() - began < SECONDS * 1000) await run();
}
say('health.under-load', health);
console.log(
  JSON.stringify({
    name: 'stream.50hz-late',
    p99: Math.max(...late.map((l) => l.p99Ms)),
    max: Math.max(...late.map((l) => l.mostMs)),
    n: late.length,
  }),
);

const halts: number[] = [];
for (let k = 0; k < HALTS; k++) {
  await page.until((s) => !s.armed || s.run !== 'running');
  page.say({ type: 'arm' });
  await page.until((s) => s.armed && s.mode === 'normal');
  await run();
  const at = performance.now();
  page.say({ type: 'halt' });
  await page.until((s) => s.run === 'stopped');
  halts.push(performance.now() - at);
  await page.until((s) => !s.armed);
  page.say({ type: 'clear' });
  await page.until((s) => !s.latched);
}
say('halt.under-load', halts);
goesOn = false;
await Promise.all(load);
child.kill();
await new Promise((done) => child.once('exit', done));
rmSync(folder, { recursive: true, force: true });
process.exit(0);
