/** What a call that computes is made of: it is declared once, offered by the server's thread, and carried out by a worker. */
import type { z } from 'zod';
import type { Job } from '@cork-elbow/core/jobs';
import type { Rig } from '@cork-elbow/core/rig';
import { DOCUMENT_LIMIT } from '../limits';

/** What a call has at hand while it is carried out. */
export interface Desk {
  /** Content type that is wished for. */
  readonly accept: string | undefined;
  /** A rig of the shelf, as it is saved, and which revision that is. */
  rig(id: string): Promise<{ rig: Rig; revision: number }>;
  /** Says what comes now, for whoever is told that it took too long. */
  doing(words: string): void;
  /** After each piece of work: counts it. Throws where the call was given up. */
  piece(): void;
  /** Runs a job to its end, piece by piece. */
  finish<T>(words: string, job: Job<T>): T;
}

/** An answer that is a text of its own type. */
export class TextAnswer {
  constructor(
    readonly type: string,
    readonly text: string,
  ) {}
}
/** `{ "answers": [ … ] }`, sent as they are made. */
export class ManyAnswers {
  private constructor(
    readonly count: number,
    readonly at: (k: number) => unknown,
  ) {}
  static of<T>(asks: readonly T[], answer: (ask: T) => unknown): ManyAnswers {
    return new ManyAnswers(asks.length, (k) => answer(asks[k]));
  }
}

export type Status = 400 | 404 | 409 | 413 | 422 | 503;

export interface Call {
  readonly path: string;
  readonly tag: string;
  readonly summary: string;
  readonly body: z.ZodType;
  readonly answer: z.ZodType;
  /** Most bytes of a body. */
  readonly bodyLimit: number;
  run(body: unknown, desk: Desk): unknown;
}

export interface Declared<B extends z.ZodType, A extends z.ZodType> {
  readonly path: string;
  readonly tag?: string;
  readonly summary: string;
  readonly body: B;
  readonly answer: A;
  readonly bodyLimit?: number;
  run(
    body: z.output<B>,
    desk: Desk,
  ): Promise<z.input<A> | TextAnswer | ManyAnswers> | z.input<A> | TextAnswer | ManyAnswers;
}

export const defineCall = <B extends z.ZodType, A extends z.ZodType>(declared: Declared<B, A>): Call => ({
  tag: 'compute',
  bodyLimit: DOCUMENT_LIMIT,
  ...declared,
  run: (body, desk) => declared.run(body as z.output<B>, desk),
});
