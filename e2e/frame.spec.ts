/** The frame in every window: nothing cut, nothing over anything else, nothing too small to press, and all of it by keys alone. */
import type { Page } from '@playwright/test';
import { expect, open, remember, saved, test, type Server } from './harness';
import { faultsOf } from './layout';
import { violationsOf } from './scan';

const windows = {
  wide: { viewport: { width: 1280, height: 800 } },
  medium: { viewport: { width: 1024, height: 700 } },
  tall: { viewport: { width: 834, height: 1112 }, hasTouch: true, isMobile: true },
  // 1280x800 at twice the size.
  narrow: { viewport: { width: 640, height: 400 } },
} as const;

/** Stations with the parts of each, on the rigs that have the most to show there. */
const visits: readonly (readonly [rig: string, station: string, parts: readonly string[]])[] = [
  ['tile-dipper', 'measure', ['Joints', 'Rules', 'Tools', 'Base', 'Around', 'DH table']],
  [
    'tile-dipper',
    'motors',
    [
      'Joint by joint',
      'Transmission',
      'Calibrate',
      'Horn',
      'Convert',
      'Motor',
      'Power-up',
      'Boards & wires',
      'Boards',
    ],
  ],
  ['kiln-shelf-loader', 'motors', ['Homing', 'Guide', 'Supplies', 'Inputs & outputs', 'Sensors', 'Sheet']],
  ['tile-dipper', 'reach', ['Points', 'Lengths', 'Drawing test', 'Map', 'Target']],
  ['twin-carriers', 'poses', []],
  ['tile-dipper', 'routine', ['As text', 'Build', 'Timeline', 'Smoothing', 'Steps']],
  ['tile-dipper', 'hand-off', ['Files in', 'Files out']],
  ['tile-dipper', 'bench', ['Recordings', 'Live']],
];

async function show(page: Page, part: string): Promise<void> {
  const button = page.locator('#station').getByRole('button', { name: part, exact: true }).first();
  if (!(await button.isVisible()))
    await page.locator('#station').getByRole('button', { name: 'Boards & wires', exact: true }).click();
  await button.click();
}
async function walk(page: Page, server: Server, look: (name: string) => Promise<void>): Promise<void> {
  for (const path of ['', '/new', '/new/six-offset']) {
    await page.goto(server.address + path);
    await page.locator('svg.drawing').first().waitFor();
    await look(path || 'shelf');
  }
  for (const [rig, station, parts] of visits) {
    await open(page, server, station, rig);
    await page.locator('[data-plan=ready]').waitFor();
    if (!parts.length) await look(station);
    for (const part of parts) {
      await show(page, part);
      await look(`${station}, ${part}`);
    }
  }
}

for (const [name, window] of Object.entries(windows))
  test.describe(name, () => {
    test.use(window);
    test(`everything can be read and reached in a ${name} window`, async ({ page, server }) => {
      test.slow();
      const found: string[] = [];
      const scanned = new Set<string>();
      // Every other window in the dark: what is hard to read there is found there.
      const dark = name === 'medium' || name === 'narrow';
      await remember(page, 'cork-elbow:theme', dark ? 'dark' : 'light');
      await walk(page, server, async (where) => {
        const target = 'hasTouch' in window ? 44 : 16;
        // Pictures and fields settle into their room.
        let faults: string[] = [];
        await expect
          .poll(async () => (faults = await faultsOf(page, { target })).length, { timeout: 1500 })
          .toBe(0)
          .catch(() => undefined);
        for (const fault of faults) found.push(`${where}: ${fault}`);
        expect(await page.locator('html').getAttribute('data-theme')).toBe(dark ? 'dark' : 'light');
        const station = where.split(',')[0];
        if (name === 'wide' || scanned.has(station)) return;
        scanned.add(station);
        for (const fault of await violationsOf(page)) found.push(`${where}: ${fault}`);
      });
      expect(found).toEqual([]);
    });
  });

test('the bar between stage and station moves by keys and mouse, is remembered, and goes back by a double click', async ({
  page,
  server,
}) => {
  await open(page, server, 'measure');
  const station = page.locator('#station');
  const width = async (): Promise<number> => Math.round((await station.boundingBox())!.width);
  const bar = page.getByRole('separator', { name: 'Width of the station' });
  await expect.poll(width).toBe(508);
  await bar.focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await expect.poll(width).toBe(572);
  await page.keyboard.press('Home');
  await expect.poll(width).toBe(440);
  await page.keyboard.press('End');
  await expect.poll(width).toBe(640);
  await page.reload();
  await expect.poll(width).toBe(640);
  const box = (await bar.boundingBox())!;
  await page.mouse.move(box.x + 6, box.y + 300);
  await page.mouse.down();
  await page.mouse.move(box.x + 106, box.y + 320, { steps: 4 });
  await page.mouse.up();
  await expect.poll(width).toBe(540);
  await bar.dblclick();
  await expect.poll(width).toBe(508);
  // The strip folds to a line of marks, each of which opens its joint.
  const strip = page.getByRole('region', { name: 'Joints', exact: true });
  await page.getByRole('button', { name: 'Fold the joints to a line' }).click();
  await expect.poll(async () => (await strip.boundingBox())!.height).toBeLessThan(52);
  await strip.getByRole('button', { name: /^Wrist, / }).click();
  await page.getByRole('slider', { name: 'Wrist slider' }).fill('20');
  await expect(strip.getByRole('button', { name: 'Wrist, 20°' })).toBeVisible();
});

