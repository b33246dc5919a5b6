import { readFileSync } from 'node:fs';
import { choose, expect, open, saved, test, type } from './harness';

const answered = '[data-answer=reached], [data-answer=missed]';

test('a drag keeps the tool level, slides along the edge of reach, and ends in an answer', async ({
  page,
  server,
}) => {
  await open(page, server, 'reach');
  await type(page, 'Target forward', 200);
  await type(page, 'Target up', 170);
  await page.getByRole('button', { name: 'level', exact: true }).click();
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
  const ring = (await page.locator('.target-ring').boundingBox())!;
  const from = { x: ring.x + ring.width / 2, y: ring.y + ring.height / 2 };
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x + 240, from.y, { steps: 24 });
  // Out of reach the arm is stretched towards the target, still level.
  await expect(page.locator('g.target')).toContainText('edge of reach');
  await page.mouse.up();
  await expect(page.locator('[data-answer=missed] [data-reason]')).toBeVisible();
  await page.locator('summary', { hasText: 'in figures' }).click();
  const pointing = page.locator('dt', { hasText: 'pointing' }).locator('+ dd');
  const [x, , z] = (await pointing.innerText()).split(',').map((v) => Number(v.replace('−', '-')));
  expect(Math.abs(z)).toBeLessThan(0.03);
  expect(x).toBeGreaterThan(0.99);
});

test('keys and buttons step the target; a held joint keeps its angle', async ({ page, server }) => {
  await open(page, server, 'reach');
  await page.getByRole('button', { name: 'Glaze jar, mouth', exact: true }).click();
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
  await page.getByRole('button', { name: '10 mm · 5°' }).click();
  await page.getByRole('button', { name: 'Step up' }).click();
  await expect(page.getByLabel('Target up', { exact: true })).toHaveValue('100');
  await page.keyboard.press('ArrowUp');
  await expect(page.getByLabel('Target forward', { exact: true })).toHaveValue('195');
  await page.keyboard.press('PageDown');
  await expect(page.getByLabel('Target up', { exact: true })).toHaveValue('90');
  await page.keyboard.press(']');
  await expect(page.getByRole('button', { name: 'along …' })).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: 'free', exact: true }).click();
  await page.getByRole('button', { name: 'Hold Turntable' }).click();
  await page.getByRole('button', { name: 'Step left' }).click();
  await expect(page.locator('[data-reason]')).toContainText(/short|limit/);
  await page.getByRole('button', { name: 'Hold Turntable' }).click();
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
});

test('why not: a change that would do is applied with one click and undone with one key', async ({
  page,
  server,
}) => {
  await open(page, server, 'reach');
  await type(page, 'Target forward', 305);
  await type(page, 'Target up', 60);
  await expect(page.locator('[data-reason=too-far]')).toContainText('mm short');
  const fix = page.getByRole('button', { name: /^Apply: .*Elbow to \d+ mm, \+\d+ mm/ }).first();
  await fix.click();
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
  await saved(page);
  await page.locator('body').press('Control+z');
  await expect(page.locator('[data-answer=missed]')).toBeVisible();
  // A tilt changes the question, not the rig.
  await page.getByRole('button', { name: /^Apply: Tool tilted/ }).click();
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
  await expect(page.getByRole('button', { name: 'along …' })).toHaveAttribute('aria-pressed', 'true');
  await page.locator('body').press('Control+z');
  await expect(page.locator('[data-answer=missed]')).toBeVisible();
  await expect(page.getByRole('button', { name: 'down', exact: true })).toHaveAttribute('aria-pressed', 'true');
});

test('bad targets get a sentence and nothing is lost', async ({ page, server }) => {
  await open(page, server, 'reach');
  const field = page.getByLabel('Target forward', { exact: true });
  await field.fill('nan');
  await field.press('Enter');
  await expect(page.getByRole('alert')).toContainText('nan');
  await field.press('Escape');
  await page.getByRole('button', { name: 'along …' }).click();
  for (const word of ['left', 'up']) await type(page, `Direction ${word}`, 0);
  await type(page, 'Direction forward', 0);
  await expect(page.getByRole('alert')).toContainText('A direction needs a length');
  await page.getByLabel('Direction forward', { exact: true }).press('Escape');
  // Inside the base: reasons, not a crash.
  await page.getByRole('button', { name: 'down', exact: true }).click();
  await type(page, 'Target forward', 5);
  await type(page, 'Target up', 30);
  await expect(page.locator('[data-answer=missed] [data-reason]')).toBeVisible();
});

