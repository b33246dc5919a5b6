/**
 * A hobby servo from pulse to angle: its own controller drives the motor towards the pulse's angle, no faster than
 * its speed, with the lag of a small motor, and leaves it alone inside the dead band. Angles are kept in µs of pulse
 * (the pulse that would ask for just this angle), so that no map is needed here.
 */
export interface ServoModel {
  /** No-load speed, µs of pulse per second. */
  readonly speedUsPerS: number;
  /** Width of the band around the wish in which the motor rests, µs. */
  readonly deadBandUs: number;
  readonly minUs: number;
  readonly maxUs: number;
}

/** Time constants (s) of the servo's own position loop and of the motor. */
const LOOP = 0.035;
const MOTOR = 0.012;
/** Below this speed (µs/s) a motor inside its dead band has come to rest. */
const REST = 20;

export class SimulatedServo {
  private speed = 0;
  private wish: number | null = null;

  constructor(
    private readonly model: ServoModel,
    private position: number,
  ) {}

  /** The pulse that arrives, or null while the output is off (the servo is limp and stays where it is). */
  command(pulse: number | null): void {
    this.wish = pulse === null ? null : Math.min(this.model.maxUs, Math.max(this.model.minUs, pulse));
  }

  /** Where it stands, in µs of pulse, whole as an 8-bit board reads it. */
  get measured(): number {
    return Math.round(this.position);
  }

  advance(dt: number): void {
    const { speedUsPerS, deadBandUs } = this.model;
    let wanted = 0;
    if (this.wish !== null) {
      const error = this.wish - this.position;
      const moving = Math.abs(this.speed) > REST;
      if (Math.abs(error) > deadBandUs / 2 || moving)
        wanted = Math.min(speedUsPerS, Math.max(-speedUsPerS, error / LOOP));
    }
    this.speed += (wanted - this.speed) * Math.min(1, dt / MOTOR);
    this.position += this.speed * dt;
  }
}
