/**
 * What an arm with what it holds asks of its motors and of its base, at rest and on the move. Friction and losses stand against the
 * motion: going up takes (|τ| + friction) / efficiency of a motor, going down max(0, |τ| − friction)·efficiency.
 */
import { vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import type { Hardware } from '../rig';
import { GRAVITY } from '../units';
import { loadedMotors, shaftDegPerS, shaftNeed, usableNm, type LoadedMotor } from './demand';
import { Dynamics, type Held, type Wrench } from './dynamics';
import { seatsOf } from './seats';
import { NO_NM, paceLeft } from './pace';
import { groundPoints, Support } from './tip';

/** Losses of a motor's way to its joints: share that arrives, and friction seen at its shaft (N·m). */
export interface Losses {
  readonly efficiency: number;
  readonly friction: number;
}
/** What a motor's shaft is asked for. */
export interface Ask {
  /** N·m, signed: what it gives against the load alone, without losses. */
  readonly nm: number;
  /** N·m, never negative: what it gives as it goes against the load, or as it moves; Infinity where its linkage cannot go. */
  readonly needNm: number;
  /** What may be asked of it; null where no torque of it is known. */
  readonly usableNm: number | null;
}
/** On the move: with the speed (°/s) of the shaft. */
export interface MovingAsk extends Ask {
  readonly degPerS: number;
}
/** `needNm` of what is usable; null where that is not known. */
export const shareOf = ({ needNm, usableNm: usable }: Ask): number | null =>
  usable === null ? null : needNm <= NO_NM ? 0 : usable > 0 ? needNm / usable : Infinity;

export class Loading {
  readonly dynamics: Dynamics;
  readonly motors: readonly LoadedMotor[];
  readonly support: Support;
  /** Per slot: what joints give at the state that was asked last (N·m, N where sliding). */
  readonly torques: Float64Array;
  /** Per motor. */
  readonly losses: readonly Losses[];

  constructor(
    rig: Hardware,
    readonly mechanism: Mechanism,
    held: readonly Held[] = [],
  ) {
    this.dynamics = new Dynamics(mechanism, held, seatsOf(rig, mechanism));
    this.motors = loadedMotors(rig, mechanism);
    this.support = new Support(groundPoints(rig.mechanism.base), mechanism.base);
    this.torques = new Float64Array(mechanism.m);
    const friction = new Map(
      rig.mechanism.joints.flatMap((joint) =>
        'friction' in joint && joint.friction ? [[joint.id, joint.friction] as const] : [],
      ),
    );
    this.losses = this.motors.map((motor): Losses => {
      const { transmission } = motor;
      const { efficiency = 1 } = transmission;
      // Friction of each joint adds up, whichever way the rates go.
      const own = transmission.joints.reduce((sum, id, k) => {
        const nm = friction.get(id);
        if (nm === undefined) return sum;
        this.torques.fill(0);
        this.torques[motor.slots[k]] = nm;
        return sum + Math.abs(shaftNeed(motor, mechanism, mechanism.home, this.torques));
      }, 0);
      return { efficiency, friction: Number.isFinite(own) ? own : 0 };
    });
  }

  /** What a motor gives as it goes against a load of so much (N·m at its shaft). */
  against(k: number, nm: number): number {
    const { efficiency, friction } = this.losses[k];
    return (Math.abs(nm) + friction) / efficiency;
  }
  /** And as it goes with it. */
  along(k: number, nm: number): number {
    const { efficiency, friction } = this.losses[k];
    const left = Math.abs(nm) - friction;
    return left > 0 ? left * efficiency : -left / efficiency;
  }
  /** The most load (N·m at its shaft) against which a motor goes that gives so much. */
  bears(k: number, usable: number): number {
    const { efficiency, friction } = this.losses[k];
    return Math.max(0, usable * efficiency - friction);
  }

  /** Standing at a pose (slots, SI), about to go against the load. Its base: {@link restMargin}. */
  rest(q: Float64Array): Ask[] {
    this.dynamics.gravityInto(this.torques, q);
    return this.motors.map((motor, k) => {
      const nm = shaftNeed(motor, this.mechanism, q, this.torques);
      return { nm, needNm: this.against(k, nm), usableNm: usableNm(motor) };
    });
  }
  /** The greatest share of all motors at a pose, of those whose torque is known; 0 where none is. */
  worstShare(q: Float64Array): number {
    const { motors, mechanism, torques } = this;
    this.dynamics.gravityInto(torques, q);
    let worst = 0;
    for (let k = 0; k < motors.length; k++) {
      const usable = usableNm(motors[k]);
      if (usable === null) continue;
      const needNm = this.against(k, shaftNeed(motors[k], mechanism, q, torques));
      if (needNm > NO_NM) worst = Math.max(worst, usable > 0 ? needNm / usable : Infinity);
    }
    return worst;
  }
  /** How far (m) inside its feet the base's load was at the pose that {@link rest} was asked last; null without feet that span an area. */
  restMargin(): number | null {
    const { support, dynamics } = this;
    return support.stands ? support.restMargin(dynamics.wholeMass, dynamics.borne) : null;
  }
  /** What the base bears at rest at the pose whose weight was asked last. */
  restWrench(): Wrench {
    const { wholeMass, borne } = this.dynamics;
    return { force: [0, 0, wholeMass * GRAVITY], moment: [borne[1] * GRAVITY, -borne[0] * GRAVITY, 0] };
  }

  /** How many times the pace of a moment a motor bears (see {@link paceLeft}); Infinity: any, or nothing is known, or its linkage cannot go there. */
  motorPace(k: number, { nm, degPerS }: MovingAsk, rest: Ask): number {
    const { torque } = this.motors[k];
    if (!torque || !Number.isFinite(nm)) return Infinity;
    return paceLeft(torque, { rest: rest.nm, adds: nm - rest.nm, degPerS, ...this.losses[k] });
  }
  /** And the base, by what it bears at rest there and on the move; only where it stands. */
  basePace(atRest: Wrench, { force, moment }: Wrench): number {
    const more = { force: vec3.sub(force, atRest.force), moment: vec3.sub(moment, atRest.moment) };
    return Math.sqrt(this.support.mostOf(atRest, more));
  }

  /** On the move (slots, SI, a second): what motors give with their losses, at their speeds; and what the base bears. */
  moving(
    q: Float64Array,
    speeds: Float64Array,
    accels: Float64Array,
  ): { readonly asks: MovingAsk[]; readonly wrench: Wrench } {
    const { mechanism, dynamics, torques } = this;
    const wrench = dynamics.torquesInto(torques, q, speeds, accels);
    const asks = this.motors.map((motor, k): MovingAsk => {
      const nm = shaftNeed(motor, mechanism, q, torques);
      const degPerS = shaftDegPerS(motor, mechanism, q, speeds);
      // What stands still is about to go against the load.
      const needNm = nm * degPerS < 0 ? this.along(k, nm) : this.against(k, nm);
      return { nm, needNm, usableNm: usableNm(motor, degPerS), degPerS };
    });
    return { asks, wrench };
  }
}
