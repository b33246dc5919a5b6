/** A run gone through step by step on the Bench. */
import { expect, open, test } from './harness';

test('a run is stepped on and back, and then goes on to its end', async ({ page, server }) => {
  await open(page, server, 'bench?timeScale=10');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('checkbox').first().check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await expect(page.locator('[data-mode=normal][data-armed=true]')).toBeVisible();
  await page.getByRole('button', { name: 'Step', exact: true }).click();
  const [back, on] = ['Step back', 'Step on'].map((name) => page.getByRole('button', { name }));
  await expect(on).toBeEnabled();
  await expect(back).toBeDisabled();
  const at = async (): Promise<number> => Number((await page.locator('[data-run] .num').innerText()).split(' ')[0]);
  const stood: number[] = [await at()];
  const press = async (which: typeof on): Promise<void> => {
    await which.click();
    await expect(async () => {
      await expect(on).toBeEnabled({ timeout: 100 });
      const now = await at();
      expect(now).not.toBe(stood.at(-1));
      // What is read is where it stands, not where it came by.
      await page.waitForTimeout(250);
      expect(await at()).toBe(now);
    }).toPass();
    stood.push(await at());
  };
  await press(on);
  await press(on);
  await expect(page.getByText('Back is the same way backwards')).toBeVisible();
  await press(back);
  expect(stood[3]).toBeCloseTo(stood[1], 1);
  await press(back);
  await expect(back).toBeDisabled();
  expect(stood[4]).toBe(0);
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.locator('[data-run=finished]')).toBeVisible();
});
