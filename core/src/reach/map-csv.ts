/** A reach map as a table: a row a reached cell. */
import { middleOf } from './grid';
import type { ReachMap } from './map';
import { csvOf } from '../units/csv';
import { MM_PER_M } from '../units/convert';

/** RFC 4180 text. Coordinates are the cells' middles in mm: outward and up on a side slice, else forward, left, up. */
export function reachMapToCsv({ request, grid, postures, margin, manipulability, torqueLeft }: ReachMap): string {
  const axes =
    request.plane === 'side'
      ? ['outward_mm', 'up_mm']
      : request.plane === 'plan'
        ? ['forward_mm', 'left_mm']
        : ['forward_mm', 'left_mm', 'up_mm'];
  const data: string[][] = [];
  postures.forEach((count, at) => {
    if (!count) return;
    const middle = middleOf(grid, at).slice(0, axes.length);
    data.push([
      ...middle.map((v) => (v * MM_PER_M).toFixed(2)),
      String(count),
      (100 * margin[at]).toFixed(1),
      manipulability[at].toFixed(4),
      ...(torqueLeft ? [(100 * torqueLeft[at]).toFixed(1)] : []),
    ]);
  });
  const fields = [
    ...axes,
    'postures',
    'limit_margin_percent',
    'manipulability',
    ...(torqueLeft ? ['torque_left_percent'] : []),
  ];
  return csvOf(fields, data);
}
