import { contractFindings } from '@cork-elbow/core/contract';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { api, CallError } from './api';
import { benchApi } from './api-bench';
import { motorsApi } from './api-motors';

const answers = (status: number, body: string) => {
  const asked: { path: string; init?: RequestInit }[] = [];
  vi.stubGlobal('fetch', async (path: string, init?: RequestInit) => {
    asked.push({ path, init });
    return new Response(status === 204 ? null : body, { status });
  });
  return asked;
};
const failed = async (call: Promise<unknown>): Promise<CallError> => {
  try {
    await call;
  } catch (error) {
    return error as CallError;
  }
  throw new Error('it did not fail');
};

describe('calls to the server', () => {
  afterEach(() => vi.unstubAllGlobals());
  it('go where they are meant to, with names that may hold anything', async () => {
    const asked: ReturnType<typeof answers> = [];
    const on = async (body: string, ask: () => Promise<unknown>): Promise<void> => {
      const heard = answers(200, body);
      await ask();
      asked.push(...heard);
    };
    const opened = `{"id":"a","revision":1,"updatedAt":"2026-01-01T00:00:00.000Z","rig":{}}`;
    await on(opened, () => api.rig('a/b c'));
    await on('{"calibrations":[]}', () => motorsApi.calibrations('a/b', 'b 1'));
    await on('{"runs":[],"total":0}', () => benchApi.runs('ü', { from: 100, count: 50 }));
    await on('', () => motorsApi.removeMotor('x?y'));
    expect(asked.map(({ path, init }) => `${init?.method} ${path}`)).toEqual([
      'GET /api/rigs/a%2Fb%20c',
      'GET /api/rigs/a%2Fb/builds/b%201/calibrations',
      'GET /api/rigs/%C3%BC/runs?from=100&count=50',
      'DELETE /api/motors/x%3Fy',
    ]);
    expect(asked[0].init?.body).toBeUndefined();
    await on(opened, () => api.create({ name: 'A' }));
    expect(asked.at(-1)!.init).toMatchObject({
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{"rig":{"name":"A"}}',
    });
    await on('{"motors":[]}', () => motorsApi.putMotors([]));
    expect(asked.at(-1)).toMatchObject({ path: '/api/motors', init: { method: 'PUT', body: '{"motors":[]}' } });
  });
  it('give what was answered, and nothing for an empty answer', async () => {
    const rig = {
      id: 'a',
      name: 'A',
      revision: 3,
      updatedAt: '2026-01-01T00:00:00.000Z',
      joints: 4,
      routines: 1,
      unreadable: null,
    };
    answers(200, JSON.stringify({ rigs: [rig] }));
    expect(await api.rigs()).toEqual([rig]);
    answers(204, '');
    expect(await api.remove('a')).toBeNull();
  });
  it('fail where an answer is of another shape: page and server are of different versions', async () => {
    const odd = contractFindings.say('answer-unknown');
    answers(200, '{"rigs":[{"id":"a"}]}');
    expect(await failed(api.rigs())).toMatchObject({ message: odd });
    answers(200, '{"id":"a","revision":1,"updatedAt":"2026-01-01T00:00:00.000Z","rig":null}');
    expect(await failed(api.rig('a'))).toMatchObject({ message: odd });
    answers(200, '{"revision":"two","updatedAt":"2026-01-01T00:00:00.000Z"}');
    expect(await failed(api.save('a', 1, {} as never))).toMatchObject({ message: odd });
  });
  it('fail with the server’s own sentence, its status and its body', async () => {
    answers(409, '{"code":"revision-conflict","message":"Changed elsewhere.","faults":[],"revision":7}');
    const error = await failed(api.save('a', 1, {} as never));
    expect(error).toBeInstanceOf(CallError);
    expect(error).toMatchObject({ message: 'Changed elsewhere.', status: 409, body: { revision: 7 } });
  });
  it('fail with one sentence where the server is away, or something else answers in its place', async () => {
    vi.stubGlobal('fetch', async () => {
      throw new TypeError('failed to fetch');
    });
    expect(await failed(api.rigs())).toMatchObject({
      message: contractFindings.say('server-away'),
      status: 0,
      body: null,
    });
    answers(502, '<html>Bad gateway</html>');
    expect(await failed(api.rigs())).toMatchObject({ message: contractFindings.say('server-away'), status: 0 });
    answers(500, '');
    expect(await failed(api.rigs())).toMatchObject({ message: contractFindings.say('server-away'), status: 500 });
  });
});
