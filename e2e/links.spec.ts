/** Boards that are reached otherwise than inside the server. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { writeFile } from 'node:fs/promises';
import { templateStarts } from '@cork-elbow/core/own-lines';
import { choose, expect, open, saved, test, type } from './harness';

let board: ChildProcess | null = null;
test.afterEach(() => void board?.kill());

/** `npm run board` on a free port: what it says where it is. */
async function startBoard(...args: string[]): Promise<number> {
  const file = new URL('../scripts/board.mjs', import.meta.url).pathname;
  board = spawn(process.execPath, [file, '--rig', 'tile-dipper', '--port', '0', ...args], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let said = '';
  while (!/127\.0\.0\.1:(\d+)/.test(said)) said += String((await once(board.stdout!, 'data'))[0]);
  return Number(/127\.0\.0\.1:(\d+)/.exec(said)![1]);
}
const name = 'Servo board on the bench';

test('a board of its own process is chosen, remembered, run, and its end is told', async ({ page, server }) => {
  const port = await startBoard('--clock-ppm', '3000', '--jitter-ms', '4');
  await open(page, server, 'bench');
  await choose(page, `How ${name} is reached`, 'network (TCP)');
  // What is no address stays where it was typed, and says why.
  await type(page, `Computer that ${name} is at`, 'my board');
  await expect(page.getByText('a name or an address of a computer')).toBeVisible();
  await type(page, `Computer that ${name} is at`, '127.0.0.1');
  const kept = page.waitForResponse((r) => r.request().method() === 'PUT' && r.url().endsWith('/links'));
  await type(page, `TCP port of ${name}`, port);
  expect((await kept).ok()).toBe(true);
  // It is this computer's choice, not the document's.
  await saved(page);
  await page.reload();
  await expect(page.getByLabel(`TCP port of ${name}`)).toHaveValue(String(port));

  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  const state = page.locator('[data-run]');
  await expect(state).toContainText('Not armed');
  await expect(page.getByText(`127.0.0.1, port ${port}`)).toBeVisible();
  await expect(page.locator('[data-made=true]')).toContainText('made for revision 1');
  // A line of one's own, while nothing is switched on.
  await page.getByText('Lines to and from the boards').click();
  const own = page.getByLabel('A line of your own');
  await own.fill('sleep #');
  await own.press('Enter');
  await page.getByLabel('Only lines with').fill('done sleep');
  await expect(page.getByRole('log', { name: 'Lines' }).locator('.said')).toContainText(/←\s*done sleep \d+\*/);
  await own.fill('wake # 0:1500');
  await own.press('Enter');
  await expect(page.getByText('“wake” is kept to the program')).toBeVisible();
  await page.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await expect(state).toContainText('Ready to run');
  await expect(own).toBeDisabled();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect(page.locator('[data-run=running]')).toBeVisible();
  // Its plug is pulled.
  board!.kill();
  await expect(page.locator('[data-run=failed]')).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: `127.0.0.1, port ${port}` })).toBeVisible();
  // A board that was made for another rig says so.
  await type(page, `TCP port of ${name}`, await startBoard('--rig', 'dot-painter'));
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await expect(page.locator('[data-made=false]')).toContainText(
    'pins, limits or calibration of its motors are others',
  );
  await page.getByRole('button', { name: 'Disconnect' }).click();
  // The way back: the simulated one, as it was.
  await choose(page, `How ${name} is reached`, 'simulated');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await expect(state).toContainText('Not armed');
});

