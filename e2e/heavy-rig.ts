/** A rig as large as any that people are likely to have: for what the page does under load. */
import { createClient } from '@libsql/client';
import { rigSchema, RIG_VERSION, type Rig } from '@cork-elbow/core/rig';
import { tileDipper } from '@cork-elbow/demo';

/** An arm of so many joints on five limbs, a servo on a pin for each, and a routine of so many steps. */
export function heavyRig(joints = 30, steps = 500): Rig {
  const dipper = tileDipper();
  const servo = dipper.drives.find(({ id }) => id === 'm-turn')!;
  const ids = Array.from({ length: joints }, (_, k) => `x${k}`);
  const limbs = 5;
  const pose = (k: number): Record<string, number> =>
    Object.fromEntries(ids.map((id, j) => [id, Math.round(18 * Math.sin(k + 0.7 * j))]));
  return rigSchema.parse({
    format: 'cork-elbow-rig',
    version: RIG_VERSION,
    name: 'Hedge of arms',
    mechanism: {
      joints: ids.map((id, k) => ({
        ...{ id, name: `Joint ${k + 1}`, type: 'revolute', axis: k < limbs ? [0, 0, 1] : [0, 1, 0] },
        ...{ parent: k < limbs ? null : ids[k - limbs], home: 0 },
        origin: { xyzMm: k < limbs ? [0, 300 * (k - 2), 60] : [0, 0, 70] },
        limits: { min: -80, max: 80, maxSpeed: 120, maxAccel: 400 },
        link: { massG: 30, comMm: [0, 0, 30], radiusMm: 14 },
      })),
      tools: ids.slice(-limbs).map((parent, k) => ({
        ...{ id: `tool${k}`, name: `Tip ${k + 1}`, parent, origin: { xyzMm: [0, 0, 60] } },
      })),
    },
    drives: ids.map((id, k) => ({ ...servo, id: `m-${id}`, name: `Joint ${k + 1} servo` })),
    transmissions: ids.map((id) => ({
      ...{ id: `t-${id}`, kind: 'ratio', joints: [id], drives: [`m-${id}`], reduction: 1 },
    })),
    boards: [
      {
        ...dipper.boards[0],
        id: 'board',
        pins: ids.map((_, pin) => ({ pin, label: `${pin}`, can: ['pulse'], boot: 'off', reserved: '' })),
      },
    ],
    wiring: ids.map((id, channel) => ({ id: `w-${id}`, drive: `m-${id}`, board: 'board', channel })),
    builds: [{ id: 'b1', name: 'First' }],
    powerUp: { rest: null, gapMs: 0, maxDegPerS: 20, order: [], at: {} },
    routines: [
      {
        ...{ id: 'go', name: 'Long day' },
        steps: Array.from({ length: steps }, (_, k) => ({
          ...{ id: `s${k}`, enabled: true, note: k % 9 ? '' : `Round ${k / 9 + 1}` },
          ...(k % 5 === 4
            ? { kind: 'wait', durationS: 0.2 }
            : { kind: 'joint-move', target: { joints: pose(k) }, pace: { speedShare: 0.6 } }),
        })),
      },
    ],
  });
}

/** Puts it on a shelf as `heavy`, with so many runs in its log: `Day 0` and on, a minute apart. */
export async function standHeavy(address: string, folder: string, runs = 10_000): Promise<void> {
  const { status } = await fetch(`${address}/api/rigs`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ id: 'heavy', rig: heavyRig() }),
  });
  if (status !== 201) throw new Error(`the heavy rig was answered ${status}`);
  const db = createClient({ url: `file:${folder}/cork-elbow.sqlite` });
  await db.execute({
    sql: `WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
     INSERT INTO runs (id, rig_id, revision, build_id, routine_id, routine_name, board, started_at, outcome, duration_ms)
     SELECT 'heavy' || i, 'heavy', 1, 'b1', 'go', 'Day ' || i, 'simulated board',
            strftime('%Y-%m-%dT%H:%M:%fZ', 1780000000 + i * 60, 'unixepoch'), 'finished', 1000 * i FROM n`,
    args: [runs - 1],
  });
  db.close();
}
