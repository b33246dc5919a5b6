import { request } from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { catalogue } from '@cork-elbow/core/actuators';
import { tileDipper, kilnLoader } from '@cork-elbow/demo';
import { createClient } from '@libsql/client';
import { drizzle } from 'drizzle-orm/libsql';
import { join } from 'node:path';
import { runs } from '../src/db/schema';
import { start, type Running } from './harness';

let server: Running;
beforeAll(async () => {
  server = await start();
});
afterAll(() => server.close());
const rig = tileDipper();
const change = (path: (string | number)[], value: unknown): unknown => {
  const copy = structuredClone(rig) as any;
  const last = path.at(-1)!;
  path.slice(0, -1).reduce((at, key) => at[key], copy)[last] = value;
  return copy;
};

describe('the shelf over HTTP', () => {
  it('says that it is well, with its version', async () => {
    expect(await server.get('/api/health')).toEqual({ status: 200, body: { ok: true, version: 'test' } });
  });
  it('holds the demo rig, saves over its revision and answers 409 to an old one', async () => {
    const { body } = await server.get('/api/rigs/tile-dipper');
    expect(body.rig).toEqual(rig);
    const saved = await server.send('PUT', '/api/rigs/tile-dipper', {
      revision: body.revision,
      rig: { ...rig, name: 'Tile dipper Mk 2' },
    });
    expect(saved).toMatchObject({ status: 200, body: { revision: body.revision + 1 } });
    const late = await server.send('PUT', '/api/rigs/tile-dipper', { revision: body.revision, rig });
    expect(late).toMatchObject({
      status: 409,
      body: { code: 'revision-conflict', revision: body.revision + 1, rig: { name: 'Tile dipper Mk 2' } },
    });
    await server.send('PUT', '/api/rigs/tile-dipper', { revision: body.revision + 1, rig });
  });
  it('gives way to nobody when two save at once', async () => {
    const { body } = await server.send('POST', '/api/rigs', { rig });
    const both = await Promise.all(
      [1, 2].map((n) =>
        server.send('PUT', `/api/rigs/${body.id}`, { revision: 1, rig: { ...rig, name: `Saved by ${n}` } }),
      ),
    );
    expect(both.map((b) => b.status).sort()).toEqual([200, 409]);
    expect((await server.send('DELETE', `/api/rigs/${body.id}`, undefined)).status).toBe(204);
    expect((await server.get(`/api/rigs/${body.id}`)).status).toBe(404);
  });

  const bad: [string, unknown, RegExp][] = [
    [
      'limits the wrong way round',
      change(['mechanism', 'joints', 1, 'limits'], { min: 95, max: -40 }),
      /lower limit 95 is not below the upper limit −40/,
    ],
    ['a parent loop', change(['mechanism', 'joints', 0, 'parent'], 'wrist'), /own parent/],
    [
      'NaN',
      change(['mechanism', 'joints', 2, 'origin', 'xyzMm', 2], null),
      /mechanism\.joints\[2\]\.origin\.xyzMm\[2\] must be a number; got null/,
    ],
    ['an empty name', change(['name'], '  '), /name must be text that is not empty/],
    ['a file that is something else', { hello: 'world' }, /not a rig document/],
    ['a rig of a newer version', change(['version'], 99), /newer Cork Elbow \(document version 99\)/],
    [
      'an unknown key',
      change(['mechanism', 'joints', 0, 'colour'], 'red'),
      /mechanism\.joints\[0\]\.colour is not a key/,
    ],
    ['an axis of no length', change(['mechanism', 'joints', 0, 'axis'], [0, 0, 0]), /axis has no length/],
    [
      'a rotary delta without its measures',
      change(['mechanism', 'family'], 'rotary-delta'),
      /mechanism\.joints must be a list of/,
    ],
    ['two joints of one id', change(['mechanism', 'joints', 1, 'id'], 'turn'), /used twice/],
    [
      'equal calibration points',
      change(
        ['builds', 0, 'calibrations', 0, 'points'],
        [
          { at: 5, us: 1500 },
          { at: 5, us: 1700 },
        ],
      ),
      /same angle/,
    ],
    [
      'more joints than allowed',
      change(
        ['mechanism', 'joints'],
        Array.from({ length: 300 }, (_, i) => ({ id: `j${i}`, type: 'fixed', origin: {} })),
      ),
      /300 joints are more than the 128/,
    ],
  ];
  it.each(bad)('refuses %s in one sentence and keeps what was saved', async (_name, document, sentence) => {
    const before = (await server.get('/api/rigs/tile-dipper')).body;
    const { status, body } = await server.send('PUT', '/api/rigs/tile-dipper', {
      revision: before.revision,
      rig: document,
    });
    expect(status).toBe(400);
    expect(body.message).toMatch(sentence);
    expect(body.message).toMatch(/\.$/);
    expect(body.faults[0]).toMatchObject({ message: expect.any(String), path: expect.any(String) });
    expect((await server.get('/api/rigs/tile-dipper')).body).toEqual(before);
  });
  it('answers broken JSON and unknown calls with sentences, never with a trace', async () => {
    const broken = await server.send('POST', '/api/rigs', '{"rig": ');
    expect(broken).toMatchObject({ status: 400, body: { code: 'bad-json' } });
    const unknown = await server.get('/api/nothing');
    expect(unknown).toMatchObject({ status: 404, body: { code: 'no-such-call' } });
    expect(JSON.stringify([broken, unknown])).not.toContain('node_modules');
  });
  it('takes calls from this computer only', async () => {
    const raw = (headers: Record<string, string>): Promise<number> =>
      new Promise((done, fail) =>
        request(`${server.url}/api/health`, { headers }, (r) => done(r.resume().statusCode!))
          .on('error', fail)
          .end(),
      );
    expect(await raw({ host: 'elsewhere.example' })).toBe(403);
    expect(await raw({ origin: 'http://elsewhere.example' })).toBe(403);
    expect(await raw({ origin: server.url })).toBe(200);
    // Another program on this computer, at another port.
    expect(await raw({ origin: 'http://127.0.0.1:9' })).toBe(403);
    expect(await raw({ origin: 'null' })).toBe(403);
  });
});

