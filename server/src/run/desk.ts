/**
 * The rig whose boards are connected: the document as it was taken in last, what boards were told of it and have said, and where its
 * arm is told to be.
 */
import { standing } from '@cork-elbow/core/admit';
import { isSpin, nativeOf, type CommandMap } from '@cork-elbow/core/actuators';
import {
  boundsOf,
  Channels,
  fingerprint,
  sensorPins,
  signalPins,
  type ChannelBounds,
} from '@cork-elbow/core/commands';
import { contractFindings, type Status } from '@cork-elbow/core/contract';
import {
  confirmedLimits,
  fromSlots,
  fromUnit,
  limitExcess,
  rulesExcess,
  type Mechanism,
} from '@cork-elbow/core/mechanism';
import type { OwnLines } from '@cork-elbow/core/own-lines';
import type { Build, Rig } from '@cork-elbow/core/rig';
import type { LineEnd, Link } from '../links/link';
import { lineEnds } from './line-ends';
import { BoardSession, type Told } from './session';

/** Why something is not begun: one sentence. */
export interface Hindrance {
  readonly code: string;
  readonly message: string;
}
const hindrance = (code: 'board-none' | 'board-changed'): Hindrance => ({
  code,
  message: contractFindings.say(code),
});

/** Between which values a motor may be while what its joints may do does not count; null: as its joints may. */
type Range = (map: CommandMap) => { readonly low: number; readonly high: number } | null;
/**
 * What boards hold each motor to: between the limits of its joints or in a range of its own; no faster than motion is planned or arms are
 * brought up, unless places are told at once.
 */
const limitsOf =
  (rig: Rig, mechanism: Mechanism, { sudden = false, range }: { sudden?: boolean; range?: Range } = {}) =>
  (map: CommandMap): ChannelBounds =>
    boundsOf(map, mechanism, rig.powerUp.maxDegPerS, sudden, range?.(map) ?? undefined);

export class Desk {
  private constructor(
    readonly rigId: string,
    public rig: Rig,
    public build: Build,
    public mechanism: Mechanism,
    public channels: Channels,
    readonly sessions: readonly BoardSession[],
    readonly told: Told,
    /** Where the joints are told to be (slots, SI). */
    public commanded: Float64Array,
  ) {}

  /** Opens a link to each board that has a line of its own. */
  static open(rigId: string, rig: Rig, buildId: string, open: (end: LineEnd) => Link, now: number): Desk | Hindrance {
    const stands = standing(rig, buildId);
    if (!stands.ok) return stands.faults[0];
    const { build } = stands;
    const mechanism = confirmedLimits(stands.mechanism, build);
    const { channels, ends } = lineEnds(rig, mechanism, build);
    if (!ends.length) return hindrance('board-none');
    const told: Told = {
      ...{ at: new Map(), measured: new Map(), sent: new Map(), signals: new Map() },
      ...{ sensed: new Map(), limp: new Set() },
    };
    const sessions = ends.map((end) => new BoardSession(end, open(end), told, limitsOf(rig, mechanism), now));
    return new Desk(rigId, rig, build, mechanism, channels, sessions, told, ends[0].rest);
  }

  /** The rig as it is saved now; or why its motors are not where boards are connected. `limitsOf`: as {@link confirmedLimits} takes it. */
  takeIn(rig: Rig, buildId: string, limitsOf?: string): Hindrance | null {
    const stands = standing(rig, buildId);
    if (!stands.ok) return stands.faults[0];
    return this.take(rig, confirmedLimits(stands.mechanism, stands.build, limitsOf), stands.build);
  }
  /** The same for one that was looked at already. `sudden`: places are told at once, which no limit of speed holds. */
  take(rig: Rig, mechanism: Mechanism, build: Build, sudden = false): Hindrance | null {
    const channels = new Channels(rig, mechanism, build);
    if (!channels.all.every(({ line }) => this.sessions.some(({ end }) => end.board === line)))
      return hindrance('board-changed');
    this.commanded = this.standsBy(channels);
    Object.assign(this, { rig, build, mechanism, channels });
    const limits = limitsOf(rig, mechanism, { sudden });
    const pins = signalPins(rig);
    const sensors = sensorPins(rig);
    for (const session of this.sessions) {
      const { board } = session.end;
      session.setMaps(channels.on(board), limits);
      session.setChannels(channels);
      session.setSignals(pins.filter(({ line }) => line === board));
      session.setSensors(sensors.filter(({ line }) => line === board));
    }
    return null;
  }

  /**
   * Where the arm stands (slots, SI) by other motors than those it was moved by, such as the same ones calibrated meanwhile: what they
   * were sent counts.
   */
  standsBy(channels: Channels): Float64Array {
    const { mechanism: before, told } = this;
    const { mechanism } = channels;
    const joints = fromSlots(before, this.commanded);
    const stands = mechanism.home.map((v, s) => {
      const known = joints[mechanism.slotIds[s]];
      return known === undefined ? v : fromUnit(mechanism, s, known);
    });
    const differs = channels
      .values(stands, new Float64Array(mechanism.m))
      .some(([map, value]) => !isSpin(map) && Math.abs((told.sent.get(map.drive.id) ?? value) - value) > 1);
    return differs ? channels.poseInto(stands, told.sent) : stands;
  }

  /** As far as anybody knows, motors are where they were sent. */
  standAsSent(): void {
    this.channels.poseInto(this.commanded, this.told.sent);
  }

  /** Holds boards to the limits of the joints, each motor to its own range alone, or to one that is given. */
  hold(to: 'joints' | 'motors' | Range): void {
    const { rig, mechanism, build } = this;
    const own: Range = (map) => (isSpin(map) ? null : nativeOf(map.drive, build));
    const range = to === 'joints' ? undefined : to === 'motors' ? own : to;
    const limits = limitsOf(rig, mechanism, { range });
    for (const session of this.sessions) session.setBounds(limits);
  }

  /** How far (rad or m) past limits or rules a pose is. */
  excess(pose: Float64Array): number {
    return Math.max(limitExcess(this.mechanism, pose).by, rulesExcess(this.mechanism, pose));
  }

  /** Joints (ids) whose motors were let go while others hold. */
  get limp(): string[] {
    const { channels, mechanism, told } = this;
    const slots = channels.all.filter(({ drive }) => told.limp.has(drive.id)).flatMap((map) => [...map.slots]);
    return [...new Set(slots)].map((slot) => mechanism.slotIds[slot]);
  }
  /** What lines of a builder's own can do, by board (id); those that speak the protocol are left out. */
  get ownLines(): ReadonlyMap<string, OwnLines> {
    return new Map(this.sessions.flatMap(({ end, ownLines }) => (ownLines ? [[end.board, ownLines] as const] : [])));
  }
  /** Boards that say which rig they were made for, and whether their motors are sent the same by it as by the rig as it was taken in. */
  get madeFor(): Status['madeFor'] {
    if (!this.sessions.some(({ made }) => made)) return [];
    const stands = standing(this.rig, this.build.id);
    if (!stands.ok) return [];
    const mechanism = confirmedLimits(stands.mechanism, stands.build);
    const channels = new Channels(this.rig, mechanism, stands.build);
    return this.sessions.flatMap(({ end, made }) => {
      if (!made) return [];
      const agrees = fingerprint(channels.on(end.board), mechanism) === made.fingerprint;
      return [{ board: end.board, revision: made.revision, agrees }];
    });
  }
  /** Whether no motor of a board that would not wake would stay behind. */
  get isReady(): boolean {
    return this.sessions.every((session) => session.isAwake || !session.hasMotors);
  }
}