test('a serial port is looked for, or typed where nothing is found; one that is not there is named', async ({
  page,
  server,
}) => {
  await open(page, server, 'bench');
  await choose(page, `How ${name} is reached`, 'serial port');
  const field = page.getByLabel(`Serial port of ${name}`);
  await expect(field).toBeVisible();
  await expect(page.getByRole('button', { name: 'Look for ports again' })).toBeEnabled();
  if ((await field.getAttribute('role')) === 'combobox')
    await choose(page, `Serial port of ${name}`, 'another one …');
  await type(page, `Serial port of ${name}`, '/etc/passwd');
  await expect(page.getByText('the path of a port')).toBeVisible();
  await type(page, `Serial port of ${name}`, '/dev/ttyUSB93');
  await choose(page, `Speed of the line to ${name}`, '57600');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'there is no port /dev/ttyUSB93' })).toBeVisible();
});

test('a board with firmware of its builder’s own reads lines by a template', async ({ page, server }, info) => {
  const template = templateStarts.find(({ id }) => id === 'names')!.template;
  const file = info.outputPath('lines.json');
  await writeFile(file, JSON.stringify({ ...template, on: 'E {id}', off: 'D {id}' }));
  const port = await startBoard('--lines', file);
  await open(page, server, 'bench');
  await choose(page, `How ${name} is reached`, 'network (TCP)');
  await type(page, `TCP port of ${name}`, port);
  await choose(page, `What the firmware of ${name} reads`, 'lines of its own');
  await choose(page, `Lines to begin with for ${name}`, 'joints by name, only what has changed');
  // What cannot be read stays where it was typed, and says why.
  await type(page, `Lines for ${name}: a motor on`, 'E {what}');
  await expect(page.getByText('{what} is no field')).toBeVisible();
  await expect(page.getByText('No line switches motors off')).toBeVisible();
  await type(page, `Lines for ${name}: a motor on`, 'E {id}');
  const kept = page.waitForResponse((r) => r.request().method() === 'PUT' && r.url().endsWith('/links'));
  await type(page, `Lines for ${name}: a motor off`, 'D {id}');
  expect((await kept).ok()).toBe(true);
  const sent = page.getByLabel('What is sent');
  await expect(sent).toContainText(/E·turn.*turn=0\.00·shoulder=.*D·turn/s);

  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  const state = page.locator('[data-run]');
  await expect(state).toContainText('Not armed');
  await expect(page.getByText(`127.0.0.1, port ${port}; lines of its own`)).toBeVisible();
  await expect(page.getByText('answers its lines')).toBeVisible();
  await page.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await expect(state).toContainText('Ready to run');
  await expect(page.getByText('as it was sent; nothing reads it back')).toBeVisible();
  await page.getByText('Lines to and from the boards').click();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect(page.locator('[data-run=running]')).toBeVisible();
  await page.getByLabel('Only lines with').fill('turn=');
  const log = page.getByRole('log', { name: 'Lines' }).locator('.said');
  await expect(log.last()).toContainText(/→.*turn=-?\d+\.\d\d/);
  board!.kill();
  await expect(page.locator('[data-run=failed]')).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: `127.0.0.1, port ${port}` })).toBeVisible();
});

test('what lines of a builder’s own cannot do is said before anything is pressed', async ({ page, server }) => {
  await open(page, server, 'bench', 'kiln-shelf-loader');
  const board = 'Step board in the plinth';
  await choose(page, `What the firmware of ${board} reads`, 'lines of its own');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('checkbox', { name: /fingers, hair/ }).check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await expect(page.getByRole('button', { name: 'Disarm' })).toBeVisible();
  await expect(page.getByText(`The builder’s own lines of “${board}” cannot home joints.`)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Home the joints' })).toBeDisabled();
  await choose(page, 'Routine', 'Load one shelf');
  const lacks = page.locator('.station [data-code=run-lines]');
  await expect(lacks.first()).toContainText(`the builder’s own lines of “${board}” cannot do that`);
  await expect(page.getByRole('button', { name: 'Run', exact: true })).toBeDisabled();
  await page.getByText('Inputs and outputs').click();
  await expect(
    page
      .getByRole('group', { name: /^Switch / })
      .first()
      .getByRole('button')
      .first(),
  ).toBeDisabled();
});