describe('compute calls', () => {
  const { mechanism } = rig;
  it('forward and inverse agree', async () => {
    const joints = { turn: 10, shoulder: 30, elbow: 80, wrist: 60 };
    const forward = (await server.send('POST', '/api/compute/forward', { mechanism, joints })).body;
    expect(forward.joints.jaw).toBe(40);
    expect(Object.keys(forward.links)).toEqual(['turn', 'shoulder', 'elbow', 'wrist', 'jaw']);
    const target = { positionMm: forward.positionMm, orientation: { kind: 'full', quaternion: forward.quaternion } };
    const inverse = (await server.send('POST', '/api/compute/inverse', { mechanism, target, near: joints })).body;
    expect(inverse.reachable).toBe(true);
    for (const [id, value] of Object.entries(joints)) expect(inverse.solutions[0].joints[id]).toBeCloseTo(value, 4);
  });
  it('says what joints give and how far the base is from tipping; what cannot be is refused', async () => {
    const bar = {
      family: 'tree',
      base: {
        feet: [
          [100, 60],
          [100, -60],
          [-100, -60],
          [-100, 60],
        ],
        massG: 1000,
        comMm: [0, 0, 20],
      },
      joints: [
        {
          ...{ id: 'a', type: 'revolute', axis: [0, 1, 0], limits: { min: -180, max: 180 } },
          ...{ origin: { xyzMm: [0, 0, 100] }, link: { massG: 500, comMm: [0, 0, 200] } },
        },
      ],
      tools: [{ id: 'hand', parent: 'a', origin: { xyzMm: [0, 0, 300] } }],
    };
    const ask = (more: object) => server.send('POST', '/api/compute/loads', { mechanism: bar, ...more });
    const states = [{ joints: { a: 0 } }, { joints: { a: 90 } }, { joints: { a: 90 }, accels: { a: -180 } }];
    const { body } = await ask({ states, payload: { massG: 100 } });
    // Upright it gives nothing; level it bears 0.5 kg at 0.2 m and 0.1 kg at 0.3 m, forwards.
    const level = -9.80665 * (0.5 * 0.2 + 0.1 * 0.3);
    expect(body.states[0].torquesNm.a).toBeCloseTo(0, 9);
    expect(body.states[1].torquesNm.a).toBeCloseTo(level, 9);
    expect(body.states[2].torquesNm.a).toBeCloseTo(level - Math.PI * (0.5 * 0.04 + 0.1 * 0.09), 9);
    expect(body.states[0].tip.marginMm).toBeCloseTo(60, 9);
    // 0.13 kg·m of 1.6 kg, 100 mm to the edge in front, 60 to either side.
    expect(body.states[1].tip.marginMm).toBeCloseTo(Math.min(60, 100 - 130 / 1.6), 9);
    for (const [bad, words] of [
      [{ states: [{ joints: { b: 1 } }] }, 'b'],
      [{ states: [{ joints: {}, speeds: { c: 1 } }] }, 'states[0].speeds.c'],
      [{ states, payload: { massG: -1 } }, 'payload'],
      [{ states, payload: { massG: 1, tool: 'other' } }, 'payload.tool'],
      [{ states: [] }, 'states'],
    ] as const) {
      const { status, body: refused } = await ask(bad);
      expect(status).toBe(400);
      expect(JSON.stringify(refused)).toContain(words);
    }
    const bare = await server.send('POST', '/api/compute/loads', {
      mechanism: { ...bar, base: {} },
      states: [{ joints: {} }],
    });
    expect(bare.body.states[0].tip).toEqual({ marginMm: null, why: 'no-feet' });
  });
  it('a rotary delta goes there and back over HTTP, its platform among the links', async () => {
    const delta = {
      family: 'rotary-delta',
      base: { mounting: { xyzMm: [0, 0, 300] } },
      delta: { baseRadiusMm: 90, platformRadiusMm: 30, upperArmMm: 100, forearmMm: 220 },
      joints: ['a', 'b', 'c'].map((id) => ({ id, type: 'revolute', limits: { min: -40, max: 85 } })),
      tools: [{ id: 'pen', parent: 'platform', origin: { xyzMm: [0, 0, -40] } }],
    };
    const joints = { a: 10, b: 25, c: 30 };
    const forward = (await server.send('POST', '/api/compute/forward', { mechanism: delta, joints })).body;
    expect(Object.keys(forward.links)).toEqual(['a', 'b', 'c', 'platform']);
    expect(forward.links.platform.positionMm[2] - forward.positionMm[2]).toBeCloseTo(40, 9);
    const inverse = (
      await server.send('POST', '/api/compute/inverse', {
        mechanism: delta,
        target: { positionMm: forward.positionMm, orientation: { kind: 'free' } },
      })
    ).body;
    for (const [id, value] of Object.entries(joints)) expect(inverse.solutions[0].joints[id]).toBeCloseTo(value, 6);
    const short = { ...delta, delta: { ...delta.delta, forearmMm: 118 } };
    const open = await server.send('POST', '/api/compute/forward', {
      mechanism: short,
      joints: { a: -40, b: 85, c: 85 },
    });
    expect(open.status).toBe(400);
    expect(open.body.faults[0].code).toMatch(/^(pose|delta)-open$/);
  });
  it('several tools meet their targets at once, with joints held', async () => {
    const hand = (id: string, y: number, parent: string | null): object[] => [
      { id: `${id}1`, type: 'revolute', parent, axis: [0, 1, 0], origin: { xyzMm: [0, y, 300] } },
      { id: `${id}2`, type: 'revolute', parent: `${id}1`, axis: [0, 1, 0], origin: { xyzMm: [100, 0, 0] } },
    ];
    const torso = {
      family: 'tree',
      joints: [
        { id: 'waist', type: 'revolute', origin: {}, axis: [0, 0, 1], limits: { min: -90, max: 90 } },
        ...hand('l', 80, 'waist'),
        ...hand('r', -80, 'waist'),
      ],
      tools: ['l', 'r'].map((id) => ({ id, parent: `${id}2`, origin: { xyzMm: [80, 0, 0] } })),
    };
    const joints = { waist: 20, l1: 15, l2: 30, r1: 40, r2: -25 };
    const at = async (tool: string, values: object): Promise<number[]> =>
      (await server.send('POST', '/api/compute/forward', { mechanism: torso, joints: values, tool })).body.positionMm;
    const targets = [];
    for (const tool of ['l', 'r']) targets.push({ tool, target: { positionMm: await at(tool, joints) } });
    const near = { ...joints, l1: 5, r2: -10 };
    const { body } = await server.send('POST', '/api/compute/inverse', {
      mechanism: torso,
      targets,
      near,
      held: ['waist'],
    });
    expect(body.reachable).toBe(true);
    const [best] = body.solutions;
    expect(best.joints.waist).toBe(20);
    for (const { tool, target } of targets)
      (await at(tool, best.joints)).forEach((v, k) => expect(v).toBeCloseTo(target.positionMm[k], 2));
    expect(best.awayS).toBeGreaterThan(0);
    expect(best.evenness).toBeGreaterThan(0);
  });
  it('places a tool at an angle from up, whatever its heading, and refuses an angle that is none', async () => {
    const ask = (fromUpDeg: number) =>
      server.send('POST', '/api/compute/inverse', {
        mechanism,
        target: { positionMm: [170, 60, 130], orientation: { kind: 'tilt', fromUpDeg } },
      });
    for (const fromUpDeg of [180, 150, 120]) {
      const { body } = await ask(fromUpDeg);
      expect(body.reachable).toBe(true);
      const [{ joints }] = body.solutions;
      const { body: there } = await server.send('POST', '/api/compute/forward', { mechanism, joints });
      const [x, y] = there.quaternion;
      const fromUp = (Math.acos(Math.max(-1, 1 - 2 * (x * x + y * y))) * 180) / Math.PI;
      expect(fromUp).toBeCloseTo(fromUpDeg, 3);
    }
    const bad = await ask(200);
    expect(bad.status).toBe(400);
    expect(JSON.stringify(bad.body.faults)).toContain('fromUpDeg');
  });
  it('says why not, and the closest pose', async () => {
    const { body } = await server.send('POST', '/api/compute/inverse', {
      mechanism,
      target: { positionMm: [900, 0, 100] },
    });
    expect(body.reachable).toBe(false);
    expect(body.reasons[0].code).toBe('too-far');
    expect(body.closest.errorMm).toBeCloseTo(body.reasons[0].byMm, 6);
  });
  it('plans the dipping routine with samples to the exact end', async () => {
    const { body } = await server.send('POST', '/api/compute/plan', { rig, routineId: 'dip', sampleMs: 50 });
    const { timeS, joints } = body.samples;
    expect(timeS.at(-1)).toBe(body.durationS);
    expect(joints.turn).toHaveLength(timeS.length);
    expect(joints.shoulder.at(-1)).toBeCloseTo(-20, 9);
  });
  it('plans on the build that is named, where that one stands, and says which are not there', async () => {
    const two = structuredClone(rig);
    two.builds.push({ ...structuredClone(two.builds[0]), id: 'second', name: 'Second', confirmed: {} });
    two.builds[1].mounting = { xyzMm: [0, 0, 40], rpyDeg: [0, 0, 0] };
    // A straight way down to the ground is out of reach for an arm that stands higher.
    const ask = (buildId?: string) =>
      server.send('POST', '/api/compute/plan', {
        rig: two,
        routineId: 'dip',
        sampleMs: 100,
        ...(buildId ? { buildId } : {}),
      });
    const [first, named, second, unknown] = await Promise.all([
      ask(),
      ask(two.builds[0].id),
      ask('second'),
      ask('third'),
    ]);
    expect(named.body).toEqual(first.body);
    expect(second.body.samples).not.toEqual(first.body.samples);
    expect(unknown.status).toBe(400);
    expect(unknown.body.message).toMatch(/no build with the id “third”/);
  });
  it('writes the program of a board for the revision that is saved, and says in a sentence what is missing', async () => {
    const ask = (more: object) =>
      server.send('POST', '/api/compute/commands', { rigId: 'tile-dipper', format: 'firmware', ...more });
    const bridge = await ask({ options: { kind: 'bridge' } });
    expect(bridge.body.files.map(({ name }: { name: string }) => name)).toEqual([
      'tile-dipper-bridge/tile-dipper-bridge.ino',
      'tile-dipper-bridge/rig.h',
    ]);
    const { body: saved } = await server.get('/api/rigs/tile-dipper');
    expect(/MADE_FOR\[\] PROGMEM = " (\d+) [0-9a-f]{8}"/.exec(bridge.body.files[1].text)?.[1]).toBe(
      `${saved.revision}`,
    );
    const player = await ask({ routineId: 'dip', options: { kind: 'table-player', rate: '25' } });
    expect(player.body.files[1].text).toContain('FRAME_MS = 40');
    const stepwise = await ask({
      rigId: 'kiln-shelf-loader',
      routineId: 'load',
      options: { kind: 'step-player', input: 'door', again: true },
    });
    expect(stepwise.body.files[1].text).toMatch(/START_COUNT = 1;[^]*AGAIN = true;[^]*HOMING_ENTRY = \d+;/);
    const elsewhere = await ask({ routineId: 'dip', options: { kind: 'step-player', input: 'door' } });
    expect([elsewhere.status, elsewhere.body.code]).toEqual([422, 'firmware-input']);
    const [none, waits] = await Promise.all([
      ask({ options: { kind: 'table-player' } }),
      ask({ rigId: 'kiln-shelf-loader', routineId: 'load', options: { kind: 'table-player' } }),
    ]);
    expect([none.status, none.body.code]).toEqual([422, 'export-no-routine']);
    expect([waits.status, waits.body.code]).toEqual([422, 'firmware-waits']);
    const script = await ask({ routineId: 'dip', options: { kind: 'script' } });
    expect([script.status, script.body.code]).toEqual([422, 'firmware-no-computer']);
    expect((await ask({ options: { kind: 'dance' } })).status).toBe(400);
    // A table takes none of these.
    const table = await server.send('POST', '/api/compute/commands', {
      rigId: 'tile-dipper',
      routineId: 'dip',
      format: 'table',
    });
    expect(table.body.files[0].mediaType).toBe('text/csv');
  });
  it('plans by the inputs that it is given, and says which are not there', async () => {
    const loader = kilnLoader();
    const plan = (inputs: object) =>
      server.send('POST', '/api/compute/plan', { rig: loader, routineId: 'load', sampleMs: 500, inputs });
    const [soon, late, never] = await Promise.all(
      [{}, { door: { from: false, changesS: [7] } }, { door: false }].map((inputs) => plan(inputs)),
    );
    expect(late.body.durationS).toBeCloseTo(soon.body.durationS + 7, 6);
    expect(never.body.durationS).toBe(60);
    const unknown = await plan({ gate: true });
    expect(unknown.status).toBe(400);
    expect(unknown.body.message).toMatch(/no input with the id “gate”/);
    expect((await plan({ door: { from: 'ajar' } })).status).toBe(400);
  });
  it.each([
    ['forward', { mechanism, joints: { knee: 3 } }, /no joint “knee”/],
    ['forward', { mechanism, joints: {}, tool: 'spoon' }, /no tool with the id “spoon”/],
    ['forward', { mechanism: change(['mechanism', 'joints', 1, 'parent'], 'nobody'), joints: {} }, /./],
    ['inverse', { mechanism, target: { positionMm: [1, 2] } }, /target\.positionMm/],
    [
      'inverse',
      { mechanism, target: { positionMm: [1, 2, 3], orientation: { kind: 'direction', direction: [0, 0, 0] } } },
      /direction/,
    ],
    ['inverse', { mechanism }, /exactly one of target, targets, batch/],
    ['inverse', { mechanism, target: { positionMm: [1, 2, 3] }, held: ['knee'] }, /no joint “knee”/],
    ['inverse', { mechanism, targets: [{ tool: 'spoon', target: { positionMm: [1, 2, 3] } }] }, /no tool/],
    ['plan', { rig, routineId: 'dance', sampleMs: 20 }, /no routine with the id “dance”/],
    ['plan', { rig, routineId: 'dip', sampleMs: 0 }, /1 to 1000 ms/],
  ])('%s refuses bad input', async (call, body, sentence) => {
    const answer = await server.send('POST', `/api/compute/${call}`, body);
    expect(answer.status).toBe(400);
    expect(answer.body.message).toMatch(sentence);
  });
  it('lists itself for scripts', async () => {
    const { body } = await server.get('/api/openapi.json');
    for (const path of ['/api/compute/forward', '/api/compute/inverse', '/api/compute/plan', '/api/rigs/{id}'])
      expect(body.paths[path]).toBeDefined();
    expect(
      body.paths['/api/compute/forward'].post.requestBody.content['application/json'].schema.properties,
    ).toHaveProperty('mechanism');
  });
});

