import { SimulatedBoard, type SimulatedChannel } from '@cork-elbow/core/board';
import type { ServoMap } from '@cork-elbow/core/drives';
import { toUs } from '@cork-elbow/core/drives';
import type { Link } from './link';

/** The simulated board behind the same bytes as a real one; its servos rest where the arm's home pose is. */
export function simulatedLink(
  channels: number,
  maps: readonly ServoMap[],
  rest: Float64Array,
  startMs: number,
): Link {
  const wired: SimulatedChannel[] = maps
    .filter((map) => map.channel !== null && map.channel < channels)
    .map((map) => ({
      channel: map.channel!,
      restsAtUs: Math.round(toUs(map, rest[map.slot])),
      servo: {
        speedUsPerS: map.drive.speedDegPerS * map.drive.usPerDeg,
        deadBandUs: map.drive.deadBandUs,
        minUs: map.drive.minUs,
        maxUs: map.drive.maxUs,
      },
    }));
  const board = new SimulatedBoard(channels, wired);
  let lived = Math.round(startMs * 1000);
  return {
    name: 'simulated servo board',
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
