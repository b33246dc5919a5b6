/** What is taken down of a run, and handed over about each second. */
import type { RecordingHead, Status } from '@cork-elbow/core/contract';
import { Recorder } from '@cork-elbow/core/recording';
import { describeStep } from '@cork-elbow/core/routine';
import { jointName, type Rig } from '@cork-elbow/core/rig';
import type { RoutineRun } from './activities/routine';
import type { Desk } from './desk';
import type { LoopEvent } from './events';
import { PERIOD } from './pacer';

/** Ms of a recording that are handed over at once. */
const PIECE = 1000;

/** Steps of a rig in words, by id: those of routines that are called too. */
function stepWords(rig: Rig): (stepId: string) => string {
  const places = new Map(
    rig.routines.flatMap(({ steps }) => steps.map((step, k) => [step.id, { step, k }] as const)),
  );
  return (id) => {
    const place = places.get(id);
    return place ? `${place.k + 1}: ${describeStep(rig, place.step)}` : id;
  };
}

/** Which joints are taken down: those that motors move. */
const movedSlots = ({ channels }: Desk): number[] => [...new Set(channels.maps.flatMap(({ slots }) => [...slots]))];

export function headOf(desk: Desk): Omit<RecordingHead, 'program'> {
  const { rig, mechanism, sessions } = desk;
  return {
    version: 1,
    sampleMs: PERIOD,
    joints: movedSlots(desk).map((slot) => {
      const joint = rig.mechanism.joints.find(({ id }) => id === mechanism.slotIds[slot])!;
      return { id: joint.id, name: jointName(joint), unit: mechanism.units[mechanism.jointOfSlot[slot]] };
    }),
    signals: rig.signals.map(({ id, name, way }) => ({ id, name, way })),
    boards: sessions.map(({ end, name, version }) => ({
      id: end.board,
      name: `${end.name}, ${name}`,
      protocol: version,
    })),
  };
}

export class RunRecording {
  private readonly recorder: Recorder;
  private no = 0;
  private ownS = 0;
  private lookedAt: number;
  private handedAt: number;

  constructor(
    private readonly runId: string,
    private readonly desk: Desk,
    head: Omit<RecordingHead, 'program'>,
    private readonly begunAt: number,
    private readonly emit: (event: LoopEvent) => void,
  ) {
    const { rig, mechanism } = desk;
    this.recorder = new Recorder({ ...head, program: '' }, mechanism, stepWords(rig));
    this.lookedAt = begunAt - PERIOD;
    this.handedAt = begunAt;
  }

  /** Takes down how it is now, where the time for that has come. */
  look(run: RoutineRun, status: Status, now: number): void {
    if (now - this.lookedAt < PERIOD) return;
    // By its own beat; where the computer was busy, from now on.
    this.lookedAt = now - this.lookedAt < 2 * PERIOD ? this.lookedAt + PERIOD : now;
    this.take(run, { ...status, ...run.status() }, now);
    if (now - this.handedAt >= PIECE) this.hand(now);
  }
  /** The last of it. */
  end(run: RoutineRun, status: Status, now: number): void {
    this.take(run, status, now);
    this.hand(now);
  }

  /** By id of the joint: the widest gap so far (° or mm) between commanded and read back. */
  get worst(): Record<string, number> {
    return this.recorder.worst;
  }

  private take(run: RoutineRun, status: Status, now: number): void {
    const { channels, commanded: sent, told, sessions } = this.desk;
    // What boards have been told lies a queue ahead of where they are.
    const queuedS = Math.max(0, (sessions.find(({ hasMotors }) => hasMotors)?.pacer.doneAt ?? now) - now) / 1000;
    this.ownS = Math.max(this.ownS, run.ranMs / 1000 - queuedS * run.speed);
    const commanded = channels.poseInto(sent.slice(), told.at);
    const toldThere = channels.known(told.at);
    this.recorder.look({
      atS: (now - this.begunAt) / 1000,
      ownS: this.ownS,
      planS: Math.max(0, run.planTime() - queuedS * run.speed),
      commanded,
      measured: channels.poseInto(commanded.slice(), told.measured),
      known: new Set([...channels.known(told.measured)].filter((slot) => toldThere.has(slot))),
      status,
      signals: told.signals,
    });
  }
  private hand(now: number): void {
    this.handedAt = now;
    const piece = this.recorder.piece();
    if (piece) this.emit({ type: 'recorded', runId: this.runId, no: this.no++, piece });
  }
}
