/** The fuzzer over the built server, for as many bodies as there is time for; its memory stays flat. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { demoRigs } from '@cork-elbow/demo';
import { fuzz, type Target } from './fuzzer';
import { launch } from './served';

const [main = '', docs = '', bodies = '100000', seed = '1'] = process.argv.slice(2);
const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-fuzz-'));
const { child, url, end } = await launch(main, folder, { CORK_ELBOW_SECONDS: '1', CORK_ELBOW_WRITES: '1000000' });
/** Resident megabytes of the server. */
const memory = (): number =>
  Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))?.[1] ?? 0) / 1024);

const written = [...readFileSync(docs, 'utf8').matchAll(/```http\n(.+?)```/gs)].flatMap(([, block]): Target[] => {
  const [head = '', ...body] = block!.trim().split('\n');
  const [method = '', path = ''] = head.split(' ');
  return body.length ? [{ method, path, body: JSON.parse(body.join('\n')) as unknown }] : [];
});
const targets: Target[] = [
  ...written,
  ...demoRigs().flatMap(({ id, rig }) => [
    { method: 'PUT', path: `/api/rigs/${id}`, body: { revision: 1, rig } },
    { method: 'POST', path: '/api/compute/findings', body: { rig } },
    { method: 'POST', path: '/api/compute/forward', body: { mechanism: rig.mechanism } },
  ]),
];

const each = 5000;
const memories: number[] = [];
const statuses: Record<number, number> = {};
let slowestMs = 0;
const wrong: string[] = [];
for (let done = 0; done < Number(bodies) && !wrong.length; done += each) {
  const round = await fuzz(url, targets, Math.min(each, Number(bodies) - done), Number(seed) + done, 30_000);
  for (const [status, count] of Object.entries(round.statuses)) statuses[+status] = (statuses[+status] ?? 0) + count;
  slowestMs = Math.max(slowestMs, round.slowestMs);
  wrong.push(...round.wrong);
  memories.push(memory());
}
await end();
rmSync(folder, { recursive: true, force: true });
wrong.forEach((line) => console.error(line));
console.log(
  JSON.stringify({
    name: 'fuzz',
    bodies: Number(bodies),
    statuses,
    slowestMs: Math.round(slowestMs),
    memoryMb: memories,
  }),
);
process.exit(wrong.length ? 1 : 0);
