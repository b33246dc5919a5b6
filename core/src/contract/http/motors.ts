import { z } from 'zod';
import { catalogueEntrySchema } from '../../rig/schema';
import { examples } from './shapes';

export const motorList = z.strictObject({
  motors: z.array(catalogueEntrySchema).describe('the kinds that were added, not those that come with the product'),
});
export const motorsBody = z
  .strictObject({
    motors: z
      .array(catalogueEntrySchema)
      .min(1)
      .max(500)
      .describe('kinds to add; one with a known id takes its place'),
  })
  .meta(
    examples({
      'an own servo': {
        motors: [
          {
            id: 'club-servo',
            words: 'club servo, 25 g',
            figures: {
              ...{ kind: 'servo', direction: 1, stallNm: 0.35, travelDeg: 180, centreUs: 1500, usPerDeg: 10 },
              ...{ speedDegPerS: 400, minUs: 500, maxUs: 2500, deadBandUs: 5, updateHz: 50 },
            },
          },
        ],
      },
    }),
  );
