/** What stands at the end of each line of a rig: its boards with the motors that each of them reaches. */
import { linedBoards, pinCount } from '@cork-elbow/core/actuators';
import { restPose } from '@cork-elbow/core/bring-up';
import { Channels, fingerprint, sensorPins, signalPins } from '@cork-elbow/core/commands';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { Build, Rig } from '@cork-elbow/core/rig';
import type { LineEnd } from '../links/link';
import { World } from '../links/world';

/** `revision`: the one that boards say they were made for; left out: they are for any rig. */
export function lineEnds(
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  revision?: number,
): { channels: Channels; ends: LineEnd[] } {
  const channels = new Channels(rig, mechanism, build);
  const rest = restPose(rig, mechanism);
  const signals = signalPins(rig);
  const sensors = sensorPins(rig);
  const world = new World(rig, build, channels, signals, rest);
  const ends = linedBoards(rig).map(({ id, name }) => ({
    ...{ board: id, name, pins: pinCount(rig, id), maps: channels.on(id), channels },
    ...{ signals: signals.filter(({ line }) => line === id), sensors: sensors.filter(({ line }) => line === id) },
    ...{ mechanism, build, rest, world },
    ...(revision === undefined ? {} : { made: { revision, fingerprint: fingerprint(channels.on(id), mechanism) } }),
  }));
  return { channels, ends };
}
