import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import WebSocket from 'ws';
import type { ClientMessageInput, ServerMessage, Status } from '@cork-elbow/core/contract';
import { buildApp, type Bounds } from '../src/app';

/** Where the threads are bundled once for all tests. */
const bundled = new URL('../../.cache/server-threads/', import.meta.url);

export interface Running {
  url: string;
  folder: string;
  get(path: string): Promise<{ status: number; body: any }>;
  send(
    method: string,
    path: string,
    body: unknown,
    headers?: Record<string, string>,
  ): Promise<{ status: number; body: any }>;
  live(): Promise<Page>;
  close(keep?: boolean): Promise<void>;
}
export interface Page {
  say(message: ClientMessageInput): void;
  raw(text: string): void;
  /** It no longer answers whether it is there; or does again. */
  freeze(frozen?: boolean): void;
  /** The next message for which `test` holds, also among those already heard. */
  until<T extends ServerMessage>(test: (message: ServerMessage) => message is T): Promise<T>;
  until(test: (message: ServerMessage) => boolean): Promise<ServerMessage>;
  heard: ServerMessage[];
  close(): void;
}

/** The real server on a free port with a data folder of its own. */
export async function start(
  options: { folder?: string; demo?: boolean; bounds?: Partial<Bounds>; webFolder?: string } = {},
): Promise<Running> {
  const folder = options.folder ?? (await mkdtemp(join(tmpdir(), 'cork-elbow-')));
  const app = await buildApp({
    dataFolder: folder,
    migrations: new URL('../drizzle', import.meta.url).pathname,
    workerUrl: new URL('worker.js', bundled),
    computeUrl: new URL('compute.js', bundled),
    // A busy computer is no fault.
    bounds: { seconds: 60, ...options.bounds },
    version: 'test',
    demo: options.demo ?? true,
    networkHost: '127.0.0.1',
    ...(options.webFolder ? { webFolder: options.webFolder } : {}),
  });
  const url = await app.listen({ host: '127.0.0.1', port: 0 });
  const answer = async (response: Response): Promise<{ status: number; body: any }> => {
    const text = await response.text();
    return { status: response.status, body: text ? JSON.parse(text) : null };
  };
  return {
    url,
    folder,
    get: async (path) => answer(await fetch(url + path)),
    send: async (method, path, body, headers = {}) =>
      answer(
        await fetch(url + path, {
          method,
          body: typeof body === 'string' ? body : JSON.stringify(body),
          headers: { ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
        }),
      ),
    live: () => page(url.replace('http', 'ws') + '/api/live'),
    async close(keep = false) {
      await app.close();
      if (!keep) await rm(folder, { recursive: true, force: true });
    },
  };
}

/** What a run says that went as it should; that the computer was away meanwhile is no fault of it. */
export const CALM = /^$|^The computer or the line to a board was busy/;

/** What a page waits for. */
export const status =
  (test: (s: Status) => boolean) =>
  (m: ServerMessage): m is Extract<ServerMessage, { type: 'status' }> =>
    m.type === 'status' && test(m.status);
export const refused = (m: ServerMessage): m is Extract<ServerMessage, { type: 'refused' }> => m.type === 'refused';

async function page(url: string): Promise<Page> {
  const socket = new WebSocket(url);
  const heard: ServerMessage[] = [];
  const waiting = new Set<() => void>();
  let read = 0;
  const isThere = { now: true };
  socket.on('message', (data) => {
    const message = JSON.parse(String(data)) as ServerMessage;
    // As a page that is alive does.
    if (message.type === 'ping') return isThere.now ? socket.send('{"type":"beat"}') : undefined;
    heard.push(message);
    waiting.forEach((wake) => wake());
  });
  await new Promise<void>((done, fail) => socket.once('open', done).once('error', fail));
  return {
    heard,
    say: (message) => socket.send(JSON.stringify(message)),
    raw: (text) => socket.send(text),
    freeze: (frozen = true) => void (isThere.now = !frozen),
    async until(test: (message: ServerMessage) => boolean) {
      for (;;) {
        while (read < heard.length) if (test(heard[read++])) return heard[read - 1] as never;
        await new Promise<void>((done) => {
          const wake = (): void => {
            waiting.delete(wake);
            done();
          };
          waiting.add(wake);
        });
      }
    },
    close: () => socket.close(),
  };
}
