/** What calls about a rig on the shelf have in common. */
import { z } from 'zod';
import type { Store } from '../db/open';
import { buildsOf } from '../db/rigs';
import { apiError } from '../errors';

export const ofRig = z.strictObject({ id: z.string().describe('id of the rig on the shelf') });
export const ofBuild = ofRig.extend({ build: z.string().describe('id of one of its builds') });

/** Refuses what is about a rig or a build that is not there. */
export async function isBuild(store: Store, id: string, build: string): Promise<void> {
  const builds = await buildsOf(store, id);
  if (!builds) throw apiError('not-found', { kind: 'rig', id });
  if (!builds.includes(build)) throw apiError('not-found', { kind: 'build', id: build });
}