describe('what is measured and added over HTTP', () => {
  const calibrations = '/api/rigs/tile-dipper/builds/b1/calibrations';
  it('keeps every measurement of a build as a row, and leaves the rig alone', async () => {
    const [calibration] = rig.builds[0].calibrations;
    const before = (await server.get('/api/rigs/tile-dipper')).body;
    for (const note of ['first', 'new horn']) {
      const { status } = await server.send('POST', calibrations, {
        fact: { kind: 'points', calibration, trimUs: 4 },
        note,
      });
      expect(status).toBe(201);
    }
    const { body } = await server.get(calibrations);
    expect(body.calibrations.map((c: { note: string }) => c.note)).toEqual(['new horn', 'first']);
    expect(body.calibrations[0].fact).toEqual({ kind: 'points', calibration, trimUs: 4 });
    expect((await server.get('/api/rigs/tile-dipper')).body.revision).toBe(before.revision);
    expect((await server.get('/api/rigs/tile-dipper/builds/b2/calibrations')).body.calibrations).toEqual([]);
  });
  it.each([
    [{ fact: { kind: 'turn', drive: 'm-turn', turn: { asked: 90, moved: 0, takenOn: '' } } }, 400, /moved/],
    [{ fact: { kind: 'weather' } }, 400, /kind/],
    [{}, 400, /fact/],
  ])('refuses what is no measurement: %j', async (body, status, sentence) => {
    const answer = await server.send('POST', calibrations, body);
    expect(answer.status).toBe(status);
    expect(answer.body.message).toMatch(sentence);
  });
  it('says so where there is no such build or rig', async () => {
    const fact = { kind: 'backlash', joint: 'turn', backlash: { slack: 1, takenOn: '' } };
    for (const url of ['/api/rigs/tile-dipper/builds/b9/calibrations', '/api/rigs/none/builds/b1/calibrations'])
      expect((await server.send('POST', url, { fact })).status).toBe(404);
  });
  it('adds kinds of motor, replaces one of the same id, and takes one out', async () => {
    const [entry] = catalogue;
    const mine = { id: 'own-a', words: 'my servo, 30 g', figures: entry.figures };
    expect((await server.send('PUT', '/api/motors', { motors: [mine] })).body.motors).toEqual([mine]);
    const better = { ...mine, words: 'my servo, 31 g' };
    expect((await server.send('PUT', '/api/motors', { motors: [better] })).body.motors).toEqual([better]);
    const bad = await server.send('PUT', '/api/motors', { motors: [{ ...mine, figures: { kind: 'servo' } }] });
    expect(bad.status).toBe(400);
    expect((await server.get('/api/motors')).body.motors).toEqual([better]);
    expect((await server.send('DELETE', '/api/motors/own-a', undefined)).status).toBe(204);
    expect((await server.send('DELETE', '/api/motors/own-a', undefined)).status).toBe(404);
  });
});

