import { choose, expect, goTo, open, saved, test, type } from './harness';

test('a pasted table becomes joints: the bad row is named, the good table is shown again', async ({
  page,
  server,
}) => {
  await page.goto(`${server.address}/new`);
  await page.getByRole('button', { name: 'From a Denavit–Hartenberg table' }).click();
  await expect(page).toHaveURL(/part=table/);
  const paste = page.getByLabel('Rows of the table');
  const put = page.getByRole('button', { name: 'Apply in place of all joints' });
  await paste.fill('joint\ttheta\td\ta\talpha\nTurn\t0\t90\t0\t90\nShoulder\t0\t0\t\t0');
  await expect(page.getByRole('alert')).toHaveText('Row 3 has no a; every row needs θ, d, a and α.');
  await expect(put).toBeDisabled();
  await paste.fill('joint\ttheta\td\ta\talpha\nTurn\t0\t90\t0\t90\nShoulder\t90\t0\t120\t0\nElbow\t0\t0\t110\t0');
  await put.click();
  const table = page.getByLabel('Denavit–Hartenberg table');
  await expect(table.getByRole('row')).toHaveCount(4);
  await expect(table.getByRole('row').nth(2)).toContainText('120');
  await expect(page.locator('[data-joint]')).toHaveCount(3);
  await page.getByRole('button', { name: 'Joints', exact: true }).click();
  await expect(page.getByLabel('Elbow, pivot forward', { exact: true })).toHaveValue('120');
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-joint]')).toHaveCount(0);
});

test('a rotary delta from its measures: refused where its rods cannot meet, then posed and solved', async ({
  page,
  server,
}) => {
  await page.goto(`${server.address}/new/rotary-delta`);
  await type(page, 'Rods, joint to joint', 50);
  await expect(page.getByRole('alert')).toHaveText(/the forearms are \d+ mm too short\./);
  await expect(page.getByRole('button', { name: 'Make it' })).toBeDisabled();
  await type(page, 'Rods, joint to joint', 230);
  await type(page, 'Name of the arm', 'Little delta');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page).toHaveURL(/rigs\/little-delta/);
  await type(page, 'Rods, joint to joint', 40);
  await expect(page.getByRole('alert').first()).toHaveText(/cannot meet at the platform/);
  await page.getByLabel('Rods, joint to joint', { exact: true }).press('Escape');
  await expect(page.getByLabel('Rods, joint to joint', { exact: true })).toHaveValue('230');
  await type(page, 'Motor 2 position', 35);
  await goTo(page, 'Reach');
  await type(page, 'Target forward', 20);
  await type(page, 'Target left', 10);
  await type(page, 'Target up', 60);
  await expect(page.getByText('knees out', { exact: false })).toBeVisible();
  await expect(page.getByLabel('Tip', { exact: true })).toHaveText('forward 20.0, left 10.0, up 60.0 mm');
});

test('a limit that holds while another joint is past a value stops the joint on the stage', async ({
  page,
  server,
}) => {
  await open(page, server, 'measure');
  await page.getByRole('button', { name: 'Rules', exact: true }).click();
  await page.getByRole('button', { name: 'Limit while …', exact: true }).click();
  for (const [box, word] of [
    ['Limited joint 1', 'Elbow'],
    ['Condition joint 1', 'Shoulder'],
  ]) {
    await choose(page, box, word);
  }
  await type(page, 'Bound value 1', 40);
  await type(page, 'Condition value 1', 70);
  await type(page, 'Elbow position', 20);
  await type(page, 'Shoulder position', 85);
  await expect(page.getByLabel('Shoulder position')).toHaveValue('85');
  await type(page, 'Elbow position', 90);
  await expect(page.getByLabel('Elbow position')).toHaveValue('40');
  await page.getByRole('button', { name: 'Add a cable', exact: true }).click();
  await type(page, 'Slack of Cable 1', 20);
  await expect(page.getByText('20 mm left')).toBeVisible();
  await saved(page);
});

test('joints are posed by dragging their links', async ({ page, server }) => {
  await open(page, server, 'measure');
  const mark = (n: number) => page.locator(`.sheet .mark.joint-${n}`);
  // The page settles its layout before its marks stand still.
  await expect(page.locator('[data-plan=ready]')).toBeVisible();
  let last = '';
  await expect
    .poll(async () => {
      const now = JSON.stringify([await mark(3).boundingBox(), await mark(4).boundingBox()]);
      const still = now === last;
      last = now;
      return still;
    })
    .toBe(true);
  const [c, d] = [(await mark(3).boundingBox())!, (await mark(4).boundingBox())!];
  const at = { x: (c.x + 2 * d.x) / 3 + d.width / 2, y: (c.y + 2 * d.y) / 3 + d.height / 2 };
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  await page.mouse.move(at.x - 10, at.y - 70, { steps: 8 });
  await page.mouse.up();
  await expect.poll(async () => Number(await page.getByLabel('Elbow position').inputValue())).toBeLessThan(100);
  await expect(page.getByLabel('Shoulder position')).toHaveValue('−20');
});

