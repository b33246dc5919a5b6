import { readFileSync } from 'node:fs';
import { choose, expect, goTo, open, saved, test, type } from './harness';
import type { Page } from '@playwright/test';

/** What a print button puts on paper, as a PDF: how many pages, and their size (mm). */
async function printed(
  page: Page,
  press: () => Promise<void>,
): Promise<{ pages: number; width: number; height: number }> {
  await page.evaluate(() => {
    window.print = () =>
      sessionStorage.setItem('printed', document.querySelector('.print-sheet')?.outerHTML ?? document.body.outerHTML);
  });
  await press();
  const html = await page.evaluate(() => sessionStorage.getItem('printed')!);
  const paper = await page.context().newPage();
  await paper.setContent(
    `<style>body{margin:0}.print-page{break-after:page}.print-page:last-child{break-after:auto}.print-page>svg{display:block}</style>${html}`,
  );
  const pdf = (await paper.pdf({ preferCSSPageSize: true })).toString('latin1');
  await paper.close();
  return { pages: pagesIn(pdf), ...sizeOf(pdf) };
}
const pagesIn = (pdf: string): number => (pdf.match(/\/Type\s*\/Page\b/g) ?? []).length;
const sizeOf = (pdf: string): { width: number; height: number } => {
  const [, w, h] = /\/MediaBox\s*\[0 0 ([\d.]+) ([\d.]+)\]/.exec(pdf)!;
  return { width: Math.round((Number(w) * 25.4) / 72), height: Math.round((Number(h) * 25.4) / 72) };
};
const text = async (page: Page, button: string): Promise<{ name: string; text: string }> => {
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: button, exact: true }).click(),
  ]);
  return { name: download.suggestedFilename(), text: readFileSync(await download.path(), 'utf8') };
};

test('a continuous servo takes part: its stop is found, speeds are converted, and its pulses are handed off', async ({
  page,
  server,
}) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Turntable', exact: true }).click();
  await choose(page, 'Kind of drive', 'continuous servo');
  await page.getByRole('button', { name: 'Change it and forget them' }).click();
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  await type(page, 'Stop pulse measured', 1510);
  await page.getByRole('button', { name: 'Convert', exact: true }).click();
  await expect(page.getByLabel('Native value')).toHaveValue('1510');
  await type(page, 'Native value', 1550);
  const speed = Number((await page.getByLabel('Shaft speed').inputValue()).replace('−', '-'));
  expect(Math.abs(speed)).toBeGreaterThan(20);
  await type(page, 'Shaft speed', speed / 2);
  await expect(page.getByLabel('Native value')).toHaveValue('1530');
  await type(page, 'Native value', 9000);
  await expect(page.locator('[data-held]')).toContainText('is held at');
  await page.getByRole('button', { name: 'Power-up', exact: true }).click();
  await expect(page.locator('[data-drive=m-turn]')).toContainText('stays');
  await goTo(page, 'Hand-off');
  const head = page.locator('.line.head');
  await expect(head).toContainText('pin 0 µs');
  await expect(page.locator('.line.boards')).toContainText('Servo board');
  await page.locator('.rows .line').first().click();
  const csv = await text(page, 'Download CSV');
  expect(csv.name).toBe('tile-dipper-dip-commands-50hz.csv');
  const [titles, ...rows] = csv.text.trim().split('\r\n');
  expect(titles).toMatch(/^time_s,turn_us \(Servo board on the bench: pin 0\),/);
  expect(titles).toMatch(/turn_deg_per_s$/);
  const pulses = rows.map((row) =>
    Number(row.split(',')[titles.split(',').findIndex((t) => t.startsWith('turn_us'))]),
  );
  expect(Math.max(...pulses)).toBeGreaterThan(1510);
  expect(Math.min(...pulses)).toBeLessThan(1510);
  expect(pulses.at(-1)).toBe(1510);
});

test('one range of pulses wherever it is said, and what is held at a limit says so', async ({ page, server }) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  const range = async (part: string): Promise<string> => {
    await page.getByRole('button', { name: part, exact: true }).click();
    const said = await page.locator('.station').innerText();
    return /(?:range|range, now)[^\d]*(\d{3,4})\s*to\s*(\d{3,4})/.exec(said)!.slice(1, 3).join(' to ');
  };
  const ranges = [await range('Calibrate'), await range('Convert'), await range('Horn')];
  expect(new Set(ranges).size).toBe(1);
  // Taking the trim changes all three alike.
  await type(page, 'Joint at the centre pulse', 60);
  const then = (await page.locator('[data-then]').innerText()).replace(' µs', '');
  await page.getByRole('button', { name: 'Apply this trim' }).click();
  await expect(page.locator('[data-sent]')).not.toHaveText(`${ranges[0]} µs`);
  const now = (await page.locator('[data-sent]').innerText()).replace(' µs', '');
  if ((await page.locator('[data-teeth]').getAttribute('data-teeth')) === '0') expect(now).toBe(then);
  expect([await range('Calibrate'), await range('Convert')]).toEqual([now, now]);
  await page.getByRole('button', { name: 'Convert', exact: true }).click();
  await type(page, 'Joint value', 400);
  await expect(page.locator('[data-held]')).toContainText('That would be 400°; Elbow is held at its limit');
  await type(page, 'Joint value', 60);
  await expect(page.locator('[data-held]')).toHaveCount(0);
});

