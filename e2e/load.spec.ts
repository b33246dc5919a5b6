import { choose, expect, open, saved, test, type } from './harness';

const share = /^\d+ %$/;

test('what each motor takes follows pose and load; the worst pose is shown, and what could be held', async ({
  page,
  server,
}) => {
  await open(page, server, 'load');
  const row = (joint: string) => page.locator('[data-load]', { hasText: joint });
  const takes = async (joint: string): Promise<number> =>
    parseFloat(await row(joint).locator('td.num').first().innerText());
  await expect(row('Shoulder').locator('b')).toHaveText(share);
  const held = await takes('Elbow');
  await choose(page, 'it holds', 'nothing');
  await expect.poll(() => takes('Elbow')).toBeLessThan(held);
  await choose(page, 'it holds', 'so many grams');
  await type(page, 'Mass that it holds', '0.9 kg');
  await expect(page.locator('[data-lift=over]')).toContainText('lacks');
  // As much as it says, and no more.
  const most = Number(await page.locator('[data-heaviest]').getAttribute('data-heaviest'));
  await type(page, 'Mass that it holds', 999 * most);
  await expect(page.locator('[data-lift=tight]')).toBeVisible();
  await type(page, 'Mass that it holds', 1001 * most);
  await expect(page.locator('[data-lift=over]')).toBeVisible();
  // The strip says the same of the pose on show.
  const elbow = (await row('Elbow').locator('b').innerText()).trim();
  await expect(page.locator('.strip [data-joint=elbow] .load')).toContainText(elbow);
  // Anywhere: the pose of the worst is brought on.
  await choose(page, 'it holds', 'test tile, 42 g');
  await page.getByRole('button', { name: 'Anywhere', exact: true }).click();
  await expect(page.locator('[data-lift=over]')).toContainText('Wrist lacks');
  const worst = (await row('Wrist').locator('b').innerText()).trim();
  await row('Wrist').getByRole('button').click();
  await expect(page.locator('.strip [data-joint=wrist] .load')).toContainText(worst);
  // In kg·cm the same row has other figures.
  const before = await takes('Shoulder');
  await choose(page, 'torque in', 'kg·cm');
  await expect.poll(() => takes('Shoulder')).toBeGreaterThan(9 * before);
  await choose(page, 'torque in', 'N·m');
  // Bad input: one sentence, and what was there stays.
  await choose(page, 'it holds', 'so many grams');
  await page.getByLabel('Mass that it holds', { exact: true }).fill('-5');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert').first()).toBeVisible();
});

test('a base that tips in a routine is found, shown, and mended by ballast or wider feet; undo takes both back', async ({
  page,
  server,
}) => {
  await open(page, server, 'load');
  await page.getByRole('button', { name: 'Stand', exact: true }).click();
  await page.getByRole('button', { name: 'In a routine', exact: true }).click();
  await expect(page.locator('[data-stand=good]')).toBeVisible();
  await type(page, 'Margin wanted', 60);
  await expect(page.locator('[data-stand=tight]')).toBeVisible();
  await expect(page.locator('[data-ballast]')).toBeVisible();
  await page.getByRole('button', { name: 'Put it on' }).click();
  await expect(page.locator('[data-stand=good]')).toBeVisible();
  await saved(page);
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-stand=tight]')).toBeVisible();
  await page.getByRole('button', { name: 'Move them out' }).click();
  await expect(page.locator('[data-stand=good]')).toBeVisible();
  await page.keyboard.press('Control+z');
  // Swings counted with a watch become what the planner waits for.
  await page.locator('summary', { hasText: 'How it rocks' }).click();
  await type(page, 'Swings in five seconds', 20);
  await type(page, 'Calm after', 2);
  await expect(page.locator('[data-rocking]')).toContainText('4 Hz');
  await page.getByRole('button', { name: 'Use it' }).click();
  await expect(page.getByText('Kept now: 4 Hz, 7.8 %')).toBeVisible();
  // Where the ground presses is drawn in what the feet span.
  await page.getByRole('group', { name: 'View' }).getByRole('button', { name: 'Plan' }).click();
  await expect(page.locator('.drawing .standing')).toBeVisible();
  await expect(page.locator('.drawing .pressed').first()).toBeVisible();
});

