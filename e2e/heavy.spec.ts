import { expect, goTo, open, test } from './harness';
import { standHeavy } from './heavy-rig';

test('a rig of thirty joints, 500 steps and 10,000 runs: lists hold what is in view, and all of it can be reached', async ({
  page,
  server,
}) => {
  await standHeavy(server.address, server.folder);
  await open(page, server, 'routine', 'heavy');
  const rows = page.locator('[data-step]');
  await expect(rows.first()).toBeVisible();
  expect(await rows.count()).toBeLessThan(150);
  await rows.first().click();
  await page.keyboard.press('End');
  const last = page.locator('[data-step="s499"]');
  await expect(last).toBeFocused();
  await expect(last).toBeInViewport();
  await expect(last).toHaveAttribute('aria-posinset', '500');
  // Moved up by keys, skipped, taken back: what is done far down the list is done to the right step.
  await page.keyboard.press('Alt+ArrowUp');
  await expect(last).toHaveAttribute('aria-posinset', '499');
  await expect(last).toBeFocused();
  await page.keyboard.press('Control+z');
  await expect(last).toHaveAttribute('aria-posinset', '500');
  await page.keyboard.press('ArrowUp');
  await expect(page.locator('[data-step="s498"]')).toBeFocused();
  await page.keyboard.press('Home');
  await expect(page.locator('[data-step="s0"]')).toBeFocused();
  await expect(last).toHaveCount(0);

  await goTo(page, 'Bench');
  await page.getByRole('button', { name: 'Recordings', exact: true }).click();
  const log = page.getByRole('table', { name: 'Runs' });
  await expect(log).toContainText('Day 9999');
  await expect(log).toHaveAttribute('aria-rowcount', '10001');
  expect(await log.getByRole('row').count()).toBeLessThan(60);
  // As far down as it goes, past many that were never fetched.
  await log.getByRole('rowgroup').evaluate((list) => list.scrollTo(0, list.scrollHeight));
  await expect(log).toContainText('Day 0');
  await expect(log).not.toContainText('Day 9999');
});