test('wiring findings mend themselves, outputs take a free pin, addresses may be typed as they are printed', async ({
  page,
  server,
}) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Boards & wires', exact: true }).click();
  await choose(page, 'Pin of Shoulder servo', '0 (taken)');
  const twice = page.locator('[data-code=channel-twice]').first();
  await expect(twice).toBeVisible();
  const checks = page.getByRole('button', { name: /^Checks:/ });
  await expect(checks).toHaveAttribute('aria-label', /something stops a run$/);
  await expect(checks).toHaveAttribute('title', /^Stops a run: .*same pin/);
  await twice.getByRole('button', { name: /^Take pin/ }).click();
  await expect(twice).toHaveCount(0);
  await expect(checks).toHaveAttribute('aria-label', /fit for a real board$/);
  const wiring = page.getByRole('group', { name: 'Part of the wiring' });
  await wiring.getByRole('button', { name: 'Boards', exact: true }).click();
  await choose(page, 'Add a board', '8-bit board, few timer pins');
  await choose(page, 'Add a board', '12-bit PWM driver, 16 channels');
  await type(page, 'Bus address of the board', '0x41');
  await expect(page.getByLabel('Bus address of the board')).toHaveValue('65');
  await type(page, 'Bus address of the board', '0xZZ');
  await expect(page.getByRole('alert')).toContainText('Could not read');
  await page.getByLabel('Bus address of the board').press('Escape');
  await wiring.getByRole('button', { name: 'Inputs & outputs', exact: true }).click();
  for (let k = 0; k < 2; k++)
    await page
      .getByRole('button', { name: /output/i })
      .last()
      .click();
  const pins = page.getByRole('combobox', { name: /^Pin of Output/ });
  await expect(pins).toHaveCount(2);
  expect(await pins.nth(0).innerText()).not.toBe(await pins.nth(1).innerText());
});

test('power-up shows where the servo’s middle really is, past the limit, and says so', async ({ page, server }) => {
  await open(page, server, 'measure');
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  await type(page, 'Elbow, rests at', 110);
  await type(page, 'Elbow, from', 100);
  await saved(page);
  await goTo(page, 'Motors');
  await page.getByRole('button', { name: 'Power-up', exact: true }).click();
  await page.getByRole('button', { name: 'Bare, all at once' }).click();
  await expect(page.locator('[data-drive=m-elbow]')).toContainText('→ −1°');
  await page.getByRole('button', { name: 'By the plan', exact: true }).click();
  await expect(page.locator('[data-drive=m-elbow]')).toContainText('→ 100°');
  await expect(page.locator('[data-code=neutral-past-limit]')).toContainText(
    'takes Elbow to −0.8°, past its limit at 100°',
  );
});

