/** Takes down a run as it goes on: rows at the times it is shown, and events where what it is shown has changed. */
import type { Status } from '../contract';
import { inUnit, type Mechanism } from '../mechanism';
import {
  commandedAt,
  JOINT_PARTS,
  measuredAt,
  rowLength,
  TIME_PARTS,
  UNKNOWN,
  type RecordingEvent,
  type RecordingHead,
  type RecordingPiece,
} from './shape';

/** A run at one moment. Poses: slots, SI; `known`: slots that are read back. */
export interface Moment {
  readonly atS: number;
  /** Time of its own motion (s): it stands while the run does. */
  readonly ownS: number;
  readonly planS: number;
  readonly commanded: Float64Array;
  readonly measured: Float64Array;
  readonly known: ReadonlySet<number>;
  readonly status: Pick<Status, 'run' | 'stepId' | 'waits' | 'pace' | 'notice'>;
  readonly signals: ReadonlyMap<string, boolean>;
}

const whole = (value: number): number =>
  Math.max(UNKNOWN + 1, Math.min(-UNKNOWN - 1, Math.round(Number.isFinite(value) ? value : 0)));

export class Recorder {
  private rows: number[] = [];
  private events: RecordingEvent[] = [];
  private readonly slots: readonly number[];
  /** What was shown last. */
  private run: string | null = null;
  private stepId: string | null = null;
  private waits: string | null = null;
  private share: number | null = null;
  private notice = '';
  private readonly signals = new Map<string, boolean>();
  private readonly gaps = new Map<string, number>();

  /** `words`: what a step does, by its id. */
  constructor(
    private readonly head: RecordingHead,
    private readonly mechanism: Mechanism,
    private readonly words: (stepId: string) => string,
  ) {
    this.slots = head.joints.map(({ id }) => mechanism.slotIds.indexOf(id));
  }

  look(moment: Moment): void {
    const { atS, status, signals } = moment;
    const tell = (event: RecordingEvent): void => void this.events.push(event);
    if (status.run !== this.run) tell({ kind: 'state', atS, run: (this.run = status.run) as Status['run'] });
    if (status.stepId !== this.stepId && status.stepId !== null)
      tell({ kind: 'step', atS, stepId: status.stepId, words: this.words(status.stepId) });
    this.stepId = status.stepId;
    const { waits } = status;
    const waiting = waits && `${waits.signal} ${waits.is}`;
    if (waiting !== this.waits && waits) tell({ kind: 'waits', atS, signal: waits.signal, is: waits.is });
    this.waits = waiting;
    const share = status.pace?.wished ?? this.share;
    if (share !== this.share && share !== null && (this.share !== null || share !== 1))
      tell({ kind: 'pace', atS, share });
    this.share = share;
    if (status.notice !== this.notice && status.notice) tell({ kind: 'notice', atS, text: status.notice });
    this.notice = status.notice;
    for (const { id } of this.head.signals) {
      const on = signals.get(id);
      if (on === undefined || on === this.signals.get(id)) continue;
      this.signals.set(id, on);
      tell({ kind: 'signal', atS, signal: id, on });
    }
    this.take(moment);
  }

  private take({ atS, ownS, planS, commanded, measured, known }: Moment): void {
    const { mechanism, head, slots } = this;
    const row = Array.from({ length: rowLength(head) }, () => UNKNOWN);
    [atS, ownS, planS].forEach((time, k) => (row[k] = whole(time * TIME_PARTS)));
    slots.forEach((slot, k) => {
      row[commandedAt(k)] = whole(inUnit(mechanism, slot, commanded[slot]) * JOINT_PARTS);
      if (!known.has(slot)) return;
      const there = (row[measuredAt(head, k)] = whole(inUnit(mechanism, slot, measured[slot]) * JOINT_PARTS));
      const { id } = head.joints[k];
      this.gaps.set(id, Math.max(this.gaps.get(id) ?? 0, Math.abs(there - row[commandedAt(k)]) / JOINT_PARTS));
    });
    this.rows.push(...row);
  }

  /** By id of the joint: the widest gap so far (° or mm) between commanded and read back. */
  get worst(): Record<string, number> {
    return Object.fromEntries(this.gaps);
  }

  /** What was taken down since it was asked last; null where that is nothing. */
  piece(): RecordingPiece | null {
    const { rows, events } = this;
    if (!rows.length && !events.length) return null;
    this.rows = [];
    this.events = [];
    return { rows: Int32Array.from(rows), events };
  }
}
