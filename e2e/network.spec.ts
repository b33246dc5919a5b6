/** A device of the local network, paired by the code that this computer shows. */
import { createServer } from 'node:net';
import { expect, test, type } from './harness';

const freePort = (): Promise<number> =>
  new Promise((done) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => done(port));
    });
  });

test('a device is paired, watches, drives once it may, and is out once it is removed', async ({
  page,
  browser,
  server,
}) => {
  const port = await freePort();
  await page.goto(server.address);
  await page.getByText('Other devices').click();
  await expect(page.getByText('only this computer comes in')).toBeVisible();
  await type(page, 'Port for other devices', port);
  await page.getByRole('button', { name: 'Open to this network' }).click();
  await expect(page.getByText('open to this network')).toBeVisible();
  await page.getByRole('button', { name: 'Pair a device' }).click();
  const code = (await page.getByLabel('Code for one device').textContent())!;

  const context = await browser.newContext({ ignoreHTTPSErrors: true, viewport: { width: 1024, height: 700 } });
  const tablet = await context.newPage();
  await tablet.goto(`https://127.0.0.1:${port}/rigs/tile-dipper/bench`);
  await expect(tablet.getByRole('heading', { name: 'Pair this device' })).toBeVisible();
  await tablet.getByLabel('What this device is called').fill('Bench tablet');
  await tablet.getByLabel('Code').fill(code.replace(' ', '') === '00000000' ? '11111111' : '00000000');
  await tablet.getByRole('button', { name: 'Pair' }).click();
  await expect(tablet.getByRole('alert')).toContainText('not the code that the computer shows');
  // Codes are taken at their pace. Once one was, the field is gone, however long the shelf takes to come.
  const inside = tablet.getByRole('link', { name: 'Tile dipper' });
  await expect(async () => {
    const field = tablet.getByLabel('Code');
    if (await field.isVisible()) {
      await field.fill(code, { timeout: 3000 });
      await tablet.getByRole('button', { name: 'Pair' }).click({ timeout: 3000 });
    }
    await expect(inside).toBeVisible({ timeout: 3000 });
  }).toPass();
  // Who comes in has no say in who else does.
  await expect(tablet.getByText('Other devices')).toHaveCount(0);
  await tablet.goto(`https://127.0.0.1:${port}/rigs/tile-dipper/bench`);
  await expect(tablet.getByText('This device may watch and stop, not move anything.')).toBeVisible();
  const connect = tablet.getByRole('button', { name: 'Connect', exact: true });
  await expect(connect).toBeDisabled();

  // Seen here without a reload, and let drive.
  const row = page.getByRole('list', { name: 'Paired devices' }).getByRole('listitem');
  await expect(row).toHaveCount(1);
  await expect(page.getByLabel('Name of Bench tablet')).toHaveValue('Bench tablet');
  await row.getByRole('combobox').click();
  await page.getByRole('option', { name: 'changes and drives too' }).click();
  await expect(connect).toBeEnabled();
  await connect.click();
  await expect(tablet.locator('[data-run]')).toContainText('Not armed');

  await row.getByRole('button', { name: 'Delete Bench tablet' }).click();
  await expect(row).toHaveCount(0);
  await tablet.goto(`https://127.0.0.1:${port}/`);
  await expect(tablet.getByRole('heading', { name: 'Pair this device' })).toBeVisible();
  await page.getByRole('button', { name: 'Close to all of them' }).click();
  await expect(page.getByText('only this computer comes in')).toBeVisible();
  await context.close();
});