test('the joint table is copied with its frames and put in again: the same arm', async ({
  page,
  server,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await open(page, server, 'measure');
  const tip = (): Promise<string> => page.locator('.sheet svg .link').last().getAttribute('d') as Promise<string>;
  const before = await tip();
  await page.getByRole('button', { name: 'DH table', exact: true }).click();
  await choose(page, 'Convention', 'modified');
  await page.getByRole('button', { name: 'Copy the table' }).click();
  await expect(page.getByRole('button', { name: 'Copied' })).toBeVisible();
  const copied = await page.evaluate(() => navigator.clipboard.readText());
  expect(copied).toMatch(/^convention\tmodified\nbase\tframe\t/);
  await choose(page, 'Convention', 'standard');
  await page.getByLabel('Rows of the table').fill(copied);
  await expect(
    page.getByText('4 joints, with the frames before and after them, modified convention understood.'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Apply in place of all joints' }).click();
  await page.getByRole('button', { name: 'Joints', exact: true }).click();
  await expect(page.getByLabel('Elbow, to', { exact: true })).toHaveValue('135');
  await page.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('Control+z');
  await expect.poll(tip).toBe(before);
});

test('paper measures: figures at their size over pages, wiring and measuring sheets whole', async ({
  page,
  server,
}) => {
  await open(page, server, 'reach');
  await page.getByRole('button', { name: 'Drawing test' }).click();
  await type(page, 'Size of the figure', 60);
  const press = (name: string) => (): Promise<void> => page.getByRole('button', { name, exact: true }).click();
  expect(await printed(page, press('Print at true size'))).toEqual({ pages: 1, width: 210, height: 297 });
  await type(page, 'Size of the figure', 250);
  await expect(page.locator('[data-pages]')).toContainText('1 × 2 pages');
  expect(await printed(page, press('Print at true size'))).toEqual({ pages: 2, width: 297, height: 210 });
  await choose(page, 'Paper', 'A3');
  await expect(page.locator('[data-pages]')).toHaveCount(0);
  await choose(page, 'Paper', 'A4');
  await page.getByRole('button', { name: 'Map', exact: true }).click();
  await expect(page.locator('[data-map=side]')).toBeVisible();
  const map = await text(page, 'SVG');
  expect(map.name).toBe('tile-dipper-reach-map-side.svg');
  expect(map.text).toContain('limit margin, of half the range');
  await open(page, server, 'motors', 'kiln-shelf-loader');
  await page.getByRole('button', { name: 'Boards & wires', exact: true }).click();
  await page.getByRole('button', { name: 'Sheet', exact: true }).click();
  const wiring = await printed(page, press('Print'));
  expect(wiring).toMatchObject({ width: 210, height: 297 });
  expect(wiring.pages).toBeGreaterThanOrEqual(1);
  // Every kind's measuring sheet, as it is printed from its own page.
  await page.goto(`${server.address}/new`);
  await expect(page.locator('a.kind').nth(10)).toBeVisible();
  const kinds = await page.locator('a.kind').evaluateAll((links) => links.map((a) => a.getAttribute('href')!));
  expect(kinds.length).toBeGreaterThan(10);
  for (const kind of kinds) {
    await page.goto(`${server.address}${kind}/sheet`);
    await expect(page.locator('.paper tbody tr').first()).toBeVisible();
    // The shorter of the usual papers: what fits there fits on the longer one.
    expect(pagesIn((await page.pdf({ format: 'Letter' })).toString('latin1')), kind).toBe(1);
  }
});

test('what was typed for a new arm is there again after a look at its sheet, and after a reload', async ({
  page,
  server,
}) => {
  await page.goto(`${server.address}/new/servo-arm-4`);
  await type(page, 'Name of the arm', 'Glaze stirrer');
  const first = page.locator('ol li input').first();
  await first.fill('77');
  await first.press('Enter');
  await page.getByRole('link', { name: 'Measuring sheet' }).click();
  await expect(page.locator('h1')).toHaveText('Glaze stirrer');
  await page.getByRole('link', { name: 'Back' }).click();
  await expect(page.getByLabel('Name of the arm')).toHaveValue('Glaze stirrer');
  await expect(first).toHaveValue('77');
  await page.goto(`${server.address}/new/six-offset`);
  await page.goto(`${server.address}/new/servo-arm-4`);
  await expect(first).toHaveValue('77');
});

test('keys do no more than they say: tabbing adds no step and edits no other joint', async ({ page, server }) => {
  await open(page, server, 'routine');
  await expect(page.locator('[data-plan=ready]')).toBeVisible();
  const steps = await page.locator('.step').count();
  const field = page.getByRole('combobox', { name: 'Add a step' });
  await field.focus();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await field.focus();
  await field.pressSequentially('wai');
  await page.keyboard.press('Tab');
  await expect(field).not.toBeFocused();
  await expect(page.locator('.step')).toHaveCount(steps);
  await field.fill('');
  // Typed in one go, before the list can have come.
  await field.pressSequentially('wait');
  await page.keyboard.press('Enter');
  await expect(page.locator('.step')).toHaveCount(steps + 1);
  await field.pressSequentially('wait');
  await expect(page.getByRole('option').first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.locator('.step')).toHaveCount(steps + 2);
  await goTo(page, 'Measure');
  await page.getByRole('button', { name: 'Turntable', exact: true }).focus();
  await page.keyboard.press('Enter');
  const name = page.getByLabel('Joint name', { exact: true });
  await expect(name).toHaveValue('Turntable');
  for (let k = 0; k < 60; k++) {
    await page.keyboard.press('Tab');
    if (await name.evaluate((el) => el === document.activeElement)) break;
  }
  await expect(name).toBeFocused();
  await expect(name).toHaveValue('Turntable');
});

test('parking an armed arm is asked, and only then moves it', async ({ page, server }) => {
  await open(page, server, 'bench?timeScale=8');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await expect(page.locator('[data-mode=normal][data-armed=true]')).toBeVisible();
  await page.getByRole('button', { name: 'Park: moves the arm', exact: true }).click();
  const dialog = page.getByRole('dialog', { name: 'Park: the arm will move' });
  await expect(dialog).toContainText('the cut-off switch');
  await dialog.getByRole('button', { name: 'Leave it' }).click();
  await expect(page.locator('[data-run=running]')).toHaveCount(0);
  await page.getByRole('button', { name: 'Park: moves the arm', exact: true }).click();
  await dialog.getByRole('button', { name: 'Park the arm' }).click();
  await expect(page.locator('[data-run=finished]')).toBeVisible();
  await page.getByRole('button', { name: 'Disarm' }).click();
  await page.getByRole('button', { name: 'Park: shown on the stage', exact: true }).click();
  await expect(dialog).toHaveCount(0);
});

test('sliding joints have millimetres on their charts, and no figure is cut in a narrow window', async ({
  page,
  server,
}) => {
  await page.setViewportSize({ width: 1024, height: 700 });
  await open(page, server, 'routine', 'kiln-shelf-loader');
  await page.getByRole('button', { name: 'Timeline', exact: true }).click();
  await page.getByRole('button', { name: 'Position', exact: true }).click();
  await expect(page.locator('.chart[data-axes]')).toHaveAttribute('data-axes', 'mm °');
  await page.getByRole('button', { name: 'Speed', exact: true }).click();
  await expect(page.locator('.chart[data-axes]')).toHaveAttribute('data-axes', 'mm/s °/s');
  /** Numbers in fields that are cut, and figures that stand out of what can be seen of their panel. */
  const cut = (): Promise<string[]> =>
    page.evaluate(() => {
      const fields = [...document.querySelectorAll<HTMLInputElement>('.field input.num')]
        .filter((i) => /^[−\d]/.test(i.value) && i.clientWidth > 0 && i.scrollWidth > i.clientWidth + 1)
        .map((i) => `${i.ariaLabel}: ${i.value}`);
      const panel = document.querySelector('.station')!.getBoundingClientRect();
      const figures = [...document.querySelectorAll<HTMLElement>('.station .num')]
        .filter((el) => {
          const { width, right } = el.getBoundingClientRect();
          if (!width || el.matches('input, textarea') || el.closest('.wide-table')) return false;
          return (
            right > panel.right - 4 ||
            (getComputedStyle(el).overflowX !== 'visible' && el.scrollWidth > el.clientWidth + 1)
          );
        })
        .map((el) => el.innerText);
      return [...fields, ...figures];
    });
  for (const [station, parts] of [
    ['measure', ['Joints', 'Tools', 'Base', 'Around']],
    ['motors', ['Motor', 'Transmission', 'Convert', 'Power-up', 'Homing', 'Boards & wires', 'Supplies', 'Sensors']],
    ['reach', ['Target', 'Points', 'Drawing test']],
    ['routine', ['Steps', 'Smoothing']],
    ['hand-off', ['Motor commands', 'DH table', 'Files in']],
    ['poses', []],
  ] as const) {
    await open(page, server, station, 'kiln-shelf-loader');
    if (!parts.length) await expect.poll(cut, { message: station }).toEqual([]);
    for (const part of parts) {
      await page.getByRole('button', { name: part, exact: true }).click();
      await expect.poll(cut, { message: `${station}, ${part}` }).toEqual([]);
    }
  }
});

test('what stops a run is gone to from the Bench, and a called routine shows the row that calls it', async ({
  page,
  server,
}) => {
  await open(page, server, 'routine');
  await expect(page.locator('[data-plan=ready]')).toBeVisible();
  const adder = page.getByRole('combobox', { name: 'Add a step' });
  await adder.focus();
  await adder.pressSequentially('set out');
  await expect(page.getByRole('option').first()).toBeVisible();
  await page.keyboard.press('Enter');
  await saved(page);
  await goTo(page, 'Bench');
  const stop = page.locator('.station .finding').first();
  await expect(stop).toBeVisible();
  await stop.getByRole('button', { name: 'Go there' }).click();
  await expect(page.getByRole('region', { name: 'Routine' })).toBeVisible();
  const routines = page.getByRole('combobox', { name: 'Routine', exact: true });
  await page.getByRole('button', { name: 'New routine' }).click();
  const field = page.getByRole('combobox', { name: 'Add a step' });
  await field.focus();
  await field.pressSequentially('call');
  await expect(page.getByRole('option').first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.locator('.step')).toHaveCount(1);
  await expect(routines).toContainText('Routine ');
  await page.getByRole('button', { name: 'Play on the stage' }).click();
  await expect(page.locator('.step[aria-current=step]')).toHaveCount(1);
  await expect(page.locator('.step[aria-current=step]')).toContainText('Dip');
});
