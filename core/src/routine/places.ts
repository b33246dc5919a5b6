/** The places of a pattern, in the order in which they are visited. */
import type { Places, Rig } from '../rig';

/** Positions in mm, world; null where the spot they are counted from is gone. */
export function placesOf(rig: Rig, places: Places): [number, number, number][] | null {
  if (places.kind === 'list') return places.pointsMm;
  const spot = rig.spots.find((s) => s.id === places.spot);
  if (!spot) return null;
  const [x, y, z] = spot.xyzMm;
  if (places.kind === 'ring')
    return Array.from({ length: places.count }, (_, k) => {
      const angle = ((places.firstDeg + (360 * k) / places.count) * Math.PI) / 180;
      return [x + places.radiusMm * Math.cos(angle), y + places.radiusMm * Math.sin(angle), z];
    });
  const out: [number, number, number][] = [];
  for (let row = 0; row < places.rows; row++)
    for (let k = 0; k < places.columns; k++) {
      const column = row % 2 ? places.columns - 1 - k : k;
      const at = (axis: number): number => column * places.columnMm[axis] + row * places.rowMm[axis];
      out.push([x + at(0), y + at(1), z + at(2)]);
    }
  return out;
}
