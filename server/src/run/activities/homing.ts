/**
 * Joints find their places: group after group, first what waits goes there by points, then boards seek by themselves, each axis in the
 * steps of its kind. What is found is compared with what was believed, and counted from there on.
 */
import { isSpin, nativeAt, shaftSpeed, type CommandMap, type DriveMap } from '@cork-elbow/core/actuators';
import { FARTHEST, LONGEST_SEEK, type Until } from '@cork-elbow/core/board';
import {
  freeing,
  homingGroups,
  homingSteps,
  unheld,
  WAIT_SHARE,
  waitsOf,
  wholeRange,
} from '@cork-elbow/core/bring-up';
import type { HomingStep } from '@cork-elbow/core/bring-up';
import { levelOf, valuesAt, type Channels, type Values } from '@cork-elbow/core/commands';
import { contractFindings, type Found, type Status } from '@cork-elbow/core/contract';
import { fromUnit, inUnit, type Mechanism } from '@cork-elbow/core/mechanism';
import { blockMotion, jointMove, poseAt, type Motion } from '@cork-elbow/core/motion';
import type { OwnLines } from '@cork-elbow/core/own-lines';
import { homingReady, type HomingReady } from '@cork-elbow/core/routine';
import { placeBy, restingAt, sensorAngle, sensorSpan } from '@cork-elbow/core/calibration';
import type { Build, HomingAxis, Rig, Sensor } from '@cork-elbow/core/rig';
import type { Desk, Hindrance } from '../desk';
import { PERIOD } from '../pacer';
import type { Activity, Outcome, Point } from './activity';
import { RISING } from './bring-up';

const { say } = contractFindings;
/** Motors that went to where they wait lag behind, and boards play what is queued (ms). */
const SETTLE = 250;
/** For so much of that (ms) they are sent nothing more. */
const STAND = 150;

/** What boards are asked while it goes on. */
export interface Seeker {
  /** Motors of one board; the number by which the end is told. */
  seek(line: string, speeds: Values, until: Until | null, ms: number): number;
  zero(values: Values): void;
  /** Where motors are by now, by drive: what they were sent, or found to be. */
  readonly sent: ReadonlyMap<string, number>;
  reads(signal: string): boolean | undefined;
  /** The last raw counts of a sensor (id), oldest first. */
  sensed(sensor: string): readonly number[];
}

interface Underway extends HomingReady {
  steps: HomingStep[];
  /** The seek that is waited for, on which board. */
  asked: { readonly line: string; readonly id: number; readonly step: HomingStep } | null;
}

export class Homing implements Activity {
  readonly cushionMs = RISING;
  private readonly maps: readonly CommandMap[];
  private readonly groups: readonly (readonly HomingReady[])[];
  /** Number of the group under way, and its axes; none while what waits goes there. */
  private group = -1;
  private axes: Underway[] | null = null;
  /** Joints on their way by points, and from when on boards stand still. */
  private way: { readonly motion: Motion; time: number } | null = null;
  private standsAt: number;
  private isDone = false;
  /** Why it could not go on; empty while it can. */
  failure = '';
  private readonly told = new Map<string, Found>();

  private constructor(
    private readonly channels: Channels,
    private pose: Float64Array,
    rig: Rig,
    private readonly prepared: readonly HomingReady[],
    private readonly boards: Seeker,
    private readonly build: Build,
    now: number,
  ) {
    this.standsAt = now + SETTLE;
    this.maps = channels.all.map((map) => (isSpin(map) ? map : unheld(map)));
    this.groups = homingGroups(rig, channels.mechanism).map((group) =>
      group.map(({ joint }) => prepared.find(({ axis }) => axis.joint === joint)!),
    );
    for (const { axis } of prepared) this.told.set(axis.joint, { joint: axis.joint, act: 'waits', off: null });
  }

  /** From where the arm is believed to stand (slots, SI); or why it cannot be done. */
  static of(
    rig: Rig,
    build: Build,
    channels: Channels,
    ownLines: ReadonlyMap<string, OwnLines>,
    stands: Float64Array,
    boards: Seeker,
    now: number,
  ): Homing | Hindrance {
    const prepared = homingReady(rig, channels, build, ownLines);
    return 'code' in prepared ? prepared : new Homing(channels, stands.slice(), rig, prepared, boards, build, now);
  }

  /** Whether boards move joints by themselves. */
  get isSeeking(): boolean {
    return this.axes?.some(({ asked }) => asked !== null) ?? false;
  }
  /** What each axis does or has found, in their order. */
  get found(): Found[] {
    return [...this.told.values()];
  }
  /** Poses may be so far (rad or m) past limits: joints end where their switches are. */
  readonly leeway = Infinity;

