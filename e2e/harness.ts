import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test as base, type Locator, type Page } from '@playwright/test';

export interface Server {
  address: string;
  /** Ends the process and starts another one on the same data. */
  restart(): Promise<void>;
}
let next = 0;

async function launch(folder: string, port: number): Promise<{ child: ChildProcess; address: string }> {
  const child = spawn(process.execPath, [new URL('../server/dist/main.js', import.meta.url).pathname, '--demo'], {
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    env: { ...process.env, PORT: String(port), CORK_ELBOW_DATA: folder },
  });
  const address = await new Promise<string>((done, fail) => {
    child.once('message', (message) => done((message as { address: string }).address));
    child.once('exit', () => fail(new Error('the server ended before it served')));
  });
  return { child, address };
}
const end = (child: ChildProcess): Promise<void> =>
  new Promise((done) => {
    child.once('exit', () => done());
    child.kill();
  });

/** Every test has the built product to itself: own data folder, own port; nothing asked of any other host. */
export const test = base.extend<{ server: Server; page: Page }>({
  server: async ({}, use, info) => {
    const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-e2e-'));
    const port = 4500 + info.parallelIndex * 100 + (next++ % 50) * 2;
    let running = await launch(folder, port);
    await use({
      get address() {
        return running.address;
      },
      async restart() {
        await end(running.child);
        running = await launch(folder, port);
      },
    });
    await end(running.child);
    rmSync(folder, { recursive: true, force: true });
  },
  page: async ({ page, server }, use) => {
    const troubles: string[] = [];
    page.on('pageerror', (error) => troubles.push(error.message));
    page.on('request', (request) => {
      const { hostname, protocol } = new URL(request.url());
      if (protocol.startsWith('http') && hostname !== '127.0.0.1') troubles.push(`asked ${hostname}`);
    });
    await page.addInitScript(
      () => localStorage.getItem('cork-elbow:stage') ?? localStorage.setItem('cork-elbow:stage', 'side'),
    );
    void server;
    await use(page);
    expect(troubles).toEqual([]);
  },
});
export { expect };

export async function open(page: Page, server: Server, station: string, rig = 'tile-dipper'): Promise<void> {
  await page.goto(`${server.address}/rigs/${rig}/${station}`);
  await expect(page.locator('[data-rig=open]')).toBeVisible();
}
export async function type(page: Page | Locator, label: string, value: string | number): Promise<void> {
  const field = page.getByLabel(label, { exact: true });
  await field.fill(String(value));
  await field.press('Enter');
}
export const saved = (page: Page): Promise<void> => expect(page.locator('[data-save=saved]')).toBeVisible();
/** Opens a choice and takes an option of it; waits until the list has closed again. */
export async function choose(page: Page, box: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name: box, exact: true }).click();
  await page.getByRole('option', { name: option, exact: true }).last().click();
  await expect(page.getByRole('listbox')).toHaveCount(0);
}
