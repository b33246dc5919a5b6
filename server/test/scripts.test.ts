import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { commandMaps, nativeAt, isSpin } from '@cork-elbow/core/actuators';
import { admit } from '@cork-elbow/core/admit';
import { toSlots } from '@cork-elbow/core/mechanism';
import { presets } from '@cork-elbow/core/presets';
import { applyFix, withLengths } from '@cork-elbow/core/reach';
import type { Rig } from '@cork-elbow/core/rig';
import { tileDipper } from '@cork-elbow/demo';
import { start, type Running } from './harness';
import { answers, docs, written } from './targets';

let server: Running;
beforeAll(async () => {
  server = await start();
});
afterAll(() => server.close());

interface Described {
  paths: Record<
    string,
    Record<string, { requestBody?: any; responses: Record<string, unknown>; summary?: string; parameters?: any[] }>
  >;
  components: { schemas: Record<string, any> };
}
const description = async (): Promise<Described> => (await server.get('/api/openapi.json')).body;

describe('the calls as scripts use them', () => {
  it.each(written)('%s %s as written in the docs answers what its schema says', async (method, path, body) => {
    const { status, body: answer } = await server.send(method, path, body);
    expect([status, answer?.message]).toEqual([expect.toSatisfy((s: number) => s < 300), undefined]);
    const schema = answers[`${method} ${path}`];
    if (status !== 204) expect(schema, `${method} ${path}`).toBeDefined();
    if (status !== 204) expect(schema.safeParse(answer).error?.issues ?? []).toEqual([]);
  });
  it('are all written in the docs, and every example of the description works', async () => {
    const { paths } = await description();
    const known = new Set(written.map(([method, path]) => `${method} ${path}`));
    // What changes the shelf for the tests after it is written without being run.
    for (const [, call] of docs.matchAll(/^ {4}([A-Z]+ \/api\S+)/gm)) known.add(call);
    for (const [path, calls] of Object.entries(paths))
      for (const [method, { requestBody, summary, responses }] of Object.entries(calls)) {
        const pattern = new RegExp(`^${method.toUpperCase()} ${path.replace(/\{\w+\}/g, '[\\w-]+')}$`);
        expect([...known].some((call) => pattern.test(call)) ? '' : `${method} ${path} is not in docs/http.md`).toBe(
          '',
        );
        expect(summary).toMatch(/\.$/);
        expect(Object.keys(responses).some((status) => status.startsWith('2'))).toBe(true);
        if (!/^\/api\/(compute|export|import)\//.test(path)) continue;
        const examples = Object.values<any>(requestBody.content['application/json'].examples ?? {});
        expect(examples.length, path).toBeGreaterThan(0);
        for (const { value: example } of examples) {
          const { status, body } = await server.send(method.toUpperCase(), path, example);
          expect([path, status, body.message]).toEqual([path, 200, undefined]);
          expect(answers[`${method.toUpperCase()} ${path}`].safeParse(body).success).toBe(true);
          expect([path, body.problems ?? []]).toEqual([path, []]);
        }
      }
  });
  it('describe every field of what they take and give, with documents named once', async () => {
    const described = await description();
    const text = JSON.stringify(described);
    const calls = Object.values(described.paths).flatMap((methods) => Object.keys(methods)).length;
    expect(text.length / calls).toBeLessThan(14_000);
    for (const name of ['Rig', 'RigInput', 'MechanismInput', 'Finding', 'Inverse', 'Plan'])
      expect(Object.keys(described.components.schemas)).toContain(name);
    const bare: string[] = [];
    const walk = (schema: any, at: string): void => {
      if (!schema || typeof schema !== 'object' || schema.$ref) return;
      for (const [key, own] of Object.entries<any>(schema.properties ?? {})) {
        const inner = own.anyOf ?? own.oneOf ?? [];
        const says =
          own.description ??
          own.title ??
          own.$ref ??
          own.const ??
          (own.enum?.length === 1 || undefined) ??
          inner.some((s: any) => s.description || s.$ref);
        // Whatever holds others is told by what it holds.
        if (!says && !own.properties && !own.items?.properties) bare.push(`${at}.${key}`);
        walk(own, `${at}.${key}`);
      }
      for (const part of ['anyOf', 'oneOf', 'allOf']) schema[part]?.forEach((s: any) => walk(s, at));
      walk(schema.items, `${at}[]`);
      walk(schema.additionalProperties, `${at}.*`);
    };
    for (const [path, calls] of Object.entries(described.paths))
      for (const [method, { requestBody, responses, parameters }] of Object.entries(calls)) {
        walk(requestBody?.content['application/json']?.schema, `${method} ${path}`);
        for (const [status, response] of Object.entries<any>(responses))
          if (status < '300') walk(response.content?.['application/json']?.schema, `${method} ${path} ${status}`);
        for (const { name, description: says, schema } of parameters ?? [])
          if (!says && !schema.description) bare.push(`${method} ${path} ${name}`);
      }
    for (const [name, schema] of Object.entries(described.components.schemas)) walk(schema, name);
    expect(bare).toEqual([]);
  });
  it('have a page to read that needs nothing from elsewhere', async () => {
    const page = await fetch(`${server.url}/api/docs/`);
    expect(page.status).toBe(200);
    const html = await page.text();
    for (const [, source] of html.matchAll(/(?:src|href)="([^"]+)"/g)) {
      expect(source).not.toMatch(/^https?:|^\/\//);
      const part = await fetch(new URL(source, `${server.url}/api/docs/`));
      expect(part.status).toBe(200);
      // Read to its end: a server that stops waits for what is under way.
      await part.arrayBuffer();
    }
  });
});

describe('one call for many', () => {
  const joints = (k: number): Record<string, number> => ({
    turn: -60 + k / 40,
    shoulder: 20,
    elbow: 70 + (k % 30),
    wrist: 60,
  });
  it('gives the same as one call each, in the same order', async () => {
    const poses = Array.from({ length: 300 }, (_, k) => joints(k * 10));
    const { body: many } = await server.send('POST', '/api/compute/forward', { rigId: 'tile-dipper', poses });
    expect(many.answers).toHaveLength(300);
    for (const k of [0, 1, 150, 299]) {
      const alone = await server.send('POST', '/api/compute/forward', { rigId: 'tile-dipper', joints: poses[k] });
      expect(many.answers[k]).toEqual(alone.body);
    }
    const batch = many.answers.map((a: { positionMm: number[]; quaternion: number[] }, k: number) => ({
      target: { positionMm: a.positionMm, orientation: { kind: 'full', quaternion: a.quaternion } },
      near: poses[k],
    }));
    const { body: back } = await server.send('POST', '/api/compute/inverse', {
      rigId: 'tile-dipper',
      batch,
      best: true,
    });
    back.answers.forEach((answer: any, k: number) => {
      expect(answer.solutions).toHaveLength(1);
      for (const [id, value] of Object.entries(poses[k]))
        expect(answer.solutions[0].joints[id]).toBeCloseTo(value, 4);
    });
    const one = await server.send('POST', '/api/compute/inverse', {
      rigId: 'tile-dipper',
      target: batch[7].target,
      near: poses[7],
    });
    expect(back.answers[7].solutions[0]).toEqual(one.body.solutions[0]);
  });
  it('of ten thousand targets serves others in between', async () => {
    const batch = Array.from({ length: 10_000 }, (_, k) => ({
      target: {
        positionMm: [120 + (k % 60), (k % 100) - 50, 100],
        orientation: { kind: 'direction', direction: [0, 0, -1] },
      },
    }));
    const response = await fetch(`${server.url}/api/compute/inverse`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ rigId: 'tile-dipper', batch, best: true }),
    });
    // Its head is here long before the end: what is asked meanwhile is answered first.
    let whole = false;
    const text = response.text().then((t) => ((whole = true), t));
    expect((await server.get('/api/health')).status).toBe(200);
    expect(whole).toBe(false);
    const { answers: all } = JSON.parse(await text) as { answers: { reachable: boolean }[] };
    expect(all).toHaveLength(10_000);
    expect(all.filter((a) => a.reachable).length).toBeGreaterThan(9000);
  });
});

