/** Whether a base stays on its feet: the zero-moment point against what they span (Vukobratović & Borovac 2004). */
import { positionOf, rotateBack, vec3 } from '../linear';
import type { MechanismDoc } from '../rig';
import { GRAVITY, toM } from '../units';
import type { Wrench } from './dynamics';

export type Point = readonly [x: number, y: number];

/** Corners of what points span, counter-clockwise (monotone chain: Andrew 1979); fewer than three where they span no area. */
export function spanned(points: readonly Point[]): Point[] {
  const sorted = [...points].sort(([ax, ay], [bx, by]) => ax - bx || ay - by);
  const half = (list: readonly Point[]): Point[] => {
    const chain: Point[] = [];
    for (const point of list) {
      while (chain.length > 1 && turns(chain[chain.length - 2], chain[chain.length - 1], point) <= 0) chain.pop();
      chain.push(point);
    }
    return chain.slice(0, -1);
  };
  return [...half(sorted), ...half([...sorted].reverse())];
}
/** Twice the area of a triangle, positive where it is walked counter-clockwise. */
const turns = (a: Point, b: Point, c: Point): number => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);

/**
 * Where the ground presses on the base (m, base frame, in the plane of its feet), for what it has to give (world); null where the base is
 * pulled off it. `base`: the world frame of the base.
 */
export function pressedAt(base: Float64Array, { force, moment }: Wrench): Point | null {
  const { fz, mx, my } = inBase(base, { force, moment });
  return fz > 1e-9 ? [-my / fz, mx / fz] : null;
}

/** An edge that a base may tip over: what is inside is on its left. `x`, `y`: unit normal that points inside; `off`: the edge's own value. */
export interface Edge {
  readonly x: number;
  readonly y: number;
  readonly off: number;
}

/** What a base stands on. */
export class Support {
  /** Corners (m, base frame) of what its feet span, counter-clockwise; fewer than three where that is no area. */
  readonly corners: readonly Point[];
  readonly edges: readonly Edge[];
  constructor(
    feet: readonly Point[],
    private readonly base: Float64Array,
  ) {
    this.corners = spanned(feet);
    this.edges = this.corners.map(([ax, ay], k): Edge => {
      const [bx, by] = this.corners[(k + 1) % this.corners.length];
      const length = Math.hypot(bx - ax, by - ay);
      const [x, y] = [(ay - by) / length, (bx - ax) / length];
      return { x, y, off: x * ax + y * ay };
    });
  }

  /** Whether there is an area to stand on. */
  get stands(): boolean {
    return this.corners.length >= 3;
  }

  /** The least distance (m) of a point of the ground (base frame) from an edge; negative outside. */
  private inside(px: number, py: number): number {
    let least = Infinity;
    for (const { x, y, off } of this.edges) least = Math.min(least, x * px + y * py - off);
    return least;
  }

  /** How far (m) inside the ground presses; −Infinity where the base is pulled off it. Only where it {@link stands}. */
  marginOf(wrench: Wrench): number {
    const at = pressedAt(this.base, wrench);
    return at ? this.inside(at[0], at[1]) : -Infinity;
  }

  /**
   * Writes where the ground presses on what stands still (m, base frame), by its mass (kg) and first moment (kg·m, world); whether the base is
   * not pulled off.
   */
  restInto(out: Float64Array, mass: number, moment: Float64Array): boolean {
    const { base } = this;
    const x = moment[0] - mass * base[9];
    const y = moment[1] - mass * base[10];
    const z = moment[2] - mass * base[11];
    // Along gravity, which in the base's frame is its third row, down to the plane of the feet.
    const uz = base[8];
    if (!(uz > 1e-9) || !(mass > 0)) return false;
    const high = (base[2] * x + base[5] * y + base[8] * z) / uz;
    out[0] = (base[0] * x + base[3] * y + base[6] * z - high * base[6]) / mass;
    out[1] = (base[1] * x + base[4] * y + base[7] * z - high * base[7]) / mass;
    return true;
  }
  /** The same to read, with how hard; null where the base is pulled off. */
  restPress(mass: number, moment: Float64Array): Press | null {
    const at = new Float64Array(2);
    return this.restInto(at, mass, moment) ? { x: at[0], y: at[1], newton: mass * GRAVITY * this.base[8] } : null;
  }
  /** How far (m) that is inside; −Infinity where the base is pulled off. */
  restMargin(mass: number, moment: Float64Array): number {
    const press = this.restPress(mass, moment);
    return press ? this.inside(press.x, press.y) : -Infinity;
  }

