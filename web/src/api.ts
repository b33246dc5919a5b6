/** Calls to the server on this computer, read by the contract. Every failure becomes one sentence. */
import { z } from 'zod';
import type { ErrorBody } from '@cork-elbow/core/findings';
import {
  contractFindings,
  restoredAnswer,
  rigHead,
  rigList,
  savedAnswer,
  type RigAnswer,
} from '@cork-elbow/core/contract';
import type { Rig } from '@cork-elbow/core/rig';

export class CallError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly body: (ErrorBody & Partial<RigAnswer>) | null,
  ) {
    super(message);
  }
}

/** What an answer is read with; an answer of another shape is a server of another version. */
interface Shape<T> {
  safeParse(answer: unknown): { success: true; data: T } | { success: false };
}

export const nothing = z.null();

export const call = <T>(method: string, path: string, shape: Shape<T>, body?: unknown): Promise<T> =>
  send(path, shape, {
    method,
    ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
  });

/** A backup takes the place of the shelf. */
export const restore = (file: Blob): Promise<{ rigs: number }> =>
  send('/api/restore', restoredAnswer, {
    method: 'POST',
    headers: { 'content-type': 'application/vnd.sqlite3' },
    body: file,
  });

/** What is no JSON. */
export async function bytesAt(path: string, gone?: AbortSignal): Promise<Uint8Array> {
  const response = await answered(path, gone ? { signal: gone } : {});
  if (!response.ok) await read(response, nothing);
  return new Uint8Array(await response.arrayBuffer());
}

async function answered(path: string, init: RequestInit): Promise<Response> {
  try {
    return await fetch(path, init);
  } catch {
    throw new CallError(contractFindings.say('server-away'), 0, null);
  }
}
const send = async <T>(path: string, shape: Shape<T>, init: RequestInit): Promise<T> =>
  read(await answered(path, init), shape);

async function read<T>(response: Response, shape: Shape<T>): Promise<T> {
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
  const known = shape.safeParse(answer);
  if (!known.success) throw new CallError(contractFindings.say('answer-unknown'), response.status, null);
  return known.data;
}

/** The document as it came: the store's own door lets it in. */
const opened = rigHead.extend({ rig: z.custom<Rig>((rig) => typeof rig === 'object' && rig !== null) });

export const rigPath = (id: string): string => `/api/rigs/${encodeURIComponent(id)}`;

export const api = {
  rigs: () => call('GET', '/api/rigs', rigList).then(({ rigs }) => rigs),
  rig: (id: string) => call('GET', rigPath(id), opened),
  create: (rig: unknown) => call('POST', '/api/rigs', opened, { rig }),
  save: (id: string, revision: number, rig: Rig) => call('PUT', rigPath(id), savedAnswer, { revision, rig }),
  goBack: (id: string) => call('POST', `${rigPath(id)}/go-back`, rigHead),
  remove: (id: string) => call('DELETE', rigPath(id), nothing),
};
