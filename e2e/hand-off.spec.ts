import { readFileSync } from 'node:fs';
import { strFromU8, unzipSync } from 'fflate';
import { choose, expect, goTo, open, saved, test, type } from './harness';

test('what goes out is shown before it is a file, and what comes in is said before it is taken', async ({
  page,
  server,
}) => {
  await open(page, server, 'hand-off');
  const kinds = page.getByRole('group', { name: 'What to write' });
  const take = async (ending: string): Promise<{ name: string; text: string }> => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: `Download ${ending}`, exact: true }).click(),
    ]);
    return { name: download.suggestedFilename(), text: readFileSync(await download.path(), 'utf8') };
  };
  await choose(page, 'Kind of file', 'JSON');
  // Only poses, and servos as their duty: the table says what the file will.
  await choose(page, 'Rows', 'only poses');
  await choose(page, 'Motors as', 'duty, %');
  await expect(page.getByText(/^About [\d.]+ kB\.$/)).toBeVisible();
  await expect(page.locator('p.count')).toContainText('15 rows');
  const poses = JSON.parse((await take('JSON')).text) as { timeS: number[]; motors: Record<string, number[]> };
  expect(poses.timeS).toHaveLength(15);
  await expect(page.getByRole('row').nth(2)).toContainText(poses.motors['m-turn'][0].toFixed(2));
  await choose(page, 'Kind of file', 'C header');
  await expect(page.locator('.finding')).toContainText('A C header holds whole numbers');
  await choose(page, 'Motors as', 'µs, steps, counts');
  await choose(page, 'Rows', 'evenly');
  await page.getByLabel('packed, with what reads it').check();
  const header = await take('header');
  expect(header.name).toBe('tile-dipper-dip-commands-50hz.h');
  await expect(page.getByText(/rows for a program of your own, \d+ bytes of its flash\.$/)).toBeVisible();
  expect(header.text).toContain('commands_next');
  await choose(page, 'Kind of file', 'JSON');
  const commands = await take('JSON');
  expect(commands.name).toBe('tile-dipper-dip-commands-50hz.json');
  expect(Object.keys(JSON.parse(commands.text).motors)).toContain('m-turn');
  await kinds.getByRole('button', { name: 'Drawing' }).click();
  const picture = page.getByRole('img', { name: /Drawing: / });
  const side = await picture.getAttribute('src');
  await choose(page, 'Seen from', 'above');
  await expect(picture).not.toHaveAttribute('src', side!);
  expect(await take('SVG')).toEqual({
    name: 'tile-dipper-plan.svg',
    text: expect.stringContaining('Tile dipper, plan'),
  });
  await kinds.getByRole('button', { name: 'Sentences' }).click();
  await expect(page.locator('pre')).toContainText('Joint move to pose "Rest", at 60 %');
  const sentences = await take('TXT');
  await kinds.getByRole('button', { name: 'Wiring sheet' }).click();
  expect((await take('SVG')).name).toBe('tile-dipper-wiring.svg');
  // The choice is kept over the session.
  await page.reload();
  await expect(kinds.getByRole('button', { name: 'Wiring sheet' })).toHaveAttribute('aria-pressed', 'true');

  await page.getByRole('button', { name: 'Files in', exact: true }).click();
  const into = page.getByRole('button', { name: 'Import', exact: true });
  await expect(into).toBeDisabled();
  const file = (name: string, text: string) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
  await page.getByLabel('File of Points').setInputFiles(file('rims.csv', 'name;x;y;z\nrim;170;60;130\nfoot;170;70'));
  await expect(page.getByRole('alert')).toHaveText('Row 3 has no z; every row needs x, y and z in mm.');
  await expect(into).toBeDisabled();
  await page
    .getByLabel('File of Points')
    .setInputFiles(file('rims.csv', 'name;x;y;z\nrim;170;60;130\nfoot;170;70;40'));
  await expect(page.getByText('2 spots understood.')).toBeVisible();
  await into.click();
  await expect(page.getByRole('status').filter({ hasText: 'taken in' })).toHaveText(
    '2 spots taken in; Undo takes them out again.',
  );
  await page.getByRole('button', { name: 'Sentences', exact: true }).click();
  await page.getByLabel('File of Sentences').setInputFiles(file('dip.txt', sentences.text));
  await expect(page.getByText('16 steps understood.')).toBeVisible();
  await into.click();
  await saved(page);
  await goTo(page, 'Measure');
  await page.getByRole('button', { name: 'Around', exact: true }).click();
  await expect(page.getByText('170, 60, 130')).toBeVisible();
  await page.getByRole('button', { name: /^Undo: A routine from sentences/ }).click();
  await page.getByRole('button', { name: /^Undo: Spots from a table/ }).click();
  await expect(page.getByText('170, 60, 130')).toHaveCount(0);
});