test('a map of the level slice, and what a longer link gains against a pinned state', async ({ page, server }) => {
  await open(page, server, 'reach');
  await page.getByRole('button', { name: 'Map', exact: true }).click();
  await expect(page.locator('[data-map=side]')).toBeVisible();
  await page.getByRole('button', { name: 'level slice' }).click();
  await expect(page.locator('[data-map=plan]')).toBeVisible();
  await expect(page.locator('.drawing .reach-map')).toBeVisible();
  const before = Number(await page.locator('[data-map]').getAttribute('data-extent'));
  expect(before).toBeGreaterThan(0.05);
  await page.getByRole('button', { name: 'Pin this state' }).click();
  await expect(page.locator('[data-gained]')).toBeVisible();
  await page.getByRole('button', { name: 'Lengths' }).click();
  await type(page, 'Shoulder to Elbow now', 180);
  await page.getByRole('button', { name: 'Map', exact: true }).click();
  await expect
    .poll(async () => Number(await page.locator('[data-gained]').getAttribute('data-gained')))
    .toBeGreaterThan(0.01);
  await expect(page.locator('.map-gained').first()).toBeAttached();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'CSV' }).click(),
  ]);
  expect(readFileSync(await download.path(), 'utf8')).toMatch(/^forward_mm,left_mm,postures/);
  const [picture] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'PNG' }).click(),
  ]);
  expect(
    readFileSync(await picture.path())
      .subarray(1, 4)
      .toString(),
  ).toBe('PNG');
});

test('a points table names broken rows, solves the rest, and goes along an arc', async ({ page, server }) => {
  await open(page, server, 'reach');
  await page.getByRole('button', { name: 'Points', exact: true }).click();
  await page.getByLabel('Points', { exact: true }).fill('180, 0, 60\n180, here, 60\n500, 0, 60\n150, 60, 60');
  await page.getByRole('button', { name: 'Check the points' }).click();
  await expect(page.getByRole('alert')).toContainText('Row 2: “here” for y is not a number.');
  await expect(page.locator('[data-points=done]')).toHaveAttribute('data-reached', '2');
  await expect(page.locator('.points')).toContainText('mm short');
  await page.locator('summary', { hasText: 'Lay points' }).click();
  await choose(page, 'Shape of the way', 'arc');
  for (const [label, xyz] of [
    ['From', [150, -40, 70]],
    ['Through', [190, 0, 70]],
    ['To', [150, 40, 70]],
  ] as const)
    for (const [k, word] of ['forward', 'left', 'up'].entries()) await type(page, `${label} ${word}`, xyz[k]);
  await page.getByRole('button', { name: 'Lay the points' }).click();
  await expect
    .poll(async () => Number(await page.locator('[data-points=done]').getAttribute('data-reached')))
    .toBeGreaterThan(15);
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'CSV' }).click(),
  ]);
  const lines = readFileSync(await download.path(), 'utf8')
    .trim()
    .split('\r\n');
  expect(lines[0]).toContain('turn_deg');
  expect(lines.length).toBeGreaterThan(15);
});

test('length advice is found, taken as one edit, and undone', async ({ page, server }) => {
  await open(page, server, 'reach');
  await page.getByRole('button', { name: 'Lengths' }).click();
  await page.getByRole('button', { name: 'Find the smallest arm' }).click();
  await expect(page.locator('[data-advice=all]')).toBeVisible({ timeout: 30_000 });
  const elbow = page.getByLabel('Shoulder to Elbow now');
  await page.getByRole('button', { name: 'Apply these lengths' }).click();
  await expect(elbow).not.toHaveValue('140');
  await expect(page.locator('.spots .no')).toHaveCount(0);
  await page.locator('body').press('Control+z');
  await expect(elbow).toHaveValue('140');
});

