/** The loader finds its places on its simulated board, from the page. */
import { type Locator } from '@playwright/test';
import { choose, expect, goTo, open, saved, test, type } from './harness';

test('joints that stood off home by their switches, axis by axis; Esc stops it, a dead switch ends it with a sentence', async ({
  page,
  server,
}) => {
  test.setTimeout(120_000);
  await open(page, server, 'bench?timeScale=5', 'kiln-shelf-loader');
  await page.getByText('An ideal line and clock').click();
  await type(page, 'Joints of motors that count stand off, ° or mm, by up to', 4);
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('checkbox').first().check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  const home = page.getByRole('button', { name: 'Home the joints' });
  await expect(home).toBeEnabled();
  await expect(page.getByText(/Until it has homed, runs keep to 30/)).toBeVisible();
  await expect(page.getByText('I have looked: the arm stands as it is drawn')).toBeVisible();
  await home.click();
  await expect(page.locator('[data-mode=homing]')).toBeVisible();
  await expect(page.locator('[data-axis=elbow][data-act=found]')).toBeVisible();
  const again = page.getByRole('button', { name: 'Home again' });
  await expect(again).toBeEnabled({ timeout: 45_000 });
  for (const axis of ['rail', 'turn', 'shoulder', 'elbow', 'twist', 'nod', 'spin'])
    await expect(page.locator(`[data-axis=${axis}][data-act=found]`)).toContainText(/\d\.\d\d/);
  // It knows where it is: nothing slows a run, and nobody has to say that they have looked.
  await expect(page.getByText('Every axis has found its place')).toBeVisible();
  await expect(page.getByText('I have looked: the arm stands as it is drawn')).toHaveCount(0);
  // Esc: nothing goes on seeking.
  await again.click();
  await expect(page.locator('[data-mode=homing]')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.locator('[data-mode=normal][data-armed=false]')).toBeVisible();
  await page.getByRole('button', { name: 'Clear the stop' }).click();
  // A switch that does not come on.
  await page.getByRole('checkbox').first().check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await page.getByText('Inputs and outputs').click();
  await page.getByRole('group', { name: 'Hold Home switch, elbow' }).getByRole('button', { name: 'off' }).click();
  await page.getByRole('button', { name: 'Home the joints' }).click();
  await expect(page.getByText(/Elbow went [\d.]+ ° and “Home switch, elbow” did not switch on/)).toBeVisible();
  // It lies down, and its motors go off.
  await page.getByRole('button', { name: 'Lie down' }).click();
  await expect(page.locator('[data-armed=false]')).toBeVisible({ timeout: 45_000 });
});

/** What a level has shown from now on, one after the other: one that is gone again before anyone looks counts as well. */
const shownBy = (level: Locator) =>
  level.evaluateHandle((status) => {
    const texts: string[] = [];
    new MutationObserver(() => texts.push(status.textContent.trim())).observe(status, {
      characterData: true,
      childList: true,
      subtree: true,
    });
    return texts;
  });

test('the loader homes, loads a shelf with its vacuum and lamp once the kiln is open, and folds; its speed is changed meanwhile', async ({
  page,
  server,
}) => {
  test.setTimeout(150_000);
  await open(page, server, 'bench?timeScale=6', 'kiln-shelf-loader');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('checkbox').first().check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await page.getByRole('button', { name: 'Home the joints' }).click();
  await expect(page.getByRole('button', { name: 'Home again' })).toBeEnabled({ timeout: 30_000 });
  await page.getByText('Inputs and outputs').click();
  const level = (signal: string) => page.locator(`[data-signal=${signal}]`).getByRole('status');
  const vacuumShown = await shownBy(level('vacuum'));
  const door = page.getByRole('group', { name: 'Hold Kiln door open' });
  await door.getByRole('button', { name: 'off' }).click();
  await page.getByRole('combobox', { name: 'Routine' }).click();
  await page.getByRole('option', { name: 'Load one shelf' }).click();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect(page.getByText('Waits for “Kiln door open” to be on')).toBeVisible({ timeout: 30_000 });
  // Slower, as planned, slower again: while the run waits, so that it is there however long a click takes.
  const speed = page.getByLabel('Speed of the run, % of what was planned');
  await speed.fill('20');
  await expect(page.locator('[data-pace="20 %"]')).toBeVisible();
  await page.getByRole('button', { name: 'As planned' }).click();
  await expect(page.locator('[data-pace="100 %"]')).toBeVisible();
  await speed.fill('80');
  await expect(page.locator('[data-pace="80 %"]')).toBeVisible();
  await expect(level('lamp')).toHaveText('off');
  const lampShown = await shownBy(level('lamp'));
  await door.getByRole('button', { name: 'on' }).click();
  await expect(page.locator('[data-run=finished]')).toBeVisible({ timeout: 90_000 });
  expect(await lampShown.jsonValue()).toContain('on');
  expect(await vacuumShown.jsonValue()).toContain('on');
  await expect(level('vacuum')).toHaveText('off');
  await expect(level('lamp')).toHaveText('off');
});

test('a joint’s sensor is read live, its zero and sense are taken on the page, and the joint is homed by it', async ({
  page,
  server,
}) => {
  await open(page, server, 'bench?timeScale=5', 'kiln-shelf-loader');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await expect(page.locator('[data-link=connected]')).toBeVisible();
  await goTo(page, 'Motors');
  await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  const reads = page.getByRole('status', { name: 'What Encoder, shoulder reads' });
  await expect(reads).toHaveText(/^Reads \d+ counts\.$/);
  const counts = async (): Promise<number> => Number(/(\d+) counts/.exec(await reads.innerText())![1]);
  // The first reading where it rests, the second after it was sent 3.75° further, which is a good way of its shaft.
  await page.getByRole('button', { name: 'First reading of Encoder, shoulder is what it reads now' }).click();
  await expect(page.getByLabel('First reading of Encoder, shoulder', { exact: true })).toHaveValue(
    String(await counts()),
  );
  await type(page, 'First angle of Encoder, shoulder', -60);
  const live = page.getByRole('group', { name: 'Send to Shoulder stepper' });
  await live.getByRole('checkbox').check();
  await live.getByRole('button', { name: 'Switch Shoulder stepper on alone' }).click();
  const send = live.getByLabel('Send, steps');
  await expect(send).toHaveValue('12800');
  await send.fill('12000');
  await send.press('Enter');
  await expect(live.getByText('reads 12000 steps')).toBeVisible();
  // It is read once it has come to rest: the same twice.
  let before = Number.NaN;
  await expect
    .poll(async () => {
      const was = before;
      before = await counts();
      return before === was;
    })
    .toBe(true);
  await page.getByRole('button', { name: 'Second reading of Encoder, shoulder is what it reads now' }).click();
  await type(page, 'Second angle of Encoder, shoulder', -56.25);
  await page.getByRole('button', { name: 'Apply zero and sense' }).click();
  await expect(reads).toContainText(/: −56\.[1-4] °\.$/);
  await live.getByRole('button', { name: 'Off', exact: true }).click();

  await page.getByRole('button', { name: 'Homing', exact: true }).click();
  await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  await choose(page, 'Way of homing', 'sensor');
  await expect(page.getByLabel('Fast speed')).toHaveCount(0);
  await saved(page);
  await goTo(page, 'Bench');
  await page.getByRole('checkbox').first().check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await page.getByRole('button', { name: 'Home the joints' }).click();
  await expect(page.locator('[data-axis=shoulder][data-act=found]')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Home again' })).toBeEnabled({ timeout: 45_000 });
  await expect(page.getByText('Every axis has found its place')).toBeVisible();
});
