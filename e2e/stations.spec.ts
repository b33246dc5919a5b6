import { RIG_VERSION } from '@cork-elbow/core/rig';
import { expect, goTo, open, remember, saved, test, type } from './harness';
import { violationsOf } from './scan';

for (const theme of ['light', 'dark'] as const)
  test(`every station passes the accessibility scan, ${theme}`, async ({ page, server }) => {
    test.slow();
    await remember(page, 'cork-elbow:theme', theme);
    /** `part`: of a page that is scanned as a whole elsewhere. What is not colour is the same in the dark. */
    const scan = async (name: string, part?: string): Promise<void> => {
      const found = await violationsOf(page, { within: part, colours: theme === 'dark' });
      expect(found.map((v) => `${name}: ${v}`)).toEqual([]);
    };
    await page.goto(server.address);
    await expect(page.locator('.card svg.drawing')).toHaveCount(5);
    await scan('shelf');
    await page.goto(`${server.address}/new`);
    await scan('kinds of arm');
    await page.goto(`${server.address}/new/six-offset`);
    await scan('measures of a kind');
    await page.goto(`${server.address}/new/six-offset/sheet`);
    await scan('measuring sheet');
    await open(page, server, 'measure', 'kiln-shelf-loader');
    for (const part of theme === 'light' ? ['Rules', 'Tools', 'Base', 'Around', 'DH table'] : ['Tools']) {
      await page.getByRole('button', { name: part, exact: true }).click();
      await scan(`measure, ${part}`, '.station');
    }
    await open(page, server, 'motors');
    // In the dark a part of each station stands for all: their pieces are the same.
    for (const part of theme === 'light' ? ['Motor', 'Transmission', 'Calibrate', 'Horn', 'Convert'] : ['Horn']) {
      await page.getByRole('button', { name: part, exact: true }).click();
      await scan(`motors, ${part}`, '.station');
    }
    await open(page, server, 'motors', 'kiln-shelf-loader');
    for (const part of theme === 'light'
      ? [
          'Power-up',
          'Homing',
          'Guide',
          'Boards & wires',
          'Boards',
          'Supplies',
          'Inputs & outputs',
          'Sensors',
          'Sheet',
        ]
      : ['Homing', 'Boards & wires', 'Boards']) {
      await page.getByRole('button', { name: part, exact: true }).click();
      await scan(`motors, ${part}`, '.station');
    }
    await open(page, server, 'reach');
    for (const part of theme === 'light'
      ? ['Points', 'Lengths', 'Drawing test', 'Map', 'Target']
      : ['Map', 'Target']) {
      await page.getByRole('button', { name: part, exact: true }).click();
      await scan(`reach, ${part}`, '.station');
    }
    for (const station of ['measure', 'motors', 'reach', 'poses', 'routine', 'hand-off', 'bench']) {
      await open(page, server, station);
      await expect(page.locator('[data-plan=ready]')).toBeVisible();
      // What stands around a station is the same at all of them.
      await scan(station, station === 'measure' ? undefined : '.station');
      if (station !== 'hand-off' || theme === 'dark') continue;
      for (const part of ['Drawing', 'DH table', 'Files in']) {
        await page.getByRole('button', { name: part, exact: true }).first().click();
        await scan(`hand-off, ${part}`, '.station');
      }
    }
  });

test('bad input is refused in one sentence at its field, and nothing is lost', async ({ page, server }) => {
  await open(page, server, 'measure');
  await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  await type(page, 'Lower limit', 120);
  await expect(page.getByRole('alert')).toHaveText(/lower limit 120 is not below the upper limit 95\.$/);
  await expect(page.getByLabel('Lower limit', { exact: true })).toHaveValue('120');
  await page.getByLabel('Lower limit', { exact: true }).press('Escape');
  await expect(page.getByLabel('Lower limit', { exact: true })).toHaveValue('−40');
  await type(page, 'Pivot up', 'tall');
  await expect(page.getByRole('alert')).toHaveText(/Could not read “tall”/);
  await page.getByLabel('Pivot up', { exact: true }).press('Escape');
  await page.getByRole('combobox', { name: 'Hangs on' }).click();
  await page.getByRole('option', { name: 'Wrist' }).click();
  await expect(page.getByRole('alert')).toHaveText(/own parent/);
  await type(page, 'Joint name', ' ');
  await expect(page.getByRole('alert').last()).toHaveText('A joint needs a name.');
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Wrist', exact: true }).click();
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  await type(page, 'Angle at point 1', 90);
  await expect(page.getByRole('alert')).toHaveText(/same angle/);
  await page.goto(server.address);
  await page.getByLabel('Rig file', { exact: true }).setInputFiles({
    name: 'notes.json',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify({ format: 'cork-elbow-rig', version: RIG_VERSION + 1 })),
  });
  await expect(
    page.getByText(new RegExp(`newer Cork Elbow \\(document version ${RIG_VERSION + 1}\\)`)),
  ).toBeVisible();
  await page
    .getByLabel('Rig file', { exact: true })
    .setInputFiles({ name: 'cat.json', mimeType: 'application/json', buffer: Buffer.from('miaow') });
  await expect(page.getByText(/“cat.json” is not a rig file/)).toBeVisible();
});

