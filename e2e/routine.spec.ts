/** The Routine page: steps by keys and by mouse, findings mended by their buttons, sentences, timeline, smoothing. */
import { choose, expect, goTo, open, saved, test, type } from './harness';
import type { Page } from '@playwright/test';

test('a routine is planned, played, and its fault found by preflight and mended', async ({ page, server }) => {
  await open(page, server, 'routine');
  await expect(page.locator('.step')).toHaveCount(16);
  await page.getByLabel('Time in the routine').fill('12');
  await expect(page.locator('[data-pose-source=preview]')).toBeVisible();
  await expect(page.locator('.step[aria-current=step]')).toContainText('In the glaze');
  await page.locator('.step').nth(2).click();
  await page.getByRole('button', { name: 'time', exact: true }).click();
  await type(page, 'Duration', 0.1);
  await expect(page.locator('[data-code=duration-too-short]')).toContainText('Step 3 wants 0.1 s');
  await expect(page.getByRole('button', { name: /^Checks: \d/ })).toBeVisible();
  await goTo(page, 'Bench');
  await page.getByRole('button', { name: /^Checks: \d/ }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Go there' }).first().click();
  await type(page, 'Duration', 3);
  await expect(page.getByRole('button', { name: /fit for (the simulated|a real) board/ })).toBeVisible();
  // By keyboard: down one step, up again past it, delete, undo.
  await page.locator('.step').nth(2).focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.locator('.step').nth(2)).toContainText('Tile in slot 2');
  await page.keyboard.press('Control+z');
  await expect(page.locator('.step').nth(3)).toContainText('Tile in slot 2');
});

test('a move takes another profile, for itself or for the whole routine; a thing in the way is found and shown', async ({
  page,
  server,
}) => {
  const url = `${server.address}/api/rigs/tile-dipper`;
  const { revision, rig } = await (await page.request.get(url)).json();
  rig.obstacles.push({ id: 'post', name: 'post', kind: 'box', xyzMm: [160, 90, 0], sizeMm: [4, 4, 260] });
  expect((await page.request.put(url, { data: { revision, rig } })).ok()).toBe(true);
  await open(page, server, 'routine');
  const contact = page.locator('[data-code=contact]').first();
  await expect(contact).toContainText(/post meets|meets post/);
  const time = page.getByLabel('Time in the routine');
  await expect(time).toHaveValue('0');
  await contact.getByRole('button', { name: 'Go there' }).click();
  await expect(time).not.toHaveValue('0');

  await page.locator('[data-step]').nth(2).click();
  await page.getByText('Profile: S-curve').click();
  const profiles = page.getByRole('group', { name: 'Profile' });
  const curve = profiles.getByRole('button', { name: /S-curve/ });
  await expect(curve).toHaveAttribute('aria-pressed', 'true');
  const seconds = async (name: RegExp): Promise<number> =>
    parseFloat((await profiles.getByRole('button', { name }).innerText()).replace(/^\D+/, ''));
  expect(await seconds(/trapezoid/)).toBeLessThan(await seconds(/S-curve/));
  expect(await seconds(/S-curve/)).toBeLessThan(await seconds(/minimum jerk/));
  await profiles.getByRole('button', { name: /even speed/ }).click();
  await expect(page.locator('[data-code=profile-sharp]')).toBeVisible();
  await profiles.getByRole('button', { name: /minimum jerk/ }).click();
  await expect(page.locator('[data-code=profile-sharp]')).toHaveCount(0);
  await profiles.getByRole('button', { name: 'For the whole routine' }).click();
  await page.locator('[data-step]').nth(3).click();
  await expect(page.getByText('Profile: minimum jerk as the whole routine')).toBeVisible();
  // The tool goes straight instead of the joints: another block, no finding, and back again with one key.
  const row = page.locator('[data-step]').nth(6);
  await row.click();
  await page.getByRole('group', { name: 'Way' }).getByRole('button', { name: 'straight' }).click();
  await expect(row).toContainText('Straight move');
  await expect(row).toContainText(/[0-9.]+ s/);
  await expect(page.locator('[data-code^=path-]')).toHaveCount(0);
  await page.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('Control+z');
  await expect(row).toContainText('Joint move');
});

