import { z } from 'zod';
import {
  calibrationBody,
  calibrationEntry,
  calibrationList,
  rigAnswer,
  rigList,
  savedAnswer,
} from '@cork-elbow/core/contract';
import { fault } from '@cork-elbow/core/findings';
import { MAX_RIG_BYTES, rigSchema, type Rig } from '@cork-elbow/core/rig';
import type { Calls } from '../calls';
import type { Store } from '../db/open';
import { addCalibration, listCalibrations } from '../db/calibrations';
import { createRig, deleteRig, getRig, listRigs, saveRig } from '../db/rigs';
import { listRuns } from '../db/runs';
import { ApiError, refuse } from '../errors';
import { admitRig } from '../rig-door';

const newRigBody = z.strictObject({ rig: rigSchema, id: z.string().optional() });
const saveBody = z.strictObject({ revision: z.number().int(), rig: rigSchema });
const runList = z.strictObject({
  runs: z.array(
    z.strictObject({
      id: z.string(),
      rigId: z.string(),
      revision: z.number(),
      buildId: z.string(),
      routineId: z.string(),
      routineName: z.string(),
      board: z.string(),
      startedAt: z.string(),
      endedAt: z.string().nullable(),
      outcome: z.string().nullable(),
      durationMs: z.number().nullable(),
      worstError: z.string().nullable(),
    }),
  ),
});

/** What passes the door and is not too large: nothing else is ever saved. */
function saveable(input: unknown): Rig {
  const { rig } = admitRig(input);
  const bytes = Buffer.byteLength(JSON.stringify(rig));
  if (bytes > MAX_RIG_BYTES) throw new ApiError('rig-too-large', { gotMb: bytes / 1e6, maxMb: MAX_RIG_BYTES / 1e6 });
  return rig;
}

export function rigRoutes(calls: Calls, store: Store): void {
  calls.add({
    method: 'GET',
    url: '/api/rigs',
    summary: 'All rigs on the shelf, last changed first.',
    answer: rigList,
    handler: async () => ({ rigs: await listRigs(store) }),
  });
  calls.add({
    method: 'POST',
    url: '/api/rigs',
    summary: 'Puts a rig on the shelf.',
    body: newRigBody,
    answer: rigAnswer,
    raw: true,
    handler: async (body, _params, reply) => {
      const created = await createRig(store, saveable(body.rig), typeof body.id === 'string' ? body.id : undefined);
      void reply.status(201);
      return created;
    },
  });
  calls.add({
    method: 'GET',
    url: '/api/rigs/:id',
    summary: 'One rig with its revision.',
    answer: rigAnswer,
    handler: (_body: unknown, { id }) => getRig(store, id),
  });
  calls.add({
    method: 'PUT',
    url: '/api/rigs/:id',
    summary: 'Saves a rig over the revision it was read at; 409 { revision, rig } where it was changed meanwhile.',
    body: saveBody,
    answer: savedAnswer,
    raw: true,
    handler: async (body, { id }, reply) => {
      if (!Number.isInteger(body.revision))
        refuse([
          fault('shape', 'revision', 'a whole number', String(body.revision), { problem: 'must be a whole number' }),
        ]);
      const saved = await saveRig(store, id, body.revision, saveable(body.rig));
      if ('conflict' in saved) {
        const { revision, rig, updatedAt } = saved.conflict;
        const error = new ApiError('revision-conflict', { revision, yours: body.revision });
        void reply.status(409).send({ ...error.body(), revision, updatedAt, rig });
        return reply as never;
      }
      return saved;
    },
  });
  calls.add({
    method: 'DELETE',
    url: '/api/rigs/:id',
    summary: 'Takes a rig and its run log off the shelf.',
    answer: null,
    handler: async (_body: unknown, { id }, reply) => {
      await deleteRig(store, id);
      void reply.status(204).send();
      return reply as never;
    },
  });
  calls.add({
    method: 'GET',
    url: '/api/rigs/:id/runs',
    summary: 'The last fifty runs of a rig.',
    answer: runList,
    handler: async (_body: unknown, { id }) => ({ runs: await listRuns(store, id) }),
  });
  calls.add({
    method: 'GET',
    url: '/api/rigs/:id/builds/:build/calibrations',
    summary: 'What was measured on a build, the latest first.',
    answer: calibrationList,
    handler: async (_body: unknown, { id, build }) => ({ calibrations: await listCalibrations(store, id, build) }),
  });
  calls.add({
    method: 'POST',
    url: '/api/rigs/:id/builds/:build/calibrations',
    summary: 'Writes a measurement into a build’s history; the rig itself is not changed.',
    body: calibrationBody,
    answer: calibrationEntry,
    handler: async ({ fact, note }, { id, build }, reply) => {
      const { rig } = await getRig(store, id);
      if (!rig.builds.some((b) => b.id === build)) throw new ApiError('not-found', { kind: 'build', id: build });
      void reply.status(201);
      return addCalibration(store, id, build, fact, note);
    },
  });
}
