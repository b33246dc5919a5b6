/** The catalogue's own kinds of motor. */
import { z } from 'zod';
import { motorList, motorsBody } from '@cork-elbow/core/contract';
import { faulty, writes, type Api } from '../api';
import { listMotors, putMotors, removeMotor } from '../db/motors';
import type { Store } from '../db/open';
import { MOTORS_LIMIT } from '../limits';

const tags = ['motors'];

export function motorRoutes(api: Api, store: Store): void {
  api.get(
    '/api/motors',
    { schema: { tags, summary: 'Kinds of motor that were added to the catalogue.', response: { 200: motorList } } },
    async () => ({ motors: await listMotors(store) }),
  );
  api.put(
    '/api/motors',
    {
      ...writes,
      bodyLimit: MOTORS_LIMIT,
      schema: {
        tags,
        summary: 'Adds kinds of motor; one with a known id takes its place.',
        body: motorsBody,
        response: { 200: motorList, ...faulty(400, 413, 429) },
      },
    },
    async ({ body }) => ({ motors: await putMotors(store, body.motors) }),
  );
  api.delete(
    '/api/motors/:id',
    {
      schema: {
        tags,
        summary: 'Takes a kind of motor out of the catalogue; rigs that use its figures keep them.',
        params: z.strictObject({ id: z.string().describe('id of the kind') }),
        response: { 204: z.null().describe('gone'), ...faulty(404) },
      },
    },
    async ({ params: { id } }, reply) => {
      await removeMotor(store, id);
      return reply.status(204).send(null);
    },
  );
}