describe('the same by id as by document', () => {
  const rig = tileDipper();
  it.each([
    ['plan', { routineId: 'dip', sampleMs: 200 }],
    ['commands', { routineId: 'dip', options: { rateHz: 10 } }],
    ['motors', { poses: [{ elbow: 90 }] }],
    ['findings', { routineId: 'dip', contact: true }],
    ['forward', { joints: { elbow: 90 } }],
    ['map', { plane: 'side', cellMm: 50 }],
    ['points', { points: [{ positionMm: [170, 0, 120] }, { positionMm: [170, 20, 120] }] }],
    ['sweep', { motion: 'power-up', planned: false }],
    ['smoothing', { routineId: 'dip' }],
  ])('%s', async (call, body) => {
    const [byId, whole] = await Promise.all(
      [{ rigId: 'tile-dipper' }, { rig }].map((of) =>
        server.send('POST', `/api/compute/${call}`, { ...of, ...body }),
      ),
    );
    expect(byId.status).toBe(200);
    const named = JSON.stringify(byId.body).replaceAll('tile-dipper-dip', 'rig-dip');
    expect(JSON.parse(named)).toEqual(whole.body);
  });
  it('motors are sent what the core says, with the pins they hang on', async () => {
    const pose = { turn: 12, shoulder: 31, elbow: 90, wrist: 44, jaw: 20 };
    const { body } = await server.send('POST', '/api/compute/motors', { rigId: 'tile-dipper', poses: [pose] });
    const admitted = admit(rig);
    if (!admitted.ok) throw new Error('not admitted');
    const { mechanism, build } = admitted;
    const maps = commandMaps(rig, mechanism, build);
    expect(Object.keys(body.answers[0]).sort()).toEqual(maps.map((map) => map.drive.id).sort());
    for (const map of maps)
      if (!isSpin(map))
        expect(body.answers[0][map.drive.id]).toBe(nativeAt(map, mechanism, toSlots(mechanism, pose)));
    expect(body.units['m-elbow']).toBe('µs');
    expect(body.pins['m-elbow']).toEqual({ board: rig.boards[0].name, pin: expect.any(String) });
  });
  it('commands come as text alone where text is asked for', async () => {
    const ask = { rigId: 'tile-dipper', routineId: 'dip', options: { rateHz: 10 } };
    const response = await fetch(`${server.url}/api/compute/commands`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', accept: 'text/csv' },
      body: JSON.stringify(ask),
    });
    expect(response.headers.get('content-type')).toMatch(/^text\/csv/);
    const { body } = await server.send('POST', '/api/compute/commands', ask);
    expect(await response.text()).toBe(body.files[0].text);
    expect(body.files[0].name).toBe('tile-dipper-dip-commands-10hz.csv');
  });
  it('every kind of arm becomes a rig that can be asked about', async () => {
    const { body } = await server.get('/api/presets');
    expect(body.presets.map((p: { id: string }) => p.id)).toEqual(presets.map((p) => p.id));
    for (const { id } of presets) {
      const made = await server.send('POST', `/api/presets/${id}`, { name: 'Club arm' });
      expect([id, made.status]).toEqual([id, 200]);
      expect(made.body.rig.name).toBe('Club arm');
      const { status } = await server.send('POST', '/api/compute/findings', { rig: made.body.rig });
      expect([id, status]).toEqual([id, 200]);
    }
  });
});

