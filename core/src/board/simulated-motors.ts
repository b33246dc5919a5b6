/** Motors that are not there, in the native unit of their channel (µs, counts, steps). */

/** A motor as the board sees it. */
export interface SimulatedMotor {
  /** The value that arrives, or null while the output is off (the motor is limp and stays where it is). */
  command(value: number | null): void;
  advance(dt: number): void;
  /** Where it stands as the board can tell, whole; null where nothing reads it back. */
  readonly measured: number | null;
  /** Where it really stands, in the same unit: what it counts may differ from that. */
  readonly truly: number;
  /** Share of its stall torque that it gives, and so of the current between idle and stall that it draws: 0 to 1; 0 while it is off. */
  readonly effort: number;
  /** Whether it knows only how far it has gone, and has to be told from where. */
  readonly counts: boolean;
  /** It stands at this value from now on, by its own count. */
  zero(value: number): void;
  /** What goes wrong with it: something holds it fast, or no more; what hangs on it slips, and stands `by` further from now on. */
  jam(isFast: boolean): void;
  slip(by: number): void;
  /** What pulls on it from now on, besides what always does: a share of its stall torque, positive towards higher values. */
  pull(share: number): void;
}

/**
 * Play between a motor and what it moves: that follows once the motor has crossed it, and stays where it is until then (the play operator
 * of Krasnosel'skii and Pokrovskii). `width`: the whole of it, in the motor's unit.
 */
class Play {
  private at: number;
  constructor(
    private readonly width: number,
    begin: number,
  ) {
    this.at = begin;
  }
  follow(motor: number): number {
    const half = this.width / 2;
    this.at = Math.min(motor + half, Math.max(motor - half, this.at));
    return this.at;
  }
  shift(by: number): void {
    this.at += by;
  }
}

export type MotorModel =
  | ({ readonly kind: 'servo' } & ServoModel)
  | ({ readonly kind: 'stepper' } & StepperModel)
  | ({ readonly kind: 'spin' } & SpinModel)
  | { readonly kind: 'told' };
export function simulatedMotor(model: MotorModel, restsAt: number): SimulatedMotor {
  switch (model.kind) {
    case 'servo':
      return new SimulatedServo(model, restsAt);
    case 'stepper':
      return new SimulatedStepper(model, restsAt);
    case 'spin':
      return new SimulatedSpin(model);
    case 'told':
      return new ToldMotor(restsAt);
  }
}

/** A motor of which nothing is known but what it was told last. */
class ToldMotor implements SimulatedMotor {
  readonly measured = null;
  readonly effort = 0;
  readonly counts = false;
  constructor(private at: number) {}
  get truly(): number {
    return this.at;
  }
  command(value: number | null): void {
    this.at = value ?? this.at;
  }
  advance(): void {}
  zero(): void {}
  jam(): void {}
  slip(): void {}
  pull(): void {}
}

/**
 * A motor that goes to a value by itself, a hobby servo first of all: its own controller drives it towards the value, no
 * faster than its speed, with the lag of a small motor, and leaves it alone inside the dead band. Its angle is kept in the
 * unit of the wish (the pulse that would ask for just this angle), so that no map is needed here.
 */
export interface ServoModel {
  /** No-load speed, units per second. */
  readonly speedPerS: number;
  /** Width of the band around the wish in which the motor rests. */
  readonly deadBand: number;
  readonly min: number;
  readonly max: number;
  /** It counts from where it was switched on: by so much its count was too small then. Left out: it knows its place by itself. */
  readonly astray?: number;
  /**
   * Share of its stall torque that pulls on it all the time, positive towards higher values: by the straight line from no-load speed to
   * stall it is so much of its speed slower against it, and stands off its wish by as much as its loop needs to hold it. From 1 on it
   * gives way.
   */
  readonly load?: number;
  /** Play between it and what it moves, in its unit. */
  readonly slop?: number;
}
/** Time constants (s) of the servo's own position loop and of the motor. */
const LOOP = 0.035;
const MOTOR = 0.012;
/** Below this share of its speed a motor inside its dead band has come to rest. */
const REST = 0.008;

class SimulatedServo implements SimulatedMotor {
  effort = 0;
  private pulled = 0;
  private speed = 0;
  private wish: number | null = null;
  /** What its count is short of. */
  private shift: number;
  private isFast = false;
  private readonly play: Play;

  /** `position`: by its own count. */
  constructor(
    private readonly model: ServoModel,
    private position: number,
  ) {
    this.shift = model.astray ?? 0;
    this.play = new Play(model.slop ?? 0, this.position + this.shift);
  }

  command(value: number | null): void {
    const { min, max } = this.model;
    this.wish = value === null ? null : Math.min(max - this.shift, Math.max(min - this.shift, value));
  }

  get measured(): number {
    return Math.round(this.position);
  }
  get truly(): number {
    return this.play.follow(this.position + this.shift);
  }
  get counts(): boolean {
    return this.model.astray !== undefined;
  }
  zero(value: number): void {
    this.shift += this.position - value;
    this.position = value;
  }
  jam(isFast: boolean): void {
    this.isFast = isFast;
    this.speed = 0;
  }
  slip(by: number): void {
    this.shift += by;
    this.play.shift(by);
  }
  pull(share: number): void {
    this.pulled = share;
  }