  /**
   * The most of a load that grows in proportion which the base still bears: `more` is what 1 of it adds to the wrench `own`. Infinity where
   * any is; 0 where it tips without. In closed form: each edge is linear in both wrenches.
   */
  mostOf(own: Wrench, more: Wrench): number {
    const [has, adds] = [own, more].map((wrench) => this.holds(wrench));
    let most = Infinity;
    has.forEach((value, k) => {
      if (value < 0) most = 0;
      else if (adds[k] < 0) most = Math.min(most, value / -adds[k]);
    });
    return most;
  }
  /** Linear in a wrench, and none of them negative while the base stands: how it is pressed to the ground (N), and kept from tipping over each edge (N·m). */
  holds(wrench: Wrench): number[] {
    const { fz, mx, my } = inBase(this.base, wrench);
    return [fz, ...this.edges.map(({ x, y, off }) => -x * my + y * mx - off * fz)];
  }
}
interface Pressing {
  readonly fz: number;
  readonly mx: number;
  readonly my: number;
}
function inBase(base: Float64Array, { force, moment }: Wrench): Pressing {
  const m = rotateBack(base, vec3.sub(moment, vec3.cross(positionOf(base), force)));
  return { fz: rotateBack(base, force)[2], mx: m[0], my: m[1] };
}

/** Where the ground presses on a base (m, base frame) and how hard (N); null where it is pulled off. */
export interface Press {
  readonly x: number;
  readonly y: number;
  readonly newton: number;
}
export function pressOf(base: Float64Array, wrench: Wrench): Press | null {
  const at = pressedAt(base, wrench);
  return at && { x: at[0], y: at[1], newton: inBase(base, wrench).fz };
}

/**
 * Mass (kg) that, put on the base at a point of it (m, base frame), keeps a wanted margin (m) wherever the ground presses; null where none can.
 * Along each edge it is linear in the mass.
 */
export function ballastFor(
  { edges }: Support,
  presses: readonly (Press | null)[],
  wanted: number,
  [bx, by]: Point,
): number | null {
  let [least, most] = [0, Infinity];
  for (const press of presses) {
    if (!press) return null;
    for (const { x, y, off } of edges) {
      const lacks = press.newton * (wanted + off - x * press.x - y * press.y);
      const gains = GRAVITY * (x * bx + y * by - off - wanted);
      if (gains > 0) least = Math.max(least, lacks / gains);
      else if (lacks > 0) return null;
      // It draws the load towards itself, which brings this edge nearer.
      else if (gains < 0) most = Math.min(most, lacks / gains);
    }
  }
  return least <= most ? least : null;
}

/**
 * How many times as far from the base's origin its feet have to be so that a wanted margin (m) is left, 1 where they may stay; null where
 * the origin is not within them, or the base is pulled off.
 */
export function spreadFor({ edges }: Support, presses: readonly (Press | null)[], wanted: number): number | null {
  let times = 1;
  for (const press of presses) {
    if (!press) return null;
    for (const { x, y, off } of edges) {
      if (x * press.x + y * press.y - off >= wanted) continue;
      if (!(off < 0)) return null;
      times = Math.max(times, (wanted - x * press.x - y * press.y) / -off);
    }
  }
  return times;
}

/**
 * What a base of the document touches the ground with (m, base frame): its feet, and its wheels where they roll.
 */
export const groundPoints = ({ feet, wheels = [] }: MechanismDoc['base']): Point[] => [
  ...feet.map(([x, y]): Point => [toM(x), toM(y)]),
  ...wheels.map(({ xyzMm: [x, y] }): Point => [toM(x), toM(y)]),
];
