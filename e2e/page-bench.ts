/** How the page bears a rig of thirty joints with 500 steps and 10,000 runs: `npm run bench -- page`, one JSON line a measure. */
import { chromium, type Browser, type Page } from '@playwright/test';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { flags, flags3d } from '../scripts/chromium.mjs';
import { standHeavy } from './heavy-rig';
import { end, launch } from './served';

const told = (measure: string, value: number, unit: string): void =>
  console.log(JSON.stringify({ measure, value: Math.round(value * 10) / 10, unit }));

/** Tasks and answers to what people do, as the browser itself measures them (ms). */
interface Measured {
  tasks: number[];
  answers: number[];
}
declare global {
  interface Window {
    measured: Measured;
  }
}
const watch = async (page: Page): Promise<void> => {
  await page.addInitScript(() => {
    window.measured = { tasks: [], answers: [] };
    new PerformanceObserver((list) =>
      window.measured.tasks.push(...list.getEntries().map((e) => e.duration)),
    ).observe({
      type: 'longtask',
    });
    // From the input to the next picture.
    new PerformanceObserver((list) =>
      window.measured.answers.push(...list.getEntries().map((e) => e.duration)),
    ).observe({ type: 'event', durationThreshold: 16 } as PerformanceObserverInit);
  });
};
/** Lets the page come to rest, then what it measured meanwhile. */
async function taken(page: Page, restMs = 600): Promise<Measured> {
  await page.waitForTimeout(restMs);
  return page.evaluate(() => {
    const now = window.measured;
    window.measured = { tasks: [], answers: [] };
    return now;
  });
}
const most = (list: readonly number[]): number => Math.max(0, ...list);
/** What is done a few times over: the median of the longest tasks, so that one pause of the machine is no answer. */
async function longest(page: Page, act: (round: number) => Promise<void>, rounds = 5): Promise<number> {
  const each: number[] = [];
  for (let round = 0; round < rounds; round++) {
    await taken(page);
    await act(round);
    each.push(most((await taken(page, 1500)).tasks));
  }
  return each.sort((a, b) => a - b)[rounds >> 1];
}

async function opened(browser: Browser, address: string, rig: string, station: string, stage: string): Promise<Page> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await watch(page);
  // The compiler of this script gives functions their names with a helper that the page does not have.
  await page.addInitScript('globalThis.__name = (own) => own');
  await page.addInitScript((view) => localStorage.setItem('cork-elbow:stage', view), stage);
  await page.goto(`${address}/rigs/${rig}/${station}`);
  await page.locator('[data-plan=ready]').waitFor();
  return page;
}

const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-bench-'));
const served = await launch(folder, 4790);
await standHeavy(served.address, folder);
const executablePath = process.env.CHROMIUM ?? '/usr/bin/chromium';
const flat = await chromium.launch({ executablePath, args: flags });
const page = await opened(flat, served.address, 'heavy', 'routine', 'side');
const rows = page.locator('[data-step]');

// To the picture in which the row and its form answer; the arm follows in a task of its own.
const chosen: number[] = [];
told(
  'page.choose-step',
  await longest(page, async (k) => {
    await rows.nth(2 * k + 1).click();
    await page.waitForTimeout(700);
    chosen.push(most(await page.evaluate(() => window.measured.answers)));
  }),
  'ms',
);
told('page.choose-step.answer', chosen.sort((a, b) => a - b)[chosen.length >> 1], 'ms');
told(
  'page.walk-steps',
  await longest(page, async () => {
    for (let k = 0; k < 20; k++) await page.keyboard.press('ArrowDown');
  }),
  'ms',
);
told('page.end-of-list', await longest(page, (k) => page.keyboard.press(k % 2 ? 'Home' : 'End')), 'ms');
told('page.edit-and-plan', await longest(page, () => page.keyboard.press('s')), 'ms');
const part = (name: string): Promise<void> =>
  page.getByRole('group', { name: 'Parts of the station' }).getByRole('button', { name }).click();
told('page.open-timeline', await longest(page, (k) => part(k % 2 ? 'Steps' : 'Timeline')), 'ms');
await part('Steps');

// A hundred edits of one step each, then as many undos as fast as keys come.
await rows.nth(3).click();
for (let k = 0; k < 100; k++) await page.keyboard.press('s');
await taken(page, 3000);
const begun = performance.now();
await page.keyboard.down('Control');
for (let k = 0; k < 100; k++) await page.keyboard.press('z');
await page.keyboard.up('Control');
await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
told('page.undo-100', performance.now() - begun, 'ms');
told('page.undo-task', most((await taken(page, 2000)).tasks), 'ms');
await page.goto(`${served.address}/rigs/heavy/bench`);
await page.getByRole('button', { name: 'Recordings', exact: true }).click();
const table = page.getByRole('table', { name: 'Runs' });
await table.getByText('Day 9999').waitFor();
const list = table.getByRole('rowgroup');
told(
  'page.scroll-log',
  await longest(page, (k) => list.evaluate((own, to) => own.scrollTo(0, to), 40_000 * (k + 1))),
  'ms',
);
await page.close();

