import { readFile } from 'node:fs/promises';
import { expect, goTo, open, saved, test, type } from './harness';

test('from a new rig to a downloaded table and a finished run, and everything there again after a restart', async ({
  page,
  server,
}) => {
  await page.goto(server.address);
  await page.getByRole('link', { name: 'New arm' }).click();
  await page.getByRole('link', { name: /Four-axis servo arm/ }).click();
  await type(page, 'Name of the arm', 'Bench hand');
  await type(page, 'Bench up to the shoulder pivot', '62 + 33');
  await type(page, 'Shoulder pivot to elbow pivot', '4 3/4 in');
  await type(page, 'Elbow pivot to wrist pivot', 110);
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page).toHaveURL(/rigs\/bench-hand\/measure/);

  // Measure: the ruler's inches have become mm.
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  await expect(page.getByLabel('Pivot up', { exact: true })).toHaveValue('120.65');
  await type(page, 'Upper limit', 130);

  // Motors: two points and a trim.
  await goTo(page, 'Motors');
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  await type(page, 'Pulse of point 1', 1010);
  await type(page, 'Trim', 8);
  await saved(page);

  // Poses: by the strip, and by the tip's place.
  await goTo(page, 'Poses');
  await type(page, 'Turntable position', 40);
  await page.getByRole('button', { name: 'Take this pose' }).click();
  await goTo(page, 'Reach');
  await type(page, 'Target forward', 150);
  await type(page, 'Target left', -60);
  await type(page, 'Target up', 80);
  await page.getByRole('button', { name: 'down', exact: true }).click();
  await expect(page.getByLabel('Tip', { exact: true })).toHaveText('forward 150.0, left −60.0, up 80.0 mm');
  await page.getByRole('button', { name: 'Save as a pose' }).click();

  // Routine: two moves and a wait.
  await goTo(page, 'Routine');
  for (const [add, pose] of [
    ['Joint move', 'Pose 1'],
    ['Wait', ''],
    ['Joint move', 'Pose 2'],
  ]) {
    await page.getByRole('button', { name: add, exact: true }).click();
    if (pose) {
      await page.getByRole('combobox', { name: 'Target pose' }).click();
      await page.getByRole('option', { name: pose }).click();
    }
  }
  await expect(page.locator('.step')).toHaveCount(3);
  await expect(page.locator('.step').nth(2)).toContainText('Pose 2');
  await saved(page);

  // Hand-off: the file says what the screen says.
  await goTo(page, 'Hand-off');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download CSV' }).click();
  const lines = (await readFile(await (await download).path(), 'utf8')).trim().split('\r\n');
  expect(lines[0]).toBe(
    `time_s,${['turn', 'shoulder', 'elbow', 'wrist', 'jaw'].map((code, pin) => `${code}_us (Servo board: pin ${pin})`).join()},turn_deg,shoulder_deg,elbow_deg,wrist_deg,jaw_deg`,
  );
  await expect(page.locator('p.count')).toContainText(`${lines.length - 1} rows`);
  const first = lines[1].split(',').map(Number);
  expect(first[0]).toBe(0);
  const last = lines.at(-1)!.split(',').map(Number);
  const turned = (Math.atan2(-60, 150) * 180) / Math.PI;
  expect(Math.abs(last[6] - turned)).toBeLessThan(0.1);

  // Bench: a whole run.
  await open(page, server, 'bench?timeScale=10', 'bench-hand');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Run', exact: true })).toBeDisabled();
  await page.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Arm the motors' }).click();
  await page.getByRole('button', { name: 'Run', exact: true }).click();
  await expect(page.locator('[data-pose-source=live]')).toBeVisible();
  await expect(page.locator('[data-run=finished]')).toBeVisible({ timeout: 40_000 });
  await page.getByRole('button', { name: 'Recordings', exact: true }).click();
  await expect(page.getByRole('row', { name: /First routine.*finished/ })).toBeVisible();

  await server.restart();
  await open(page, server, 'poses', 'bench-hand');
  await expect(page.locator('[data-pose]')).toHaveCount(2);
  await goTo(page, 'Measure');
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  await expect(page.getByLabel('Upper limit', { exact: true })).toHaveValue('130');
  await goTo(page, 'Bench');
  await expect(page.getByRole('row', { name: /First routine.*finished/ })).toBeVisible();
});
