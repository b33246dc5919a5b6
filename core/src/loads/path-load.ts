/**
 * What motors and base leave a motion along a path: p·s̈ + r·ṡ² + c, with the path's place, first and second derivative in the equations of
 * motion, is bounded motor by motor in both senses, and edge by edge of the feet (Bobrow, Dubowsky & Gibson 1985; Pham & Pham 2018).
 */
import { slopeAt, torqueAt } from '../actuators';
import type { LoadRow, PathLoad } from '../motion';
import type { Respect } from '../rig';
import { shaftDegPerS, shaftNeed } from './demand';
import type { Wrench } from './dynamics';
import type { Loading } from './loading';
import { borneOf, paceLeft, restShare } from './pace';

/** Motors that have less than this share left at rest, and bases with less (m) to their edge, are too weak there: no crawl is made of it. */
const LEAST_LEFT = 0.05;
const LEAST_MARGIN = 0.0001;
/** A motor that is asked for more than this share of what it has is asked for too much. */
const ENOUGH = 0.9999;

/** The pace that a moment could have, and what stands against more of it. */
export interface MomentPace {
  readonly times: number;
  readonly by: Respect;
}

export class LoadsOnPath implements PathLoad {
  private readonly zero: Float64Array;
  /** Indices of the motors that count: those that are not let go, and of which a torque is known. */
  private readonly counted: readonly number[];

  constructor(
    private readonly loading: Loading,
    private readonly respect: readonly Respect[],
    loose: ReadonlySet<number>,
  ) {
    this.zero = new Float64Array(loading.mechanism.m);
    this.counted = respect.includes('torque')
      ? loading.motors.flatMap(({ torque, slots }, k) =>
          torque && !slots.some((slot) => loose.has(slot)) ? [k] : [],
        )
      : [];
  }

  /** Whether a base counts that stands like that at the pose whose weight was asked last. */
  private bearsBase(): boolean {
    return this.respect.includes('tip') && (this.loading.restMargin() ?? -1) > LEAST_MARGIN;
  }
  /** Whether a motor counts that gives so much (N·m at its shaft) at rest, about to turn like that. */
  private bears(k: number, rest: number, degPerS: number): boolean {
    const { motors, losses } = this.loading;
    return restShare(motors[k].torque!, { rest, degPerS, ...losses[k] }) <= 1 - LEAST_LEFT;
  }

  rowsAt(q: Float64Array, first: Float64Array, second: Float64Array): LoadRow[] {
    const { loading, zero } = this;
    const { mechanism, motors, dynamics, torques, support } = loading;
    const needs = (): number[] => this.counted.map((k) => shaftNeed(motors[k], mechanism, q, torques));
    const rest = loading.rest(q);
    const still = this.bearsBase() ? loading.restWrench() : null;
    const byAccel = dynamics.torquesInto(torques, q, zero, first);
    const atAccel = needs();
    const bySpeed = dynamics.torquesInto(torques, q, first, second);
    const atSpeed = needs();
    const rows = this.counted.flatMap((k, i) => {
      const { nm } = rest[k];
      const [p, r] = [atAccel[i] - nm, atSpeed[i] - nm];
      if (!Number.isFinite(nm + p + r)) return [];
      return this.motorRows(k, nm, p, r, shaftDegPerS(motors[k], mechanism, q, first));
    });
    if (!still) return rows;
    const holds = support.holds(still);
    const more = (wrench: Wrench): number[] => support.holds(wrench).map((value, i) => value - holds[i]);
    const [p, r] = [more(byAccel), more(bySpeed)];
    return [...rows, ...holds.map((room, i) => steady(-p[i], -r[i], room))];
  }

  /** Both senses of a motor's torque (N·m at its shaft); `degPerS`: of it, for ṡ = 1. */
  private motorRows(k: number, rest: number, p: number, r: number, degPerS: number): LoadRow[] {
    const line = this.loading.motors[k].torque!;
    const losses = this.loading.losses[k];
    if (!this.bears(k, rest, degPerS)) return [];
    // No faster than it holds the load, and a hair slower than it has no torque any more, where that does not fall further.
    const fastest = degPerS === 0 ? Infinity : ((1 - 1e-6) * line[line.length - 1].degPerS) / Math.abs(degPerS);
    const pace = Math.min(fastest, paceLeft(line, { rest, adds: 0, degPerS, ...losses }));
    return ([1, -1] as const).map((sense): LoadRow => {
      const { scale, off } = borneOf({ degPerS, ...losses }, sense);
      const roomAt = (x: number): readonly [number, number] => {
        const speed = Math.sqrt(x) * Math.abs(degPerS);
        const room = scale * torqueAt(line, speed) + off - sense * rest;
        return [room, speed > 0 ? (scale * slopeAt(line, speed) * speed) / (2 * x) : 0];
      };
      return { p: sense * p, r: sense * r, most: pace * pace, roomAt };
    });
  }

  /**
   * The greatest pace at which, and below which, all that is asked too much of at this moment has what it needs; Infinity where that is nothing.
   * What is too much at rest is left out.
   */
  momentAt(q: Float64Array, speeds: Float64Array, accels: Float64Array): MomentPace {
    const { loading } = this;
    const rest = loading.rest(q);
    const still = this.bearsBase() ? loading.restWrench() : null;
    const { asks, wrench } = loading.moving(q, speeds, accels);
    let found: MomentPace = { times: Infinity, by: 'torque' };
    for (const k of this.counted) {
      const { needNm, usableNm, degPerS } = asks[k];
      if (needNm <= ENOUGH * usableNm! || !this.bears(k, rest[k].nm, degPerS)) continue;
      const times = loading.motorPace(k, asks[k], rest[k]);
      if (times < found.times) found = { times, by: 'torque' };
    }
    if (still && !(loading.support.marginOf(wrench) >= 0)) {
      const times = loading.basePace(still, wrench);
      if (times < found.times) found = { times, by: 'tip' };
    }
    return found;
  }
  paceAt(q: Float64Array, speeds: Float64Array, accels: Float64Array): number {
    return this.momentAt(q, speeds, accels).times;
  }
}

/** A row whose room does not depend on the speed. */
const steady = (p: number, r: number, room: number): LoadRow => ({ p, r, most: Infinity, roomAt: () => [room, 0] });