/** Puts a step in by typing a part of its name. */
async function add(page: Page, name: string): Promise<void> {
  await page.getByRole('combobox', { name: 'Add a step' }).fill(name);
  await expect(page.locator('.p-autocomplete-option.p-focus')).toContainText(name);
  await page.keyboard.press('Enter');
}

test('the whole dipping routine is written by keyboard alone, as sentences, and runs on the stage', async ({
  page,
  server,
}) => {
  await open(page, server, 'routine');
  await page.getByRole('button', { name: 'New routine' }).press('Enter');
  await page.getByRole('button', { name: 'As text' }).press('Enter');
  const area = page.getByLabel('The routine as sentences');
  await area.focus();
  await page.keyboard.type('Joint move to pose "Over the jar", at 60 %\n');
  await page.keyboard.type('Straight move to pose "In the glaze", at 20 mm/s\nWait 3 s, note "Hold"\n');
  await page.keyboard.type('Straight move to pose "Over the jar", in 9 s\n');
  await page.keyboard.type('Joint move to pose "Nowhere", at 60 %');
  const fault = page.getByText('Line 5, column 20: expected a pose that is there, found “Nowhere”.');
  await expect(fault).toBeVisible();
  for (let k = 0; k < 17; k++) await page.keyboard.press('Backspace');
  await page.keyboard.press('Backspace');
  await page.keyboard.type('"Rest", at 60 %');
  await expect(fault).toHaveCount(0);
  await page.keyboard.press('Tab');
  await page.getByRole('button', { name: 'Steps', exact: true }).press('Enter');
  await expect(page.locator('.step')).toHaveCount(5);
  await expect(page.locator('.step').nth(1)).toContainText('20 mm/s');
  await expect(page.locator('[data-code]').filter({ hasText: 'must be mended' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Play on the stage' }).press('Enter');
  await expect(page.locator('[data-pose-source=preview]')).toBeVisible();
  await saved(page);
});

test('steps are chosen together, copied, folded, skipped, searched for and put back', async ({ page, server }) => {
  await open(page, server, 'routine');
  const rows = page.locator('.step');
  await rows.nth(2).focus();
  await rows.nth(2).press('ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await expect(page.locator('.step.chosen')).toHaveCount(2);
  await page.keyboard.press('Control+c');
  await page.keyboard.press('Control+v');
  await expect(rows).toHaveCount(18);
  await page.keyboard.press('s');
  await expect(page.locator('.step.off')).toHaveCount(2);
  await page.keyboard.press('Delete');
  await expect(rows).toHaveCount(16);
  await page.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('Control+z');
  await expect(rows).toHaveCount(18);
  await page.getByLabel('Search the steps').fill('glaze');
  await expect(rows).toHaveCount(2);
  await page.getByLabel('Search the steps').fill('');
  // Another routine, with steps inside others.
  await choose(page, 'Routine', 'Stir the glaze');
  const all = await rows.count();
  await rows.first().focus();
  await page.keyboard.press('ArrowLeft');
  await expect(rows).toHaveCount(all - 4);
  await expect(rows.first()).toContainText('3 inside');
  await page.keyboard.press('ArrowRight');
  await expect(rows).toHaveCount(all);
  await page.keyboard.press('Control+c');
  await choose(page, 'Routine', 'Fold away');
  await rows.last().click();
  await page.keyboard.press('Control+v');
  await expect(rows.last()).toContainText('Into the jar');
});

test('findings of a routine are mended by their buttons', async ({ page, server }) => {
  await open(page, server, 'routine');
  await page.getByRole('button', { name: 'New routine' }).click();
  const mend = async (code: string, make: () => Promise<void>, by: string): Promise<void> => {
    await test.step(code, async () => {
      await make();
      const row = page.locator(`[data-code=${code}]`).first();
      await expect(row).toBeVisible();
      await row.getByRole('button', { name: by }).click();
      await expect(page.locator(`[data-code=${code}]`)).toHaveCount(0);
    });
  };
  const last = page.locator('.step').last();
  await page.getByRole('button', { name: 'Joint move', exact: true }).click();
  await choose(page, 'Target pose', 'Over the jar');
  await mend(
    'duration-too-short',
    async () => {
      await page.getByRole('button', { name: 'time', exact: true }).click();
      await type(page, 'Duration', 0.1);
    },
    'Give it the least time',
  );
  await mend('end-alone', () => add(page, 'End'), 'Delete the step');
  await mend('else-alone', () => add(page, 'Otherwise'), 'Delete the step');
  await mend('marker-missing', () => add(page, 'Jump to'), 'Add the marker at the end');
  await mend(
    'end-missing',
    async () => {
      await add(page, 'Repeat');
      await last.click();
      await page.keyboard.press('Delete');
      const end = page.locator('[data-kind=end]');
      if (await end.count()) {
        await end.last().click();
        await page.keyboard.press('Delete');
      }
    },
    'Add an end',
  );
  await mend('return-alone', () => add(page, 'Return'), 'Delete the step');
  await mend(
    'path-nowhere',
    async () => {
      await page.locator('.step').first().click();
      await page.getByRole('button', { name: 'Straight move', exact: true }).click();
      await choose(page, 'Target pose', 'Over the jar');
    },
    'Skip the step',
  );
  await mend(
    'joint-let-go',
    async () => {
      await add(page, 'Let joint go');
      await page.getByRole('button', { name: 'Joint move', exact: true }).click();
      await choose(page, 'Target pose', 'Over the rack');
    },
    'Hold the joint before',
  );
});

test('the timeline follows the inputs as they are tried, and holds two plans side by side', async ({
  page,
  server,
}) => {
  await open(page, server, 'routine', 'kiln-shelf-loader');
  await choose(page, 'Routine', 'Load one shelf');
  await page.getByRole('button', { name: 'Timeline' }).click();
  await expect(page.getByText('Vacuum').first()).toBeVisible();
  const takes = page.locator('.timeline .facts dd').first();
  await expect(takes).toContainText(/4\d\.\d+ s/);
  const before = parseFloat(await takes.innerText());
  await page.getByRole('button', { name: 'Keep to compare' }).click();
  const door = page.getByRole('group', { name: 'Kiln door open is' });
  await door.getByRole('button', { name: 'off' }).click();
  // Never opened: the routine goes to where nothing moves.
  await expect(takes).toContainText('60.00 s');
  await page.getByLabel('Kiln door open changes at').fill('7');
  await page.keyboard.press('Enter');
  await expect(takes).toContainText('+7 s');
  expect(parseFloat(await takes.innerText())).toBeCloseTo(before + 7, 1);
});

test('a low pass shows what it asks of the motors, keeps its time constant, and fills the table', async ({
  page,
  server,
}) => {
  await open(page, server, 'routine');
  await page.getByRole('button', { name: 'Smoothing' }).click();
  await page.getByRole('button', { name: 'Low pass', exact: true }).click();
  await type(page, 'Fraction per loop', 0.08);
  await expect(page.getByLabel('Time constant in ms')).toHaveValue('48');
  await expect(page.getByText('188 ms')).toBeVisible();
  await expect(page.locator('.over').filter({ hasText: '60° step' })).toContainText('1200 °/s');
  await type(page, 'Loop of the board in ms', 8);
  await expect(page.getByLabel('Time constant in ms')).toHaveValue('48');
  await expect(page.getByLabel('Fraction per loop')).not.toHaveValue('0.08');
  await expect(page.locator('[data-code=low-pass-first-tick]').first()).toBeVisible();
  await expect(page.getByRole('row', { name: /Planned/ })).toContainText('60 %');
  await page.getByRole('button', { name: 'Planned', exact: true }).click();
  await expect(page.locator('[data-code^=low-pass]')).toHaveCount(0);
});

test('pick and place is built from two spots; chosen moves are mirrored; parking plays', async ({ page, server }) => {
  await open(page, server, 'routine');
  await page.getByRole('button', { name: 'New routine' }).click();
  await page.getByRole('button', { name: 'Build', exact: true }).click();
  await choose(page, 'From by', 'pose');
  await choose(page, 'From pose', 'Tile in slot 2');
  await choose(page, 'To by', 'pose');
  await choose(page, 'To pose', 'On the bat');
  await page.getByRole('button', { name: 'Insert the steps' }).click();
  await expect(page.locator('.step')).toHaveCount(7);
  await expect(page.locator('.step').nth(2)).toContainText('holding test tile');
  await page.getByRole('button', { name: 'Joint move', exact: true }).click();
  await choose(page, 'Target pose', 'Over the rack');
  await page.getByRole('button', { name: 'Build', exact: true }).click();
  await page.getByRole('button', { name: 'Mirror' }).click();
  await page.getByRole('button', { name: 'Steps', exact: true }).click();
  await expect(page.locator('.step').last()).toContainText('by set angles');
  await page.locator('.step').last().click();
  await expect(page.getByLabel('Turntable position')).toHaveValue('−62');
  await page.getByRole('button', { name: 'Park: shown on the stage', exact: true }).click();
  await expect(page.getByRole('combobox', { name: 'Routine', exact: true })).toContainText('Fold away');
  await expect(page.locator('[data-pose-source=preview]')).toBeVisible();
});

test('a routine is made to stay under a time, or it is said why it cannot', async ({ page, server }) => {
  await open(page, server, 'routine');
  await page.getByRole('button', { name: 'Timeline' }).click();
  const takes = page.locator('.timeline .facts dd').first();
  await expect(takes).toContainText('37.');
  const under = page.getByLabel('Stay under this duration, s');
  await under.fill('34');
  await under.press('Enter');
  await expect(takes).toContainText(/33\.\d+ s|34 s/);
  await under.fill('20');
  await under.press('Enter');
  await expect(page.getByText('go by whatever the pace of its steps')).toBeVisible();
  await under.fill('25');
  await under.press('Enter');
  await expect(page.getByText('At full speed it takes')).toBeVisible();
});

test('a straight move of an arm that swings level keeps its turn, says so, and follows the arm where it is told to', async ({
  page,
  server,
}) => {
  await page.goto(`${server.address}/new/scara`);
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page).toHaveURL(/rigs\/my-arm-that-swings/);
  await goTo(page, 'Routine');
  await page.getByRole('button', { name: 'As text', exact: true }).click();
  const text = page.getByLabel('The routine as sentences');
  await text.fill(
    ['Straight move to 0 20 0 mm from here, at 50 %', 'Straight move to 0 0 -20 mm from here, at 50 %'].join('\n'),
  );
  await page.getByRole('button', { name: 'Steps', exact: true }).click();
  await page.locator('[data-step]').nth(0).click();
  const keep = page.getByRole('combobox', { name: 'What the tool keeps of its orientation on the way' });
  await expect(keep).toContainText('as it can: its whole turn kept');
  await expect(page.locator('[data-code^=path-]')).toHaveCount(0);
  await choose(page, 'What the tool keeps of its orientation on the way', 'follows the arm');
  await expect(keep).toContainText('follows the arm');
  await page.getByRole('button', { name: 'As text', exact: true }).click();
  await expect(text).toHaveValue(/20 0 mm from here, following the arm, at 50 %/);
  // It has no board yet: there is nothing to connect to, which is said where it is asked for, with the way there.
  await goTo(page, 'Bench');
  await expect(page.getByRole('button', { name: 'Connect', exact: true })).toBeDisabled();
  await expect(page.getByText('This rig has no board to connect to.')).toBeVisible();
  await page.getByRole('link', { name: 'Add one under Motors, Boards & wires' }).click();
  await expect(page).toHaveURL(/\/motors/);
  await expect(page.getByRole('button', { name: 'Boards', exact: true })).toHaveAttribute('aria-pressed', 'true');
});
