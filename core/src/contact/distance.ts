/** How far two solids are apart, and how deep one stands in the other. */
import { apply, axisOf, inverse, mul, positionOf, vec3, type Vec3 } from '../linear';
import { fieldOf, seenFrom, type Field, type Solid } from './solids';

/** Distances are told this exactly (m). */
const FINE = 1e-4;

export interface Gap {
  /** m; negative: this deep inside each other. */
  readonly distance: number;
  /** Where, in the world. */
  readonly at: Vec3;
}

/** Segments' closest points (Ericson, *Real-Time Collision Detection*, sec. 5.1.9). */
function segments(p1: Vec3, q1: Vec3, p2: Vec3, q2: Vec3): { distance: number; at: Vec3 } {
  const d1 = vec3.sub(q1, p1);
  const d2 = vec3.sub(q2, p2);
  const r = vec3.sub(p1, p2);
  const [a, e, f] = [vec3.dot(d1, d1), vec3.dot(d2, d2), vec3.dot(d2, r)];
  const clamp = (v: number): number => Math.min(1, Math.max(0, v));
  let [s, t] = [0, 0];
  if (a <= 1e-18 && e > 1e-18) t = clamp(f / e);
  else if (a > 1e-18) {
    const c = vec3.dot(d1, r);
    if (e <= 1e-18) s = clamp(-c / a);
    else {
      const b = vec3.dot(d1, d2);
      const denominator = a * e - b * b;
      s = denominator > 1e-18 ? clamp((b * f - c * e) / denominator) : 0;
      t = (b * s + f) / e;
      if (t < 0 || t > 1) {
        t = clamp(t);
        s = clamp((b * t - c) / a);
      }
    }
  }
  const x = vec3.add(p1, vec3.scale(d1, s));
  const y = vec3.add(p2, vec3.scale(d2, t));
  return { distance: vec3.distance(x, y), at: vec3.scale(vec3.add(x, y), 0.5) };
}

/**
 * Least value of a field along a segment, by bounding: between two points it cannot fall below the mean of their
 * values less half the way between them. Stops as soon as nothing under `enough` can be left.
 */
function alongSegment(field: Field, a: Vec3, b: Vec3, enough: number): { value: number; at: Vec3 } {
  const start = field(a);
  const end = field(b);
  let best = { value: start, at: a };
  if (end < best.value) best = { value: end, at: b };
  const stack: [Vec3, number, Vec3, number][] = [[a, start, b, end]];
  for (let part = stack.pop(); part; part = stack.pop()) {
    const [p, fp, q, fq] = part;
    const length = vec3.distance(p, q);
    if ((fp + fq - length) / 2 > Math.min(best.value - FINE, enough)) continue;
    if (length < FINE) continue;
    const m: Vec3 = [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2, (p[2] + q[2]) / 2];
    const fm = field(m);
    if (fm < best.value) best = { value: fm, at: m };
    stack.push([p, fp, m, fm], [m, fm, q, fq]);
  }
  return best;
}

/** Filled solids are told this exactly (m); finer costs eightfold a halving. */
const COARSE = 1e-3;

/**
 * Least value of `field` inside a box of points that `own` fills; both in the box's frame. Halves of boxes lie flat on a stack, six
 * numbers each, and one point goes to every call: this is the innermost loop of all looks for contact.
 */
function withinBox(field: Field, own: Field, centre: Vec3, half: Vec3, enough: number): { value: number; at: Vec3 } {
  let value = Infinity;
  let at = centre;
  const stack = [...centre, ...half];
  const c: [number, number, number] = [0, 0, 0];
  while (stack.length) {
    const [hz, hy, hx] = [stack.pop()!, stack.pop()!, stack.pop()!];
    c[2] = stack.pop()!;
    c[1] = stack.pop()!;
    c[0] = stack.pop()!;
    const reach = Math.sqrt(hx * hx + hy * hy + hz * hz);
    const inside = own(c);
    if (inside > reach) continue;
    const there = field(c);
    if (there - reach > Math.min(value - COARSE, enough)) continue;
    const isLast = reach < COARSE;
    if (there < value && inside <= (isLast ? COARSE : 0)) {
      value = there;
      at = [c[0], c[1], c[2]];
    }
    if (isLast) continue;
    // Halve the longest side.
    const [x, y, z] = c;
    if (hx >= hy && hx >= hz) stack.push(x - hx / 2, y, z, hx / 2, hy, hz, x + hx / 2, y, z, hx / 2, hy, hz);
    else if (hy >= hz) stack.push(x, y - hy / 2, z, hx, hy / 2, hz, x, y + hy / 2, z, hx, hy / 2, hz);
    else stack.push(x, y, z - hz / 2, hx, hy, hz / 2, x, y, z + hz / 2, hx, hy, hz / 2);
  }
  return { value, at };
}

/**
 * Gap between two solids in their frames (world transforms). Where it is more than `enough` any number above `enough` may
 * come back, which spares most of the work.
 */
