/** Calls to the server on this computer. Every failure becomes one sentence. */
import type { ErrorBody } from '@cork-elbow/core/findings';
import { contractFindings, type CalibrationEntry, type RigAnswer, type RigSummary } from '@cork-elbow/core/contract';
import type { CatalogueEntry, Fact, Rig } from '@cork-elbow/core/rig';

export class CallError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly body: (ErrorBody & Partial<RigAnswer>) | null,
  ) {
    super(message);
  }
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
    });
  } catch {
    throw new CallError(contractFindings.say('server-away'), 0, null);
  }
  const text = await response.text();
  let answer: unknown;
  try {
    answer = text ? JSON.parse(text) : null;
  } catch {
    throw new CallError(contractFindings.say('server-away'), 0, null);
  }
  if (!response.ok) {
    const error = answer as ErrorBody | null;
    throw new CallError(error?.message ?? contractFindings.say('server-away'), response.status, error);
  }
  return answer as T;
}

export interface RunEntry {
  id: string;
  revision: number;
  routineName: string;
  board: string;
  startedAt: string;
  outcome: string | null;
  durationMs: number | null;
  worstError: string | null;
}

const calibrationsOf = (id: string, build: string): string =>
  `/api/rigs/${encodeURIComponent(id)}/builds/${encodeURIComponent(build)}/calibrations`;

export const api = {
  rigs: () => call<{ rigs: RigSummary[] }>('GET', '/api/rigs').then((answer) => answer.rigs),
  rig: (id: string) => call<RigAnswer>('GET', `/api/rigs/${encodeURIComponent(id)}`),
  create: (rig: unknown) => call<RigAnswer>('POST', '/api/rigs', { rig }),
  save: (id: string, revision: number, rig: Rig) =>
    call<{ revision: number; updatedAt: string }>('PUT', `/api/rigs/${encodeURIComponent(id)}`, { revision, rig }),
  remove: (id: string) => call<null>('DELETE', `/api/rigs/${encodeURIComponent(id)}`),
  calibrations: (id: string, build: string) =>
    call<{ calibrations: CalibrationEntry[] }>('GET', calibrationsOf(id, build)).then(
      (answer) => answer.calibrations,
    ),
  recordCalibration: (id: string, build: string, fact: Fact, note: string) =>
    call<CalibrationEntry>('POST', calibrationsOf(id, build), { fact, note }),
  motors: () => call<{ motors: CatalogueEntry[] }>('GET', '/api/motors').then((answer) => answer.motors),
  putMotors: (motors: readonly CatalogueEntry[]) =>
    call<{ motors: CatalogueEntry[] }>('PUT', '/api/motors', { motors }).then((answer) => answer.motors),
  removeMotor: (id: string) => call<null>('DELETE', `/api/motors/${encodeURIComponent(id)}`),
  runs: (id: string) =>
    call<{ runs: RunEntry[] }>('GET', `/api/rigs/${encodeURIComponent(id)}/runs`).then((answer) => answer.runs),
};
