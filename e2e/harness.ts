import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  expect as plain,
  test as base,
  type ConsoleMessage,
  type ExpectMatcherState,
  type Locator,
  type Page,
  type Request,
  type ViewportSize,
} from '@playwright/test';
import { end, launch } from './served';

export interface Server {
  address: string;
  /** Where its data is. */
  readonly folder: string;
  /** Ends the process and starts another one on the same data. */
  restart(): Promise<void>;
}

const waiting = [
  'toBeVisible',
  'toContainText',
  'toHaveText',
  'toHaveValue',
  'toHaveAttribute',
  'toBeEnabled',
  'toBeDisabled',
];
/**
 * Playwright's own `expect`, but that it waits for a place to be there first: while it is not, each look of the plain one lists the whole
 * page for its message, which on these pages takes longer than what they do meanwhile.
 */
export const expect = plain.extend(
  Object.fromEntries(
    waiting.map((name) => [
      name,
      async function (this: ExpectMatcherState, place: Locator, ...rest: unknown[]) {
        const state = name === 'toBeVisible' ? 'visible' : 'attached';
        const begun = Date.now();
        // Who waits in vain is told by the plain one.
        if (!this.isNot)
          await place
            .first()
            .waitFor({ state, timeout: this.timeout })
            .catch(() => undefined);
        // Both together wait no longer than the plain one alone.
        const left = plain.configure({ timeout: Math.max(1, this.timeout - (Date.now() - begun)) });
        const said = this.isNot ? left(place).not : left(place);
        await (said as unknown as Record<string, (...args: unknown[]) => Promise<void>>)[name](...rest);
        return { pass: !this.isNot, message: () => name };
      },
    ]),
  ),
) as typeof plain;

let next = 0;

interface Running {
  server: Server;
  /** Rigs and motors as the product brings them. */
  fresh: readonly { id: string; text: string }[];
}
const json = async <T>(address: string, path: string, init?: RequestInit): Promise<T> =>
  (await (await fetch(address + path, init)).json()) as T;
const rigIds = async (address: string): Promise<string[]> =>
  (await json<{ rigs: { id: string }[] }>(address, '/api/rigs')).rigs.map(({ id }) => id);
const rigText = async (address: string, id: string): Promise<string> =>
  JSON.stringify((await json<{ rig: unknown }>(address, `/api/rigs/${id}`)).rig);

/** Everything as it was before the first test: other rigs go, changed ones begin anew without their logs, motors are taken out. */
async function restore({ server: { address }, fresh }: Running): Promise<void> {
  const remove = (path: string): Promise<Response> => fetch(address + path, { method: 'DELETE' });
  for (const { id } of (await json<{ motors: { id: string }[] }>(address, '/api/motors')).motors)
    await remove(`/api/motors/${id}`);
  const ids = await rigIds(address);
  // How boards are reached is kept beside the rigs.
  for (const { id } of fresh)
    await fetch(`${address}/api/rigs/${id}/builds/b1/links`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: '{"links":{}}',
    });
  for (const id of ids) if (!fresh.some((f) => f.id === id)) await remove(`/api/rigs/${id}`);
  for (const { id, text } of fresh) {
    if (ids.includes(id)) {
      const { runs } = await json<{ runs: unknown[] }>(address, `/api/rigs/${id}/runs`);
      const { revision } = await json<{ revision: number }>(address, `/api/rigs/${id}`);
      if (!runs.length && revision === 1 && (await rigText(address, id)) === text) continue;
      await remove(`/api/rigs/${id}`);
    }
    await fetch(`${address}/api/rigs`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: `{"id":${JSON.stringify(id)},"rig":${text}}`,
    });
  }
}

/** A page's place where nothing of the product runs, of the same address: what the browser remembers of it can be read and cleared there. */
const neutral = ({ address }: Server): string => `${address}/api/health`;

/** Has the browser remember something before the product is opened. */
export const remember = (page: Page, key: string, value: string): Promise<void> =>
  page.evaluate((entry) => localStorage.setItem(...entry), [key, value] as [string, string]);

