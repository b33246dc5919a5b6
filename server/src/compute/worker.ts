/** One of the pool's threads: reads a call's body, checks it, carries it out and writes its answer, all away from the server's own thread. */
import type { MessagePort } from 'node:worker_threads';
import { faultsOf, type Fault } from '@cork-elbow/core/findings';
import type { Job } from '@cork-elbow/core/jobs';
import { apiError, ApiError, faulted } from '../errors';
import { readStored, storedRig } from '../rig-door';
import { ManyAnswers, TextAnswer, type Desk } from './call';
import { calls } from './calls';
import { doors } from './doors';
import { readJson } from './json';

/** What a thread is given. `shared`: whether the call is given up, and how many pieces of work are done. */
export interface Work {
  readonly call: string;
  readonly body: Uint8Array | null;
  readonly accept: string | undefined;
  readonly port: MessagePort;
  readonly shared: Int32Array;
}
/** What it tells on the way, and in the end. */
export type Told =
  | { readonly what: 'begun' }
  | { readonly what: 'doing'; readonly words: string }
  | { readonly what: 'want'; readonly rig: string }
  /** A part of the answer; the next one is made when it is asked for. */
  | { readonly what: 'part'; readonly bytes: Uint8Array; readonly last: boolean }
  | { readonly what: 'answer'; readonly type: string; readonly bytes: Uint8Array }
  | { readonly what: 'value'; readonly value: unknown }
  | { readonly what: 'refused'; readonly code: string; readonly message: string; readonly faults: readonly Fault[] }
  | { readonly what: 'given-up' };
/** What it is told: the rig that it wanted (null: there is none), or to go on. */
export interface Saved {
  readonly document: string;
  readonly revision: number;
}
export type Heard = { readonly saved: Saved | null } | 'more';

export const GIVEN_UP = 0;
export const PIECES = 1;
const JSON_TYPE = 'application/json; charset=utf-8';
/** Answers that are sent as they are made go in parts of about this many characters. */
const PART = 64 * 1024;

class GivenUp extends Error {}
const byPath = new Map(calls.map((call) => [call.path, call]));
const encoder = new TextEncoder();

export default async function carryOut({ call: name, body, accept, port, shared }: Work): Promise<void> {
  const tell = (told: Told): void =>
    port.postMessage(told, 'bytes' in told ? [told.bytes.buffer as ArrayBuffer] : []);
  const heard = (): Promise<Heard> => new Promise((done) => port.once('message', done));
  const piece = (): void => {
    Atomics.add(shared, PIECES, 1);
    if (Atomics.load(shared, GIVEN_UP)) throw new GivenUp();
  };
  const desk: Desk = {
    accept,
    async rig(id) {
      tell({ what: 'want', rig: id });
      const told = await heard();
      const saved = told === 'more' ? null : told.saved;
      if (saved === null) throw apiError('not-found', { kind: 'rig', id });
      return { rig: storedRig(readStored(saved.document)).rig, revision: saved.revision };
    },
    doing: (words) => tell({ what: 'doing', words }),
    piece,
    finish<T>(words: string, job: Job<T>): T {
      tell({ what: 'doing', words });
      for (;;) {
        const step = job.step(1);
        if (step.done) return step.value;
        piece();
      }
    },
  };
  try {
    tell({ what: 'begun' });
    const door = doors[name];
    if (door) return tell({ what: 'value', value: await door(body) });
    const input = readJson(body);
    desk.doing('checking what was asked');
    const call = byPath.get(name)!;
    const parsed = call.body.safeParse(input);
    if (!parsed.success)
      throw typeof input !== 'object' || input === null
        ? apiError('body-missing')
        : faulted(faultsOf(parsed.error, input));
    const answer = await call.run(parsed.data, desk);
    desk.doing('writing the answer');
    if (answer instanceof ManyAnswers) return await sendParts(answer, desk, tell, heard);
    const [type, text] =
      answer instanceof TextAnswer ? [answer.type, answer.text] : [JSON_TYPE, JSON.stringify(answer)];
    tell({ what: 'answer', type, bytes: encoder.encode(text) });
  } catch (error) {
    if (error instanceof GivenUp) return tell({ what: 'given-up' });
    if (!(error instanceof ApiError)) throw error;
    const { code, message, faults } = error;
    tell({ what: 'refused', code, message, faults });
  } finally {
    port.close();
  }
}

/** Sends the answers as they are made. Where the call is given up, the list ends with those that are made, and says so. */
async function sendParts(
  { count, at }: ManyAnswers,
  desk: Desk,
  tell: (told: Told) => void,
  heard: () => Promise<Heard>,
): Promise<void> {
  let text = '{"answers":[';
  let end = ']}';
  for (let k = 0; k < count; k++) {
    try {
      desk.piece();
    } catch {
      const { code, message } = apiError('work-cut', { done: k, count });
      end = `],"stopped":${JSON.stringify({ code, message })}}`;
      break;
    }
    text += (k ? ',' : '') + JSON.stringify(at(k));
    if (text.length < PART) continue;
    tell({ what: 'part', bytes: encoder.encode(text), last: false });
    text = '';
    await heard();
  }
  tell({ what: 'part', bytes: encoder.encode(text + end), last: true });
}
