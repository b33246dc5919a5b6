import { SimulatedBoard, type MotorModel, type SimulatedChannel } from '@cork-elbow/core/board';
import { driveSpeed, nativeAt, nativeOf, stepsPerDeg, type DriveMap } from '@cork-elbow/core/actuators';
import type { Build } from '@cork-elbow/core/rig';
import type { Wire } from '../run/wire';
import type { Link } from './link';

/** The simulated board behind the same bytes as a real one, with so many pins; its motors rest where the arm rests. */
export function simulatedLink(
  pins: number,
  { maps, spins, mechanism }: Wire,
  build: Build,
  rest: Float64Array,
  startMs: number,
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
  const board = new SimulatedBoard(pins, [...placed, ...turning]);
  let lived = Math.round(startMs * 1000);
  return {
    name: 'simulated board',
    write: (bytes) => board.write(bytes),
    read: () => board.read(),
    advanceTo(now) {
      const until = Math.round(now * 1000);
      if (until > lived) board.advance(until - lived);
      lived = Math.max(lived, until);
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