/** Pictures a second that the page is given while something goes on. */
async function rate(own: Page, act: (ms: number) => Promise<void>, ms = 3000): Promise<number> {
  const pictures = own.evaluate(
    (length) =>
      new Promise<number>((done) => {
        const begun = performance.now();
        let count = 0;
        const next = (now: number): void => {
          count++;
          if (now - begun < length) requestAnimationFrame(next);
          else done((1000 * count) / (now - begun));
        };
        requestAnimationFrame(next);
      }),
    ms,
  );
  await act(ms);
  return pictures;
}
{
  const own = await opened(flat, served.address, 'tile-dipper', 'reach', 'side');
  const ring = (await own.locator('.target-ring').boundingBox())!;
  const [x, y] = [ring.x + ring.width / 2, ring.y + ring.height / 2];
  await own.mouse.move(x, y);
  await own.mouse.down();
  const circle = async (ms: number): Promise<void> => {
    for (let k = 0, end = performance.now() + ms; performance.now() < end; k++)
      await own.mouse.move(x - 30 + 30 * Math.cos(k / 12), y - 30 + 30 * Math.sin(k / 12));
  };
  told('page.drag-target', await rate(own, circle), 'pictures/s');
  await own.mouse.up();
  await own.goto(`${served.address}/rigs/tile-dipper/routine`);
  await own.locator('[data-plan=ready]').waitFor();
  const play = async (ms: number): Promise<void> => {
    await own.getByRole('button', { name: 'Play on the stage' }).click();
    await own.waitForTimeout(ms);
    await own.getByRole('button', { name: 'Pause' }).click();
  };
  told('page.play', await rate(own, play), 'pictures/s');
  const line = await own.context().newCDPSession(own);
  await line.send('Emulation.setCPUThrottlingRate', { rate: 4 });
  told('page.play.slowed-4', await rate(own, play), 'pictures/s');
}
await flat.close();

// A run on the simulated board, the arm in space drawn without graphics hardware: what is touched meanwhile answers.
const drawn = await chromium.launch({ executablePath, args: flags3d });
{
  const own = await opened(drawn, served.address, 'tile-dipper', 'measure', '3d');
  await own.getByRole('button', { name: 'Elbow', exact: true }).click();
  const field = own.getByLabel('Pivot up', { exact: true });
  await field.focus();
  await own.locator('[data-still=true]').waitFor();
  const each: number[] = [];
  for (let k = 0; k < 9; k++) {
    await own.waitForTimeout(1500);
    each.push(
      await own.evaluate(async () => {
        const host = document.querySelector<HTMLElement>('[data-pictures]')!;
        const [begun, before] = [performance.now(), host.dataset.pictures];
        document.activeElement!.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true }));
        await new Promise<void>((done) => {
          const look = (): void => (host.dataset.pictures !== before ? done() : void requestAnimationFrame(look));
          look();
        });
        return performance.now() - begun;
      }),
    );
  }
  told('page.edit-3d', each.sort((a, b) => a - b)[4], 'ms');
  told('page.edit-3d.most', most(each), 'ms');
  await own.goto(`${served.address}/rigs/tile-dipper/routine`);
  await own.locator('[data-plan=ready]').waitFor();
  await own.locator('[data-still=true]').waitFor();
  const drawn3d = (): Promise<number> =>
    own.evaluate(() => Number(document.querySelector<HTMLElement>('[data-pictures]')!.dataset.pictures));
  await own.getByRole('button', { name: 'Play on the stage' }).click();
  const [before, at] = [await drawn3d(), performance.now()];
  await own.waitForTimeout(4000);
  told('page.play-3d', (1000 * ((await drawn3d()) - before)) / (performance.now() - at), 'pictures/s');
  await own.close();
}
for (const [rig, stage] of [
  ['tile-dipper', '3d'],
  ['heavy', '3d'],
  ['heavy', 'side'],
] as const) {
  const bench = await opened(drawn, served.address, rig, 'bench', stage);
  await bench.getByRole('button', { name: 'Connect', exact: true }).click();
  await bench.locator('[data-link=connected]').waitFor();
  await bench.getByRole('checkbox').first().check();
  await bench.getByRole('button', { name: 'Arm the motors' }).click();
  await bench.locator('[data-armed=true][data-mode=normal]').waitFor();
  await bench.getByRole('button', { name: 'Run', exact: true }).click();
  await bench.locator('[data-run=running]').waitFor();
  await taken(bench, 2000);
  const stations = bench.getByRole('navigation', { name: 'Stations' });
  for (let k = 0; k < 4; k++)
    for (const name of ['Routine', 'Bench']) {
      await stations.getByRole('link', { name }).click();
      await bench.waitForTimeout(400);
    }
  const answers = (await taken(bench)).answers.sort((a, b) => a - b);
  const name = `page.answer-while-running.${rig}.${stage}`;
  told(`${name}.median`, answers[answers.length >> 1] ?? 16, 'ms');
  told(`${name}.most`, most(answers), 'ms');
  await bench.keyboard.press('Escape');
  await bench.getByRole('button', { name: 'Disconnect' }).click();
  await bench.close();
}
await drawn.close();
await end(served.child);
rmSync(folder, { recursive: true, force: true });