test('a delta, which has no such table, is told why there is no file, with the way there', async ({
  page,
  server,
}) => {
  await open(page, server, 'hand-off', 'dot-painter');
  await page.getByRole('button', { name: 'DH table', exact: true }).first().click();
  const lack = page.locator('.finding');
  await expect(lack).toContainText('No Denavit–Hartenberg table describes the way to');
  await expect(page.getByRole('button', { name: 'Download', exact: true })).toBeDisabled();
  await lack.getByRole('button', { name: 'Go there' }).click();
  await expect(page.getByRole('region', { name: 'Measure', exact: true })).toBeVisible();
});

test('the program of a board is read before it is a folder, and what it cannot do is said instead', async ({
  page,
  server,
}) => {
  await open(page, server, 'hand-off');
  const kinds = page.getByRole('group', { name: 'What to write' });
  const taken = async () => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Download ZIP', exact: true }).click(),
    ]);
    expect(download.suggestedFilename()).toBe('tile-dipper-dip-player.zip');
    return unzipSync(readFileSync(await download.path()));
  };
  await kinds.getByRole('button', { name: 'Firmware' }).click();
  const files = page.getByRole('group', { name: 'File', exact: true });
  await expect(files.getByRole('button')).toHaveText(['tile-dipper-bridge.ino', 'rig.h']);
  const program = page.getByRole('textbox', { name: 'tile-dipper-bridge/tile-dipper-bridge.ino' });
  await expect(program).toContainText('Leave their supply off until the line has said "board"');
  await expect(program).toHaveAttribute('contenteditable', 'true');
  // It can be read and copied, and nothing that is typed changes it.
  await program.press('x');
  await expect(program).toContainText('/*');
  await expect(program).not.toContainText('x/*');
  await files.getByRole('button', { name: 'rig.h' }).click();
  await expect(page.getByRole('textbox', { name: 'tile-dipper-bridge/rig.h' })).toContainText(
    '#define USES_PULSE_PINS 1',
  );

  await choose(page, 'What it is to do', 'play it without a computer');
  await choose(page, 'Routines', 'all of them, by the letters 1 to 9');
  await expect(page.getByText(/^The steps: [\d.]+ kB; the board works out their motion by itself\.$/)).toBeVisible();
  expect(strFromU8((await taken())['tile-dipper-dip-player/rig.h'])).toContain('ROUTINE_COUNT = 5;');

  await choose(page, 'What it is to do', 'play it from a table');
  await choose(page, 'Frames a second', '25');
  await expect(page.getByText(/^tile-dipper-dip-player, 2 files, [\d.]+ kB$/)).toBeVisible();
  // Seconds are asked where they count.
  await expect(page.getByLabel('Seconds from power on')).toHaveCount(0);
  await choose(page, 'It begins', 'by itself, after a while');
  await type(page, 'Seconds from power on', 7);
  const folder = await taken();
  expect(Object.keys(folder)).toEqual([
    'tile-dipper-dip-player/tile-dipper-dip-player.ino',
    'tile-dipper-dip-player/rig.h',
  ]);
  const known = strFromU8(folder['tile-dipper-dip-player/rig.h']);
  expect(known).toContain('FRAME_MS = 40;');
  expect(known).toContain('START_MS = 7000;');

  // A routine that asks its inputs is none for a table.
  await open(page, server, 'hand-off', 'kiln-shelf-loader');
  await choose(page, 'Routine', 'Load one shelf');
  await expect(page.getByText('a table would go on whatever they say')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Download/ })).toBeDisabled();
  // A player of its steps asks them, and may be begun by one.
  await choose(page, 'What it is to do', 'play it without a computer');
  await choose(page, 'Started by', 'Kiln door open');
  await expect(page.getByRole('textbox', { name: /kiln-shelf-loader-load-player\.ino$/ })).toContainText(
    'this program homes them once they have come on',
  );
  await expect(page.getByRole('button', { name: 'Download ZIP', exact: true })).toBeEnabled();
  await choose(page, 'What it is to do', 'drive it from here');
  await expect(page.getByRole('button', { name: 'Download ZIP', exact: true })).toBeEnabled();

  // A text display wants a bus, which this board has and the dipper's has not.
  await choose(page, 'Text display', '20 letters, 4 rows');
  await type(page, 'Its bus address', '0x3f');
  await files.getByRole('button', { name: 'rig.h' }).click();
  await expect(page.getByRole('textbox', { name: /rig\.h$/ })).toContainText('#define DISPLAY_ROWS 4');
  await type(page, 'Its bus address', 64);
  await expect(page.getByText('Its bus address is 64; 32 to 63 is allowed.')).toBeVisible();
  await open(page, server, 'hand-off');
  await choose(page, 'Text display', '16 letters, 2 rows');
  await expect(page.getByText('has no pins for one.')).toBeVisible();
});

