/** Offers the calls that compute: their bodies go as they come to the pool, which checks them and writes the answers. */
import type { FastifyInstance, FastifyReply } from 'fastify';
import type { ZodTypeProvider } from 'fastify-type-provider-zod';
import { exportsAnswer, importsAnswer } from '@cork-elbow/core/contract';
import { exportList, optionsSchema } from '@cork-elbow/core/exports';
import { importList } from '@cork-elbow/core/imports';
import { faulty, type Api } from '../api';
import { calls } from '../compute/calls';
import type { Pool } from '../compute/pool';

/** Whoever asked has left before the answer. */
export function leaves({ raw }: FastifyReply): AbortSignal {
  const gone = new AbortController();
  raw.once('close', () => {
    if (!raw.writableFinished) gone.abort();
  });
  return gone.signal;
}

/** Within `app` bodies stay bytes. */
export function takeBytes(app: FastifyInstance): void {
  app.removeContentTypeParser('application/json');
  app.addContentTypeParser('application/json', { parseAs: 'buffer' }, (_request, body, done) => done(null, body));
}

export async function computedRoutes(app: FastifyInstance, pool: Pool): Promise<void> {
  await app.register(async (scope) => {
    takeBytes(scope);
    const api: Api = scope.withTypeProvider<ZodTypeProvider>();
    for (const { path, tag, summary, body, answer, bodyLimit } of calls)
      api.post(
        path,
        {
          bodyLimit,
          validatorCompiler: () => () => true,
          schema: {
            tags: [tag],
            summary,
            body,
            response: { 200: answer, ...faulty(400, 404, 409, 413, 422, 503) },
          },
        },
        async (request, reply) => {
          const given = (request.body as Uint8Array | undefined) ?? null;
          const { accept } = request.headers;
          const told = await pool.ask(path, given, { words: `POST ${path}`, accept, gone: leaves(reply) });
          if (!('body' in told)) throw new Error(`no answer of ${path}`);
          return reply.type(told.type).send(told.body as never);
        },
      );
  });
}

export function catalogueRoutes(api: Api): void {
  api.get(
    '/api/export',
    {
      schema: {
        tags: ['files'],
        summary: 'What can be written of a rig, and its options.',
        response: { 200: exportsAnswer },
      },
    },
    () =>
      exportList.map(({ id, name, says, takes, options }) => ({
        ...{ id, name, says, takes: [...takes], options: { ...optionsSchema(options) } },
      })),
  );
  api.get(
    '/api/import',
    { schema: { tags: ['files'], summary: 'What a rig can take in as text.', response: { 200: importsAnswer } } },
    () =>
      importList.map(({ id, name, says, endings, options }) => ({
        ...{ id, name, says, endings: [...endings], options: { ...optionsSchema(options) } },
      })),
  );
}