describe('a rig that is deleted', () => {
  it('takes its measurements and runs along: another of the same name finds none of them', async () => {
    const make = async (): Promise<void> => {
      expect((await server.send('POST', '/api/rigs', { rig, id: 'short-lived' })).status).toBe(201);
    };
    await make();
    const path = `/api/rigs/short-lived/builds/${rig.builds[0].id}/calibrations`;
    const fact = { kind: 'backlash', joint: 'elbow', backlash: { slack: 0.4, takenOn: '' } };
    expect((await server.send('POST', path, { fact, note: '' })).status).toBe(201);
    const client = createClient({ url: `file:${join(server.folder, 'cork-elbow.sqlite')}` });
    await drizzle(client)
      .insert(runs)
      .values({
        ...{ id: 'run-1', rigId: 'short-lived', revision: 1, buildId: 'b1', routineId: 'dip', routineName: 'Dip' },
        ...{ board: 'simulated board', startedAt: new Date().toISOString() },
      });
    client.close();
    expect((await server.get(path)).body.calibrations).toHaveLength(1);
    expect((await server.get('/api/rigs/short-lived/runs')).body.runs).toHaveLength(1);
    expect((await server.send('DELETE', '/api/rigs/short-lived', undefined)).status).toBe(204);
    await make();
    expect((await server.get(path)).body.calibrations).toEqual([]);
    expect((await server.get('/api/rigs/short-lived/runs')).body.runs).toEqual([]);
    await server.send('DELETE', '/api/rigs/short-lived', undefined);
  });
});