test('edits are undone, redone and saved; measured points are taken back apart', async ({ page, server }) => {
  await open(page, server, 'measure');
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  await type(page, 'Pivot up', 155);
  await goTo(page, 'Motors');
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  await type(page, 'Trim', 21);
  await page.getByRole('button', { name: /^Undo: Pivot of Elbow/ }).click();
  await expect(page.getByLabel('Trim', { exact: true })).toHaveValue('21');
  await goTo(page, 'Measure');
  await expect(page.getByLabel('Pivot up', { exact: true })).toHaveValue('140');
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByLabel('Pivot up', { exact: true })).toHaveValue('155');
  await goTo(page, 'Motors');
  await page.getByRole('button', { name: /Take back: Trim of Elbow servo/ }).click();
  await expect(page.getByLabel('Trim', { exact: true })).toHaveValue('0');
  await saved(page);
  await page.reload();
  await open(page, server, 'measure');
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  await expect(page.getByLabel('Pivot up', { exact: true })).toHaveValue('155');
});

test('two windows that change one rig let the person choose', async ({ page, server, context }) => {
  await open(page, server, 'measure');
  const other = await context.newPage();
  await open(other, server, 'measure');
  // While nothing is unsaved here, what the other one saved is simply there, and can be taken back.
  await type(other, 'Name of the rig', 'Theirs');
  await expect(page.getByLabel('Name of the rig')).toHaveValue('Theirs');
  await saved(page);
  // Unsaved here, saved there: they clash, and it is said in what.
  await page.route('**/api/rigs/**', (route) =>
    route.request().method() === 'PUT' ? route.abort() : route.continue(),
  );
  await type(page, 'Name of the rig', 'Mine');
  await expect(page.locator('[data-save=away]')).toBeVisible();
  await other.getByRole('button', { name: 'Elbow', exact: true }).click();
  await type(other, 'Pivot up', 151);
  await saved(other);
  await page.unroute('**/api/rigs/**');
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Only one of the two can stay');
  await expect(dialog.locator('[data-clash] li')).toHaveText(['name', 'Elbow: place, up']);
  await page.getByRole('button', { name: 'Keep what is on this screen' }).click();
  await saved(page);
  await expect(other.getByLabel('Name of the rig')).toHaveValue('Mine');
  // What was left comes back by undo, over a reload too.
  await page.reload();
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  await expect(page.getByLabel('Pivot up', { exact: true })).not.toHaveValue('151');
  await page.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('Pivot up', { exact: true })).toHaveValue('151');
});

test('what was typed while the server was away is saved when it is back', async ({ page, server }) => {
  await open(page, server, 'measure');
  await page.route('**/api/rigs/**', (route) =>
    route.request().method() === 'PUT' ? route.abort() : route.continue(),
  );
  await type(page, 'Name of the rig', 'Typed offline');
  await expect(page.locator('[data-save=away]')).toBeVisible();
  await page.unroute('**/api/rigs/**');
  await page.reload();
  await expect(page.getByLabel('Name of the rig')).toHaveValue('Typed offline');
  await saved(page);
});

test('reach: drags the tip, names the reason and the limit, gives every posture', async ({ page, server }) => {
  await open(page, server, 'reach');
  await page.getByRole('button', { name: 'Glaze jar, mouth', exact: true }).click();
  await expect(page.locator('.posture')).not.toHaveCount(0);
  const box = (await page.locator('.sheet').boundingBox())!;
  const ring = (await page.locator('.target-ring').boundingBox())!;
  const from = { x: ring.x + ring.width / 2, y: ring.y + ring.height / 2 };
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x + 20, from.y - 30, { steps: 5 });
  await page.mouse.up();
  await expect
    .poll(async () => Number(await page.getByLabel('Target up', { exact: true }).inputValue()))
    .toBeGreaterThan(100);
  await expect(page.locator('[data-pose-source=edit]')).toBeVisible();
  await type(page, 'Target forward', 305);
  await type(page, 'Target up', 18);
  await expect(page.locator('[data-reason=too-far]')).toContainText('Not quite: 37 mm short.');
  await page.getByRole('button', { name: 'Go to the nearest pose' }).click();
  expect(box.width).toBeGreaterThan(300);
  // A target far out is brought into the picture.
  await type(page, 'Target forward', 620);
  await expect
    .poll(async () => {
      const ring = await page.locator('.target-ring').boundingBox();
      return ring !== null && ring.x > box.x && ring.x + ring.width < box.x + box.width;
    })
    .toBe(true);
});

