/** Runs of a rig: the list, their recordings as they are read, replayed and saved as files, and for how long they are kept. */
import { Readable } from 'node:stream';
import { z } from 'zod';
import {
  keptBody,
  recordingAnswer,
  runBody,
  runEntry,
  runList,
  runPage,
  type RunEntry,
} from '@cork-elbow/core/contract';
import { bytesOfRows, recordingFiles } from '@cork-elbow/core/recording';
import { fileName } from '@cork-elbow/core/rig';
import { faulty, writes, type Api } from '../api';
import type { Store } from '../db/open';
import { deleteRun, listRuns, nameRun, recordingOf, rowsOf, runOf } from '../db/runs';
import { choose } from '../db/settings';
import { apiError } from '../errors';
import { dropOld, keptDays } from '../run/keeper';
import { ofRig } from './of-rig';

const tags = ['runs'];
const ofRun = ofRig.extend({ run: z.string().describe('id of one of its runs') });

/** `runsNow`: id of the run that goes on. */
export function runRoutes(api: Api, store: Store, runsNow: () => string | null): void {
  const known = async ({ id, run }: z.infer<typeof ofRun>): Promise<RunEntry> => {
    const found = await runOf(store, id, run);
    if (!found) throw apiError('not-found', { kind: 'run', id: run });
    return found;
  };
  const recorded = async (params: z.infer<typeof ofRun>) => {
    const recording = await recordingOf(store, await known(params));
    if (!recording) throw apiError('recording-none');
    return recording;
  };
  api.get(
    '/api/rigs/:id/runs',
    {
      schema: {
        tags,
        summary: 'Runs of a rig, the latest first.',
        params: ofRig,
        querystring: runPage,
        response: { 200: runList, ...faulty(400) },
      },
    },
    ({ params, query }) => listRuns(store, params.id, query),
  );
  const path = '/api/rigs/:id/runs/:run';
  api.get(
    path,
    {
      schema: {
        tags,
        summary: 'What is kept of a run: its line in the list, what its numbers are, and what happened.',
        params: ofRun,
        response: { 200: recordingAnswer, ...faulty(404) },
      },
    },
    ({ params }) => recorded(params),
  );
  api.put(
    path,
    {
      ...writes,
      schema: {
        tags,
        summary: 'Gives a run a name; the recording of one that has a name is kept.',
        params: ofRun,
        body: runBody,
        response: { 200: runEntry, ...faulty(400, 404, 429) },
      },
    },
    async ({ params, body: { name } }) => {
      const { id } = await known(params);
      await nameRun(store, id, name.trim());
      return known(params);
    },
  );
  api.delete(
    path,
    {
      ...writes,
      schema: {
        tags,
        summary: 'Takes a run and its recording off the list.',
        params: ofRun,
        response: { 204: z.null().describe('gone'), ...faulty(404, 409, 429) },
      },
    },
    async ({ params }, reply) => {
      const { id } = await known(params);
      if (runsNow() === id) throw apiError('run-goes-on');
      await deleteRun(store, id);
      return reply.status(204).send(null);
    },
  );
  api.get(
    `${path}/rows`,
    {
      schema: {
        tags,
        summary:
          'The rows of a recording as whole numbers of four bytes, the lowest first: time, own time and plan time in 0.1 ms, then commanded, then measured of each joint in 0.001 ° or mm; -2147483648 where nothing is known.',
        params: ofRun,
        response: { 200: z.string().describe('the bytes'), ...faulty(404) },
      },
    },
    async ({ params }, reply) => {
      const { head, run } = await recorded(params);
      const bytes = async function* () {
        for await (const rows of rowsOf(store, run.id, head)) yield bytesOfRows(rows);
      };
      return reply.type('application/octet-stream').send(Readable.from(bytes()) as never);
    },
  );
  for (const kind of ['csv', 'json'] as const)
    api.get(
      `${path}/${kind}`,
      {
        schema: {
          tags,
          summary: `A recording as a ${kind.toUpperCase()} file.`,
          params: ofRun,
          response: { 200: z.string().describe('the file'), ...faulty(404) },
        },
      },
      async ({ params }, reply) => {
        const { head, run, events } = await recorded(params);
        const file = recordingFiles[kind];
        const text = async function* () {
          yield file.begin(head, run, events);
          let isFirst = true;
          for await (const rows of rowsOf(store, run.id, head)) {
            yield file.rows(head, rows, isFirst);
            isFirst &&= rows.length === 0;
          }
          yield file.end;
        };
        const name = fileName(run.name || run.routineName, `run ${run.startedAt.slice(0, 16)}`, kind);
        return reply
          .type(file.mediaType)
          .header('content-disposition', `attachment; filename="${name}"`)
          .send(Readable.from(text()) as never);
      },
    );
  api.get(
    '/api/settings/recordings',
    { schema: { tags, summary: 'For how long recordings are kept.', response: { 200: keptBody } } },
    async () => ({ days: await keptDays(store) }),
  );
  api.put(
    '/api/settings/recordings',
    {
      ...writes,
      schema: {
        tags,
        summary: 'Chooses for how long recordings are kept; those that are older go at once.',
        body: keptBody,
        response: { 200: keptBody, ...faulty(400, 429) },
      },
    },
    async ({ body }) => {
      await choose(store, 'recordings', body);
      await dropOld(store);
      return body;
    },
  );
}
