/** Lines, arcs, circles and squares in space as points a chosen distance apart. */
import { vec3, type Vec3 } from '../linear';

/** How a flat figure lies: level, upright across the arm's forward, or upright along it. */
export type FigurePlane = 'level' | 'facing' | 'along';
export interface Figure {
  readonly shape: 'circle' | 'square' | 'line';
  readonly plane: FigurePlane;
  /** Middle (m, world) and diameter, edge or length (m). */
  readonly centre: Vec3;
  readonly size: number;
}

/** The plane's two directions on the page, right and up, and its normal away from the tool's side. */
export function planeAxes(plane: FigurePlane): { right: Vec3; up: Vec3; normal: Vec3 } {
  if (plane === 'level') return { right: [1, 0, 0], up: [0, 1, 0], normal: [0, 0, 1] };
  if (plane === 'facing') return { right: [0, -1, 0], up: [0, 0, 1], normal: [-1, 0, 0] };
  return { right: [1, 0, 0], up: [0, 0, 1], normal: [0, -1, 0] };
}

/** Corners of the figure in its own plane (m); a circle's stand close enough together to look round. */
function outline({ shape, size }: Figure): { points: [number, number][]; closed: boolean } {
  const h = size / 2;
  if (shape === 'line')
    return {
      points: [
        [-h, 0],
        [h, 0],
      ],
      closed: false,
    };
  if (shape === 'square')
    return {
      points: [
        [-h, -h],
        [h, -h],
        [h, h],
        [-h, h],
      ],
      closed: true,
    };
  return { points: [], closed: true };
}

/** Points of a figure at most `step` m apart (world, m), from its first corner round and back to it. */
export function figurePoints(figure: Figure, step: number): Vec3[] {
  const { right, up } = planeAxes(figure.plane);
  const world = (x: number, y: number): Vec3 =>
    vec3.add(figure.centre, vec3.add(vec3.scale(right, x), vec3.scale(up, y)));
  if (figure.shape === 'circle') {
    const n = Math.max(8, Math.ceil((Math.PI * figure.size) / step));
    return Array.from({ length: n + 1 }, (_, i) => {
      const angle = (2 * Math.PI * (i % n)) / n;
      return world((figure.size / 2) * Math.cos(angle), (figure.size / 2) * Math.sin(angle));
    });
  }
  const { points, closed } = outline(figure);
  const corners = points.map(([x, y]) => world(x, y));
  if (closed) corners.push(corners[0]);
  return corners.flatMap((corner, i) => (i === 0 ? [corner] : linePoints(corners[i - 1], corner, step).slice(1)));
}

/** Points of the straight line from a to b, both included, at most `step` m apart. */
export function linePoints(a: Vec3, b: Vec3, step: number): Vec3[] {
  const n = Math.max(1, Math.ceil(vec3.distance(a, b) / step - 1e-9));
  return Array.from({ length: n + 1 }, (_, i) => vec3.add(a, vec3.scale(vec3.sub(b, a), i / n)));
}

/**
 * Points of the arc from a through b to c, at most `step` m apart; `whole`: on round to a again. Null where the three lie on one
 * line.
 */
export function arcPoints(a: Vec3, b: Vec3, c: Vec3, step: number, whole = false): Vec3[] | null {
  const ab = vec3.sub(b, a);
  const ac = vec3.sub(c, a);
  const normal = vec3.cross(ab, ac);
  const square = vec3.dot(normal, normal);
  const flat = 1e-6 * vec3.norm(ab) * vec3.norm(ac);
  if (Math.sqrt(square) <= flat) return null;
  // Circumcentre of the triangle (Weisstein, "Circumcenter").
  const toCentre = vec3.scale(
    vec3.add(
      vec3.scale(vec3.cross(normal, ab), vec3.dot(ac, ac)),
      vec3.scale(vec3.cross(ac, normal), vec3.dot(ab, ab)),
    ),
    1 / (2 * square),
  );
  const centre = vec3.add(a, toCentre);
  const x = vec3.scale(toCentre, -1);
  const radius = vec3.norm(x);
  const y = vec3.cross(vec3.unit(normal)!, x);
  const from = vec3.sub(c, centre);
  let angle = Math.atan2(vec3.dot(from, y), vec3.dot(from, x));
  if (angle <= 0) angle += 2 * Math.PI;
  if (whole) angle = 2 * Math.PI;
  const n = Math.max(2, Math.ceil((angle * radius) / step - 1e-9));
  return Array.from({ length: n + 1 }, (_, i) => {
    const t = (angle * i) / n;
    return vec3.add(centre, vec3.add(vec3.scale(x, Math.cos(t)), vec3.scale(y, Math.sin(t))));
  });
}
