import { z } from 'zod';
import {
  contractFindings,
  calibrationBody,
  calibrationEntry,
  calibrationList,
  newRigBody,
  rigAnswer,
  rigList,
  runList,
  saveBody,
  savedAnswer,
} from '@cork-elbow/core/contract';
import { errorBodySchema } from '@cork-elbow/core/findings';
import { MAX_RIG_BYTES, type Rig } from '@cork-elbow/core/rig';
import { DOCUMENT_LIMIT, faulty, type Api } from '../api';
import type { Store } from '../db/open';
import { addCalibration, listCalibrations } from '../db/calibrations';
import { createRig, deleteRig, getRig, listRigs, saveRig } from '../db/rigs';
import { listRuns } from '../db/runs';
import { apiError, refuse } from '../errors';
import { admitRig } from '../rig-door';

const { fault } = contractFindings;

const tags = ['rigs'];
const ofRig = z.strictObject({ id: z.string().describe('id of the rig on the shelf') });
const ofBuild = ofRig.extend({ build: z.string().describe('id of one of its builds') });

/** Bodies with a document are described by its schema and checked by the door: it knows older versions too. */
const byTheDoor = { bodyLimit: DOCUMENT_LIMIT, validatorCompiler: () => () => true };
function objectOf(body: unknown): Record<string, unknown> {
  if (typeof body !== 'object' || body === null) throw apiError('body-missing');
  return body as Record<string, unknown>;
}

/** What passes the door and is not too large: nothing else is ever saved. */
function saveable(input: unknown): Rig {
  const { rig } = admitRig(input);
  const bytes = Buffer.byteLength(JSON.stringify(rig));
  if (bytes > MAX_RIG_BYTES) throw apiError('rig-too-large', { gotMb: bytes / 1e6, maxMb: MAX_RIG_BYTES / 1e6 });
  return rig;
}

export function rigRoutes(api: Api, store: Store): void {
  api.get(
    '/api/rigs',
    { schema: { tags, summary: 'All rigs on the shelf, last changed first.', response: { 200: rigList } } },
    async () => ({ rigs: await listRigs(store) }),
  );
  api.post(
    '/api/rigs',
    {
      ...byTheDoor,
      schema: {
        tags,
        summary: 'Puts a rig on the shelf.',
        body: newRigBody,
        response: { 201: rigAnswer, ...faulty(400, 413) },
      },
    },
    async (request, reply) => {
      const { rig, id } = objectOf(request.body);
      const created = await createRig(store, saveable(rig), typeof id === 'string' ? id : undefined);
      return reply.status(201).send(created);
    },
  );
  api.get(
    '/api/rigs/:id',
    {
      schema: {
        tags,
        summary: 'One rig with its revision.',
        params: ofRig,
        response: { 200: rigAnswer, ...faulty(404) },
      },
    },
    ({ params }) => getRig(store, params.id),
  );
  api.put(
    '/api/rigs/:id',
    {
      ...byTheDoor,
      schema: {
        tags,
        summary: 'Saves a rig over the revision it was read at.',
        params: ofRig,
        body: saveBody,
        response: {
          200: savedAnswer,
          ...faulty(400, 404, 413),
          409: errorBodySchema
            .extend(rigAnswer.omit({ id: true }).shape)
            .describe('it was changed meanwhile: what is there'),
        },
      },
    },
    async (request, reply) => {
      const { revision, rig } = objectOf(request.body);
      if (typeof revision !== 'number' || !Number.isInteger(revision))
        return refuse([
          fault('shape', 'revision', 'a whole number', String(revision), { problem: 'must be a whole number' }),
        ]);
      const saved = await saveRig(store, request.params.id, revision, saveable(rig));
      if (!('conflict' in saved)) return saved;
      const { conflict } = saved;
      const error = apiError('revision-conflict', { revision: conflict.revision, yours: revision });
      const { id: _id, ...there } = conflict;
      return reply.status(409).send({ ...error.body(), ...there });
    },
  );
  api.delete(
    '/api/rigs/:id',
    {
      schema: {
        tags,
        summary: 'Takes a rig, its measurements and its run log off the shelf.',
        params: ofRig,
        response: { 204: z.null().describe('gone'), ...faulty(404) },
      },
    },
    async ({ params }, reply) => {
      await deleteRig(store, params.id);
      return reply.status(204).send(null);
    },
  );
  api.get(
    '/api/rigs/:id/runs',
    { schema: { tags, summary: 'The last fifty runs of a rig.', params: ofRig, response: { 200: runList } } },
    async ({ params }) => ({ runs: await listRuns(store, params.id) }),
  );
  const calibrations = '/api/rigs/:id/builds/:build/calibrations';
  api.get(
    calibrations,
    {
      schema: {
        tags,
        summary: 'What was measured on a build, the latest first.',
        params: ofBuild,
        response: { 200: calibrationList },
      },
    },
    async ({ params: { id, build } }) => ({ calibrations: await listCalibrations(store, id, build) }),
  );
  api.post(
    calibrations,
    {
      schema: {
        tags,
        summary: 'Writes a measurement into a build’s history; the rig itself is not changed.',
        params: ofBuild,
        body: calibrationBody,
        response: { 201: calibrationEntry, ...faulty(400, 404) },
      },
    },
    async ({ params: { id, build }, body: { fact, note } }, reply) => {
      const { rig } = await getRig(store, id);
      if (!rig.builds.some((b) => b.id === build)) throw apiError('not-found', { kind: 'build', id: build });
      return reply.status(201).send(await addCalibration(store, id, build, fact, note));
    },
  );
}
