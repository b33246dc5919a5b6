/**
 * Starts the server from settings in the environment: HOST, PORT, CORK_ELBOW_DATA, CORK_ELBOW_SECONDS, CORK_ELBOW_WORKERS,
 * CORK_ELBOW_WRITES; see README.
 */
import { existsSync } from 'node:fs';
import { createServer } from 'node:net';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { buildApp, type Bounds } from './app';
import { apiError, ApiError } from './errors';

const here = dirname(fileURLToPath(import.meta.url));
const bundled = existsSync(join(here, 'worker.js'));
const root = resolve(here, '../..');
const host = process.env.HOST ?? '127.0.0.1';
/** Names by which only this computer itself is meant. */
const HERE = ['127.0.0.1', 'localhost', '::1'];
const wished = Number(process.env.PORT ?? 4310);
const LAST_TRY = 20;

/** Whether the port can be listened on now. */
const isFree = (port: number): Promise<boolean> =>
  new Promise((done) => {
    const probe = createServer();
    probe.once('error', () => done(false));
    probe.listen(port, host, () => probe.close(() => done(true)));
  });

async function freePort(): Promise<number> {
  if (!Number.isInteger(wished) || wished < 0 || wished > 65535)
    throw new Error(`PORT is “${process.env.PORT}”; a whole number from 0 to 65535 is allowed.`);
  for (let port = wished; port < wished + LAST_TRY; port++) {
    if (port === 0 || (await isFree(port))) return port;
    console.log(`Port ${port} is taken by another program; trying ${port + 1}.`);
  }
  throw new Error(`The ports ${wished} to ${wished + LAST_TRY - 1} are all taken. Set PORT to a free one.`);
}

/** A setting of the environment as a number; none where it is not set. */
function setting(name: string, min: number, max: number): number | undefined {
  const text = process.env[name];
  if (!text) return undefined;
  const value = Number(text);
  if (!(value >= min && value <= max)) throw new Error(`${name} is “${text}”; ${min} to ${max} is allowed.`);
  return value;
}
function boundsSet(): Partial<Bounds> {
  const seconds = setting('CORK_ELBOW_SECONDS', 0.1, 3600);
  const threads = setting('CORK_ELBOW_WORKERS', 1, 64);
  const writesPerMinute = setting('CORK_ELBOW_WRITES', 1, 1e6);
  return {
    ...(seconds ? { seconds } : {}),
    ...(threads ? { threads: Math.round(threads) } : {}),
    ...(writesPerMinute ? { writesPerMinute } : {}),
  };
}

try {
  // Who is not on this computer comes by the other door, with HTTPS and paired.
  if (!HERE.includes(host)) throw apiError('host-not-here', { host, names: HERE.join(', ') });
  const port = await freePort();
  const app = await buildApp({
    dataFolder: resolve(process.env.CORK_ELBOW_DATA ?? join(root, 'data')),
    migrations: join(root, 'server/drizzle'),
    workerUrl: new URL(bundled ? './worker.js' : './run/worker-dev.mjs', import.meta.url),
    computeUrl: new URL(bundled ? './compute.js' : './compute/worker-dev.mjs', import.meta.url),
    bounds: boundsSet(),
    webFolder: join(root, 'web/dist'),
    version: process.env.npm_package_version ?? '0.1.0',
    origins: (process.env.CORK_ELBOW_ORIGINS ?? '').split(' ').filter(Boolean),
    demo: process.argv.includes('--demo'),
    logger: true,
  });
  const address = await app.listen({ host, port });
  console.log(`Cork Elbow is at ${address}  (stop it with Ctrl+C)`);
  process.send?.({ address });
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.once(signal, () => void app.close().finally(() => process.exit(0)));
} catch (error) {
  const { message } = error as Error;
  const body = error instanceof ApiError ? error.body() : null;
  console.error([message, body?.remedy].filter(Boolean).join(' '));
  // Served already is no failure: whoever starts it twice is told where to look.
  process.exit(body?.code === 'data-in-use' ? 0 : 1);
}