/** Takes what an earlier test has left off the page and out of what is remembered; the window as this test wants it. */
async function clear(page: Page, server: Server, viewport: ViewportSize | null): Promise<void> {
  await page.unrouteAll();
  await page.context().clearPermissions();
  if (viewport) await page.setViewportSize(viewport);
  await page.mouse.move(0, 0);
  await page.goto(neutral(server));
  await page.evaluate(() => {
    localStorage.clear();
    sessionStorage.clear();
  });
  await remember(page, 'cork-elbow:stage', 'side');
}
/** Ends what goes on on the page, and lets a board that was connected alone. */
async function leave(page: Page, server: Server): Promise<void> {
  for (const other of page.context().pages()) if (other !== page) await other.close();
  await page.goto(neutral(server));
  await page.evaluate(
    () =>
      new Promise<void>((done, fail) => {
        const line = new WebSocket(`ws://${location.host}/api/live`);
        line.onerror = () => fail(new Error('the line was refused'));
        line.onopen = () => {
          // Whoever has the controls by now.
          line.send(JSON.stringify({ type: 'take' }));
          line.send(JSON.stringify({ type: 'disconnect' }));
          line.close();
          done();
        };
      }),
  );
}

/**
 * Tests of a worker share one server, each with the product as it comes, and one page, cleared between them: opened at the same address
 * it keeps its process and what that has compiled. Nothing is asked of any other host.
 */
export const test = base.extend<{ server: Server }, { running: Running; kept: Page }>({
  running: [
    async ({}, use, info) => {
      const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-e2e-'));
      const port = Number(process.env.E2E_PORTS ?? 4500) + info.parallelIndex * 100 + (next++ % 50) * 2;
      let now = await launch(folder, port);
      const server = {
        folder,
        get address() {
          return now.address;
        },
        async restart() {
          await end(now.child);
          now = await launch(folder, port);
        },
      };
      const ids = await rigIds(server.address);
      const fresh = await Promise.all(ids.map(async (id) => ({ id, text: await rigText(server.address, id) })));
      await use({ server, fresh });
      await end(now.child);
      rmSync(folder, { recursive: true, force: true });
    },
    { scope: 'worker' },
  ],
  server: async ({ running }, use) => {
    await restore(running);
    await use(running.server);
  },
  kept: [
    async ({ browser }, use) => {
      const context = await browser.newContext();
      await use(await context.newPage());
      await context.close();
    },
    { scope: 'worker' },
  ],
  // Only a window that is touched has to be another one.
  context: async ({ browser, kept, hasTouch, isMobile, viewport }, use) => {
    if (!hasTouch) return use(kept.context());
    const context = await browser.newContext({ hasTouch, isMobile, viewport });
    await context.newPage();
    await use(context);
    await context.close();
  },
  page: async ({ context, server, viewport }, use) => {
    const [page] = context.pages();
    await clear(page, server, viewport);
    const troubles: string[] = [];
    const heard = {
      pageerror: (error: Error) => void troubles.push(error.message),
      // What goes wrong while something is drawn comes as a console error; answers of the server that tests provoke do too.
      console: (said: ConsoleMessage) => {
        if (said.type() === 'error' && !/^Failed to load resource|net::ERR_/.test(said.text()))
          troubles.push(said.text());
      },
      request: (request: Request) => {
        const { hostname, protocol } = new URL(request.url());
        if (protocol.startsWith('http') && hostname !== '127.0.0.1') troubles.push(`asked ${hostname}`);
      },
    };
    page.on('pageerror', heard.pageerror).on('console', heard.console).on('request', heard.request);
    await use(page);
    page.off('pageerror', heard.pageerror).off('console', heard.console).off('request', heard.request);
    expect(troubles).toEqual([]);
    await leave(page, server);
  },
});

/** Opens a station of a rig; of the one that is open already by its tab, as people do. A page that is to begin anew is reloaded first. */
export async function open(page: Page, server: Server, station: string, rig = 'tile-dipper'): Promise<void> {
  const path = `${server.address}/rigs/${rig}/`;
  if (page.url().startsWith(path) && !station.includes('?')) {
    const tab = page.getByRole('navigation', { name: 'Stations' }).locator(`a[href$="/${station}"]`);
    await tab.click();
    await expect(tab).toHaveAttribute('aria-current', 'page');
  } else await page.goto(path + station);
  await expect(page.locator('[data-rig=open]')).toBeVisible();
}
/** Goes to another station by its tab; what stands on the page is that station's from then on. */
export async function goTo(page: Page, station: string): Promise<void> {
  await page.getByRole('navigation', { name: 'Stations' }).getByRole('link', { name: station }).click();
  await expect(page.getByRole('region', { name: station, exact: true })).toBeVisible();
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
