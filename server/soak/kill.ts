/** Kills the built server without warning while rigs are saved, again and again: what was acknowledged is there, whole. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '@cork-elbow/core/linear';
import { launch } from './served';

const [main = '', kills = '100', seed = '1'] = process.argv.slice(2);
const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-kill-'));
const roll = seededRandom(Number(seed));

interface Rig {
  revision: number;
  rig: { name: string };
}

let acknowledged = 0;
let lost = 0;
const ids = ['tile-dipper', 'kiln-shelf-loader', 'twin-carriers'];
const known = new Map<string, Rig>();
for (let k = 0; k <= Number(kills); k++) {
  const { child, url, end } = await launch(main, folder);
  for (const id of ids) {
    const response = await fetch(`${url}/api/rigs/${id}`);
    const now = (await response.json()) as Rig;
    const before = known.get(id);
    // The save that was cut off may or may not have come through; nothing before it is missing.
    const isThere =
      !before ||
      (now.revision === before.revision && now.rig.name === before.rig.name) ||
      now.revision === before.revision + 1;
    if (response.status !== 200 || !isThere) {
      lost++;
      console.error(
        `${id}: revision ${now.revision} “${now.rig?.name}” after ${before?.revision} “${before?.rig.name}”`,
      );
    }
    known.set(id, now);
  }
  if (k === Number(kills)) {
    await end();
    break;
  }
  const ended = new Promise((done) => child.once('exit', done));
  setTimeout(() => child.kill('SIGKILL'), 20 + roll() * 300);
  await Promise.all(
    ids.map(async (id) => {
      for (let n = 0; ; n++) {
        const { revision, rig } = known.get(id)!;
        const name = `${id} ${k}.${n}`;
        try {
          const { status } = await fetch(`${url}/api/rigs/${id}`, {
            method: 'PUT',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify({ revision, rig: { ...rig, name } }),
          });
          if (status !== 200) return;
          acknowledged++;
          known.set(id, { revision: revision + 1, rig: { ...rig, name } });
        } catch {
          return;
        }
      }
    }),
  );
  await ended;
}
rmSync(folder, { recursive: true, force: true });
console.log(JSON.stringify({ name: 'kill', kills: Number(kills), acknowledged, lost }));
process.exit(lost ? 1 : 0);