describe('searches', () => {
  const id = 'tile-dipper';
  const ask = async (call: string, body: object): Promise<any> => {
    const { status, body: answer } = await server.send('POST', `/api/compute/${call}`, body);
    expect([call, status, answer.message]).toEqual([call, 200, undefined]);
    return answer;
  };
  it('every change that is offered brings the target into reach, and none is offered where it is', async () => {
    const rig = tileDipper();
    const orientation = { kind: 'direction', direction: [0, 0, -1] };
    const target = { positionMm: [330, 0, 120], orientation };
    expect((await ask('inverse', { rigId: id, target })).reachable).toBe(false);
    const { changes } = await ask('changes', { rigId: id, target });
    expect(changes.length).toBeGreaterThan(2);
    for (const change of changes) {
      const mechanism = applyFix(rig.mechanism, change);
      const moved =
        change.kind === 'target'
          ? { ...target, positionMm: target.positionMm.map((v, k) => v + change.by * change.along[k]) }
          : change.kind === 'tilt'
            ? { ...target, orientation: { kind: 'direction', direction: change.direction } }
            : target;
      const { reachable } = await ask('inverse', { mechanism, target: moved });
      expect([change.kind, change.id, reachable]).toEqual([change.kind, change.id, true]);
    }
    const near = { positionMm: [170, 0, 120] };
    expect(await ask('changes', { rigId: id, target: near })).toEqual({ changes: [] });
  });
  it('the lengths that are advised reach what they say', async () => {
    const places = [
      [180, 60, 130],
      [120, -80, 60],
    ];
    const ranges = ['elbow', 'wrist'].map((joint) => ({ of: 'joint', id: joint, minMm: 80, maxMm: 180 }));
    const points = places.map((positionMm) => ({ positionMm }));
    const advice = await ask('lengths', { rigId: id, points, ranges });
    expect([advice.allReached, advice.valuesMm.length]).toEqual([true, 2]);
    expect(advice.totalMm).toBeLessThan(advice.totalNowMm);
    const mechanism = withLengths(
      tileDipper().mechanism,
      ranges.map(({ minMm, maxMm, ...range }) => ({ ...range, of: 'joint' as const, min: minMm, max: maxMm })),
      advice.valuesMm,
    );
    const { answers } = await ask('inverse', { mechanism, batch: points.map((target) => ({ target })) });
    expect(answers.map((a: any) => a.reachable)).toEqual([true, true]);
    // The same question has the same answer.
    expect(await ask('lengths', { rigId: id, points, ranges })).toEqual(advice);
  });
  it('what brings the arm in is told joint by joint, to where the next step finds it', async () => {
    const up = await ask('sweep', { rigId: id, motion: 'power-up' });
    expect(up.moves.length).toBe(tileDipper().drives.length);
    for (const { fromS, untilS } of up.moves) {
      expect(untilS).toBeGreaterThanOrEqual(fromS);
      expect(untilS).toBeLessThanOrEqual(up.durationS + 1e-9);
    }
    expect(up.rails.map((rail: any) => rail.id)).toEqual(tileDipper().rails.map((rail) => rail.id));
    const home = await ask('sweep', { rigId: 'kiln-shelf-loader', motion: 'homing' });
    expect(home.rails).toEqual([]);
    expect(home.durationS).toBeGreaterThan(1);
    // Each joint goes on from where its last move left it.
    const at = new Map<string, number>();
    for (const { joint, from, to } of home.moves) {
      if (at.has(joint)) expect(from).toBeCloseTo(at.get(joint)!, 6);
      at.set(joint, to);
    }
  });
  it('points in a row are reached where each by itself is, and say why they are not', async () => {
    const points = Array.from({ length: 40 }, (_, k) => ({ positionMm: [60 + 8 * k, 3 * k, 100] }));
    const { results } = await ask('points', { rigId: id, points, speedMmPerS: 20 });
    const { answers } = await ask('inverse', { rigId: id, batch: points.map((target) => ({ target })) });
    expect(results.map((r: any) => r.reached)).toEqual(answers.map((a: any) => a.reachable));
    for (const { reached, reason, joints } of results) {
      expect(reason === null).toBe(reached);
      expect(joints === null).toBe(!reached);
    }
    expect(results.some((r: any) => !r.reached)).toBe(true);
  });
  it('motors that are told speeds only are no joints to go to a place with', async () => {
    const rig = structuredClone(tileDipper()) as Rig;
    const drive = rig.drives.find((d) => d.id === 'm-turn')!;
    Object.assign(drive, { kind: 'continuous-servo', stopUs: 1500, fullUs: 300 });
    for (const key of ['travelDeg', 'centreUs', 'usPerDeg']) delete (drive as Record<string, unknown>)[key];
    const target = { positionMm: [0, 170, 120] };
    const free = await ask('inverse', { rigId: id, target });
    expect(free.reachable).toBe(true);
    const admitted = admit(rig);
    if (!admitted.ok) throw new Error(admitted.faults[0].message);
    expect((await ask('inverse', { rig, target })).reachable).toBe(false);
  });
});

