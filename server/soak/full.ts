/**
 * The built server on a disk that is really full, again and again: a save that does not fit is said so, everything before it is
 * there, also after the server was killed, and with room again it goes on. Needs the right to mount a small disk in memory.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { launch } from './served';

const [main = '', times = '20'] = process.argv.slice(2);
const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-full-'));
if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=32m', 'tmpfs', folder]).status !== 0) {
  rmSync(folder, { recursive: true });
  console.log(JSON.stringify({ name: 'full', done: false, why: 'a small disk can be mounted by root alone' }));
  process.exit(0);
}

interface Rig {
  revision: number;
  rig: { name: string };
}
const wrong: string[] = [];
let acknowledged = 0;
let refused = 0;
const data = join(folder, 'data');
const filler = join(folder, 'filler');
const id = 'tile-dipper';
const rigNow = async (url: string): Promise<Rig> => (await (await fetch(`${url}/api/rigs/${id}`)).json()) as Rig;
let known: Rig | null = null;

try {
  for (let k = 0; k < Number(times) && !wrong.length; k++) {
    const { url, end } = await launch(main, data);
    /** Saves under another name; the status, and what is known to be there from then on. */
    const save = async (name: string): Promise<number> => {
      const { revision, rig } = known!;
      const response = await fetch(`${url}/api/rigs/${id}`, {
        method: 'PUT',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ revision, rig: { ...rig, name } }),
      });
      const { message } = (await response.json()) as { message?: string };
      if (response.status === 200) {
        acknowledged++;
        known = { revision: revision + 1, rig: { ...rig, name } };
      } else if (response.status !== 507 || !/full.*[.]$/.test(message ?? ''))
        wrong.push(`round ${k}: ${response.status} ${message}`);
      return response.status;
    };
    const there = await rigNow(url);
    if (known && (there.revision !== known.revision || there.rig.name !== known.rig.name))
      wrong.push(
        `round ${k}: revision ${there.revision} “${there.rig.name}” after ${known.revision} “${known.rig.name}”`,
      );
    known = there;
    if ((await save(`round ${k}, with room`)) !== 200) wrong.push(`round ${k}: not saved with room on the disk`);
    // All that is free but for a little, another little each round.
    const { bavail, bsize } = statfsSync(folder);
    writeFileSync(filler, Buffer.alloc(Math.max(0, bavail - 40 * (k % 5)) * bsize));
    let status = 200;
    for (let n = 0; n < 500 && status === 200; n++) status = await save(`round ${k}, ${n}`);
    if (status === 200) wrong.push(`round ${k}: 500 saves on a full disk`);
    else refused++;
    const kept = await rigNow(url);
    if (kept.revision !== known.revision) wrong.push(`round ${k}: revision ${kept.revision} after ${known.revision}`);
    if (k % 2) {
      // Killed while it is full; the next one starts with room again.
      await end('SIGKILL');
      rmSync(filler);
    } else {
      rmSync(filler);
      if ((await save(`round ${k}, with room again`)) !== 200) wrong.push(`round ${k}: not saved with room again`);
      await end();
    }
  }
} finally {
  spawnSync('umount', ['-l', folder]);
  rmSync(folder, { recursive: true, force: true });
}
wrong.forEach((line) => console.error(line));
console.log(JSON.stringify({ name: 'full', times: Number(times), acknowledged, refused, wrong: wrong.length }));
process.exit(wrong.length ? 1 : 0);
