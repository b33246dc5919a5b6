/** The arm led by hand on a board, from the joints, the stage and the Reach station. */
import { type Page } from '@playwright/test';
import { choose, expect, goTo, open, saved, test, type, type Server } from './harness';

async function armed(page: Page, server: Server, rig?: string): Promise<void> {
  await open(page, server, 'bench?timeScale=4', rig);
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('checkbox').first().check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await expect(page.locator('[data-mode=normal][data-armed=true]')).toBeVisible();
}
const hand = (page: Page) => page.getByRole('group', { name: 'By hand' });
const read = (page: Page, joint: string) => page.locator(`[data-joint=${joint}] .measured`);
const figure = async (page: Page, joint: string): Promise<number> =>
  Number((await read(page, joint).innerText()).replace('−', '-').replace(/[^-\d.]/g, ''));

test('joints move the arm once that is switched on: typed, by keys, dragged; Esc stops it; off they are locked', async ({
  page,
  server,
}) => {
  await open(page, server, 'bench');
  await expect(hand(page)).toHaveCount(0);
  await armed(page, server);
  const shoulder = page.getByLabel('Shoulder position', { exact: true });
  await expect(shoulder).toHaveCount(0);
  await page.getByRole('button', { name: 'Move by hand' }).click();
  await expect(page.getByRole('button', { name: 'By hand: on' })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByText('by hand', { exact: true })).toBeVisible();
  // Typed: the arm goes there, as its board reads back.
  await type(page, 'Shoulder position', 5);
  await expect.poll(() => figure(page, 'shoulder')).toBeCloseTo(5, 0);
  // What is past a limit is refused as it is typed, and nothing is lost.
  await type(page, 'Shoulder position', 500);
  await expect(page.getByText(/Shoulder position is 500.*is allowed/)).toBeVisible();
  await type(page, 'Shoulder position', 5);
  await expect(shoulder).toHaveValue('5');
  // By keys: 1, 10 and 0.1 at a press.
  await shoulder.press('ArrowUp');
  await shoulder.press('Shift+ArrowUp');
  await shoulder.press('Alt+ArrowUp');
  await expect(shoulder).toHaveValue('16.1');
  await expect.poll(() => figure(page, 'shoulder')).toBeCloseTo(16.1, 0);
  // A long way at the gentlest pace, and Esc before it is there: it stays where it was by then.
  await page.getByRole('combobox', { name: 'Speed by hand' }).click();
  await page.getByRole('option', { name: '1 % of the speed' }).click();
  await page.getByLabel('Turntable slider').fill('80');
  await expect.poll(() => figure(page, 'turn')).toBeGreaterThan(1);
  await page.keyboard.press('Escape');
  await expect
    .poll(async () =>
      Math.abs(Number(await page.getByLabel('Turntable slider').inputValue()) - (await figure(page, 'turn'))),
    )
    .toBeLessThan(1);
  // It has come to rest once it reads the same twice.
  let before = Number.NaN;
  await expect
    .poll(async () => {
      const [was, now] = [before, await figure(page, 'turn')];
      before = now;
      return now === was;
    })
    .toBe(true);
  const stands = await figure(page, 'turn');
  expect(stands).toBeLessThan(70);
  await page.getByRole('button', { name: 'By hand: on' }).click();
  await expect(page.getByRole('button', { name: 'Move by hand' })).toBeVisible();
  await expect(page.getByLabel('Turntable slider')).toBeDisabled();
  expect(await figure(page, 'turn')).toBeCloseTo(stands, 0);
});

test('steps under Reach move its tool straight, from where it stands', async ({ page, server }) => {
  await armed(page, server);
  await page.getByRole('button', { name: 'Move by hand' }).click();
  await type(page, 'Elbow position', 95);
  await expect.poll(() => figure(page, 'elbow')).toBeCloseTo(95, 0);
  await goTo(page, 'Reach');
  const up = page.getByText(/up -?[\d.−]+ mm/).first();
  const height = async (): Promise<number> =>
    Number(/up ([-−\d.]+) mm/.exec(await up.innerText())![1].replace('−', '-'));
  const before = await height();
  await page.getByRole('button', { name: /^10 mm/ }).click();
  await page.getByRole('button', { name: 'Step up' }).click();
  await expect.poll(height).toBeGreaterThan(before + 8.5);
  expect(await height()).toBeLessThan(before + 11.5);
  await page.getByRole('button', { name: 'Stop Esc' }).click();
});

test('is off again after an edit, and a run may begin from it', async ({ page, server }) => {
  await armed(page, server);
  await page.getByRole('button', { name: 'Move by hand' }).click();
  await expect(page.getByRole('button', { name: 'By hand: on' })).toBeVisible();
  await type(page, 'Name of the rig', 'Dipper by hand');
  await expect(page.getByRole('button', { name: 'Move by hand' })).toBeVisible();
  await page.getByRole('button', { name: 'Move by hand' }).click();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect(page.locator('[data-run=starting], [data-run=running]')).toBeVisible();
  await expect(hand(page)).toHaveCount(0);
});