describe('faults that speak to whoever wrote the script', () => {
  const id = 'tile-dipper';
  it.each([
    ['inverse', { rigId: id }, 400, /exactly one of target, targets, batch; got none of them/],
    ['inverse', { rigId: id, target: {} }, 400, /^target\.positionMm is missing; it must be a list/],
    ['inverse', { target: { positionMm: [1, 2, 3] } }, 400, /exactly one of mechanism, rig, rigId/],
    ['inverse', { rigId: id, rig: tileDipper(), target: { positionMm: [1, 2, 3] } }, 400, /got rig and rigId/],
    [
      'inverse',
      { rigId: id, batch: [{ target: { positionMm: [1, 2, 3] } }, { target: { positionMm: [1, 2] } }] },
      400,
      /batch\[1\]\.target\.positionMm/,
    ],
    [
      'inverse',
      { rigId: id, batch: [{ target: { positionMm: [1, 2, 3] }, near: { knee: 4 } }] },
      400,
      /batch\[0\]\.near\.knee/,
    ],
    ['forward', { rigId: id, poses: [{ turn: 0 }, { knee: 1 }] }, 400, /poses\[1\]\.knee/],
    ['forward', { rigId: id, poses: [] }, 400, /poses must be a list of at least 1/],
    ['forward', { rigId: 'nobody', joints: {} }, 404, /no rig with the id “nobody”/],
    ['forward', [], 400, /object/],
    ['plan', { rigId: id, routineId: 'dip', sampleMs: 'ten' }, 400, /sampleMs must be a number; got “ten”/],
    [
      'commands',
      { rigId: id, routineId: 'dip', options: { rateHz: 4000 } },
      400,
      /options\.rateHz must be at most 1000/,
    ],
    ['map', { rigId: id, plane: 'plan', held: { knee: 3 } }, 400, /held\.knee/],
    ['findings', { rigId: id, buildId: 'b9' }, 400, /no build with the id “b9”/],
    ['changes', { rigId: id, target: { positionMm: [1, 2, 3] }, near: { knee: 3 } }, 400, /near\.knee/],
    [
      'points',
      { rigId: id, points: [{ positionMm: [1, 2, 3], direction: [0, 0, 0] }] },
      400,
      /direction with a length/,
    ],
    [
      'lengths',
      {
        rigId: id,
        points: [{ positionMm: [1, 2, 3] }],
        ranges: [{ of: 'joint', id: 'knee', minMm: 1, maxMm: 2 }],
      },
      400,
      /ranges\[0\]\.id: there is no joint with the id “knee”/,
    ],
    [
      'lengths',
      {
        rigId: id,
        points: [{ positionMm: [1, 2, 3] }],
        ranges: [{ of: 'joint', id: 'elbow', minMm: 200, maxMm: 100 }],
      },
      400,
      /minMm 200 is not below maxMm 100/,
    ],
    ['sweep', { rigId: id, motion: 'sleep' }, 400, /motion must be one of power-up, homing/],
  ])('%s %j', async (call, body, status, sentence) => {
    const answer = await server.send('POST', `/api/compute/${call}`, body);
    expect(answer.status).toBe(status);
    expect(answer.body.message).toMatch(sentence);
    expect(answer.body.message).toMatch(/\.$/);
  });
  it('a body that is too large is refused with what the call takes', async () => {
    const name = 'x'.repeat(9_000_000);
    const batch = await server.send('POST', '/api/compute/inverse', { rigId: id, name });
    expect(batch).toMatchObject({
      status: 413,
      body: { code: 'body-too-large', message: expect.stringContaining('8.4 MB') },
    });
    const plan = await server.send('POST', '/api/compute/plan', { rigId: id, name });
    expect(plan).toMatchObject({ status: 413, body: { message: expect.stringContaining('2.2 MB') } });
  });
  it('a measure out of its range, or of another kind of arm, is named', async () => {
    const [preset] = presets;
    const [measure] = preset.measures;
    const ask = (measures: object) => server.send('POST', `/api/presets/${preset.id}`, { name: 'X', measures });
    expect((await ask({ [measure.key]: measure.max + 1 })).body.message).toContain(
      `must be ${measure.min} to ${measure.max}`,
    );
    expect((await ask({ wings: 2 })).body.message).toMatch(/measures\.wings/);
    expect((await server.send('POST', '/api/presets/none', { name: 'X' })).status).toBe(404);
  });
});
