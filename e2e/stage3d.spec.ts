import { flags3d } from '../scripts/chromium.mjs';
import { expect, open, remember, test, type } from './harness';

test.use({ launchOptions: { executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: flags3d } });

test('the 3D stage draws the arm and stands still when nothing changes', async ({ page, server }) => {
  await remember(page, 'cork-elbow:stage', '3d');
  const counting = await page.addInitScript(() => {
    const draw = WebGL2RenderingContext.prototype.drawElements;
    (window as unknown as { draws: number }).draws = 0;
    WebGL2RenderingContext.prototype.drawElements = function (...args) {
      (window as unknown as { draws: number }).draws++;
      return draw.apply(this, args);
    };
  });
  await open(page, server, 'poses');
  const draws = (): Promise<number> => page.evaluate(() => (window as unknown as { draws: number }).draws);
  await expect.poll(draws).toBeGreaterThan(20);
  await expect
    .poll(async () => {
      const a = await draws();
      await page.evaluate(() => new Promise((r) => setTimeout(r, 400)));
      return (await draws()) - a;
    })
    .toBe(0);
  const still = await draws();
  await type(page, 'Elbow position', 60);
  await expect.poll(draws).toBeGreaterThan(still);
  await counting.dispose();
});

test('in 3D the arm is taken hold of and posed; beside it the view is turned', async ({ page, server }) => {
  await remember(page, 'cork-elbow:stage', '3d');
  await open(page, server, 'measure');
  const host = page.getByLabel('The arm in three dimensions');
  await expect(host.locator('canvas')).toBeVisible();
  await expect(page.locator('[data-plan=ready]')).toBeVisible();
  await expect(host).toHaveAttribute('data-still', 'true');
  const box = (await host.boundingBox())!;
  const values = (): Promise<string[]> =>
    page
      .locator('.strip input.num')
      .evaluateAll((inputs) => inputs.map((input) => (input as HTMLInputElement).value));
  const before = await values();
  // Somewhere on the way across the middle of the stage a link is under the pointer.
  let held = false;
  for (let x = 0.3; x < 0.7 && !held; x += 0.02) {
    await page.mouse.move(box.x + box.width * x, box.y + box.height * 0.45);
    await page.mouse.down();
    held = (await host.getAttribute('data-holding')) === 'true';
    if (held) await page.mouse.move(box.x + box.width * x + 30, box.y + box.height * 0.45 + 45, { steps: 4 });
    await page.mouse.up();
  }
  expect(held).toBe(true);
  await expect.poll(values).not.toEqual(before);
});

test('in 3D the target of Reach is dragged, and the arm follows', async ({ page, server }) => {
  await remember(page, 'cork-elbow:stage', '3d');
  await open(page, server, 'reach');
  const host = page.getByLabel('The arm in three dimensions');
  await expect(host).toHaveAttribute('data-target', /\d/);
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
  await expect(page.locator('[data-plan=ready]')).toBeVisible();
  await expect(host).toHaveAttribute('data-still', 'true');
  const box = (await host.boundingBox())!;
  const [x, y] = (await host.getAttribute('data-target'))!.split(' ').map(Number);
  const tip = page.getByLabel('Tip', { exact: true });
  const before = await tip.innerText();
  await page.mouse.move(box.x + x, box.y + y);
  await page.mouse.down();
  await expect(host).toHaveAttribute('data-holding', 'true');
  await page.mouse.move(box.x + x + 25, box.y + y - 20, { steps: 5 });
  await page.mouse.up();
  await expect(tip).not.toHaveText(before);
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
});
