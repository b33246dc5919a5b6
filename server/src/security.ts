/**
 * Loopback, and devices of the local network once it was opened to them (network/): calls with another Host or from another page's Origin are refused, on HTTP and WebSocket alike, those of other programs
 * on this computer too. A page proves itself with a token that it got as it was loaded; scripts, which have no Origin, need none.
 */
import { randomBytes, timingSafeEqual } from 'node:crypto';
import { readFile, writeFile } from 'node:fs/promises';
import { parse, serialize } from 'cookie';
import type { FastifyInstance, FastifyRequest } from 'fastify';
import { apiError } from './errors';
import { Network } from './network/network';

const LOOPBACK = ['127.0.0.1', 'localhost', '[::1]'];
const COOKIE = 'cork-elbow-page';

export interface Guard {
  /** Further host names (with or without port) this server answers to, e.g. when HOST was set. */
  readonly hosts?: readonly string[];
  /** Further origins whose pages are its own: those of a server of pages in development. */
  readonly origins?: readonly string[];
  /** Where the token of its pages is kept, so that they outlive a restart. */
  readonly tokenFile: string;
  /** Lets devices of the local network in. */
  readonly network: Network;
}

async function tokenIn(file: string): Promise<string> {
  const kept = await readFile(file, 'utf8').catch(() => '');
  if (/^[\da-f]{64}$/.test(kept)) return kept;
  const made = randomBytes(32).toString('hex');
  await writeFile(file, made, { mode: 0o600 });
  return made;
}

export async function guard(
  app: FastifyInstance,
  { hosts = [], origins = [], tokenFile, network }: Guard,
): Promise<void> {
  const names = new Set([...LOOPBACK, ...hosts]);
  const known = (host: string): boolean => names.has(host) || names.has(host.replace(/:\d+$/, ''));
  const token = Buffer.from(await tokenIn(tokenFile));
  const isOurs = (request: FastifyRequest): boolean => {
    const given = Buffer.from(parse(request.headers.cookie ?? '')[COOKIE] ?? '');
    return given.length === token.length && timingSafeEqual(given, token);
  };
  // A line that is refused is closed: whoever asked for it may never read that.
  app.addHook('onResponse', async ({ headers, raw }, { statusCode }) => {
    if (headers.upgrade !== undefined && statusCode >= 400) raw.socket.destroySoon();
  });
  app.addHook('onRequest', async (request, reply) => {
    if (Network.isFrom(request)) return network.admit(request, reply);
    const { host, origin, upgrade, 'sec-fetch-site': site } = request.headers;
    if (!host || !known(host)) throw apiError('host-refused', { host: host ?? '' });
    if (origin !== undefined) {
      let from: URL;
      try {
        from = new URL(origin);
      } catch {
        throw apiError('origin-refused', { origin });
      }
      // The same name at another port is another program.
      if (from.host !== host && !origins.includes(from.origin)) throw apiError('origin-refused', { origin });
      if (upgrade !== undefined && !isOurs(request)) throw apiError('page-unknown');
      return;
    }
    if (request.method === 'GET' && (site === 'same-origin' || site === 'none') && !isOurs(request))
      reply.header(
        'set-cookie',
        serialize(COOKIE, token.toString(), { path: '/', httpOnly: true, sameSite: 'strict' }),
      );
  });
}
