/** Builds the server without listening: guards, calls, the live connection, and the built pages where they are. */
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import helmet from '@fastify/helmet';
import fastifyStatic from '@fastify/static';
import websocket from '@fastify/websocket';
import Fastify, { type FastifyInstance } from 'fastify';
import { healthAnswer } from '@cork-elbow/core/contract';
import { describeCalls } from './api';
import { openStore, type Store } from './db/open';
import { createRig, listRigs } from './db/rigs';
import { apiError, ApiError } from './errors';
import { computeRoutes } from './routes/compute';
import { fileRoutes } from './routes/files';
import { motorRoutes } from './routes/motors';
import { presetRoutes } from './routes/presets';
import { rigRoutes } from './routes/rigs';
import { searchRoutes } from './routes/searches';
import { live } from './run/live';
import { guard } from './security';
import { demoRigs } from '@cork-elbow/demo';

export interface AppOptions {
  readonly dataFolder: string;
  readonly migrations: string;
  readonly workerUrl: URL;
  /** Folder of the built web app; left out while Vite serves it. */
  readonly webFolder?: string;
  readonly version: string;
  /** Further host names this server answers to. */
  readonly hosts?: readonly string[];
  /** Put the demo rigs on an empty shelf. */
  readonly demo?: boolean;
  readonly logger?: boolean;
}

export async function buildApp(options: AppOptions): Promise<FastifyInstance> {
  const app = Fastify({ logger: options.logger ? { level: 'warn' } : false, bodyLimit: 64 * 1024 });
  const store = await openStore(options.dataFolder, options.migrations);
  if (options.demo) await seed(store);

  guard(app, options.hosts);
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
  await app.register(websocket, { options: { maxPayload: 64 * 1024 } });

  app.setErrorHandler((error: Error & { code?: string; statusCode?: number }, request, reply) => {
    const known = error instanceof ApiError ? error : fromFastify(error, request.routeOptions.bodyLimit);
    if (known) return reply.status(known.status).send(known.body());
    const id = randomUUID();
    app.log.error({ id, error });
    if (!options.logger) console.error(id, error);
    return reply.status(500).send(apiError('internal', { id }).body());
  });

  const api = await describeCalls(app, options.version);
  api.get(
    '/api/health',
    { schema: { tags: ['health'], summary: 'Whether calls are served.', response: { 200: healthAnswer } } },
    () => ({ ok: true as const, version: options.version }),
  );
  rigRoutes(api, store);
  motorRoutes(api, store);
  presetRoutes(api);
  computeRoutes(api, store);
  searchRoutes(api, store);
  fileRoutes(api, store);

  await app.register(async (scope) => {
    const connection = live(scope, store, options.workerUrl);
    scope.addHook('onClose', () => connection.close());
  });
  app.addHook('onClose', () => store.close());

  const pages = options.webFolder && existsSync(options.webFolder) ? options.webFolder : null;
  if (pages) await app.register(fastifyStatic, { root: pages, wildcard: false });
  app.setNotFoundHandler((request, reply) => {
    if (pages && request.method === 'GET' && !request.url.startsWith('/api/')) return reply.sendFile('index.html');
    return reply
      .status(404)
      .send(apiError('no-such-call', { method: request.method, path: request.url.split('?')[0] }).body());
  });
  return app;
}

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

async function seed(store: Store): Promise<void> {
  if ((await listRigs(store)).length) return;
  for (const { id, rig } of demoRigs()) await createRig(store, rig, id);
}
