/** Calls about boards, how they are reached, and what ran on them. */
import {
  keptBody,
  linksAnswer,
  portList,
  recordingAnswer,
  runEntry,
  runList,
  type Links,
  type RunQuery,
} from '@cork-elbow/core/contract';
import { bytesAt, call, nothing, rigPath } from './api';

const linksOf = (id: string, build: string): string => `${rigPath(id)}/builds/${encodeURIComponent(build)}/links`;
const runPath = (id: string, run: string): string => `${rigPath(id)}/runs/${encodeURIComponent(run)}`;
const KEPT = '/api/settings/recordings';

export const benchApi = {
  links: (id: string, build: string) => call('GET', linksOf(id, build), linksAnswer).then(({ links }) => links),
  keepLinks: (id: string, build: string, links: Links) => call('PUT', linksOf(id, build), linksAnswer, { links }),
  ports: () => call('GET', '/api/ports', portList),

  runs: (id: string, query: Partial<RunQuery>) => {
    const asked = Object.entries(query).flatMap(([name, value]) =>
      value === undefined ? [] : [[name, String(value)]],
    );
    return call('GET', `${rigPath(id)}/runs?${new URLSearchParams(asked)}`, runList);
  },
  recording: (id: string, run: string) => call('GET', runPath(id, run), recordingAnswer),
  rows: (id: string, run: string, gone: AbortSignal) => bytesAt(`${runPath(id, run)}/rows`, gone),
  /** Where a recording is to be had as a file. */
  fileOf: (id: string, run: string, kind: 'csv' | 'json') => `${runPath(id, run)}/${kind}`,
  nameRun: (id: string, run: string, name: string) => call('PUT', runPath(id, run), runEntry, { name }),
  deleteRun: (id: string, run: string) => call('DELETE', runPath(id, run), nothing),
  kept: () => call('GET', KEPT, keptBody),
  keep: (days: number | null) => call('PUT', KEPT, keptBody, { days }),
};
