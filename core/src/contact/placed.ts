/** The parts of a scene at a pose, and how far two of them are apart there. */
import { forward, framesInto, kinematicsSpace, type Frames, type KinematicsSpace } from '../kinematics';
import { apply, axisOf, mul, mulInto, positionOf, STRIDE, vec3, type Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import { gapBetween, gapAtLeast, type Gap } from './distance';
import { BASE, HERE, WORLD, type Contact, type ContactScene, type Part } from './parts';
import { ballRound, type Solid } from './solids';

/** Nothing is called touching that stands less deep than this (m). */
export const TOUCH = 1e-3;

/** A part at a pose: its solid, that one's frame in the world, and a ball round it there. */
export interface Placed {
  readonly solid: Solid;
  readonly frame: Float64Array;
  readonly ball: Ball | null;
}
interface Ball {
  readonly centre: Vec3;
  readonly radius: number;
}

/** Where parts are at a pose; each is worked out when it is asked for. */
export class Placing {
  private readonly space: KinematicsSpace;
  private readonly q: Float64Array;
  private readonly placed: (Placed | null)[];
  private frames: Frames | null = null;

  constructor(
    private readonly mechanism: Mechanism,
    private readonly parts: readonly Part[],
  ) {
    this.space = kinematicsSpace(mechanism);
    this.q = new Float64Array(mechanism.m);
    this.placed = parts.map(() => null);
  }

  /** Goes to a pose (slots, SI). */
  at(q: Float64Array): this {
    this.q.set(q);
    framesInto(this.space, this.mechanism, q);
    this.placed.fill(null);
    this.frames = null;
    return this;
  }
  part(index: number): Placed {
    return (this.placed[index] ??= this.place(this.parts[index]));
  }
  /** A point on a joint's axis (world, m). */
  axisPoint(joint: number): Vec3 {
    const o = STRIDE * joint + 9;
    const { frames } = this.space;
    return [frames[o], frames[o + 1], frames[o + 2]];
  }

  private place(part: Part): Placed {
    const solid = this.solidOf(part);
    const frame = this.frameOf(part);
    const round = ballRound(solid);
    return { solid, frame, ball: round && { centre: apply(frame, round.centre), radius: round.radius } };
  }
  /** World frame of a part's solid. */
  private frameOf(part: Part): Float64Array {
    const { base, unalign } = this.mechanism;
    if (part.ends || part.joint === WORLD) return part.local;
    let carrier = base;
    if (part.joint !== BASE) {
      carrier = new Float64Array(STRIDE);
      mulInto(carrier, 0, this.space.frames, STRIDE * part.joint, unalign, STRIDE * part.joint);
    }
    return part.local === HERE ? carrier : mul(carrier, part.local);
  }
  private solidOf(part: Part): Solid {
    if (!part.ends || part.solid.kind !== 'capsule') return part.solid;
    this.frames ??= forward(this.mechanism, this.q);
    const [a, b] = part.ends(this.frames);
    return { kind: 'capsule', a, b, radius: part.solid.radius };
  }
}

/** How far (m) the balls round two parts are apart: never more than the parts are. What has no ball is a plane. */
function ballsApart(a: Placed, b: Placed): number {
  if (a.ball && b.ball) return vec3.distance(a.ball.centre, b.ball.centre) - a.ball.radius - b.ball.radius;
  const [ball, plane] = a.ball ? [a.ball, b] : [b.ball, a];
  if (!ball) return Infinity;
  return vec3.dot(axisOf(plane.frame, 2), vec3.sub(ball.centre, positionOf(plane.frame))) - ball.radius;
}

/** {@link gapBetween} of two parts, which are looked at closely only where the balls round them meet. */
export function gapOf(a: Placed, b: Placed, enough: number): Gap {
  const apart = ballsApart(a, b);
  if (apart > enough) return { distance: apart, at: positionOf(a.frame) };
  return gapBetween(a.solid, a.frame, b.solid, b.frame, enough);
}

/** A number (m) that the gap of two parts is never less than: close to it where they are close. */
export function clearanceOf(a: Placed, b: Placed): number {
  const apart = ballsApart(a, b);
  return apart > CLOSE ? apart : Math.max(apart, gapAtLeast(a.solid, a.frame, b.solid, b.frame, CLOSE));
}
/** Balls that are further apart than this (m) say enough. */
const CLOSE = 0.02;

const NOTHING: ReadonlySet<string> = new Set();

/** What stands in what at a pose (slots, SI), each pair once, the deepest first; `held`: keys of what is held there. */
export function contactsAt(
  { mechanism, parts, pairs }: ContactScene,
  q: Float64Array,
  held: ReadonlySet<string> = NOTHING,
): Contact[] {
  const placing = new Placing(mechanism, parts).at(q);
  const isThere = ({ held: key }: Part): boolean => key === undefined || held.has(key);
  const found: Contact[] = [];
  for (const [i, j] of pairs) {
    if (!isThere(parts[i]) || !isThere(parts[j])) continue;
    const gap = gapOf(placing.part(i), placing.part(j), -TOUCH);
    if (gap.distance < -TOUCH) found.push({ a: parts[i], b: parts[j], depth: -gap.distance, at: gap.at });
  }
  return found.sort((a, b) => b.depth - a.depth);
}
