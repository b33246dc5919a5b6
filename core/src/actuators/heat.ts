/**
 * How warm motors become by what they draw. One body that is heated by the square of the current and cools in proportion to how warm it is
 * (the first-order model behind I²t protection); 1 is as warm as it is for ever at the current of the torque that it may hold.
 */
import type { Drive } from '../rig';
import { holdShare } from './strength';

export interface HeatModel {
  /** A: standing without a load, moving, held fast, and what it may draw for ever. */
  readonly idleA: number;
  readonly movingA: number;
  readonly stallA: number;
  readonly enduresA: number;
  /** Time constant, s. */
  readonly tauS: number;
}

/** Time constant (s) of a motor of 10 g; a body's grows with the cube root of its mass, as volume over surface does. */
const TAU = 60;
const TAU_G = 10;
/** Mass (g) of one of which none is known. */
const USUAL_G = 30;

/**
 * From its figures: current grows in a straight line with torque, from idle to stall. Null where they are not known, and for steppers: what
 * they draw is held by their driver, whether they follow or not.
 */
export function heatModel(drive: Drive): HeatModel | null {
  const { idleA = 0, stallA = 0, massG } = drive;
  if (drive.kind === 'stepper' || !(stallA > idleA)) return null;
  return {
    ...{ idleA, stallA, movingA: drive.movingA ?? idleA },
    enduresA: idleA + (stallA - idleA) * holdShare(drive),
    tauS: TAU * Math.cbrt((massG || USUAL_G) / TAU_G),
  };
}

export class Warmth {
  /** Of what it may have for ever. */
  share = 0;
  constructor(private readonly model: HeatModel) {}

  /** So much current (A) for so long (s). */
  draw(amps: number, s: number): void {
    const end = this.endsAt(amps);
    this.share = end + (this.share - end) * Math.exp(-s / this.model.tauS);
  }
  /** Seconds at this current (A) until it is as warm as it may be; Infinity: never. */
  leftS(amps: number): number {
    const end = this.endsAt(amps);
    if (this.share >= 1) return 0;
    return end <= 1 ? Infinity : this.model.tauS * Math.log((end - this.share) / (end - 1));
  }
  private endsAt(amps: number): number {
    return (amps / this.model.enduresA) ** 2;
  }
}

/** Slower than this share of its speed while it stands off where it was sent a motor is held fast; once that has lasted so long (s). */
const STANDS = 0.03;
const LASTS = 0.3;

/** What a motor draws, as far as that shows in where it was sent and where it is. */
export class Drawing {
  /** For how long (s) it has been held fast. */
  stalledS = 0;
  private slowS = 0;
  private sent: number | null = null;
  private at: number | null = null;

  /** `speed`, `off`: its own speed, and how far it may stand off by itself, in its unit (a second). */
  constructor(
    private readonly model: HeatModel,
    private readonly speed: number,
    private readonly off: number,
  ) {}

  /** Current (A) in the `s` since it was asked last; null: it is off. `at`: where it is read back, null where it is not. */
  amps(sent: number | null, at: number | null, s: number): number {
    const [before, was] = [this.sent, this.at];
    this.sent = sent;
    this.at = at;
    const isStuck =
      sent !== null &&
      at !== null &&
      Math.abs(sent - at) > this.off &&
      was !== null &&
      Math.abs(at - was) < STANDS * this.speed * s;
    this.slowS = isStuck ? this.slowS + s : 0;
    this.stalledS = this.slowS > LASTS ? this.slowS : 0;
    const { idleA, movingA, stallA } = this.model;
    if (sent === null) return 0;
    if (this.stalledS) return stallA;
    return sent === before ? idleA : movingA;
  }
}