  /** Between which values a motor comes while it is sought by: all the ways that its axes may take from where it is. */
  reach(map: CommandMap): { low: number; high: number } | null {
    const value = isSpin(map) ? null : nativeAt(unheld(map), this.mechanism, this.pose);
    if (isSpin(map) || value === null) return null;
    let most = 0;
    for (const { axis, slot, maps } of this.groups.flat()) {
      if (!maps.some(({ drive }) => drive.id === map.drive.id)) continue;
      const ways = homingSteps(axis, this.mechanism).map(({ way }) => Math.abs(way));
      // A sensor may say that it stands anywhere.
      if (axis.by === 'sensor') ways.push(wholeRange(this.mechanism, slot) + PAST);
      most += 2 * Math.max(...ways) * Math.abs(this.perUnit(map, slot));
    }
    if (most === 0) return null;
    const far = Math.ceil(most);
    return { low: Math.max(-FARTHEST, value - far), high: Math.min(FARTHEST, value + far) };
  }

  private get mechanism(): Mechanism {
    return this.channels.mechanism;
  }
  /** Native units of a motor for a unit of a joint, where it stands. */
  private perUnit(map: DriveMap, slot: number): number {
    const { mechanism, pose } = this;
    const unit = new Float64Array(mechanism.m);
    unit[slot] = fromUnit(mechanism, slot, 1);
    return map.native.perDeg * (shaftSpeed(map, mechanism, pose, unit)?.degPerS ?? 0);
  }

  wakes(): [] {
    return [];
  }
  get isMoving(): boolean {
    return this.way !== null;
  }

  beat(now: number): void {
    const { way } = this;
    if (!way) return;
    way.time += PERIOD / 1000;
    this.pose = poseAt(way.motion, Math.min(way.time, way.motion.durationS));
    if (way.time < way.motion.durationS) return;
    this.way = null;
    this.standsAt = now + SETTLE;
  }
  stall(): void {}

  /** While boards are to move by themselves they are sent nothing. */
  pointAt(now: number): Point | null {
    if (!this.way && !(now < this.standsAt - STAND)) return null;
    const values = valuesAt(this.maps, this.mechanism, this.pose, new Float64Array(this.pose.length));
    return { pose: this.pose, values };
  }

  /** What is due: the next seek of each axis, the next group, or the way back inside the limits. Whether joints set off by points. */
  goOn(now: number): boolean {
    if (this.way || this.isDone || this.failure || now < this.standsAt) return false;
    if (this.axes?.some(({ asked, steps }) => asked || steps.length)) return false;
    if (this.group < 0) this.rests();
    if (this.axes === null && this.group >= 0) this.begin();
    else if (++this.group < this.groups.length) return this.lead(waitsOf(this.axesOf(this.group), this.mechanism));
    else if (!this.inside()) this.isDone = true;
    return this.way !== null;
  }
  /** What lies in its cradle is told so before anything moves. */
  private rests(): void {
    const lying = this.prepared.filter(
      ({ axis: { by }, maps }) => (by === 'cradle' || by === 'neutral') && maps.length,
    );
    for (const { axis, slot } of lying) this.pose[slot] = fromUnit(this.mechanism, slot, axis.at);
    this.count(lying.flatMap(({ maps }) => maps));
  }
  private axesOf = (group: number): HomingAxis[] => this.groups[group].map(({ axis }) => axis);

  /** Joints by points to values in their units. */
  private lead(values: ReadonlyMap<string, number>): boolean {
    const { mechanism } = this;
    const to = this.pose.slice();
    for (const [joint, value] of values) {
      const slot = mechanism.slotOf.get(joint)!;
      to[slot] = fromUnit(mechanism, slot, value);
    }
    this.axes = null;
    return this.goTo(to);
  }
  private goTo(to: Float64Array): boolean {
    if (to.every((v, s) => Math.abs(v - this.pose[s]) < NEAR)) return false;
    this.way = {
      motion: blockMotion(jointMove(this.mechanism, this.pose, to, { speedShare: WAIT_SHARE })),
      time: 0,
    };
    return true;
  }
  /** Whether joints that ended past their limits, where their switches are, are on their way back. */
  private inside(): boolean {
    const { lower, upper } = this.mechanism;
    return this.goTo(this.pose.map((v, s) => Math.min(upper[s], Math.max(lower[s], v))));
  }

  private begin(): void {
    this.axes = this.groups[this.group].map((prepared): Underway => {
      const { axis } = prepared;
      const steps = homingSteps(axis, this.mechanism).filter(({ speed }) => speed !== null);
      const isOn = axis.signal !== null && this.boards.reads(axis.signal) === true;
      if (isOn && steps[0]?.until === true) steps.unshift(freeing(axis, this.mechanism));
      return { ...prepared, steps, asked: null };
    });
    for (const axis of this.axes)
      if (axis.sensor) this.readOff(axis, axis.sensor.sensor);
      else if (axis.steps.length) this.ask(axis);
      else this.tell(axis, 'found', 0);
  }

