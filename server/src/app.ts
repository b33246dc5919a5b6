/** Builds the server without listening: guards, calls, the live connection, and the built pages where they are. */
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import compress from '@fastify/compress';
import helmet from '@fastify/helmet';
import fastifyStatic from '@fastify/static';
import rateLimit from '@fastify/rate-limit';
import websocket from '@fastify/websocket';
import Fastify, { type FastifyInstance } from 'fastify';
import { healthAnswer } from '@cork-elbow/core/contract';
import { describeCalls } from './api';
import { openStore, type Store } from './db/open';
import { allIds, addRow } from './db/rigs';
import { troubleOf } from './db/trouble';
import { saveableOf } from './compute/doors';
import { AGAIN_S, Pool, type PoolOptions } from './compute/pool';
import { apiError, ApiError } from './errors';
import { Network } from './network/network';
import { backupRoutes } from './routes/backup';
import { catalogueRoutes, computedRoutes } from './routes/computed';
import { linkRoutes } from './routes/links';
import { motorRoutes } from './routes/motors';
import { networkRoutes, pairRoutes } from './routes/network';
import { presetRoutes } from './routes/presets';
import { rigRoutes } from './routes/rigs';
import { runRoutes } from './routes/runs';
import { live, type Live } from './run/live';
import { guard } from './security';
import { Shelf } from './shelf';
import { demoRigs } from '@cork-elbow/demo';

export interface AppOptions {
  readonly dataFolder: string;
  readonly migrations: string;
  /** The run's thread, and those that compute. */
  readonly workerUrl: URL;
  readonly computeUrl: URL;
  readonly bounds?: Partial<Bounds>;
  /** Folder of the built web app; left out while Vite serves it. */
  readonly webFolder?: string;
  readonly version: string;
  /** Further host names this server answers to. */
  readonly hosts?: readonly string[];
  /** Further origins whose pages are its own, in development. */
  readonly origins?: readonly string[];
  /** Put the demo rigs on an empty shelf. */
  readonly demo?: boolean;
  /** Address at which devices of the network are listened for, once that was opened; left out: all of this computer's. */
  readonly networkHost?: string;
  readonly logger?: boolean;
}

/** What computing may take. */
export interface Bounds {
  /** Seconds that one call may compute. */
  readonly seconds: number;
  /** Calls computed at once. */
  readonly threads: number;
  /** Calls that may wait. */
  readonly queue: number;
  /** Saves and the like in one minute. */
  readonly writesPerMinute: number;
}
const bounds: Bounds = {
  seconds: 10,
  // One core stays for the server and the run.
  threads: Math.max(1, Math.min(4, availableParallelism() - 1)),
  queue: 32,
  // Far more than hands can do; a script that runs wild fills no disk.
  writesPerMinute: 1200,
};