test('another motor is tried beside the one that is there, and taken; the lightest set is found', async ({
  page,
  server,
}) => {
  await open(page, server, 'load');
  await page.getByRole('button', { name: 'Swap', exact: true }).click();
  await choose(page, 'Motor to swap', 'Wrist');
  const pair = page.locator('[data-pair]', { hasText: 'Wrist' }).locator('td.num');
  await page.getByRole('button', { name: 'standard servo, 45 g', exact: true }).click();
  await expect(pair.nth(1)).toHaveText(share);
  const [before, after] = (await pair.allInnerTexts()).map(parseFloat);
  expect(after).toBeLessThan(before);
  expect(before).toBeGreaterThan(100);
  await page.getByRole('button', { name: 'Apply', exact: true }).click();
  await saved(page);
  // What is there now is what was tried.
  await page.getByRole('button', { name: 'micro servo, 9 g', exact: true }).click();
  await expect(pair.first()).toHaveText(`${after} %`);
  await page.getByRole('button', { name: 'Leave it' }).click();
  await type(page, 'Share of torque to be left', 20);
  await page.getByRole('button', { name: 'Find the lightest motors' }).click();
  await expect(page.locator('[data-swap=tried]')).toBeVisible({ timeout: 30_000 });
  const shares = (await page.locator('[data-pair] td:nth-child(3)').allInnerTexts()).map(parseFloat);
  for (const of of shares) expect(of).toBeLessThanOrEqual(80);
});

test('a supply that is too small for the routine is told; a battery lasts as long as its charge', async ({
  page,
  server,
}) => {
  await open(page, server, 'load');
  await page.getByRole('button', { name: 'Supply', exact: true }).click();
  await expect(page.locator('[data-amps=run][data-state=good]')).toBeVisible();
  const peak = parseFloat(await page.locator('[data-amps=run] b').innerText());
  expect(peak).toBeGreaterThan(0.5);
  await page.getByRole('link', { name: /^Motors/ }).click();
  await page.getByRole('button', { name: 'Boards & wires', exact: true }).click();
  await page.getByRole('button', { name: 'Supplies', exact: true }).click();
  await choose(page, 'Source of Servo supply', 'a battery');
  await type(page, 'Amperes it gives', peak / 2);
  await page.getByRole('link', { name: /^Load/ }).click();
  await expect(page.locator('[data-amps=run][data-state=over]')).toContainText('more than the');
  await type(page, 'Charge of Servo supply', '1.2 Ah');
  await expect(page.locator('[data-runtime]')).toContainText(/The battery lasts (\d+ min|\d+(\.\d+)? h)/);
  await type(page, 'Time needed', 400);
  await expect(page.locator('[data-runtime]')).toContainText('less than the 400 h needed');
});

test('a counterweight relieves the joint that it is on the far side of', async ({ page, server }) => {
  await open(page, server, 'load');
  await page.getByRole('button', { name: 'Springs', exact: true }).click();
  const shoulder = page.locator('[data-load]', { hasText: 'Shoulder' }).locator('b');
  await expect(shoulder).toHaveText(share);
  const before = parseFloat(await shoulder.innerText());
  await page.getByRole('button', { name: 'Add a weight' }).click();
  await expect.poll(async () => parseFloat(await shoulder.innerText())).toBeLessThan(before);
  await page.getByRole('button', { name: 'Delete Weight 1' }).click();
  await expect.poll(async () => parseFloat(await shoulder.innerText())).toBe(before);
  await page.getByRole('button', { name: 'Add a spring' }).click();
  await choose(page, 'Joint of the spring', 'Elbow');
  await saved(page);
});