  /** An axis whose sensor knows where it is: motors that count go by that from now on. Nothing moves for it. */
  private readOff(underway: Underway, sensor: Sensor): void {
    const { mechanism, build } = this;
    const { slot, maps } = underway;
    const j = mechanism.jointOfSlot[slot];
    const [joint, unit, slides] = [mechanism.names[j], mechanism.units[j], mechanism.units[j] === 'mm'];
    const rests = restingAt(sensor, this.boards.sensed(sensor.id));
    const said = { sensor: sensor.name, joint, unit };
    if (!rests) return void (this.failure = say('homing-no-reading', said));
    const swing = (rests.swing * sensorSpan(sensor, slides)) / sensor.countsPerTurn;
    if (swing > MOST_SWING) return void (this.failure = say('homing-reading-noisy', { ...said, swing }));
    const [low, high] = [mechanism.lower, mechanism.upper].map((ends) => inUnit(mechanism, slot, ends[slot]));
    const believed = inUnit(mechanism, slot, this.pose[slot]);
    const angle = sensorAngle(build, sensor, rests.raw, slides);
    const at = placeBy(sensor, angle, slides, { low, high, believed, leeway: PAST });
    if (at === null) return void (this.failure = say('homing-reading-far', { ...said, at: angle }));
    // What knows its place by itself, such as a servo, is compared alone.
    if (maps.length) {
      this.pose[slot] = fromUnit(mechanism, slot, at);
      this.count(maps);
    }
    this.tell(underway, 'found', believed - at);
  }

  private ask(underway: Underway): void {
    const { slot, maps, pin } = underway;
    const step = underway.steps.shift()!;
    const speed = Math.sign(step.way) * step.speed!;
    const speeds = maps.flatMap((map): [DriveMap, number][] => {
      const perS = this.perUnit(map, slot) * speed;
      return perS === 0 ? [] : [[map, Math.sign(perS) * Math.max(1, Math.round(Math.abs(perS)))]];
    });
    const until =
      pin && step.until !== null ? { channel: pin.channel, level: levelOf(pin.signal, step.until) } : null;
    const ms = Math.min(LONGEST_SEEK, Math.max(1, Math.round((1000 * Math.abs(step.way)) / step.speed!)));
    const { line } = maps[0];
    underway.asked = { line: line!, step, id: this.boards.seek(line!, speeds, until, ms) };
    this.tell(underway, step.act as Found['act'], null);
  }

  /** A seek has ended. */
  hear(line: string, id: number, hit: boolean): void {
    const underway = this.axes?.find(({ asked }) => asked?.line === line && asked.id === id);
    if (!underway?.asked) return;
    const { axis, slot, pin, asked } = underway;
    underway.asked = null;
    const joint = this.mechanism.names[this.mechanism.jointOfSlot[slot]];
    const signal = pin?.signal.name ?? '';
    if (!hit && asked.step.until !== null) {
      const way = Math.abs(asked.step.way);
      const unit = this.mechanism.units[this.mechanism.jointOfSlot[slot]];
      this.failure = say(asked.step.until ? 'homing-in-vain' : 'homing-stuck', { joint, signal, way, unit });
      return;
    }
    this.channels.poseInto(this.pose, this.boards.sent);
    // Its place is where it was sought slowly; what comes after that is counted from there.
    if (asked.step.act === 'seek slowly') {
      const believed = inUnit(this.mechanism, slot, this.pose[slot]);
      this.pose[slot] = fromUnit(this.mechanism, slot, axis.at);
      this.count(underway.maps);
      this.tell(underway, asked.step.act, believed - axis.at);
    }
    if (underway.steps.length) this.ask(underway);
    else this.tell(underway, 'found', null);
  }
  /** Motors that count are where the pose has them. */
  private count(maps: readonly DriveMap[]): void {
    const values = maps.flatMap((map): [DriveMap, number][] => {
      const value = nativeAt(map, this.mechanism, this.pose);
      return value === null ? [] : [[map, value]];
    });
    this.boards.zero(values);
  }

  private tell({ axis }: HomingReady, act: Found['act'], off: number | null): void {
    const before = this.told.get(axis.joint);
    this.told.set(axis.joint, { joint: axis.joint, act, off: off ?? before?.off ?? null });
  }

  outcome(): Outcome | null {
    if (this.failure) return 'failed';
    return this.isDone ? 'finished' : null;
  }
  close(desk: Desk, outcome: Outcome, now: number): Partial<Status> {
    const { failure, found } = this;
    // Of what would go on seeking by itself.
    if (outcome !== 'finished' && this.isSeeking) for (const session of desk.sessions) session.halt(now);
    desk.standAsSent();
    desk.hold('joints');
    return { mode: 'normal', homed: outcome === 'finished', found, ...(failure ? { notice: failure } : {}) };
  }
}

/** A sensor that scatters by more (° or mm) while its joint stands says nothing; and so far past its limits a joint may have been left. */
const MOST_SWING = 5;
const PAST = 5;
/** Joints this near (rad or m) to where they wait stand there. */
const NEAR = 1e-6;
