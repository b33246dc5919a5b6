import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createClient } from '@libsql/client';
import { expect, test } from './harness';

test('a rig that can no longer be read says so, is brought back, and a backup puts the whole shelf back', async ({
  page,
  server,
}) => {
  // Two saves, so that there is a state before.
  const { revision, rig } = (await (await fetch(`${server.address}/api/rigs/tile-dipper`)).json()) as {
    revision: number;
    rig: object;
  };
  await fetch(`${server.address}/api/rigs/tile-dipper`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ revision, rig: { ...rig, name: 'Dipper of before' } }),
  });
  const database = createClient({ url: `file:${join(server.folder, 'cork-elbow.sqlite')}` });
  await database.execute("UPDATE rigs SET document = '{\"format\":\"cork' WHERE id = 'tile-dipper'");
  database.close();

  await page.goto(server.address);
  await expect(page.locator('.card svg.drawing')).toHaveCount(4);
  const card = page.locator('[data-unreadable]');
  await expect(card).toContainText('It cannot be read any more.');
  const [text] = await Promise.all([page.waitForEvent('download'), card.getByText('Download its text').click()]);
  expect(readFileSync(await text.path(), 'utf8')).toBe('{"format":"cork');
  await card.getByRole('button', { name: 'Go back to the state before' }).click();
  await expect(page.locator('[data-unreadable]')).toHaveCount(0);
  await expect(page.locator('.card svg.drawing')).toHaveCount(5);

  await page.getByLabel('Rig file', { exact: true }).setInputFiles({
    ...{ name: 'huge.json', mimeType: 'application/json' },
    buffer: Buffer.alloc(5 * 2 ** 20, 'x'),
  });
  await expect(page.getByText('“huge.json” is larger than the 2 MB that a rig may have.')).toBeVisible();

  const [backup] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download a backup' }).click(),
  ]);
  await page.getByRole('button', { name: 'Take Heron greeter off the shelf' }).click();
  await page.getByRole('button', { name: 'Take it off', exact: true }).click();
  await expect(page.locator('.card')).toHaveCount(4);
  const field = page.getByLabel('Backup file', { exact: true });
  await field.setInputFiles({ name: 'notes.sqlite', mimeType: 'text/plain', buffer: Buffer.from('notes of mine') });
  await page.getByRole('button', { name: 'Put it back' }).click();
  await expect(page.getByText('The file is no database')).toBeVisible();
  await expect(page.locator('.card')).toHaveCount(4);
  await field.setInputFiles(await backup.path());
  await page.getByRole('button', { name: 'Put it back' }).click();
  await expect(page.locator('.card svg.drawing')).toHaveCount(5);
  await expect(page.getByText('Heron greeter')).toBeVisible();
});