describe('runs of a rig', () => {
  it('come page by page, the latest first, each once, with how many there are; a page that cannot be is told', async () => {
    expect((await server.send('POST', '/api/rigs', { rig, id: 'busy' })).status).toBe(201);
    const client = createClient({ url: `file:${join(server.folder, 'cork-elbow.sqlite')}` });
    const at = (k: number): string => new Date(1_780_000_000_000 + 60_000 * Math.floor(k / 2)).toISOString();
    await drizzle(client)
      .insert(runs)
      .values(
        // Two of each minute: their order is the same each time all the same.
        Array.from({ length: 75 }, (_, k) => ({
          ...{
            id: `busy-${k}`,
            rigId: 'busy',
            revision: 1,
            buildId: 'b1',
            routineId: 'dip',
            routineName: `Run ${k}`,
          },
          ...{ board: 'simulated board', startedAt: at(k) },
        })),
      );
    client.close();
    const page = async (query: string): Promise<{ total: number; runs: { id: string; startedAt: string }[] }> =>
      (await server.get(`/api/rigs/busy/runs${query}`)).body;
    expect((await page('')).runs).toHaveLength(50);
    const all = [];
    for (let from = 0; from < 80; from += 20) {
      const { total, runs: some } = await page(`?from=${from}&count=20`);
      expect(total).toBe(75);
      all.push(...some);
    }
    expect(new Set(all.map(({ id }) => id)).size).toBe(75);
    expect(all.map(({ startedAt }) => startedAt)).toEqual(Array.from({ length: 75 }, (_, k) => at(74 - k)));
    for (const query of ['?count=501', '?count=0', '?from=-1', '?from=x']) {
      const { status, body } = await server.get(`/api/rigs/busy/runs${query}`);
      expect([status, body.message.length > 10], query).toEqual([400, true]);
    }
    await server.send('DELETE', '/api/rigs/busy', undefined);
  });
});
