/**
 * Threads that compute, so that the server's own thread does short things only: what is asked here waits for a free thread, is given up
 * when it takes too long or nobody waits for it any more, and is turned away where too much waits already.
 */
import { Readable } from 'node:stream';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { apiError, ApiError } from '../errors';
import { GIVEN_UP, PIECES, type Heard, type Saved, type Told, type Work } from './worker';

export interface PoolOptions {
  readonly url: URL;
  readonly threads: number;
  /** Calls that may wait. */
  readonly queue: number;
  /** Seconds that one call may compute. */
  readonly seconds: number;
  /** Megabytes that one thread may hold. */
  readonly memoryMb?: number;
  /** The text of a rig on the shelf; null where there is none. */
  rig(id: string): Promise<Saved | null>;
}
export type Answer = { readonly type: string; readonly body: Buffer | Readable } | { readonly value: unknown };

/** What is said of a call that goes beyond its bounds, and who has left it. */
export interface Asked {
  /** What is asked, for sentences about it. */
  readonly words?: string;
  /** Content type that is wished for. */
  readonly accept?: string;
  /** Nobody waits for the answer any more. */
  readonly gone?: AbortSignal;
}

/** A call that was given up and goes on all the same, for it is inside of one piece of work, ends with its thread after so long (ms). */
const GRACE = 300;
/** Nobody reads the parts of an answer for so long (ms): it is given up. */
const UNREAD = 30_000;
/** Seconds after which to ask again where too much waits. */
export const AGAIN_S = 2;

export class Pool {
  private readonly threads: Piscina;
  private underway = 0;

  constructor(private readonly options: PoolOptions) {
    const { url, threads, memoryMb = 1024 } = options;
    this.threads = new Piscina({
      filename: url.href,
      minThreads: threads,
      maxThreads: threads,
      concurrentTasksPerWorker: 1,
      resourceLimits: { maxOldGenerationSizeMb: memoryMb },
    });
  }

  /** Rejects with an {@link ApiError}, or with what went wrong inside. */
  async ask(call: string, body: Uint8Array | null, asked: Asked = {}): Promise<Answer> {
    const { threads, queue } = this.options;
    // Counted here: the threads' own queue has no bound for calls that can be given up.
    if (this.underway >= threads + queue) throw apiError('server-busy', { waiting: queue, afterS: AGAIN_S });
    this.underway++;
    const over = (): void => void this.underway--;
    return new Asking(this.options, this.threads, call, asked).answer(body, over);
  }

  close(): Promise<void> {
    return this.threads.destroy();
  }
}

/** Parts of an answer, the next one asked for when there is room for it. */
class Parts extends Readable {
  private isOwed = false;

  constructor(
    private readonly more: () => void,
    private readonly left: () => void,
  ) {
    super();
  }
  put(bytes: Uint8Array, last: boolean): void {
    this.isOwed = !last;
    this.push(Buffer.from(bytes.buffer));
    if (last) this.push(null);
  }
  override _read(): void {
    if (!this.isOwed) return;
    this.isOwed = false;
    this.more();
  }
  override _destroy(error: Error | null, done: (error?: Error | null) => void): void {
    if (!this.readableEnded) this.left();
    done(error);
  }
}

/** One call on its way. */
class Asking {
  private readonly channel = new MessageChannel();
  private readonly shared = new Int32Array(new SharedArrayBuffer(8));
  private readonly stopper = new AbortController();
  private readonly words: string;
  private parts: Parts | null = null;
  private doing = 'reading the body';
  private why: 'spent' | 'gone' | null = null;
  private timer: NodeJS.Timeout | undefined;
  /** Time (ms) that it may still compute, and since when it does. */
  private leftMs: number;
  private since: number | null = null;

  constructor(
    private readonly options: PoolOptions,
    private readonly threads: Piscina,
    private readonly call: string,
    private readonly asked: Asked,
  ) {
    this.words = asked.words ?? call;
    this.leftMs = options.seconds * 1000;
  }

  /** `over`: is called once, when the call is done with. */
  answer(body: Uint8Array | null, over: () => void): Promise<Answer> {
    const { port1, port2 } = this.channel;
    const { gone, accept } = this.asked;
    const leave = (): void => this.giveUp('gone');
    return new Promise<Answer>((done, fail) => {
      const end = (): void => {
        clearTimeout(this.timer);
        gone?.removeEventListener('abort', leave);
        port1.close();
      };
      const failed = (error: Error): void => {
        end();
        this.parts?.destroy(error);
        fail(error);
      };
      port1.on('message', (told: Told) => {
        switch (told.what) {
          case 'begun':
            return this.work();
          case 'doing':
            this.doing = told.words;
            return;
          case 'want':
            return void this.options.rig(told.rig).then((saved) => this.tell({ saved }), failed);
          case 'part':
            this.rest();
            if (!this.parts) {
              const more = (): void => {
                this.work();
                this.tell('more');
              };
              this.parts = new Parts(more, leave);
              done({ type: 'application/json; charset=utf-8', body: this.parts });
            }
            if (told.last) end();
            return this.parts.put(told.bytes, told.last);
          case 'answer':
            end();
            return done({ type: told.type, body: Buffer.from(told.bytes.buffer) });
          case 'value':
            end();
            return done({ value: told.value });
          case 'refused':
            return failed(new ApiError(told.code, told.message, told.faults));
          case 'given-up':
            return failed(this.spent());
        }
      });
      gone?.addEventListener('abort', leave, { once: true });
      const work: Work = { call: this.call, body, accept, port: port2, shared: this.shared };
      this.threads
        .run(work, { transferList: [port2], signal: this.stopper.signal })
        .catch((error: Error & { code?: string }) => failed(this.reason(error)))
        .finally(over);
    });
  }

  private tell(message: Heard): void {
    this.channel.port1.postMessage(message);
  }
  /** The thread works on it: its time runs. */
  private work(): void {
    this.since = performance.now();
    clearTimeout(this.timer);
    if (!this.why) this.timer = setTimeout(() => this.giveUp('spent'), this.leftMs);
  }
  /** The thread waits until somebody has read what it made. */
  private rest(): void {
    if (this.since !== null) this.leftMs -= performance.now() - this.since;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.giveUp('gone'), UNREAD);
  }

  private giveUp(why: 'spent' | 'gone'): void {
    if (this.why) return;
    this.why = why;
    Atomics.store(this.shared, GIVEN_UP, 1);
    clearTimeout(this.timer);
    // What still waits for a thread leaves the queue at once.
    if (this.since === null) return this.stopper.abort();
    this.timer = setTimeout(() => this.stopper.abort(), GRACE);
    // A thread that waits is let see it.
    if (this.parts) this.tell('more');
  }

  private spent(): ApiError {
    if (this.why === 'gone') return apiError('work-left', { call: this.words });
    const { seconds } = this.options;
    const pieces = Atomics.load(this.shared, PIECES);
    return apiError('work-spent', { call: this.words, doing: this.doing, seconds, pieces });
  }

  /** Why a thread did not answer, as an error of the call. */
  private reason(error: Error & { code?: string }): Error {
    if (this.why) return this.spent();
    if (error.code === 'ERR_WORKER_OUT_OF_MEMORY')
      return apiError('work-memory', { call: this.words, doing: this.doing });
    return error;
  }
}
