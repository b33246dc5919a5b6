/** The whole shelf as one file, and back. */
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Transform } from 'node:stream';
import type { FastifyInstance } from 'fastify';
import type { ZodTypeProvider } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { restoredAnswer } from '@cork-elbow/core/contract';
import { faulty, writes } from '../api';
import type { Pool } from '../compute/pool';
import { stamp } from '../db/open';
import { troubleOf } from '../db/trouble';
import { apiError } from '../errors';
import type { Shelf } from '../shelf';

const tags = ['rigs'];
const TYPE = 'application/vnd.sqlite3';
/** Most bytes of a file that is put back. */
const MOST = 512 * 1024 * 1024;

export async function backupRoutes(
  app: FastifyInstance,
  shelf: Shelf,
  doors: Pool,
  migrations: string,
  runsNow: () => string | null,
): Promise<void> {
  const { store } = shelf;
  const door = (name: string, paths: object): Promise<unknown> =>
    doors.ask(name, Buffer.from(JSON.stringify(paths)), { words: 'The backup' });
  const aside = async (): Promise<string> => {
    await mkdir(store.copies, { recursive: true });
    return join(store.copies, `${randomUUID()}.part`);
  };

  await app.register(async (scope) => {
    // The file goes to the disk as it comes.
    scope.removeAllContentTypeParsers();
    scope.addContentTypeParser([TYPE, 'application/octet-stream'], (_request, payload, done) => done(null, payload));
    const api = scope.withTypeProvider<ZodTypeProvider>();
    api.get(
      '/api/backup',
      {
        schema: {
          tags,
          summary: 'Everything on the shelf, with measurements and run logs, as one SQLite file.',
          response: { 200: z.string().describe('the file'), ...faulty(503, 507) },
        },
      },
      async (_request, reply) => {
        const copy = await aside();
        const clear = (): void => void rm(copy, { force: true });
        try {
          await door('copy', { file: store.file, into: copy });
        } catch (error) {
          clear();
          throw error;
        }
        const file = createReadStream(copy).once('close', clear);
        return reply
          .type(TYPE)
          .header('content-disposition', `attachment; filename="cork-elbow-${stamp()}.sqlite"`)
          .send(file as never);
      },
    );
    api.post(
      '/api/restore',
      {
        ...writes,
        bodyLimit: MOST,
        validatorCompiler: () => () => true,
        schema: {
          tags,
          summary: `Puts a backup in the place of everything on the shelf; what was there is kept in the folder “copies” beside it. The file is the body, as ${TYPE}.`,
          consumes: [TYPE],
          body: z.string().describe('the file'),
          response: { 200: restoredAnswer, ...faulty(400, 409, 413, 429, 503, 507) },
        },
      },
      async (request) => {
        if (runsNow() !== null) throw apiError('restore-runs');
        const body = request.body as unknown as NodeJS.ReadableStream | undefined;
        if (!body) throw apiError('restore-empty');
        const copy = await aside();
        try {
          let bytes = 0;
          const measured = new Transform({
            transform(piece: Buffer, _encoding, done) {
              bytes += piece.length;
              done(bytes > MOST ? apiError('body-too-large', { maxMb: MOST / 1e6 }) : null, piece);
            },
          });
          await pipeline(body, measured, createWriteStream(copy));
          if (!bytes) throw apiError('restore-empty');
          await door('check', { file: copy, named: 'The file', migrations });
          if (runsNow() !== null) throw apiError('restore-runs');
          await store.replaceBy(copy);
        } catch (error) {
          throw troubleOf(error, copy);
        } finally {
          for (const end of ['', '-wal', '-shm']) await rm(copy + end, { force: true });
        }
        await shelf.lookThrough();
        return { rigs: (await shelf.list()).length };
      },
    );
  });
}
