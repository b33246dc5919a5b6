/** Spots from a table of points. */
import { z } from 'zod';
import { idMaker, type Spot } from '../../rig';
import { MM_PER_M } from '../../units/convert';
import { counted, defineImport, unread } from '../import';
import { say } from '../findings';
import { parsePoints } from './read';

export { MAX_POINTS, parsePoints, type PointsText } from './read';

/** Most spots that one table makes: a rig is worked with by hand. */
const MAX_SPOTS = 2000;
/** Places are saved to 0.001 mm, directions to six digits. */
const mm = (m: number): number => Math.round(m * MM_PER_M * 1000) / 1000;
const share = (v: number): number => Math.round(v * 1e6) / 1e6;

export const points = defineImport({
  id: 'points',
  name: 'Points',
  says: 'Spots from rows of x, y, z in mm (forward, left, up), with a direction and a name where they have them.',
  endings: ['.csv', '.tsv', '.txt'],
  example: 'name; x; y; z\nshelf left; 180; 60; 90\nshelf right; 180; -60; 90',
  options: z.strictObject({
    already: z
      .enum(['keep', 'replace'])
      .default('keep')
      .meta({
        title: 'Same names',
        titles: { keep: 'are added', replace: 'are moved' },
      }),
  }),
  read: (text, rig, { already }) => {
    const { points: read, problems } = parsePoints(text);
    if (problems.length) return unread(problems, counted(read.length, 'spot'));
    if (read.length > MAX_SPOTS) return unread([say('spots-too-many', { got: read.length, max: MAX_SPOTS })]);
    const byName = new Map(already === 'replace' ? rig.spots.map((spot) => [spot.name, spot.id]) : []);
    const moved = read.filter((point) => byName.has(point.name)).length;
    return {
      problems: [],
      summary: moved
        ? `${counted(read.length, 'spot')}, of which ${moved} are there already`
        : counted(read.length, 'spot'),
      label: 'Spots from a table',
      edit: (draft) => {
        const freshId = idMaker(draft.spots.map((spot) => spot.id));
        for (const { name, position, direction } of read) {
          const place: Pick<Spot, 'xyzMm' | 'direction'> = {
            xyzMm: position.map(mm) as [number, number, number],
            direction: direction && (direction.map(share) as [number, number, number]),
          };
          const there = draft.spots.find((spot) => spot.id === byName.get(name));
          if (there) Object.assign(there, place);
          else draft.spots.push({ id: freshId(name), name, ...place });
        }
      },
    };
  },
});