test('sticks push the tool of a board without a computer, and what cannot be is said instead', async ({
  page,
  server,
}) => {
  const { revision, rig } = await (await fetch(`${server.address}/api/rigs/tile-dipper`)).json();
  rig.sensors = [18, 19].map((channel, k) => ({
    ...{ id: `stick-${k}`, name: ['Left stick', 'Right stick'][k], kind: 'potentiometer', joint: null },
    ...{ countsPerTurn: 1228, board: 'pwm', channel },
  }));
  await fetch(`${server.address}/api/rigs/tile-dipper`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ revision, rig }),
  });
  await open(page, server, 'hand-off');
  await page.getByRole('group', { name: 'What to write' }).getByRole('button', { name: 'Firmware' }).click();
  await choose(page, 'What it is to do', 'follow knobs or sticks');
  await expect(page.getByText('No knob leads a joint yet')).toBeVisible();
  await choose(page, 'Motors go', 'as sticks push the tool');
  await expect(page.getByText('No stick pushes Tongs yet')).toBeVisible();
  await choose(page, 'Pushes up', 'Left stick');
  await choose(page, 'Pushes left', 'Right stick, the other way');
  await choose(page, 'Rolls the hand', 'Left stick');
  await expect(page.getByText('A stick rolls the hand, and Tongs has no joint for that.')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Download/ })).toBeDisabled();
  await choose(page, 'Rolls the hand', 'no stick');
  await type(page, 'Tool at most, mm/s', 40);
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download ZIP', exact: true }).click(),
  ]);
  const files = unzipSync(readFileSync(await download.path()));
  const program = strFromU8(files['tile-dipper-hand-control/tile-dipper-hand-control.ino']);
  expect(program).toContain('40 mm and 30° a second at most');
  expect(program).toContain('Left stick: pushes up (Z)');
  expect(program).toContain('Right stick: pushes left (Y), the other way round');
  // Another arm's tool has no closed form of these.
  await open(page, server, 'hand-off', 'twin-carriers');
  await expect(page.getByText(/have no closed form of those that .* works out/)).toBeVisible();
});
