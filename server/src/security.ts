/** Loopback only: calls with another Host or from another page's Origin are refused, on HTTP and WebSocket alike. */
import type { FastifyInstance } from 'fastify';
import { apiError } from './errors';

const LOOPBACK = ['127.0.0.1', 'localhost', '[::1]'];

/** `allowed`: further host names (with or without port) this server answers to, e.g. when HOST was set. */
export function guard(app: FastifyInstance, allowed: readonly string[] = []): void {
  const names = new Set([...LOOPBACK, ...allowed]);
  const known = (host: string): boolean => names.has(host) || names.has(host.replace(/:\d+$/, ''));
  app.addHook('onRequest', async (request) => {
    const { host, origin } = request.headers;
    if (!host || !known(host)) throw apiError('host-refused', { host: host ?? '' });
    if (origin === undefined) return;
    let from: string;
    try {
      from = new URL(origin).host;
    } catch {
      throw apiError('origin-refused', { origin });
    }
    if (!known(from)) throw apiError('origin-refused', { origin });
  });
}