test('a drawing test is checked along its way and comes out at its size', async ({ page, server }) => {
  await open(page, server, 'reach');
  await page.getByRole('button', { name: 'Drawing test' }).click();
  await choose(page, 'Middle at a spot', 'Glaze jar, mouth');
  await expect(page.locator('[data-drawing=fits]')).toContainText('It can be drawn in one go.');
  await type(page, 'Size of the figure', 400);
  await expect(page.locator('[data-drawing=short]')).toContainText('out of reach');
  await type(page, 'Size of the figure', 50);
  await expect(page.locator('[data-drawing=fits]')).toBeVisible();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'SVG' }).click(),
  ]);
  expect(readFileSync(await download.path(), 'utf8')).toContain('r="25"');
});

test('two hands: one is placed while the other stays, or is carried along', async ({ page, server }) => {
  await open(page, server, 'reach', 'twin-carriers');
  await expect(page.locator(answered)).toBeVisible();
  const value = async (label: string): Promise<number> =>
    Number((await page.getByLabel(label).inputValue()).replace('−', '-'));
  const elbows = (): Promise<number[]> => Promise.all(['Left', 'Right'].map((s) => value(`${s} elbow position`)));
  const [left, right] = await elbows();
  await choose(page, 'The other tools', 'stay where they are');
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
  await page.getByRole('button', { name: '10 mm · 5°' }).click();
  await page.getByRole('button', { name: 'Step up' }).click();
  await expect.poll(async () => (await elbows())[0]).not.toBeCloseTo(left, 1);
  expect((await elbows())[1]).toBeCloseTo(right, 1);
  await choose(page, 'The other tools', 'are carried along');
  await page.getByRole('button', { name: 'Step up' }).click();
  await expect.poll(async () => (await elbows())[1]).not.toBeCloseTo(right, 1);
  await page.locator('summary', { hasText: 'in figures' }).click();
  await expect(page.locator('dl').first()).toContainText('roll, pitch, yaw');
});

test('what is in the way is named, and a way out of it is one click', async ({ page, server }) => {
  await open(page, server, 'reach');
  await page.getByRole('button', { name: 'Glaze jar, mouth', exact: true }).click();
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
  await type(page, 'Target forward', 222);
  await type(page, 'Target up', 40);
  await expect(page.locator('[data-answer=obstructed] [data-reason=in-the-way]')).toContainText(
    /mm deep in glaze jar/,
  );
  // The posture stays on show, with what it touches.
  await expect(page.locator('.posture')).toContainText('deep in glaze jar');
  await page
    .getByRole('button', { name: /^Apply: Target \d+ mm/ })
    .first()
    .click();
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
  await page.locator('body').press('Control+z');
  await expect(page.locator('[data-answer=obstructed]')).toBeVisible();
  await expect(page.getByLabel('Target forward', { exact: true })).toHaveValue('222');
});

test('a map with the rail held covers less than one over its travel', async ({ page, server }) => {
  await open(page, server, 'reach', 'kiln-shelf-loader');
  await page.getByRole('button', { name: 'Map', exact: true }).click();
  await page.getByRole('button', { name: 'level slice' }).click();
  await expect(page.locator('[data-map=plan]')).toBeVisible();
  const extent = async (): Promise<number> => Number(await page.locator('[data-map]').getAttribute('data-extent'));
  const whole = await extent();
  expect(whole).toBeGreaterThan(0.5);
  await page.getByRole('button', { name: 'Hold Rail' }).click();
  await expect.poll(extent).toBeLessThan(0.8 * whole);
  expect(await extent()).toBeGreaterThan(0.1);
  // In space: the shell is drawn in 3D, and the picture is what the view shows.
  await page.getByRole('button', { name: 'in space' }).click();
  await expect(page.locator('[data-map=shell]')).toBeVisible();
  const [picture] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'PNG' }).click(),
  ]);
  const png = readFileSync(await picture.path());
  expect(png.subarray(1, 4).toString()).toBe('PNG');
  // A picture of one colour would be a tenth of this.
  expect(png.length).toBeGreaterThan(20_000);
});