test('the stop stands at the same corner in every window, and stage and station take turns in a narrow one', async ({
  page,
  server,
}) => {
  await open(page, server, 'bench');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  const stop = page.getByRole('button', { name: 'Stop Esc' });
  for (const { viewport } of Object.values(windows)) {
    await page.setViewportSize(viewport);
    await expect
      .poll(async () => {
        const { x, y, width } = (await stop.boundingBox())!;
        return viewport.width - x - width < 20 && y < 20;
      })
      .toBe(true);
  }
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await page.getByRole('button', { name: 'Stage', exact: true }).click();
  await expect(page.locator('.sheet svg.drawing')).toBeVisible();
  await expect(page.getByRole('heading', { level: 1 })).toBeHidden();
  await stop.click();
  await page.getByRole('link', { name: 'Bench' }).click();
  await expect(page.locator('[data-run=stopped]')).toBeVisible();
});

/** Presses Tab (or Shift Tab) until what is asked for has the focus. */
async function tabTo(page: Page, name: RegExp, role?: string, back = false): Promise<void> {
  for (let k = 0; k < 160; k++) {
    const here = await page.evaluate(() => {
      const e = document.activeElement as HTMLElement | null;
      const spoken = e?.cloneNode(true) as HTMLElement | undefined;
      spoken?.querySelectorAll('[aria-hidden=true]').forEach((hidden) => hidden.remove());
      const own = e?.getAttribute('aria-label') ?? (spoken?.textContent || e?.title) ?? '';
      return { name: own.trim().replace(/\s+/g, ' '), role: e?.getAttribute('role') ?? e?.tagName ?? '' };
    });
    if (name.test(here.name) && (!role || here.role.toLowerCase() === role)) return;
    await page.keyboard.press(back ? 'Shift+Tab' : 'Tab');
  }
  throw new Error(`no Tab leads to ${String(name)}`);
}
const focused = (page: Page): Promise<string> =>
  page.evaluate(() => document.activeElement?.tagName.toLowerCase() ?? 'none');

test('a whole job without a mouse: open, a length, a joint, a pose, a step, run, stop', async ({ page, server }) => {
  test.slow();
  await page.goto(server.address);
  await expect(page.locator('.card svg.drawing')).toHaveCount(5);
  await tabTo(page, /^Tile dipper/, 'a');
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-rig=open]')).toBeVisible();
  await expect.poll(() => focused(page)).toBe('h1');
  await expect(page).toHaveTitle('Measure · Tile dipper · Cork Elbow');
  // A length: down the list of joints to the elbow, and on to its form.
  await tabTo(page, /^Turntable$/, 'button');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await tabTo(page, /^Pivot up$/, 'input');
  await page.keyboard.type('155');
  await page.keyboard.press('Enter');
  // In a field in which nothing is typed undo is the application's.
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('Pivot up', { exact: true })).toHaveValue('140');
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByLabel('Pivot up', { exact: true })).toHaveValue('155');
  await tabTo(page, /^Add a joint$/, 'button', true);
  await page.keyboard.press('Enter');
  await expect(page.locator('.strip [data-joint]')).toHaveCount(6);
  // A pose.
  await page.keyboard.press('Alt+5');
  await expect(page.getByRole('heading', { name: 'Where does it stand?' })).toBeFocused();
  const poses = page.locator('[data-pose]');
  const before = await poses.count();
  await tabTo(page, /^Take this pose$/, 'button');
  await page.keyboard.press('Enter');
  await expect(poses).toHaveCount(before + 1);
  // A delete leaves the focus in the list.
  await tabTo(page, new RegExp(`^Delete Pose ${before + 1}$`), 'button');
  await page.keyboard.press('Enter');
  await expect(poses).toHaveCount(before);
  await expect.poll(() => focused(page)).not.toBe('body');
  // A step.
  await page.keyboard.press('Alt+6');
  await expect(page.getByRole('heading', { level: 1 })).toBeFocused();
  const steps = page.locator('.step');
  const many = await steps.count();
  await tabTo(page, /^Wait$/, 'button');
  await page.keyboard.press('Enter');
  await expect(steps).toHaveCount(many + 1);
  await saved(page);
  // Onto the board.
  await page.keyboard.press('Alt+8');
  await expect(page.getByRole('heading', { level: 1 })).toBeFocused();
  await tabTo(page, /^Connect$/, 'button');
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-link=connected]')).toBeVisible();
  await expect.poll(() => focused(page)).not.toBe('body');
});

test('focus stays with what is done on the bench: connect, arm, run, pause, stop, disarm, and the list of keys', async ({
  page,
  server,
}) => {
  await open(page, server, 'bench');
  const kept = (): Promise<void> => expect.poll(() => focused(page)).not.toBe('body');
  const press = async (name: string): Promise<void> => {
    await tabTo(page, new RegExp(`^${name}`), 'button');
    await page.keyboard.press('Enter');
  };
  await press('Connect');
  await expect(page.locator('[data-link=connected]')).toBeVisible();
  await kept();
  // Space ticks a box; it plays the routine only where nothing is pressed by it.
  await page.getByRole('checkbox').focus();
  await page.keyboard.press('Space');
  await expect(page.getByRole('checkbox')).toBeChecked();
  await press('Arm the motors');
  await expect(page.locator('[data-armed=true]')).toBeVisible();
  await kept();
  await press('Run');
  await expect(page.locator('[data-run=running]')).toBeVisible();
  await kept();
  await press('Pause');
  await expect(page.locator('[data-run=paused]')).toBeVisible();
  await kept();
  await page.keyboard.press('Escape');
  await expect(page.locator('[data-run=stopped]')).toBeVisible();
  await kept();
  await press('Disarm');
  await expect(page.locator('[data-armed=false]')).toBeVisible();
  await kept();
  await press('Keys');
  await expect(page.getByRole('dialog')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Keys', exact: true })).toBeFocused();
});
