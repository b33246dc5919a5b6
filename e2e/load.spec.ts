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

test('a lift is foretold, tried, logged with the build and in its history; what stalled too early corrects the motor', async ({
  page,
  server,
}) => {
  await open(page, server, 'load');
  await page.getByRole('button', { name: 'Trials', exact: true }).click();
  await expect(page.locator('[data-step]').first()).toBeVisible();
  await choose(page, 'motor, lightest first', 'Shoulder');
  await page.locator('[data-step]').first().getByRole('button').click();
  // The table and the pose say the same of the same mass.
  const first = await page.locator('[data-step]').first().innerText();
  await expect(page.locator('[data-foretold]')).toContainText('Shoulder lifts it');
  const newtonMetres = (text: string): number => parseFloat(/([\d.]+) N·m/.exec(text)![1]);
  const takes = newtonMetres(await page.locator('[data-foretold]').innerText());
  expect(Math.abs(takes / newtonMetres(first) - 1)).toBeLessThan(0.02);
  await type(page, 'Temperature of the motor afterwards', 41);
  await type(page, 'Note to this lift', 'cold start');
  await page.getByRole('button', { name: 'lifted it', exact: true }).click();
  await expect(page.locator('[data-lift=lifted]')).toContainText('41 °C');
  await expect(page.locator('[data-verdict]')).toContainText('agree');
  // The next mass stands ready; it stalls where it should have been lifted.
  await page.getByRole('button', { name: 'stalled', exact: true }).click();
  await expect(page.locator('[data-lift=stalled]')).toBeVisible();
  const factor = Number(await page.locator('[data-verdict]').getAttribute('data-factor'));
  expect(factor).toBeLessThan(1);
  await page.getByRole('button', { name: /^Multiply its torque by/ }).click();
  await expect(page.locator('[data-verdict]')).toContainText('agree');
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-verdict]')).not.toContainText('agree');
  await saved(page);
  await page.reload();
  await expect(page.locator('[data-lift]')).toHaveCount(2);
  // In the history of the motor both stand, with what was noted.
  await page.goto(`${server.address}/rigs/tile-dipper/motors?part=joints&joint=shoulder`);
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  const history = page.getByRole('table', { name: 'Measurements of this build' });
  await expect(history.getByRole('row', { name: /lifted/ })).toContainText('cold start');
  await expect(history.getByRole('row', { name: /stalled/ })).toBeVisible();
});

test('a motor that becomes too hot for the part around it is told, with what it may have; two readings refit it', async ({
  page,
  server,
}) => {
  await open(page, server, 'load');
  await page.getByRole('button', { name: 'Heat', exact: true }).click();
  await expect(page.locator('[data-heat-part][data-state=good]')).toBeVisible();
  await page.locator('[data-heat]', { hasText: 'Shoulder' }).click();
  await type(page, 'Temperature at which the part around it softens', 30);
  await expect(page.locator('[data-heat-part][data-state=over]')).toContainText('too hot after');
  await type(page, 'Temperature at which the part around it softens', 55);
  await expect(page.locator('[data-heat-part][data-state=good]')).toBeVisible();
  await page.locator('summary', { hasText: 'From two readings' }).click();
  await type(page, 'Temperature of reading 1', 35);
  await type(page, 'Temperature of reading 2', 70);
  await expect(page.locator('[data-refit]')).toContainText('Nothing warms like that');
  await type(page, 'Temperature of reading 2', 50);
  await page.locator('[data-refit]').getByRole('button', { name: 'Apply' }).click();
  await expect(page.locator('[data-heat-part][data-state=over]')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-heat-part][data-state=good]')).toBeVisible();
});

test('the sheet lays the arm beside what it was before a swap: what is better, what is worse', async ({
  page,
  server,
}) => {
  await open(page, server, 'load');
  await page.getByRole('button', { name: 'Sheet', exact: true }).click();
  await expect(page.locator('[data-sheet=there]')).toBeVisible();
  await page.getByRole('button', { name: 'Keep this state to compare' }).click();
  await expect(page.locator('[data-tally]')).toContainText('0 figures are better, 0 worse');
  await page.getByRole('button', { name: 'Swap', exact: true }).click();
  await choose(page, 'Motor to swap', 'Wrist');
  await page.getByRole('button', { name: 'standard servo, 45 g' }).click();
  await expect(page.locator('[data-swap=tried]')).toBeVisible();
  await page.getByRole('button', { name: 'Apply', exact: true }).click();
  await page.getByRole('button', { name: 'Sheet', exact: true }).click();
  await page.getByRole('combobox', { name: 'beside it', exact: true }).click();
  await page.getByRole('option', { name: /as it was at/ }).click();
  const row = (name: string) => page.locator(`[data-figure="${name}"]`);
  await expect(row('At its worst pose: Wrist, of its torque').locator('.better')).toBeVisible();
  await expect(row('The arm: its motors weigh').locator('.worse')).toBeVisible();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save as CSV' }).click(),
  ]);
  expect(file.suggestedFilename()).toContain('loads');
});

test('a plug that carries too little is told; joints that are let go sag, and a spring is sized', async ({
  page,
  server,
}) => {
  await open(page, server, 'load');
  await page.getByRole('button', { name: 'Supply', exact: true }).click();
  await page.locator('summary', { hasText: 'Leads' }).click();
  await expect(page.locator('[data-plug]').first()).toHaveText(/A$/);
  await type(page, 'What the plug of Shoulder servo carries', 0.3);
  await expect(page.locator('[data-lead] [data-plug=over]')).toBeVisible();
  await page.locator('summary', { hasText: 'Hold or let go' }).click();
  await expect(page.locator('[data-sag][data-stays=false]', { hasText: 'Shoulder' })).toContainText('mm lower');
  await page.getByRole('button', { name: 'Springs', exact: true }).click();
  await choose(page, 'Joint to be relieved', 'Shoulder');
  const left = Number(await page.locator('[data-spring]').getAttribute('data-spring'));
  const takes = page.locator('[data-load]', { hasText: 'Shoulder' }).locator('td.num').first();
  await page.getByRole('button', { name: 'Add this spring' }).click();
  await expect.poll(async () => Math.abs(parseFloat(await takes.innerText()) - left)).toBeLessThan(0.02);
});

test('a routine is told to slow down for its motors and its base, and stays as it was where nothing is too much', async ({
  page,
  server,
}) => {
  await open(page, server, 'routine?part=smoothing');
  const group = page.getByRole('group', { name: 'What moves are slowed down for' });
  await group.getByRole('button', { name: 'Motors that hold' }).click();
  await group.getByRole('button', { name: 'A base that stands' }).click();
  await expect(group.getByRole('button', { pressed: true })).toHaveCount(2);
  await saved(page);
  await page.reload();
  await expect(group.getByRole('button', { pressed: true })).toHaveCount(2);
  await page.keyboard.press('Control+z');
  await group.getByRole('button', { name: 'Motors that hold' }).click();
  await expect(group.getByRole('button', { name: 'Motors that hold' })).toHaveAttribute('aria-pressed', 'false');
});
