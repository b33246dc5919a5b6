/**
 * A servo's map from measured readings: a straight line by least squares, or a line of many pieces that rises (or falls)
 * throughout: isotonic regression by pooling adjacent violators (Barlow et al. 1972) with a least slope, since plain
 * pooling leaves flat stretches that have no inverse.
 *
 * Readings approached from below and from above are fitted apart: the map is their mean, the gap between them backlash.
 */
import type { Calibration } from '../rig';

export type Reading = Calibration['points'][number];
export interface Line {
  /** µs at drive angle 0, and µs per degree of the drive. */
  readonly atZeroUs: number;
  readonly usPerDeg: number;
}
/** A corner of the many-piece map: shaft angle (°) and pulse (µs), rising in angle. */
export interface Node {
  readonly at: number;
  readonly us: number;
}

export interface CalibrationFit {
  readonly line: Line;
  /** Null for a straight map. */
  readonly nodes: readonly Node[] | null;
  /** Per reading: by how many degrees the shaft stood off where the map puts its pulse. */
  readonly offDeg: readonly number[];
  readonly rmsDeg: number;
  readonly worstDeg: number;
  /** Indices of readings that the others speak against; looked for from five readings on. */
  readonly outliers: readonly number[];
  /** Gap (°) between the map from below and the one from above; null where only one way was measured. */
  readonly backlashDeg: number | null;
}

/** Share of the mean slope that every piece of a many-piece map has at least. */
const LEAST_SLOPE = 0.2;
/** A reading is an outlier where it is off by this many times the others' spread, and by more than this angle (°). */
const OUTLIER = { spreads: 4, least: 1 };
const ENOUGH = 5;

/** Least-squares line µs = f(angle) through the points (at least two different angles, see rig/check). */
export function fitLine({ points }: { readonly points: readonly Node[] }): Line {
  const n = points.length;
  const meanAt = points.reduce((sum, p) => sum + p.at, 0) / n;
  const meanUs = points.reduce((sum, p) => sum + p.us, 0) / n;
  let across = 0;
  let along = 0;
  for (const { at, us } of points) {
    across += (at - meanAt) * (us - meanUs);
    along += (at - meanAt) ** 2;
  }
  const usPerDeg = across / along;
  return { atZeroUs: meanUs - usPerDeg * meanAt, usPerDeg };
}

/** Corners of the monotone map through points; one a different angle. */
export function fitMonotone(points: readonly Node[]): Node[] {
  const { usPerDeg } = fitLine({ points });
  const sense = Math.sign(usPerDeg) || 1;
  const slope = Math.abs(usPerDeg) * LEAST_SLOPE;
  // One mean a different angle.
  const means: { at: number; us: number; weight: number }[] = [];
  for (const { at, us } of [...points].sort((a, b) => a.at - b.at)) {
    const last = means.at(-1);
    if (last && Math.abs(last.at - at) < 1e-9) {
      last.us = (last.us * last.weight + us) / (last.weight + 1);
      last.weight++;
    } else means.push({ at, us, weight: 1 });
  }
  // What is left above the least slope must not fall.
  const rest = means.map(({ at, us }) => sense * us - slope * at);
  const blocks: { value: number; weight: number; count: number }[] = [];
  rest.forEach((value, k) => {
    blocks.push({ value, weight: means[k].weight, count: 1 });
    while (blocks.length > 1 && blocks.at(-2)!.value > blocks.at(-1)!.value) {
      const [b, a] = [blocks.pop()!, blocks.pop()!];
      const weight = a.weight + b.weight;
      blocks.push({ value: (a.value * a.weight + b.value * b.weight) / weight, weight, count: a.count + b.count });
    }
  });
  const pooled = blocks.flatMap(({ value, count }) => Array.from({ length: count }, () => value));
  return means.map(({ at }, k) => ({ at, us: sense * (pooled[k] + slope * at) }));
}

/** Pulse at a shaft angle on a many-piece map; beyond its ends the outermost pieces go on. */
export function nodesUs(nodes: readonly Node[], at: number): number {
  const k = pieceOf(nodes, (node) => node.at < at);
  const [a, b] = [nodes[k], nodes[k + 1]];
  return a.us + ((b.us - a.us) * (at - a.at)) / (b.at - a.at);
}
/** Shaft angle at a pulse on a many-piece map. */
export function nodesAt(nodes: readonly Node[], us: number): number {
  const rises = nodes.at(-1)!.us > nodes[0].us;
  const k = pieceOf(nodes, (node) => (rises ? node.us < us : node.us > us));
  const [a, b] = [nodes[k], nodes[k + 1]];
  return a.at + ((b.at - a.at) * (us - a.us)) / (b.us - a.us);
}
/** The piece after the last corner that is `before`. */
function pieceOf(nodes: readonly Node[], before: (node: Node) => boolean): number {
  let k = 0;
  while (k < nodes.length - 2 && before(nodes[k + 1])) k++;
  return k;
}

/** The map of a calibration, and how well the readings agree with it. */
export function fitCalibration({ points, fit }: Pick<Calibration, 'points' | 'fit'>): CalibrationFit {
  const isMany = fit === 'monotone' && points.length > 2;
  const line = fitLine({ points });
  const nodes = isMany ? fitMonotone(points) : null;
  const angleAt = (us: number, of: readonly Node[] | null, straight: Line): number =>
    of ? nodesAt(of, us) : (us - straight.atZeroUs) / straight.usPerDeg;
  const offDeg = points.map(({ at, us }) => at - angleAt(us, nodes, line));
  return {
    line,
    nodes,
    offDeg,
    rmsDeg: Math.sqrt(offDeg.reduce((sum, v) => sum + v * v, 0) / points.length),
    worstDeg: Math.max(...offDeg.map(Math.abs)),
    outliers: outliersOf(points),
    backlashDeg: backlashOf(points),
  };
}

/** Readings that a straight line through all the others misses by far more than it misses those. */
function outliersOf(points: readonly Reading[]): number[] {
  if (points.length < ENOUGH) return [];
  return points.flatMap((point, k) => {
    const others = points.filter((_, i) => i !== k);
    if (new Set(others.map((p) => p.at)).size < 2) return [];
    const line = fitLine({ points: others });
    const off = ({ at, us }: Reading): number => at - (us - line.atZeroUs) / line.usPerDeg;
    const spread = Math.sqrt(others.reduce((sum, p) => sum + off(p) ** 2, 0) / others.length);
    return Math.abs(off(point)) > Math.max(OUTLIER.least, OUTLIER.spreads * spread) ? [k] : [];
  });
}

function backlashOf(points: readonly Reading[]): number | null {
  const sides = (['below', 'above'] as const).map((from) => points.filter((p) => p.from === from));
  if (sides.some((side) => new Set(side.map((p) => p.at)).size < 2)) return null;
  const [below, above] = sides.map((side) => fitLine({ points: side }));
  // At the pulse in the middle of all readings.
  const us = points.reduce((sum, p) => sum + p.us, 0) / points.length;
  const at = ({ atZeroUs, usPerDeg }: Line): number => (us - atZeroUs) / usPerDeg;
  return Math.abs(at(above) - at(below));
}
