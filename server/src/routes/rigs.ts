/** Rigs on the shelf: bodies with a document go as bytes to the doors, which know older versions too. */
import type { FastifyInstance } from 'fastify';
import type { ZodTypeProvider } from 'fastify-type-provider-zod';
import { z } from 'zod';
import {
  contractFindings,
  calibrationBody,
  calibrationEntry,
  calibrationList,
  newRigBody,
  rigAnswer,
  rigHead,
  rigList,
  saveBody,
  savedAnswer,
} from '@cork-elbow/core/contract';
import { errorBodySchema } from '@cork-elbow/core/findings';
import { faulty, writes, type Api } from '../api';
import { addCalibration, listCalibrations } from '../db/calibrations';
import { addRow, deleteRig, saveRow } from '../db/rigs';
import { apiError, refuse } from '../errors';
import { DOCUMENT_LIMIT } from '../limits';
import type { OpenedRig, Shelf } from '../shelf';
import { leaves, takeBytes } from './computed';
import { isBuild, ofBuild, ofRig } from './of-rig';

const { fault } = contractFindings;

const tags = ['rigs'];
const byTheDoor = { ...writes, bodyLimit: DOCUMENT_LIMIT, validatorCompiler: () => () => true };
const JSON_TYPE = 'application/json; charset=utf-8';

/** An answer around a document that is text already. */
const around = ({ document, ...head }: Omit<OpenedRig, 'id'> & { id?: string }, more: object = {}): string =>
  `${JSON.stringify({ ...more, ...head }).slice(0, -1)},"rig":${document}}`;

/** `runsNow`: id of the rig that runs. */
export async function rigRoutes(app: FastifyInstance, shelf: Shelf, runsNow: () => string | null): Promise<void> {
  await app.register(async (scope) => {
    takeBytes(scope);
    savingRoutes(scope.withTypeProvider<ZodTypeProvider>(), shelf);
  });
  readingRoutes(app.withTypeProvider<ZodTypeProvider>(), shelf, runsNow);
}

function savingRoutes(api: Api, shelf: Shelf): void {
  api.post(
    '/api/rigs',
    {
      ...byTheDoor,
      schema: {
        tags,
        summary: 'Puts a rig on the shelf.',
        body: newRigBody,
        response: { 201: rigAnswer, ...faulty(400, 413, 429, 507) },
      },
    },
    async (request, reply) => {
      const content = await shelf.saveable(request.body as never, leaves(reply));
      const { id } = content;
      const row = await addRow(shelf.store, content, typeof id === 'string' ? id : undefined);
      return reply
        .status(201)
        .type(JSON_TYPE)
        .send(around(row) as never);
    },
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
          ...faulty(400, 404, 413, 429, 507),
          409: errorBodySchema
            .extend(rigAnswer.omit({ id: true }).shape)
            .describe('it was changed meanwhile: what is there'),
        },
      },
    },
    async (request, reply) => {
      const { id } = request.params;
      const content = await shelf.saveable(request.body as never, leaves(reply));
      const { revision } = content;
      if (typeof revision !== 'number' || !Number.isInteger(revision))
        return refuse([
          fault('shape', 'revision', 'a whole number', String(revision), { problem: 'must be a whole number' }),
        ]);
      const saved = await saveRow(shelf.store, id, revision, content);
      if (saved) return saved;
      const { id: _id, ...there } = await shelf.open(id);
      const error = apiError('revision-conflict', { revision: there.revision, yours: revision });
      return reply
        .status(409)
        .type(JSON_TYPE)
        .send(around(there, error.body()) as never);
    },
  );
}

function readingRoutes(api: Api, shelf: Shelf, runsNow: () => string | null): void {
  const { store } = shelf;
  api.get(
    '/api/rigs',
    { schema: { tags, summary: 'All rigs on the shelf, last changed first.', response: { 200: rigList } } },
    async () => ({ rigs: await shelf.list() }),
  );
  api.get(
    '/api/rigs/:id',
    {
      schema: {
        tags,
        summary: 'One rig with its revision.',
        params: ofRig,
        response: { 200: rigAnswer, ...faulty(404, 409) },
      },
    },
    async ({ params }, reply) => reply.type(JSON_TYPE).send(around(await shelf.open(params.id)) as never),
  );
  api.get(
    '/api/rigs/:id/text',
    {
      schema: {
        tags,
        summary: 'What is saved of a rig, letter by letter, also where it can no longer be read.',
        params: ofRig,
        response: { 200: z.string(), ...faulty(404) },
      },
    },
    async ({ params: { id } }, reply) => {
      const { document } = await shelf.row(id);
      return reply
        .type('text/plain; charset=utf-8')
        .header('content-disposition', `attachment; filename="${id}.txt"`)
        .send(document as never);
    },
  );
  api.post(
    '/api/rigs/:id/go-back',
    {
      schema: {
        tags,
        summary: 'Puts the state before the last save in the place of one that can no longer be read.',
        params: ofRig,
        response: { 200: rigHead, ...faulty(404, 409) },
      },
    },
    async ({ params }) => {
      const { id, revision, updatedAt } = await shelf.goBack(params.id);
      return { id, revision, updatedAt };
    },
  );
  api.delete(
    '/api/rigs/:id',
    {
      schema: {
        tags,
        summary: 'Takes a rig, its measurements and its run log off the shelf.',
        params: ofRig,
        response: { 204: z.null().describe('gone'), ...faulty(404, 409) },
      },
    },
    async ({ params }, reply) => {
      if (runsNow() === params.id) throw apiError('rig-runs');
      await deleteRig(store, params.id);
      return reply.status(204).send(null);
    },
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
      ...writes,
      schema: {
        tags,
        summary: 'Writes a measurement into a build’s history; the rig itself is not changed.',
        params: ofBuild,
        body: calibrationBody,
        response: { 201: calibrationEntry, ...faulty(400, 404) },
      },
    },
    async ({ params: { id, build }, body: { fact, note } }, reply) => {
      await isBuild(store, id, build);
      return reply.status(201).send(await addCalibration(store, id, build, fact, note));
    },
  );
}
