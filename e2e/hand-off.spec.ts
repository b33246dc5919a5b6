import { readFileSync } from 'node:fs';
import { choose, expect, goTo, open, saved, test } from './harness';

test('what goes out is shown before it is a file, and what comes in is said before it is taken', async ({
  page,
  server,
}) => {
  await open(page, server, 'hand-off');
  const kinds = page.getByRole('group', { name: 'What to write' });
  const take = async (ending: string): Promise<{ name: string; text: string }> => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: `Download ${ending}`, exact: true }).click(),
    ]);
    return { name: download.suggestedFilename(), text: readFileSync(await download.path(), 'utf8') };
  };
  await choose(page, 'Kind of file', 'JSON');
  const commands = await take('JSON');
  expect(commands.name).toBe('tile-dipper-dip-commands-50hz.json');
  expect(Object.keys(JSON.parse(commands.text).motors)).toContain('m-turn');
  await kinds.getByRole('button', { name: 'Drawing' }).click();
  const picture = page.getByRole('img', { name: /Drawing: / });
  const side = await picture.getAttribute('src');
  await choose(page, 'Seen from', 'above');
  await expect(picture).not.toHaveAttribute('src', side!);
  expect(await take('SVG')).toEqual({
    name: 'tile-dipper-plan.svg',
    text: expect.stringContaining('Tile dipper, plan'),
  });
  await kinds.getByRole('button', { name: 'Sentences' }).click();
  await expect(page.locator('pre')).toContainText('Joint move to pose "Rest", at 60 %');
  const sentences = await take('TXT');
  await kinds.getByRole('button', { name: 'Wiring sheet' }).click();
  expect((await take('SVG')).name).toBe('tile-dipper-wiring.svg');
  // The choice is kept over the session.
  await page.reload();
  await expect(kinds.getByRole('button', { name: 'Wiring sheet' })).toHaveAttribute('aria-pressed', 'true');

  await page.getByRole('button', { name: 'Files in', exact: true }).click();
  const into = page.getByRole('button', { name: 'Import', exact: true });
  await expect(into).toBeDisabled();
  const file = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
  await page.getByLabel('File of Points').setInputFiles(file('rims.csv', 'name;x;y;z\nrim;170;60;130\nfoot;170;70'));
  await expect(page.getByRole('alert')).toHaveText('Row 3 has no z; every row needs x, y and z in mm.');
  await expect(into).toBeDisabled();
  await page
    .getByLabel('File of Points')
    .setInputFiles(file('rims.csv', 'name;x;y;z\nrim;170;60;130\nfoot;170;70;40'));
  await expect(page.getByText('2 spots understood.')).toBeVisible();
  await into.click();
  await expect(page.getByRole('status').filter({ hasText: 'taken in' })).toHaveText(
    '2 spots taken in; Undo takes them out again.',
  );
  await page.getByRole('button', { name: 'Sentences', exact: true }).click();
  await page.getByLabel('File of Sentences').setInputFiles(file('dip.txt', sentences.text));
  await expect(page.getByText('16 steps understood.')).toBeVisible();
  await into.click();
  await saved(page);
  await goTo(page, 'Measure');
  await page.getByRole('button', { name: 'Around', exact: true }).click();
  await expect(page.getByText('170, 60, 130')).toBeVisible();
  await page.getByRole('button', { name: /^Undo: A routine from sentences/ }).click();
  await page.getByRole('button', { name: /^Undo: Spots from a table/ }).click();
  await expect(page.getByText('170, 60, 130')).toHaveCount(0);
});

test('a delta, which has no such table, is told why there is no file, with the way there', async ({
  page,
  server,
}) => {
  await open(page, server, 'hand-off', 'dot-painter');
  await page.getByRole('button', { name: 'DH table', exact: true }).first().click();
  const lack = page.locator('.finding');
  await expect(lack).toContainText('No Denavit–Hartenberg table describes the way to');
  await expect(page.getByRole('button', { name: 'Download', exact: true })).toBeDisabled();
  await lack.getByRole('button', { name: 'Go there' }).click();
  await expect(page.getByRole('region', { name: 'Measure', exact: true })).toBeVisible();
});
