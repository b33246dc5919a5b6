import { flags3d } from '../scripts/chromium.mjs';
import { expect, open, test, type } from './harness';

test.use({ launchOptions: { executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: flags3d } });

test('the 3D stage draws the arm and stands still when nothing changes', async ({ page, server }) => {
  await page.addInitScript(() => {
    localStorage.setItem('cork-elbow:stage', '3d');
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
});