test('a servo is calibrated live: switched on alone, sent pulses, each taken as a point; Esc and Off', async ({
  page,
  server,
}) => {
  await open(page, server, 'bench?timeScale=4');
  await goTo(page, 'Motors');
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  const live = page.getByRole('group', { name: /^Send to / });
  await live.getByRole('link', { name: 'Connect a board on the Bench' }).click();
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await expect(page.locator('[data-link=connected]')).toBeVisible();
  await goTo(page, 'Motors');
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  const on = live.getByRole('button', { name: 'Switch Turntable servo on alone' });
  await expect(on).toBeDisabled();
  await live.getByRole('checkbox').check();
  await on.click();
  await expect(live.getByText('On alone')).toBeVisible();
  // What it does not take is refused, and stays to be mended.
  const send = live.getByLabel('Send, µs');
  await send.fill('9000');
  await send.press('Enter');
  await expect(live.getByText(/9000.*is allowed/)).toBeVisible();
  await send.fill('1300');
  await send.press('Enter');
  await expect(live.getByText(/^reads (129\d|130\d) µs$/)).toBeVisible();
  await live.getByRole('button', { name: '+10', exact: true }).click();
  await live.getByRole('button', { name: '−1', exact: true }).click();
  await expect(send).toHaveValue('1309');
  const takes = page.getByRole('button', { name: 'Point 1 takes the pulse sent' });
  // What is taken is what has been sent by now, not what is on its way.
  await expect(takes).toHaveAttribute('title', /1309 µs/);
  await takes.click();
  await expect(page.getByLabel('Pulse of point 1')).toHaveValue('1309');
  await type(page, 'Angle at point 1', 20);
  await send.fill('1700');
  await send.press('Enter');
  await expect(live.getByText(/^reads (169\d|170\d) µs$/)).toBeVisible();
  await page.getByRole('button', { name: 'Add a point at 1700 µs' }).click();
  await expect(page.getByLabel('Pulse of point 3')).toHaveValue('1700');
  // On another joint's page it is said which one is on.
  await page
    .getByRole('button', { name: /Shoulder/ })
    .first()
    .click();
  await expect(live.getByText('Turntable servo is switched on alone; switch it off first.')).toBeVisible();
  await live.getByRole('button', { name: 'Disarm' }).click();
  await expect(live.getByRole('checkbox')).toBeVisible();
});

test('inputs are held and outputs switched by name; disarmed they are off', async ({ page, server }) => {
  await armed(page, server, 'kiln-shelf-loader');
  await page.getByText('Inputs and outputs').click();
  const row = (id: string) => page.locator(`[data-signal="${id}"]`);
  await expect(row('door').getByRole('status')).toHaveText('off');
  await row('door').getByRole('button', { name: 'on', exact: true }).click();
  await expect(row('door').getByRole('status')).toHaveText('on');
  await row('door').getByRole('button', { name: 'let go' }).click();
  await expect(row('door').getByRole('status')).toHaveText('off');
  await row('vacuum').getByRole('button', { name: 'on', exact: true }).click();
  await expect(row('vacuum').getByRole('status')).toHaveText('on');
  await page.getByRole('button', { name: 'Disarm' }).click();
  await expect(row('vacuum').getByRole('status')).toHaveText('off');
  await expect(row('vacuum').getByRole('button', { name: 'on', exact: true })).toBeDisabled();
});

test('how far a joint goes is found in small steps, and is confirmed with a row in its history', async ({
  page,
  server,
}) => {
  await armed(page, server);
  await page.getByText('Find how far a joint goes').click();
  await choose(page, 'joint', 'Shoulder');
  const finder = page.locator('[data-finder]');
  await expect(finder).toContainText('It stands at −20°; its limit there is 95°. Nothing is confirmed yet.');
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  const further = page.getByRole('button', { name: '1° further' });
  for (const at of ['−19', '−18', '−17']) {
    await further.click();
    await expect(finder).toContainText(`It stands at ${at}°`);
    await expect(further).toBeEnabled();
  }
  await page.getByRole('button', { name: 'Stop, it touches' }).click();
  await expect(page.getByText('Shoulder is confirmed from −20° to −18°.')).toBeVisible();
  await expect(finder).toContainText('Confirmed from −20° to −18°.');
  await saved(page);
  // The other end: what was confirmed before is not lost.
  await choose(page, 'towards', 'its lowest');
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  await further.click();
  await expect(finder).toContainText('It stands at −19°');
  await page.getByRole('button', { name: 'It is free, keep it' }).click();
  await expect(finder).toContainText('Confirmed from −20° to −18°.');
});
