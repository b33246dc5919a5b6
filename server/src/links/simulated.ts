import { SimulatedBoard, type MotorModel, type SimulatedChannel } from '@cork-elbow/core/board';
import { seededRandom } from '@cork-elbow/core/linear';
import { driveSpeed, nativeAt, nativeOf, stepsPerDeg, type DriveMap } from '@cork-elbow/core/actuators';
import type { Build } from '@cork-elbow/core/rig';
import type { Channels } from '@cork-elbow/core/commands';
import type { Link } from './link';

/** What is not ideal about a simulated board and the line to it. */
export interface Imperfect {
  /** Millionths by which the board's clock is fast; negative: slow. */
  readonly ppm?: number;
  /** ms that bytes are on their way, either way, and how much longer some of them take. */
  readonly delayMs?: number;
  readonly jitterMs?: number;
  readonly seed?: number;
}

/** Bytes on their way: each comes out as late as the line is, none before one that was sent earlier. */
class Line {
  private readonly underway: { readonly at: number; readonly bytes: Uint8Array }[] = [];
  private last = -Infinity;
  constructor(
    private readonly delayMs: number,
    private readonly jitterMs: number,
    private readonly random: () => number,
  ) {}
  send(bytes: Uint8Array, now: number): void {
    this.last = Math.max(this.last, now + this.delayMs + this.jitterMs * this.random());
    this.underway.push({ at: this.last, bytes });
  }
  /** The next that comes out by `now`. */
  next(now: number): { readonly at: number; readonly bytes: Uint8Array } | undefined {
    return this.underway.length && this.underway[0].at <= now ? this.underway.shift() : undefined;
  }
}

/** The simulated board behind the same bytes as a real one, with so many pins; its motors rest where the arm rests. */
export function simulatedLink(
  pins: number,
  { maps, spins, mechanism }: Channels,
  build: Build,
  rest: Float64Array,
  startMs: number,
  { ppm = 0, delayMs = 0, jitterMs = 0, seed = 1 }: Imperfect = {},
): Link {
  const placed = maps.flatMap((map): SimulatedChannel[] => {
    const restsAt = nativeAt(map, mechanism, rest);
    if (map.channel === null || restsAt === null) return [];
    return [{ channel: map.channel, restsAt, motor: motorOf(map, build) }];
  });
  const turning = spins.flatMap(({ channel, stopUs, drive }): SimulatedChannel[] => {
    const motor = {
      kind: 'spin',
      stopUs,
      degPerSPerUs: (drive.direction * drive.speedDegPerS) / drive.fullUs,
    } as const;
    return channel === null ? [] : [{ channel, restsAt: stopUs, motor }];
  });
  const board = new SimulatedBoard(pins, [...placed, ...turning], ppm);
  const random = seededRandom(seed);
  const [there, back] = [0, 1].map(() => new Line(delayMs, jitterMs, random));
  let clock = startMs;
  let lived = Math.round(startMs * 1000);
  const liveTo = (ms: number): void => {
    const until = Math.round(ms * 1000);
    if (until > lived) board.advance(until - lived);
    lived = Math.max(lived, until);
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
    write(bytes) {
      there.send(bytes, clock);
      deliver(clock);
    },
    read() {
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
  };
}

function motorOf({ drive, native }: DriveMap, build: Build): MotorModel {
  if (drive.kind === 'stepper') return { kind: 'stepper', maxHz: driveSpeed(drive) * stepsPerDeg(drive) };
  const own = nativeOf(drive, build)!;
  const deadBand = 'deadBandUs' in drive ? drive.deadBandUs : 'deadBandCounts' in drive ? drive.deadBandCounts : 0;
  return {
    kind: 'servo',
    speedPerS: driveSpeed(drive) * Math.abs(native.perDeg),
    deadBand,
    min: own.low,
    max: own.high,
  };
}
