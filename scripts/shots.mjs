/** Pictures of every station from the demo data, for docs/screenshots: node scripts/shots.mjs [folder] [--dark] [names …] */
import { spawn } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { chromium } from '@playwright/test';
import { build, install, root } from './lib.mjs';
import { flags3d } from './chromium.mjs';

if (install() !== 0 || (await build()) !== 0) process.exit(1);
const args = process.argv.slice(2);
const dark = args.includes('--dark');
const small = args.includes('--small');
const [folder = 'docs/screenshots', ...names] = args.filter((a) => !a.startsWith('--'));
const server = spawn(process.execPath, ['server/dist/main.js', '--demo'], {
  cwd: root,
  stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  env: { ...process.env, PORT: '4390', CORK_ELBOW_DATA: mkdtempSync(join(tmpdir(), 'shots-')) },
});
const { address } = await new Promise((done) => server.once('message', done));
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: flags3d });
const page = await browser.newPage({
  viewport: small ? { width: 1024, height: 700 } : { width: 1280, height: 800 },
  colorScheme: dark ? 'dark' : 'light',
});
page.on('pageerror', (error) => console.error('page error:', error.message));
page.on('console', (m) => m.type() === 'error' && console.error('console:', m.text()));

/** Each scene begins with the rig as it was, whatever an earlier one did to it, and in the theme that was asked for. */
const originals = new Map();
const restore = async (rig) => {
  const url = `${address}/api/rigs/${rig}`;
  const now = await (await fetch(url)).json();
  if (!originals.has(rig)) originals.set(rig, JSON.stringify(now.rig));
  if (JSON.stringify(now.rig) === originals.get(rig)) return;
  const body = JSON.stringify({ revision: now.revision, rig: JSON.parse(originals.get(rig)) });
  await fetch(url, { method: 'PUT', headers: { 'content-type': 'application/json' }, body });
};
const open = async (station, stage, rig = 'tile-dipper') => {
  await restore(rig);
  await page.goto(`${address}/rigs/${rig}/${station}`);
  await page.locator('[data-plan=ready]').waitFor();
  const light = page.getByRole('button', { name: 'Light theme' });
  if (!dark && (await light.isVisible())) await light.click();
  await page.getByRole('group', { name: 'View' }).getByRole('button', { name: stage }).click();
};
const fill = async (label, value) => {
  const field = page.getByLabel(label, { exact: true });
  await field.fill(String(value));
  await field.press('Enter');
};
const choose = async (box, option) => {
  await page.getByRole('combobox', { name: box, exact: true }).click();
  await page.getByRole('option', { name: option, exact: true }).click();
  await page.waitForTimeout(600);
};
const scenes = {
  shelf: async () => {
    await page.goto(address);
    await page.locator('.card svg').first().waitFor();
  },
  'new-arm': async () => {
    await page.goto(`${address}/new`);
    await page.locator('.kind svg').first().waitFor();
  },
  'measure-delta': async () => open('measure', '3D', 'dot-painter'),
  'measure-around': async () => {
    await open('measure', 'Side', 'twin-carriers');
    await page.getByRole('button', { name: 'Around', exact: true }).click();
  },
  measure: async () => {
    await open('measure', 'Side');
    await page.getByRole('button', { name: 'Joints', exact: true }).click();
    await page.getByRole('button', { name: 'Elbow', exact: true }).click();
    await fill('Elbow position', 62);
    await fill('Shoulder position', 12);
  },
  motors: async () => {
    await open('motors', '3D');
    await page.getByRole('button', { name: 'Joint by joint', exact: true }).click();
    await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  },
  'motors-wiring': async () => {
    await open('motors', 'Side', 'kiln-shelf-loader');
    await page.getByRole('button', { name: 'Boards & wires', exact: true }).click();
    await page.getByRole('button', { name: 'Sheet', exact: true }).click();
  },
  'motors-homing': async () => {
    await open('motors', '3D', 'kiln-shelf-loader');
    await page.getByRole('button', { name: 'Homing', exact: true }).click();
    await page.getByRole('slider', { name: 'Time' }).fill('18');
  },
  reach: async () => {
    await open('reach', 'Side');
    await page.getByRole('button', { name: 'Target', exact: true }).click();
    await page.getByRole('button', { name: 'Glaze jar, mouth', exact: true }).click();
    await fill('Target forward', 232);
  },
  'reach-why-not': async () => {
    await open('reach', 'Side');
    await page.getByRole('button', { name: 'Glaze jar, mouth', exact: true }).click();
    await fill('Target forward', 305);
    await fill('Target up', 60);
    await page
      .getByRole('button', { name: /^Apply/ })
      .first()
      .waitFor();
  },
  'reach-map': async () => {
    await open('reach', 'Side', 'tile-dipper');
    await page.getByRole('button', { name: 'Map', exact: true }).click();
    await page.getByRole('button', { name: 'Pin this state' }).click();
    await page.getByRole('button', { name: 'Lengths', exact: true }).click();
    await fill('Elbow to Wrist now', 150);
    await page.getByRole('button', { name: 'Map', exact: true }).click();
    await page.locator('[data-gained]').waitFor();
  },
  load: async () => {
    await open('load', 'Side');
    await page.getByRole('button', { name: 'Lift', exact: true }).click();
    await page.getByRole('button', { name: 'Anywhere', exact: true }).click();
    await page.locator('[data-lift=good], [data-lift=tight], [data-lift=over]').waitFor();
    await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  },
  poses: async () => {
    await open('poses', 'Plan');
    await page.getByRole('button', { name: 'Go to Over the rack' }).click();
  },
  routine: async () => {
    await open('routine', '3D');
    await page.locator('[data-step]').nth(7).click();
    await page.getByText('Profile: S-curve').click();
    await page.getByLabel('Time in the routine').fill('12.4');
  },
  'routine-text': async () => {
    await open('routine', 'Side');
    await choose('Routine', 'Stir the glaze');
    await page.getByRole('button', { name: 'As text', exact: true }).click();
    await page.getByLabel('Time in the routine').fill('7.4');
  },
  'routine-timeline': async () => {
    await open('routine', '3D', 'kiln-shelf-loader');
    await choose('Routine', 'Load one shelf');
    await page.getByRole('button', { name: 'Timeline', exact: true }).click();
    await page.getByLabel('Time in the routine').fill('16');
    await page.getByRole('button', { name: 'Dark theme' }).click();
  },
  'hand-off': async () => {
    await open('hand-off', 'Side');
    await page.getByRole('row').nth(4).click();
  },
  'bench-recordings': async () => {
    await open('bench?timeScale=20', '3D');
    await page.getByRole('button', { name: 'Connect', exact: true }).click();
    await page.getByRole('checkbox').check();
    await page.getByRole('button', { name: 'Arm the motors' }).click();
    for (const _ of [1, 2]) {
      await page.getByRole('button', { name: 'Run', exact: true }).click();
      await page.locator('[data-run=running]').waitFor();
      await page.locator('[data-run=finished]').waitFor();
    }
    await page.getByRole('button', { name: 'Disconnect' }).click();
    await page.getByRole('button', { name: 'Recordings', exact: true }).click();
    await page.locator('.pick').first().click();
    await page.getByRole('button', { name: 'Show Elbow' }).click();
    await page.getByRole('slider', { name: 'Time', exact: true }).fill('7.1');
    await page.locator('.station-body').evaluate((body) => body.scrollTo(0, 150));
  },
  bench: async () => {
    await open('bench?timeScale=2', '3D');
    await page.getByRole('button', { name: 'Live', exact: true }).click();
    await page.getByRole('button', { name: 'Connect', exact: true }).click();
    await page.getByRole('checkbox').check();
    await page.getByRole('button', { name: 'Arm the motors' }).click();
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await page.locator('[data-run=running]').waitFor();
    await page.waitForFunction(() => Number(document.querySelector('.state .num')?.textContent?.split('/')[0]) > 17);
    await page.getByRole('button', { name: 'Pause', exact: true }).click();
    await page.locator('[data-run=paused]').waitFor();
  },
};
for (const [name, scene] of Object.entries(scenes)) {
  if (names.length && !names.includes(name)) continue;
  try {
    page.setDefaultTimeout(60000);
    await scene();
    // What is still being worked out would cover a part of the page.
    await page.getByText('Looking for contact').waitFor({ state: 'hidden' });
    await page.waitForTimeout(900);
    // In space it is drawn whole once nothing moves.
    if (await page.locator('[data-still]').count()) await page.locator('[data-still=true]').waitFor();
    await page.screenshot({ path: resolve(root, folder, `${name}.png`) });
    console.log(name);
  } catch (error) {
    console.error(name, error.message.split('\n').slice(0, 4).join(' '));
    await page.screenshot({ path: resolve(root, folder, `${name}-failed.png`) });
  }
}
await browser.close();
server.kill('SIGKILL');
process.exit(0);