  advance(dt: number): void {
    const { speedPerS, deadBand } = this.model;
    const load = (this.model.load ?? 0) + this.pulled;
    let [drive, wanted] = [0, 0];
    if (this.wish !== null) {
      const error = this.wish - this.position;
      const moving = Math.abs(this.speed) > REST * speedPerS;
      const drives = Math.abs(error) > deadBand / 2 || moving;
      drive = drives ? Math.min(speedPerS, Math.max(-speedPerS, error / LOOP)) : 0;
      wanted = drive + load * speedPerS;
    }
    // Current flows by what is put on beyond what the turning motor itself makes.
    this.effort = this.wish === null ? 0 : Math.min(1, Math.abs(drive - this.speed) / speedPerS);
    if (this.isFast) return;
    this.speed += (wanted - this.speed) * Math.min(1, dt / MOTOR);
    this.position += this.speed * dt;
    this.play.follow(this.position + this.shift);
  }
}

/** A stepper without a sensor: the board counts what it sent, whether the motor followed or not. */
export interface StepperModel {
  /** Step rate above which it falls out of step, steps per s. */
  readonly maxHz: number;
  /** By so much its count was too small when it was switched on. */
  readonly astray?: number;
  /** Between these it can turn, by where it really stands; left out: without an end. */
  readonly stops?: { readonly low: number; readonly high: number };
  /** Four full steps, in its unit: a rotor that has fallen out of step locks in again at a whole number of them. */
  readonly cycle?: number;
  /** Share of its holding torque that pulls on it: it falls out of step at so much less than its highest rate. */
  readonly load?: number;
  /** Play between it and what it moves, in its unit. */
  readonly slop?: number;
}

class SimulatedStepper implements SimulatedMotor {
  readonly counts = true;
  /** Its driver keeps the current up, whether it turns or stands. */
  effort = 0;
  private wish: number;
  /** Steps that were sent but not made. */
  lost: number;
  /** Steps of a way on which the rotor was out of step, of which it is not known yet how many it lost. */
  private adrift = 0;
  private pulled = 0;
  private isFast = false;
  private readonly play: Play;

  constructor(
    private readonly model: StepperModel,
    private counted: number,
  ) {
    this.wish = counted;
    this.lost = -(model.astray ?? 0);
    this.play = new Play(model.slop ?? 0, this.counted - this.lost);
  }

  command(value: number | null): void {
    this.effort = value === null ? 0 : 1;
    if (value !== null) this.wish = value;
  }

  get measured(): number {
    return this.counted;
  }
  get truly(): number {
    return this.play.follow(this.rotor);
  }
  private get rotor(): number {
    return this.counted - this.lost - this.adrift;
  }
  zero(value: number): void {
    this.lost += value - this.counted;
    this.counted = this.wish = value;
  }
  jam(isFast: boolean): void {
    this.isFast = isFast;
  }
  slip(by: number): void {
    this.lost -= by;
    this.play.shift(by);
  }
  pull(share: number): void {
    this.pulled = Math.abs(share);
  }

  advance(dt: number): void {
    const { maxHz, cycle = 1, stops } = this.model;
    const load = (this.model.load ?? 0) + this.pulled;
    const steps = this.wish - this.counted;
    this.counted = this.wish;
    // The rounding of one step a tick is no speed.
    const outOfStep = Math.abs(steps) - 1 > maxHz * Math.max(0, 1 - load) * dt;
    if (this.isFast) this.lost += steps;
    else if (outOfStep) this.adrift += steps;
    else if (this.adrift) {
      // It locks in where a pole is near: at a whole number of four full steps from where it would be.
      this.lost += Math.round(this.adrift / cycle) * cycle;
      this.adrift = 0;
    }
    const { low = -Infinity, high = Infinity } = stops ?? {};
    // Against a hard stop steps are sent and not made.
    this.lost += this.rotor - Math.min(high, Math.max(low, this.rotor));
    this.play.follow(this.rotor);
  }
}

/** A servo that turns at the speed its pulse asks for; nothing reads back where it is. */
export interface SpinModel {
  /** Pulse at which it stands, and °/s of its shaft for a µs beyond it. */
  readonly stopUs: number;
  readonly degPerSPerUs: number;
}

/** A pulse so far (µs) from its stop is full speed, as far as what it draws goes. */
const FULL_US = 500;

export class SimulatedSpin implements SimulatedMotor {
  private speed = 0;
  private wish: number | null = null;
  readonly measured = null;
  readonly truly = 0;
  readonly counts = false;
  effort = 0;
  /** How far the shaft has turned since the beginning, °. */
  turnedDeg = 0;

  constructor(private readonly model: SpinModel) {}

  command(value: number | null): void {
    this.wish = value;
  }
  zero(): void {}
  private isFast = false;
  jam(isFast: boolean): void {
    this.isFast = isFast;
    this.speed = 0;
  }
  slip(): void {}
  pull(): void {}

  advance(dt: number): void {
    const { stopUs, degPerSPerUs } = this.model;
    const wanted = this.wish === null ? 0 : (this.wish - stopUs) * degPerSPerUs;
    this.effort = Math.min(1, Math.abs(wanted - this.speed) / Math.abs(FULL_US * degPerSPerUs));
    if (this.isFast) return;
    this.speed += (wanted - this.speed) * Math.min(1, dt / MOTOR);
    this.turnedDeg += this.speed * dt;
  }
}
