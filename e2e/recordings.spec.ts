/** What is kept of runs, from the page: found, played on the stage, compared, named, saved, deleted. */
import { readFileSync } from 'node:fs';
import { choose, expect, open, test, type } from './harness';

test('a run is taken down, played again beside what was commanded, compared with another one, named, saved and deleted', async ({
  page,
  server,
}) => {
  await open(page, server, 'bench?timeScale=20');
  const part = (name: string) =>
    page.getByRole('group', { name: 'Parts of the station' }).getByRole('button', { name });
  await part('Recordings').click();
  await expect(page.getByText('Nothing has run yet')).toBeVisible();
  await part('Live').click();
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  const runs = page.getByRole('table', { name: 'Runs' });
  for (const count of [1, 2]) {
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await part('Recordings').click();
    await expect(runs).toHaveAttribute('aria-rowcount', String(count + 1));
    await expect(runs.getByText('finished')).toHaveCount(count);
    await part('Live').click();
  }
  await part('Recordings').click();
  await runs.getByRole('button').first().click();
  const events = page.getByRole('list', { name: 'What happened in the run' });
  await expect(events.getByText('7: Over the jar')).toBeVisible();
  // The arm that is armed has the stage; the recording has it once that is gone.
  const strip = page.locator('[data-pose-source]');
  await events.getByText('7: Over the jar').click();
  await expect(page.getByText(/The stage shows the arm that is armed now/)).toBeVisible();
  await expect(strip).toHaveAttribute('data-pose-source', 'live');
  await part('Live').click();
  await page.getByRole('button', { name: 'Disconnect' }).click();
  await part('Recordings').click();
  await expect(events.getByText('7: Over the jar')).toBeVisible();
  await events.getByText('9: 3 s').click();
  await expect(strip).toHaveAttribute('data-pose-source', 'replay');
  await expect(page.getByText('a recording; in outline: as commanded')).toBeVisible();
  await expect(page.locator('.stage .ghost')).toHaveCount(1);
  // Figures follow what is shown, also a single step of it.
  const there = page.locator('[aria-label=Tip]');
  const before = await there.textContent();
  await events.getByText('6: Over the rack').click();
  await expect(there).not.toHaveText(before!);
  // Space plays what is on show.
  const at = page.getByRole('slider', { name: 'Time', exact: true });
  const from = Number(await at.inputValue());
  await page.locator('#station h1').focus();
  await page.keyboard.press('Space');
  await expect.poll(async () => Number(await at.inputValue())).toBeGreaterThan(from);
  await page.getByRole('button', { name: 'Pause', exact: true }).click();
  // Another one beside it, joint by joint in its own unit.
  await page.getByRole('combobox', { name: 'Run to compare with' }).click();
  await page.getByRole('option', { name: /finished/ }).click();
  const gaps = page.getByRole('table').filter({ hasText: 'widest gap' });
  await expect(gaps.getByText('runs part by')).toBeVisible();
  await expect(gaps.getByRole('row', { name: /Elbow/ }).getByRole('cell').nth(3)).toHaveText(/^\d+\.\d\d°$/);
  await gaps.getByRole('row', { name: /Elbow/ }).getByRole('button').first().click();
  // A name; found by it and by nothing else.
  await type(page, 'Name of the run', 'before the new belt');
  await expect(runs.getByText('before the new belt')).toBeVisible();
  await page.getByRole('checkbox', { name: 'named' }).check();
  await expect(runs).toHaveAttribute('aria-rowcount', '2');
  await page.getByRole('checkbox', { name: 'named' }).uncheck();
  await page.getByLabel('Find runs').fill('old belt');
  await expect(page.getByText('No run fits that.')).toBeVisible();
  await page.getByRole('button', { name: 'Show all' }).click();
  await expect(runs).toHaveAttribute('aria-rowcount', '3');
  // As a file.
  const saving = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save as CSV' }).click();
  const file = await saving;
  expect(file.suggestedFilename()).toMatch(/^before-the-new-belt-run-.*\.csv$/);
  const lines = readFileSync(await file.path(), 'utf8')
    .trimEnd()
    .split('\r\n');
  expect(lines[0]).toContain('elbow_commanded_deg');
  expect(lines.length).toBeGreaterThan(1500);
  await choose(page, 'How long recordings are kept', '90 days');
  await page.getByRole('button', { name: 'Delete this run' }).click();
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(runs).toHaveAttribute('aria-rowcount', '2');
  await expect(runs.getByText('before the new belt')).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('combobox', { name: 'How long recordings are kept' })).toHaveText('90 days');
});
