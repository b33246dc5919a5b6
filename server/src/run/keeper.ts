/** Keeps what the run thread tells of runs: their rows, their recordings, and for how long. */
import { contractFindings, keptBody, USUAL_DAYS, type RecordingHead } from '@cork-elbow/core/contract';
import { rowLength } from '@cork-elbow/core/recording';
import type { Store } from '../db/open';
import { beginRun, dropRecordings, endRun, keepPiece } from '../db/runs';
import { settingOf } from '../db/settings';
import type { LoopEvent } from './events';

type Of<T extends LoopEvent['type']> = Extract<LoopEvent, { type: T }>;
const DAY_MS = 86_400_000;
/** What has grown too old is looked for so often (ms). */
const LOOK_EVERY = 3_600_000;

export const keptDays = async (store: Store): Promise<number | null> =>
  (await settingOf(store, 'recordings', keptBody, { days: USUAL_DAYS })).days;

/** Lets go of what has been kept for long enough. */
export async function dropOld(store: Store): Promise<void> {
  const days = await keptDays(store);
  if (days !== null) await dropRecordings(store, new Date(Date.now() - days * DAY_MS));
}

export class RunKeeper {
  private head: RecordingHead | null = null;
  private readonly looking: NodeJS.Timeout;

  constructor(
    private readonly store: Store,
    /** Of the program. */
    private readonly version: string,
    private readonly log: (error: unknown) => void,
    /** Told once a run, in a sentence, where no more of it can be kept. */
    private readonly fails: (sentence: string) => void,
  ) {
    const look = (): void => void dropOld(store).catch(log);
    look();
    this.looking = setInterval(look, LOOK_EVERY).unref();
  }

  began({ run, routineName, board, head }: Of<'started'>): void {
    const recorded: RecordingHead = { ...head, program: this.version };
    this.head = recorded;
    const { id, rigId, revision, buildId, routineId } = run;
    const startedAt = new Date().toISOString();
    void beginRun(this.store, {
      ...{ id, rigId, revision, buildId, routineId, routineName, board, startedAt },
      head: recorded,
    }).catch(this.log);
  }
  recorded({ runId, no, piece }: Of<'recorded'>): void {
    const { head } = this;
    if (!head) return;
    keepPiece(this.store, runId, no, head, piece, rowLength(head)).catch((error: unknown) => {
      this.log(error);
      // The run goes on; what comes after a gap would be read as if there were none.
      if (this.head !== head) return;
      this.head = null;
      this.fails(contractFindings.say('recording-stopped', { problem: (error as Error).message }));
    });
  }
  ended({ runId, outcome, ranMs, worst }: Of<'ended'>): void {
    void endRun(this.store, runId, outcome, ranMs, worst).catch(this.log);
  }
  close(): void {
    clearInterval(this.looking);
  }
}
