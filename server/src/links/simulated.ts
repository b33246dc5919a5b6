import { SimulatedBoard, type MotorModel, type SimulatedChannel, type SimulatedMotor } from '@cork-elbow/core/board';
import { lineMotors, lineNatives } from '@cork-elbow/core/commands';
import { LineStandIn, readTemplate, type LineTemplate } from '@cork-elbow/core/own-lines';
import { seededRandom } from '@cork-elbow/core/linear';
import {
  deadBandOf,
  driveSpeed,
  isSpin,
  nativeAt,
  nativeOf,
  stepsPerDeg,
  type DriveMap,
} from '@cork-elbow/core/actuators';
import type { Build } from '@cork-elbow/core/rig';
import type { LinkOptions } from '@cork-elbow/core/contract';
import type { LineEnd, Link } from './link';
import type { World } from './world';

/** What is not ideal about a simulated board and the line to it. */
export type Imperfect = Partial<Omit<Extract<LinkOptions, { kind: 'simulated' }>, 'kind'>>;

type Whole = Required<Omit<Imperfect, 'lines'>> & Pick<Imperfect, 'lines'>;
const ideal: Whole = {
  ...{ ppm: 0, bufferBytes: 256, loopMs: 0, astray: 0, load: 0, weight: 0, heldG: 0, slop: 0 },
  ...{ noise: 0, sensorOff: 0, supplyV: 0, supplyOhm: 0.1, resetV: 0 },
  ...{ delayMs: 0, jitterMs: 0, lostShare: 0, doubledShare: 0, seed: 1 },
};

/**
 * Bytes on their way: each comes out as late as the line is, none before one that was sent earlier; some do not come out, some twice.
 */
class Line {
  private readonly underway: { readonly at: number; readonly bytes: Uint8Array }[] = [];
  private last = -Infinity;
  constructor(
    private readonly is: Whole,
    private readonly random: () => number,
  ) {}
  send(bytes: Uint8Array, now: number): void {
    const { delayMs, jitterMs, lostShare, doubledShare } = this.is;
    this.last = Math.max(this.last, now + delayMs + jitterMs * this.random());
    const spoils = lostShare > 0 || doubledShare > 0;
    this.underway.push({ at: this.last, bytes: spoils ? this.spoilt(bytes) : bytes });
  }
  private spoilt(bytes: Uint8Array): Uint8Array {
    const { lostShare, doubledShare } = this.is;
    const out: number[] = [];
    for (const byte of bytes) {
      const draw = this.random();
      if (draw < lostShare) continue;
      out.push(byte);
      if (draw < lostShare + doubledShare) out.push(byte);
    }
    return Uint8Array.from(out);
  }
  /** The next that comes out by `now`. */
  next(now: number): { readonly at: number; readonly bytes: Uint8Array } | undefined {
    return this.underway.length && this.underway[0].at <= now ? this.underway.shift() : undefined;
  }
}

/** The simulated board behind the same bytes as a real one; its motors rest where the arm rests. */
export function simulatedLink(end: LineEnd, startMs: number, imperfect: Imperfect = {}): Link {
  const is = { ...ideal, ...imperfect };
  const { maps, mechanism, build, rest, world } = end;
  const stands = world.begin(is.astray, is.seed);
  const channels = maps.flatMap((map): SimulatedChannel[] => {
    const { channel } = map;
    if (channel === null) return [];
    if (isSpin(map)) {
      const { stopUs, drive } = map;
      const degPerSPerUs = (drive.direction * drive.speedDegPerS) / drive.fullUs;
      return [{ channel, restsAt: stopUs, motor: { kind: 'spin', stopUs, degPerSPerUs } }];
    }
    const restsAt = nativeAt(map, mechanism, rest);
    const truly = world.valueAt(map, stands);
    return restsAt === null || truly === null
      ? []
      : [{ channel, restsAt, motor: motorOf(map, build, truly - restsAt, world, is) }];
  });
  let isNoisy = false;
  const board: Device = is.lines
    ? standIn(end, is.lines, channels)
    : new SimulatedBoard(end.pins, channels, {
        ...{ ppm: is.ppm, buffer: is.bufferBytes, loopMs: is.loopMs, random: seededRandom(is.seed + 1) },
        pins: [...end.signals, ...end.sensors].map(({ channel }) => channel),
        made: end.made,
        sense(id) {
          const sensor = end.sensors.find((own) => own.id === id)?.sensor;
          const noise = is.noise + (isNoisy ? (sensor?.countsPerTurn ?? 0) / NOISY_SHARE : 0);
          return sensor ? world.raw(sensor, { off: is.sensorOff, noise }) : null;
        },
        ...(is.weight > 0 ? { pulls: () => pullsOn(end, is) } : {}),
        world(truly) {
          tellWorld(end, truly);
          return world.levels(end.board);
        },
      });
  let failure: string | null = null;
  // Too little for the board even while its motors are off.
  const isDead = is.supplyV > 0 && is.supplyV < is.resetV;
  const random = seededRandom(is.seed);
  const [there, back] = [0, 1].map(() => new Line(is, random));
  let clock = startMs;
  let lived = Math.round(startMs * 1000);
  const liveTo = (ms: number): void => {
    const until = Math.round(ms * 1000);
    while (!isDead && lived < until) {
      const piece = is.supplyV ? Math.min(SUPPLIED, until - lived) : until - lived;
      board.advance(piece);
      lived += piece;
      // What a supply that is too weak comes to: motors set off, the voltage dips, the board begins anew.
      if (is.supplyV && supplied(is, maps, board.efforts) < is.resetV) board.restart();
    }
  };
  const deliver = (now: number): void => {
    for (let sent = there.next(now); sent; sent = there.next(now)) {
      liveTo(sent.at);
      board.write(sent.bytes);
      for (const bytes of board.read()) back.send(bytes, sent.at);
    }
  };
  return {
    name: 'simulated board',
    get failure() {
      return failure;
    },
    patienceMs: 1000,
    write(bytes) {
      if (failure || isDead) return;
      there.send(bytes, clock);
      deliver(clock);
    },
    read() {
      if (failure) return [];
      const come: Uint8Array[] = [];
      for (let sent = back.next(clock); sent; sent = back.next(clock)) come.push(sent.bytes);
      return come;
    },
    advanceTo(now) {
      clock = Math.max(clock, now);
      deliver(clock);
      liveTo(clock);
      for (const bytes of board.read()) back.send(bytes, clock);
    },
    close: () => undefined,
    hold: (channel, level) => board.hold?.(channel, level),
    trouble(kind, channel, by) {
      const motor = channel === null ? null : board.motorAt(channel);
      if (kind === 'cut') failure = 'the line to the simulated board was cut';
      else if (kind === 'reset') board.restart();
      else if (kind === 'noise' || kind === 'quiet') isNoisy = kind === 'noise';
      else if (kind === 'slip') motor?.slip(by);
      else motor?.jam(kind === 'jam');
    },
  };
}

