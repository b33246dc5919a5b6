/** What was chosen for this computer. */
import { eq } from 'drizzle-orm';
import type { z } from 'zod';
import type { Store } from './open';
import { settings } from './schema';

/** What was chosen; what is usual where nothing was, or by another version. */
export async function settingOf<T>({ db }: Store, name: string, shape: z.ZodType<T>, usual: T): Promise<T> {
  const [row] = await db.select({ value: settings.value }).from(settings).where(eq(settings.name, name));
  return shape.safeParse(row?.value).data ?? usual;
}
export const choose = (store: Store, name: string, value: unknown): Promise<unknown> =>
  store.write((db) =>
    db.insert(settings).values({ name, value }).onConflictDoUpdate({ target: settings.name, set: { value } }),
  );
