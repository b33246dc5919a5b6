import { and, eq } from 'drizzle-orm';
import { linksSchema, type Links } from '@cork-elbow/core/contract';
import type { Store } from './open';
import { links } from './schema';

/** What was chosen for a build; nothing where no choice was made, or where it is one of another version. */
export async function linksOf({ db }: Store, rigId: string, buildId: string): Promise<Links> {
  const [row] = await db
    .select({ boards: links.boards })
    .from(links)
    .where(and(eq(links.rigId, rigId), eq(links.buildId, buildId)));
  return linksSchema.safeParse(row?.boards).data ?? {};
}

export const keepLinks = (store: Store, rigId: string, buildId: string, boards: Links): Promise<unknown> =>
  store.write((db) =>
    db
      .insert(links)
      .values({ rigId, buildId, boards })
      .onConflictDoUpdate({ target: [links.rigId, links.buildId], set: { boards } }),
  );
