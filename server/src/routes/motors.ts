/** The catalogue's own kinds of motor. */
import { motorList, motorsBody } from '@cork-elbow/core/contract';
import type { Calls } from '../calls';
import { listMotors, putMotors, removeMotor } from '../db/motors';
import type { Store } from '../db/open';

export function motorRoutes(calls: Calls, store: Store): void {
  calls.add({
    method: 'GET',
    url: '/api/motors',
    summary: 'Kinds of motor that were added to the catalogue.',
    answer: motorList,
    handler: async () => ({ motors: await listMotors(store) }),
  });
  calls.add({
    method: 'PUT',
    url: '/api/motors',
    summary: 'Adds kinds of motor; one with a known id takes its place.',
    body: motorsBody,
    answer: motorList,
    handler: async (body) => ({ motors: await putMotors(store, body.motors) }),
  });
  calls.add({
    method: 'DELETE',
    url: '/api/motors/:id',
    summary: 'Takes a kind of motor out of the catalogue; rigs that use its figures keep them.',
    answer: null,
    handler: async (_body: unknown, { id }, reply) => {
      await removeMotor(store, id);
      void reply.status(204).send();
      return reply as never;
    },
  });
}