test('the board: pause, go on, Esc stops, and the stage shows what was read back', async ({ page, server }) => {
  // In real time, so that the routine is still under way however slowly the pages come.
  await open(page, server, 'bench');
  const state = page.locator('[data-run]');
  await expect(state).toContainText('Not connected');
  await expect(page.getByText('no board is connected yet')).toBeVisible();
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await expect(state).toContainText('Not armed');
  // What was said to the board and what it answered, word for word.
  await page.getByText('Lines to and from the boards').click();
  const log = page.getByRole('log', { name: 'Lines' });
  await page.getByLabel('Only lines with').fill('board 2');
  await expect(log.locator('.said')).toContainText(/←\s*board 2 /);
  await page.getByLabel('Only lines with').fill('hello');
  await expect(log.locator('.said')).toHaveCount(1);
  await expect(log.locator('.said')).toContainText(/→\s*hello/);
  await page.getByLabel('Only lines with').fill('');
  await page.getByRole('button', { name: 'Hold', exact: true }).click();
  const heard = page.locator('.line-log [role=status]');
  const before = await heard.innerText();
  await page.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await expect(state).toContainText('Ready to run');
  await expect(heard).toHaveText(before);
  await page.getByRole('button', { name: 'Follow', exact: true }).click();
  await expect(heard).not.toHaveText(before);
  await expect(page.getByRole('button', { name: 'Park: moves the arm', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect(page.locator('[data-run=running]')).toBeVisible();
  // What would move it elsewhere is away, and there is one Stop.
  await expect(page.getByRole('button', { name: /^Park/ })).toHaveCount(0);
  await expect(page.getByRole('button', { name: /^Stop/ })).toHaveCount(1);
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.locator('[data-run=paused]')).toBeVisible();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.locator('[data-run=running]')).toBeVisible();
  await expect(page.locator('.measured').first()).toBeVisible();
  await goTo(page, 'Measure');
  await expect(page.getByRole('button', { name: 'Stop Esc' })).toBeVisible();
  await page.keyboard.press('Escape');
  await goTo(page, 'Bench');
  await expect(page.locator('[data-run=stopped]')).toBeVisible();
  // Frozen, it stands at once and wants to be armed again.
  await page.getByRole('button', { name: 'Clear the stop' }).click();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect(page.locator('[data-run=running]')).toBeVisible();
  await page.getByRole('button', { name: 'Freeze' }).click();
  await expect(
    page.locator('[data-run=stopped][data-armed=false], [data-run=failed][data-armed=false]'),
  ).toBeVisible();
});

test('poses are taken, renamed, reordered by keys, re-taken and deleted', async ({ page, server }) => {
  await open(page, server, 'poses');
  const rows = page.locator('[data-pose]');
  const before = await rows.count();
  await type(page, 'Wrist position', 12);
  await page.getByRole('button', { name: 'Take this pose' }).click();
  await expect(rows).toHaveCount(before + 1);
  await rows.last().getByLabel('Pose name').fill('Nod');
  await rows.last().getByLabel('Pose name').press('Enter');
  await page.getByRole('button', { name: /Move Nod/ }).press('ArrowUp');
  await expect(rows.nth(before - 1).getByLabel('Pose name')).toHaveValue('Nod');
  await type(page, 'Wrist position', 30);
  await page.getByRole('button', { name: /Re-take Nod/ }).click();
  await expect(rows.nth(before - 1)).toContainText('30');
  await page.getByRole('button', { name: 'Delete Nod' }).click();
  await expect(rows).toHaveCount(before);
  // What is deleted is told with who used it, and comes back by the button there.
  await expect(page.getByText('Deleted Nod.')).toBeVisible();
  await page.getByRole('button', { name: 'Delete Over the rack' }).click();
  await expect(page.getByText('Deleted Nod.')).toHaveCount(0);
  const note = page.locator('.deleted');
  await expect(note).toContainText('Deleted Over the rack.');
  await expect(note).toContainText('Used until now by Dip one tile, step 3');
  await note.getByRole('button', { name: 'Undo' }).click();
  await expect(rows).toHaveCount(before);
  await expect(note).toBeEmpty();
});
