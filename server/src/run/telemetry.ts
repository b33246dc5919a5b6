/** What pages are told of an arm that a board moves, and how late it was sent what to do. */
import type { Channels } from '@cork-elbow/core/commands';
import type { Telemetry } from '@cork-elbow/core/contract';
import { restingAt } from '@cork-elbow/core/calibration';
import { inUnit, type Mechanism } from '@cork-elbow/core/mechanism';
import type { Sensor } from '@cork-elbow/core/rig';
import type { Told } from './session';

const inUnits = (mechanism: Mechanism, q: Float64Array, slots: Iterable<number>): Record<string, number> =>
  Object.fromEntries([...slots].map((s) => [mechanism.slotIds[s], inUnit(mechanism, s, q[s])]));

/** `commanded`: where the joints are told to be (slots, SI). */
export function telemetryOf(
  channels: Channels,
  commanded: Float64Array,
  { measured, sent, signals, sensed }: Told,
  sensors: readonly Sensor[],
): Pick<Telemetry, 'commanded' | 'measured' | 'wire' | 'read' | 'signals' | 'sensed'> {
  const { mechanism } = channels;
  const stands = channels.poseInto(commanded.slice(), measured);
  const native = (values: ReadonlyMap<string, number>): Record<string, number> =>
    Object.fromEntries(channels.all.flatMap(({ drive: { id } }) => (values.has(id) ? [[id, values.get(id)!]] : [])));
  return {
    commanded: inUnits(mechanism, commanded, commanded.keys()),
    measured: inUnits(mechanism, stands, channels.known(measured)),
    wire: native(sent),
    read: native(measured),
    signals: Object.fromEntries(signals),
    sensed: Object.fromEntries(
      sensors.flatMap((sensor) => {
        const rests = restingAt(sensor, sensed.get(sensor.id) ?? []);
        return rests ? [[sensor.id, rests]] : [];
      }),
    ),
  };
}

/** How late set points leave: a count for each quarter of a millisecond, so that a run of any length takes no more room. */
export class Lateness {
  private readonly counts = new Uint32Array(4 * 250);
  private most = 0;
  private total = 0;

  add(ms: number): void {
    const late = Math.max(0, ms);
    this.most = Math.max(this.most, late);
    this.total++;
    this.counts[Math.min(this.counts.length - 1, Math.floor(late * 4))]++;
  }

  /** 99 in 100 are no later than the first (upper end of its quarter); null where none was sent. */
  get figures(): { p99Ms: number; mostMs: number } | null {
    if (!this.total) return null;
    let left = this.total * 0.99;
    const at = this.counts.findIndex((count) => (left -= count) <= 0);
    return { p99Ms: Math.min((at + 1) / 4, this.most), mostMs: Math.round(this.most * 100) / 100 };
  }
}
