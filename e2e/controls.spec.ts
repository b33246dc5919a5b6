import { expect, open, test } from './harness';

test('a second page watches, may stop, and takes the controls; a page that is gone leaves the arm standing', async ({
  page,
  server,
  browser,
}) => {
  await open(page, server, 'bench');
  await page.getByRole('button', { name: 'Connect' }).click();
  await expect(page.locator('[data-link=connected]')).toBeVisible();
  await page.getByText('If this page is gone').click();
  await page.getByRole('combobox', { name: 'Then the motors' }).click();
  await page.getByRole('option', { name: 'lie down' }).click();
  await expect(page.getByText('lie the arm down after 600 s and go off')).toBeVisible();
  await page.getByRole('checkbox').first().check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await expect(page.locator('[data-armed=true][data-mode=normal]')).toBeVisible();

  const context = await browser.newContext();
  const other = await context.newPage();
  await open(other, server, 'bench');
  const note = other.locator('[data-controls=elsewhere]');
  await expect(note).toContainText('has the controls');
  await expect(other.getByRole('button', { name: 'Disarm' })).toBeDisabled();
  await expect(other.getByRole('button', { name: 'Run', exact: true })).toBeDisabled();

  // At another rig it says for which one the board is there, and nothing of that one's run.
  await open(other, server, 'bench', 'dot-painter');
  await expect(other.getByText('The board is connected for another rig.')).toBeVisible();
  await expect(other.locator('[data-link=absent][data-armed=false]')).toBeVisible();
  await open(other, server, 'bench');
  await expect(note).toContainText('has the controls');

  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect(other.locator('[data-run=running]')).toBeVisible();
  await other.keyboard.press('Escape');
  await expect(page.locator('[data-run=stopped]')).toBeVisible();

  // Nothing begins before somebody has looked.
  await expect(page.getByRole('button', { name: 'Run', exact: true })).toBeDisabled();
  await page.getByRole('button', { name: 'Clear the stop' }).click();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect(other.locator('[data-run=running]')).toBeVisible();
  // The page is gone: its run comes to a stand, and whoever comes next sees why.
  await page.goto(`${server.address}/new`);
  await expect(other.locator('[data-run=paused]')).toBeVisible();
  await expect(other.getByText('the run slowed to a stand')).toBeVisible();
  await expect(note).toContainText('is gone');
  await note.getByRole('button', { name: 'Take the controls' }).click();
  await expect(note).toHaveCount(0);
  await other.getByRole('button', { name: 'Go on' }).click();
  await expect(other.locator('[data-run=running]')).toBeVisible();
  await other.getByRole('button', { name: 'Stop Esc' }).click();
  await expect(other.locator('[data-run=stopped]')).toBeVisible();
  await other.getByRole('button', { name: 'Disconnect' }).click();
  await expect(other.locator('[data-link=absent]')).toBeVisible();
  await context.close();
});

test('a board that begins anew and a line that is cut end a run, each with its sentence; armed again it goes on', async ({
  page,
  server,
}) => {
  await open(page, server, 'bench');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  const arm = async (): Promise<void> => {
    await page.getByRole('checkbox', { name: /^I have looked: fingers/ }).check();
    await page.getByRole('button', { name: 'Arm the motors' }).click();
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await expect(page.locator('[data-run=running]')).toBeVisible();
  };
  await arm();
  await page.getByText('Let something go wrong').click();
  await page.getByRole('button', { name: 'Hold it fast' }).click();
  await expect(page.getByRole('button', { name: 'Let it free' })).toBeVisible();
  await page.getByRole('button', { name: 'Board begins anew' }).click();
  await expect(page.locator('[data-run=failed][data-armed=false][data-link=connected]')).toBeVisible();
  await expect(
    page.getByRole('alert').filter({ hasText: 'The board began anew in the middle of things' }),
  ).toBeVisible();
  await arm();
  await page.getByRole('button', { name: 'Cut its line' }).click();
  await expect(page.locator('[data-run=failed][data-link=lost]')).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: 'was cut' })).toBeVisible();
});
