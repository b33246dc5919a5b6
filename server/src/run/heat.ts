/** Motors that become too warm: reckoned from where they are sent and read back, told before it is too late. */
import {
  deadBandOf,
  Drawing,
  driveSpeed,
  heatModel,
  isSpin,
  Warmth,
  type DriveMap,
} from '@cork-elbow/core/actuators';
import { contractFindings, type Telemetry } from '@cork-elbow/core/contract';
import type { Desk } from './desk';

const { say } = contractFindings;
/** Looked at so often (ms). */
const LOOK = 50;
/** From this share of what it may have on somebody is told. */
const WARM = 0.8;
/** A servo may stand off by its own dead band, and a little (°). */
const OFF_DEG = 2;

interface Watched {
  readonly warmth: Warmth;
  readonly drawing: Drawing;
  amps: number;
  /** What was said of it: nothing, warm, or hot. */
  told: 0 | 1 | 2;
}

export class HeatWatch {
  private readonly motors = new Map<string, Watched>();
  private lookedAt: number | null = null;

  /** Of which rig: who connects it again finds its motors as warm as they are by then. */
  constructor(readonly rigId: string | null = null) {}

  /** By now; a sentence where somebody should look. */
  look(desk: Desk, now: number): string | null {
    const s = (now - (this.lookedAt ?? now)) / 1000;
    if (this.lookedAt !== null && s * 1000 < LOOK) return null;
    this.lookedAt = now;
    let notice: string | null = null;
    const awake = new Set(desk.sessions.filter(({ isAwake }) => isAwake).map(({ end }) => end.board));
    for (const map of desk.channels.maps) {
      const watched = this.of(map);
      if (!watched) continue;
      const { id, name } = map.drive;
      const isOn = awake.has(map.line!) && !desk.told.limp.has(id);
      const { warmth, drawing } = watched;
      watched.amps = drawing.amps(
        isOn ? (desk.told.at.get(id) ?? desk.told.sent.get(id) ?? null) : null,
        desk.told.measured.get(id) ?? null,
        s,
      );
      warmth.draw(watched.amps, s);
      const told = warmth.share >= 1 ? 2 : warmth.share >= WARM ? 1 : 0;
      if (told > watched.told)
        notice =
          told === 2
            ? say('motor-hot', { drive: name })
            : say('motor-warm', { drive: name, s: Math.round(warmth.leftS(watched.amps)) });
      // Told again only once it has cooled.
      watched.told = warmth.share < WARM / 2 ? 0 : (Math.max(told, watched.told) as Watched['told']);
    }
    return notice;
  }
  private of(map: DriveMap): Watched | null {
    const { drive, native } = map;
    const known = this.motors.get(drive.id);
    if (known) return known;
    const model = isSpin(map) ? null : heatModel(drive);
    if (!model) return null;
    const perDeg = Math.abs(native.perDeg);
    const drawing = new Drawing(model, driveSpeed(drive) * perDeg, deadBandOf(drive) + OFF_DEG * perDeg);
    const made: Watched = { warmth: new Warmth(model), drawing, amps: 0, told: 0 };
    this.motors.set(drive.id, made);
    return made;
  }

  /** By drive, those that are warm or held fast. */
  get told(): Telemetry['heat'] {
    return Object.fromEntries(
      [...this.motors].flatMap(([id, { warmth, drawing, amps }]) => {
        const { share } = warmth;
        if (share < 0.05 && !drawing.stalledS) return [];
        const left = warmth.leftS(amps);
        return [[id, { share, stalledS: drawing.stalledS, leftS: Number.isFinite(left) ? left : null }]];
      }),
    );
  }
}