/** A supply is looked at so often (µs). */
const SUPPLIED = 1000;
/** Volts that are left of a supply: its own, less what all that its motors draw makes drop (Ohm's law). */
function supplied(is: Whole, maps: LineEnd['maps'], efforts: ReadonlyMap<number, number> = new Map()): number {
  const amps = maps.reduce((sum, { channel, drive }) => {
    const effort = channel === null ? undefined : efforts.get(channel);
    const { idleA = 0, movingA = idleA, stallA = movingA } = drive;
    return effort === undefined ? sum : sum + idleA + (stallA - idleA) * effort;
  }, 0);
  return is.supplyV - is.supplyOhm * amps;
}
/** Sensors that have become noisy scatter by so much of their turn. */
const NOISY_SHARE = 20;

/** What the arm's weight does to the motors of a board, by channel. */
function pullsOn({ maps, world }: LineEnd, { weight, heldG }: Whole): ReadonlyMap<number, number> {
  const pulls = world.pulls(weight, heldG);
  return new Map(
    maps.flatMap(({ channel, drive }) => (channel === null ? [] : [[channel, pulls.get(drive.id) ?? 0] as const])),
  );
}

/** Where motors really stand. */
function tellWorld({ maps, world }: LineEnd, truly: (channel: number) => number | null): void {
  for (const { channel, drive } of maps) {
    const value = truly(channel!);
    if (value !== null) world.stands(drive.id, value);
  }
}

/** What takes bytes at the far end, and lives. */
interface Device {
  write(bytes: Uint8Array): void;
  read(): Uint8Array[];
  advance(dtMicros: number): void;
  motorAt(channel: number): Pick<SimulatedMotor, 'jam' | 'slip'> | null;
  restart(): void;
  readonly efforts?: ReadonlyMap<number, number>;
  hold?(channel: number, level: number | null): void;
}
/** Firmware of somebody's own that reads the lines of a template. */
function standIn(end: LineEnd, template: LineTemplate, channels: readonly SimulatedChannel[]): Device {
  const { maps, mechanism, rest, signals } = end;
  const read = readTemplate(template);
  const outputs = signals.flatMap(({ signal, channel }) =>
    signal.way === 'out' ? [{ channel, id: signal.id }] : [],
  );
  const reader =
    read.ok &&
    new LineStandIn(template, read.value, lineMotors(maps), channels, outputs, (joints) =>
      lineNatives(mechanism, maps, rest, joints),
    );
  // What cannot be read is said by who sends it.
  if (!reader) return { write() {}, read: () => [], advance() {}, motorAt: () => null, restart() {} };
  return {
    write: (bytes) => reader.write(bytes),
    read: () => reader.read(),
    advance(dtMicros) {
      reader.advance(dtMicros);
      tellWorld(end, (channel) => reader.motorAt(channel)?.truly ?? null);
    },
    motorAt: (channel) => reader.motorAt(channel),
    restart: () => reader.restart(),
  };
}

function motorOf(map: DriveMap, build: Build, astray: number, world: World, is: Whole): MotorModel {
  const { drive, native } = map;
  const slop = world.widthOf(map, is.slop);
  if (drive.kind === 'stepper') {
    const stops = world.stopsOf(map);
    const maxHz = driveSpeed(drive) * stepsPerDeg(drive);
    const cycle = FULL_STEPS * drive.microsteps;
    return { kind: 'stepper', maxHz, cycle, astray, slop, load: is.load, ...(stops && { stops }) };
  }
  const own = nativeOf(drive, build)!;
  return {
    kind: 'servo',
    speedPerS: driveSpeed(drive) * Math.abs(native.perDeg),
    deadBand: deadBandOf(drive),
    slop,
    load: -is.load * Math.sign(native.perDeg),
    min: own.low,
    max: own.high,
    ...(drive.kind === 'dc-encoder' ? { astray } : {}),
  };
}
/** A rotor that has fallen out of step locks in again at a whole number of so many full steps. */
const FULL_STEPS = 4;