test('one limb is shown alone, a limb is mirrored, and both are taken back', async ({ page, server }) => {
  await open(page, server, 'measure', 'twin-carriers');
  await expect(page.locator('[data-joint]')).toHaveCount(8);
  await choose(page, 'Limb on show', 'Left hand');
  await expect(page.locator('[data-joint]')).toHaveCount(4);
  await page.goto(`${server.address}/rigs/tile-dipper/measure`);
  await page.getByRole('button', { name: 'Turntable', exact: true }).click();
  await page.getByRole('button', { name: 'Mirror this limb' }).click();
  await expect(page.locator('[data-joint]')).toHaveCount(10);
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-joint]')).toHaveCount(5);
});

test('bad definitions are refused in one sentence each, names may be in any script', async ({ page, server }) => {
  await open(page, server, 'measure');
  const alert = page.getByRole('alert').first();
  await page.getByRole('button', { name: 'Wrist', exact: true }).click();
  await type(page, 'Code name', 'elbow');
  await expect(alert).toHaveText(/code name “elbow” already belongs to “elbow”/);
  await page.getByLabel('Code name', { exact: true }).press('Escape');
  await choose(page, 'Axis', 'another direction');
  await type(page, 'Axis left', 0);
  await expect(alert).toHaveText(/axis has no length/);
  await page.getByLabel('Axis left', { exact: true }).press('Escape');
  await type(page, 'Joint name', '手首 معصم');
  await expect(page.locator('[data-joint=wrist]')).toContainText('手首 معصم');
  // Elbow follows the shoulder, then the shoulder the elbow: a loop.
  for (const [joint, source] of [
    ['Elbow', 'Shoulder'],
    ['Shoulder', 'Elbow'],
  ]) {
    await page.getByRole('button', { name: joint, exact: true }).click();
    await page.getByRole('button', { name: 'Add a source', exact: true }).click();
    if (joint === 'Shoulder') break;
    await choose(page, 'Source 1', source);
    await expect(page.locator('[data-joint=elbow]')).toHaveCount(0);
  }
  await choose(page, 'Source 1', 'Elbow');
  await expect(page.getByRole('alert').last()).toHaveText(/follows itself/);
});

test('tools, payloads, base, spots and frames are edited, and survive a reload', async ({ page, server }) => {
  await open(page, server, 'measure');
  await page.getByRole('button', { name: 'Tools', exact: true }).click();
  await page.getByRole('button', { name: 'Add a tool', exact: true }).click();
  await type(page, 'Tool name', 'Brush');
  await type(page, 'Tip up', 120);
  await type(page, 'Pad grip', 0.4);
  await page.getByRole('button', { name: 'Base', exact: true }).click();
  await choose(page, 'Mounted', 'hangs from the ceiling');
  await expect(page.getByLabel('Base up', { exact: true })).toHaveValue('600');
  await page.getByRole('button', { name: 'Around', exact: true }).click();
  await page.getByRole('button', { name: 'Add a frame', exact: true }).click();
  for (const [i, point] of [
    [100, 0, 20],
    [180, 0, 20],
    [260, 0, 20],
  ].entries())
    for (const [k, word] of ['forward', 'left', 'up'].entries()) await type(page, `Point ${i + 1} ${word}`, point[k]);
  await page.getByRole('button', { name: 'Make the frame of these' }).click();
  await expect(page.getByRole('alert').first()).toHaveText(/three touched points lie on one line/);
  await type(page, 'Point 3 left', 90);
  await page.getByRole('button', { name: 'Make the frame of these' }).click();
  await expect(page.getByLabel('Frame forward', { exact: true })).toHaveValue('100');
  await saved(page);
  await page.reload();
  await page.getByRole('button', { name: 'Tools', exact: true }).click();
  await page.getByRole('button', { name: /^Brush/ }).click();
  await expect(page.getByLabel('Tip up', { exact: true })).toHaveValue('120');
});

test('the measuring sheet has a letter and a line for every measure', async ({ page, server }) => {
  await page.goto(`${server.address}/new/stacking-arm`);
  await type(page, 'Shoulder pivot to elbow pivot', 141);
  await page.getByRole('link', { name: 'Measuring sheet' }).click();
  await expect(page.getByRole('button', { name: 'Print' })).toBeVisible();
  await expect(page.locator('tbody tr')).toHaveCount(6);
  await expect(page.locator('tbody tr').nth(2)).toContainText('141');
  const letters = await page.locator('.guide .letter').allTextContents();
  expect(letters.sort()).toEqual(['a', 'b', 'c', 'd', 'e', 'f']);
});

test('every demo rig opens from the shelf in one click, and every station has something to say about it', async ({
  page,
  server,
}) => {
  test.slow();
  await page.goto(server.address);
  await page.getByRole('link', { name: /Heron greeter/ }).click();
  await expect(page.locator('[data-rig=open]')).toBeVisible();
  for (const rig of ['kiln-shelf-loader', 'dot-painter', 'heron-greeter', 'twin-carriers']) {
    await open(page, server, 'measure', rig);
    await expect(page.locator('.sheet svg .link').first()).toBeVisible();
    for (const station of ['Motors', 'Reach', 'Load', 'Poses', 'Routine', 'Hand-off', 'Bench']) {
      await page.getByRole('link', { name: new RegExp(`^${station}`) }).click();
      await expect(page.getByRole('region', { name: station }).locator('h1')).toBeVisible();
    }
  }
});