export async function buildApp(options: AppOptions): Promise<FastifyInstance> {
  const limits = { ...bounds, ...options.bounds };
  const app = Fastify({
    logger: options.logger ? { level: 'warn' } : false,
    bodyLimit: 64 * 1024,
    // Whoever does not read to the end holds up no stop.
    forceCloseConnections: true,
  });
  const store = await openStore(options.dataFolder, options.migrations);
  if (options.demo) await seed(store);
  const pooled: PoolOptions = {
    ...{ ...limits, url: options.computeUrl },
    rig: (id) => shelf.saved(id),
  };
  const pool = new Pool(pooled);
  // What is saved and opened never waits behind what computes.
  const doors = new Pool({ ...pooled, threads: 1, queue: 256 });
  const shelf = new Shelf(store, doors);
  // Every rig is looked at once while the server begins; a server that ends meanwhile waits for the one it is at.
  let isClosing = false;
  let looking = Promise.resolve();
  app.addHook('onClose', async () => {
    isClosing = true;
    await Promise.all([pool.close(), doors.close()]);
    await looking;
    await store.close();
  });

  const network = await Network.of(app, options.dataFolder, options.networkHost ?? '0.0.0.0');
  await guard(app, {
    network,
    hosts: options.hosts ?? [],
    origins: options.origins ?? [],
    tokenFile: join(options.dataFolder, 'page-token.txt'),
  });
  await app.register(helmet, {
    contentSecurityPolicy: {
      directives: {
        defaultSrc: ["'self'"],
        styleSrc: ["'self'", "'unsafe-inline'"],
        workerSrc: ["'self'", 'blob:'],
        imgSrc: ["'self'", 'data:', 'blob:'],
        connectSrc: ["'self'"],
        upgradeInsecureRequests: null,
      },
    },
    strictTransportSecurity: false,
  });
  await app.register(rateLimit, {
    global: false,
    max: limits.writesPerMinute,
    timeWindow: '1 minute',
    errorResponseBuilder: (_request, { ttl }) =>
      apiError('writes-too-many', { most: limits.writesPerMinute, afterS: Math.ceil(ttl / 1000) }),
  });
  // Pages are made small as they are built.
  await app.register(compress, { threshold: SMALL, encodings: ['gzip', 'deflate'], zlibOptions: { level: 4 } });
  await app.register(websocket, { options: { maxPayload: 64 * 1024 } });

  app.setErrorHandler((error: Error & { code?: string; statusCode?: number }, request, reply) => {
    const trouble = troubleOf(error, store.file);
    const known = trouble instanceof ApiError ? trouble : fromFastify(error, request.routeOptions.bodyLimit);
    if (known?.code === 'body-too-large') {
      // The rest of it is let pass: who is cut off while it writes never hears why.
      reply.removeHeader('connection');
      request.raw.resume();
    }
    if (known?.code === 'server-busy') reply.header('retry-after', AGAIN_S);
    if (known) return reply.status(known.status).send(known.body());
    const id = randomUUID();
    const told = inShort(error);
    app.log.error({ id, ...told });
    if (!options.logger) console.error(id, told);
    return reply.status(500).send(apiError('internal', { id }).body());
  });

  const api = await describeCalls(app, options.version);
  api.get(
    '/api/health',
    { schema: { tags: ['health'], summary: 'Whether calls are served.', response: { 200: healthAnswer } } },
    () => ({ ok: true as const, version: options.version }),
  );
  const runsNow = (): string | null => connection?.runs ?? null;
  let connection: Live | null = null;
  await rigRoutes(app, shelf, runsNow);
  motorRoutes(api, store);
  linkRoutes(api, store);
  runRoutes(api, store, () => connection?.runId ?? null);
  presetRoutes(api);
  networkRoutes(api, network);
  await pairRoutes(app, network);
  catalogueRoutes(api);
  await computedRoutes(app, pool);
  await backupRoutes(app, shelf, doors, options.migrations, runsNow);

  await app.register(async (scope) => {
    const made = (connection = live(scope, shelf, network, options.workerUrl, options.version));
    scope.addHook('onClose', () => made.close());
  });

  const pages = options.webFolder && existsSync(options.webFolder) ? options.webFolder : null;
  if (pages)
    await app.register(fastifyStatic, {
      root: pages,
      wildcard: false,
      // As the build has left them beside the files.
      preCompressed: true,
      cacheControl: false,
      // What carries a hash of its contents in its name never changes; all else is asked for each time.
      setHeaders: (reply, path) =>
        void reply.setHeader(
          'cache-control',
          path.startsWith(join(pages, 'assets')) ? 'public, max-age=31536000, immutable' : 'no-cache',
        ),
    });
  app.setNotFoundHandler((request, reply) => {
    if (pages && request.method === 'GET' && !request.url.startsWith('/api/')) return reply.sendFile('index.html');
    return reply
      .status(404)
      .send(apiError('no-such-call', { method: request.method, path: request.url.split('?')[0] }).body());
  });
  app.addHook('onListen', async () => {
    const served = store.servesAt(app.listeningOrigin);
    // Closing waits for it from here on: by then nothing asks a database that is closed.
    looking = served.then(
      () => shelf.lookThrough(() => isClosing),
      () => undefined,
    );
    await served;
  });
  return app;
}

/** Answers up to so many bytes go as they are. */
const SMALL = 4096;

/** `most`: bytes that the call takes as its body. */
function fromFastify(error: { code?: string; message: string }, most = 0): ApiError | null {
  if (error.code === 'FST_ERR_CTP_BODY_TOO_LARGE') return apiError('body-too-large', { maxMb: most / 1e6 });
  if (error.code === 'FST_ERR_CTP_EMPTY_JSON_BODY') return apiError('bad-json', { problem: 'it is empty' });
  if (error.code === 'FST_ERR_CTP_INVALID_JSON_BODY' || error instanceof SyntaxError)
    return apiError('bad-json', { problem: error.message });
  if (error.code === 'FST_ERR_CTP_INVALID_MEDIA_TYPE')
    return apiError('bad-json', { problem: 'the content type should be application/json' });
  return null;
}

/** What is written to the log of an error: never a document that it carries. */
function inShort(error: Error): { message: string; stack: string } {
  const cause = error.cause instanceof Error ? error.cause : error;
  const short = (text: string): string => (text.length > LONGEST ? `${text.slice(0, LONGEST)} …` : text);
  return { message: short(cause.message), stack: (cause.stack ?? '').split('\n').slice(1, 8).map(short).join('\n') };
}
const LONGEST = 300;

async function seed(store: Store): Promise<void> {
  if ((await allIds(store)).length) return;
  for (const { id, rig } of demoRigs()) await addRow(store, saveableOf(rig), id);
}