export function gapBetween(a: Solid, frameA: Float64Array, b: Solid, frameB: Float64Array, enough = Infinity): Gap {
  if (a.kind !== 'capsule' && b.kind === 'capsule') return gapBetween(b, frameB, a, frameA, enough);
  if (a.kind === 'below' && b.kind !== 'below') return gapBetween(b, frameB, a, frameA, enough);
  if (a.kind === 'capsule') {
    const [p, q] = [apply(frameA, a.a), apply(frameA, a.b)];
    if (b.kind === 'capsule') {
      const near = segments(p, q, apply(frameB, b.a), apply(frameB, b.b));
      return { distance: near.distance - a.radius - b.radius, at: near.at };
    }
    const back = inverse(frameB);
    // A field without edges is least at an end.
    if (b.kind === 'below') {
      const [zp, zq] = [apply(back, p)[2], apply(back, q)[2]];
      return { distance: Math.min(zp, zq) - a.radius, at: zp <= zq ? p : q };
    }
    const least = alongSegment(fieldOf(b), apply(back, p), apply(back, q), enough + a.radius);
    return { distance: least.value - a.radius, at: apply(frameB, least.at) };
  }
  if (a.kind === 'filled') {
    if (b.kind === 'filled') {
      const apart = boxesApart(a, frameA, b, frameB, enough);
      if (apart > enough) return { distance: apart, at: apply(frameA, a.centre) };
    } else {
      const above = boxAbove(a, frameA, frameB);
      if (above > enough) return { distance: above, at: apply(frameA, a.centre) };
    }
    // How deep a's points stand in b says little of a thin b: where they meet at all, b's points in a are asked as well.
    const meeting = Math.max(enough, COARSE);
    const inB = deepest(a, frameA, b, frameB, b.kind === 'filled' ? meeting : enough);
    if (b.kind !== 'filled' || inB.distance > COARSE) return inB;
    const inA = deepest(b, frameB, a, frameA, Math.min(enough, inB.distance));
    return inA.distance < inB.distance ? inA : inB;
  }
  return { distance: Infinity, at: [0, 0, 0] };
}

/**
 * A number (m) that the gap between two solids is never less than: by the boxes round filled ones, exact for capsules up to
 * `enough`, beyond which it says no more than that.
 */
export function gapAtLeast(a: Solid, frameA: Float64Array, b: Solid, frameB: Float64Array, enough: number): number {
  if (a.kind === 'filled' && b.kind === 'filled') return boxesApart(a, frameA, b, frameB, Infinity);
  if (a.kind === 'filled' && b.kind === 'below') return boxAbove(a, frameA, frameB);
  if (a.kind === 'below' && b.kind === 'filled') return boxAbove(b, frameB, frameA);
  return Math.min(enough, gapBetween(a, frameA, b, frameB, enough).distance - FINE);
}

/** How far (m) the box round a solid stands above a plane (its frame's XY): never more than the solid does. */
function boxAbove(
  { centre, half }: Extract<Solid, { kind: 'filled' }>,
  A: Float64Array,
  plane: Float64Array,
): number {
  const up = axisOf(plane, 2);
  const reach = half.reduce((sum, h, k) => sum + h * Math.abs(vec3.dot(up, axisOf(A, k as 0 | 1 | 2))), 0);
  return vec3.dot(up, vec3.sub(apply(A, centre), positionOf(plane))) - reach;
}

/**
 * How far (m) the boxes round two solids are apart along the best of the axes that can part them: faces of both, then edges
 * against edges (Ericson, sec. 4.4.1); negative: by how little they would have to move to be apart. Never more than the gap. Ends
 * at the first axis along which it is more than `enough`.
 */
function boxesApart(
  a: Extract<Solid, { kind: 'filled' }>,
  A: Float64Array,
  b: Extract<Solid, { kind: 'filled' }>,
  B: Float64Array,
  enough: number,
): number {
  const [x, y, z] = vec3.sub(apply(B, b.centre), apply(A, a.centre));
  const round = Math.sqrt(x * x + y * y + z * z) - vec3.norm(a.half) - vec3.norm(b.half);
  if (round > enough) return round;
  let apart = -Infinity;
  const along = (u: number, v: number, w: number): boolean => {
    let span = 0;
    for (let k = 0; k < 3; k++)
      span +=
        a.half[k] * Math.abs(u * A[k] + v * A[3 + k] + w * A[6 + k]) +
        b.half[k] * Math.abs(u * B[k] + v * B[3 + k] + w * B[6 + k]);
    apart = Math.max(apart, Math.abs(u * x + v * y + w * z) - span);
    return apart > enough;
  };
  for (let k = 0; k < 3; k++) if (along(A[k], A[3 + k], A[6 + k]) || along(B[k], B[3 + k], B[6 + k])) return apart;
  for (let i = 0; i < 3; i++)
    for (let j = 0; j < 3; j++) {
      const u = A[3 + i] * B[6 + j] - A[6 + i] * B[3 + j],
        v = A[6 + i] * B[j] - A[i] * B[6 + j],
        w = A[i] * B[3 + j] - A[3 + i] * B[j];
      const size = Math.sqrt(u * u + v * v + w * w);
      if (size > PARALLEL && along(u / size, v / size, w / size)) return apart;
    }
  return apart;
}
/** Sine below which two edges have no axis across both. */
const PARALLEL = 1e-6;

/** The point of a filled solid that is deepest in another one, or nearest to it. */
function deepest(
  a: Extract<Solid, { kind: 'filled' }>,
  frameA: Float64Array,
  b: Solid,
  frameB: Float64Array,
  enough: number,
): Gap {
  const into = mul(inverse(frameB), frameA);
  const least = withinBox(seenFrom(into, fieldOf(b)), a.field, a.centre, a.half, enough);
  return { distance: least.value, at: apply(frameA, least.at) };
}
