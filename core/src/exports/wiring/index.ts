/** What hangs on which pin of every board, as a sheet. */
import { z } from 'zod';
import { sheetToSvg } from '../../drawing';
import { fileName } from '../../rig';
import { defineExport } from '../export';
import { wiringSheets } from './sheet';

export { wiringSheets } from './sheet';

export const wiring = defineExport({
  id: 'wiring',
  name: 'Wiring sheet',
  says: 'Every used pin of every board, with what hangs on it and by which wire.',
  takes: [],
  options: z.strictObject({}),
  // What hangs on no board stands on the sheet too.
  lacks: () => [],
  write: ({ rig, rigId }) => {
    const sheets = wiringSheets(rig);
    return sheets.map((sheet, k) => ({
      name: fileName(rigId, sheets.length > 1 ? `wiring-${k + 1}` : 'wiring', 'svg'),
      mediaType: 'image/svg+xml',
      text: sheetToSvg(sheet),
    }));
  },
});
