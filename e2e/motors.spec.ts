import { choose, expect, open, saved, test, type } from './harness';

test('a joint becomes a stepper with its steps per degree, and its commands are handed off in steps', async ({
  page,
  server,
}) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  await choose(page, 'Kind of drive', 'stepper');
  await expect(page.getByText('8.889 microsteps per degree of the shaft')).toBeVisible();
  await type(page, 'Microsteps', 32);
  await expect(page.getByText('17.778 microsteps per degree of the shaft')).toBeVisible();
  await page.getByRole('button', { name: 'Transmission', exact: true }).click();
  await type(page, 'Reduction', 20);
  await expect(page.getByText(/takes the motor from −800° to 1900°/)).toBeVisible();
  await type(page, 'Reduction', 0);
  await expect(page.getByRole('alert')).toContainText('the motor would never move the joint');
  await page.getByLabel('Reduction', { exact: true }).press('Escape');
  await page.getByRole('button', { name: 'Convert', exact: true }).click();
  await type(page, 'Joint value', 10);
  await expect(page.getByLabel('Native value')).toHaveValue('3555.6');
  await type(page, 'Native value', 7100);
  await expect(page.getByLabel('Joint value')).toHaveValue('19.969');
  await saved(page);
  await page.getByRole('link', { name: /Hand-off/ }).click();
  await expect(page.getByRole('columnheader', { name: /steps/ })).toBeVisible();
});

test('a horn with a rod: the ratio is drawn up to the dead points, and what cannot close is refused', async ({
  page,
  server,
}) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Wrist', exact: true }).click();
  await page.getByRole('button', { name: 'Transmission', exact: true }).click();
  await choose(page, 'Kind of transmission', 'horn, rod and lever (four-bar)');
  await expect(page.getByRole('img', { name: 'Joint over motor angle' })).toBeVisible();
  await expect(page.locator('[data-fits=part]')).toContainText('dead point');
  await type(page, 'Rod', 400);
  await expect(page.getByRole('alert')).toContainText('cannot close');
  await page.getByLabel('Rod', { exact: true }).press('Escape');
  await page.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('Reduction')).toBeVisible();
});

test('two motors are joined to move two joints, and parted again', async ({ page, server }) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  await page.getByRole('button', { name: 'Transmission', exact: true }).click();
  await choose(page, 'Kind of transmission', 'two motors mixing to two joints');
  await choose(page, 'Other joint', 'Wrist');
  await page.getByRole('button', { name: 'Join the two' }).click();
  await type(page, 'Wrist servo per Elbow', -1);
  // The wrist's motor now turns with the elbow.
  const wrist = page.locator('[data-joint=wrist] .wire');
  const before = await wrist.innerText();
  await type(page, 'Elbow position', 100);
  await expect(wrist).not.toHaveText(before);
  await type(page, 'Elbow servo per Elbow', 0);
  await expect(page.getByRole('alert')).toContainText('no inverse');
  await page.getByLabel('Elbow servo per Elbow').press('Escape');
  await page.getByRole('button', { name: 'Part them again' }).click();
  await expect(page.getByLabel('Reduction', { exact: true })).toBeVisible();
});

test('a horn is put on the right tooth, and the rest taken as trim', async ({ page, server }) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  await page.getByRole('button', { name: 'Horn', exact: true }).click();
  await type(page, 'Teeth of the spline', 25);
  await type(page, 'Joint at the centre pulse', 60);
  // The range is −40° to 95°, its middle 27.5°: 32.5° are 2.26 teeth of 14.4°.
  await expect(page.locator('[data-teeth]')).toContainText('2 teeth');
  await expect(page.locator('[data-fits=true]')).toContainText('14.4°');
  await page.getByRole('button', { name: 'Take this trim' }).click();
  await page.getByRole('button', { name: 'Points', exact: true }).click();
  await expect(page.getByLabel('Trim', { exact: true })).not.toHaveValue('0');
});

test('a motor that knows speeds only is refused by Reach with the reason', async ({ page, server }) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Turntable', exact: true }).click();
  await choose(page, 'Kind of drive', 'continuous servo');
  await expect(page.getByText('Can only be told how fast to turn')).toBeVisible();
  await page.getByRole('link', { name: /Reach/ }).click();
  await expect(page.locator('[data-reason=speed-only]')).toContainText('knows speeds only');
  await page.getByRole('link', { name: /Motors/ }).click();
  await page.getByLabel('a sensor on the shaft tells where it is').check();
  await page.getByRole('link', { name: /Reach/ }).click();
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
});

test('a servo is calibrated by many points: the odd one is named, measured again, and backlash told', async ({
  page,
  server,
}) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  await page.getByRole('button', { name: 'Points', exact: true }).click();
  const line = (us: number): number => (us - 1500) / 10;
  const pulses = [1100, 1300, 1500, 1700, 1900, 2100];
  for (let k = 2; k < pulses.length; k++) await page.getByRole('button', { name: 'Add the pose on show' }).click();
  for (const [k, us] of pulses.entries()) {
    await type(page, `Pulse of point ${k + 1}`, us);
    await type(page, `Angle at point ${k + 1}`, line(us) + (k === 3 ? 18 : 0));
  }
  await expect(page.locator('[data-outliers="1"]')).toContainText('speak against point 4');
  await type(page, 'Angle at point 4', line(1700));
  await expect(page.locator('[data-outliers="0"]')).toContainText('agree within 0°');
  for (const k of [1, 3, 5]) await choose(page, `Way to point ${k}`, 'from below');
  for (const k of [2, 4, 6]) {
    await choose(page, `Way to point ${k}`, 'from above');
    await type(page, `Angle at point ${k}`, line(pulses[k - 1]) + 2);
  }
  await expect(page.getByText('Backlash 2° between both ways.')).toBeVisible();
  await choose(page, 'Kind of map', 'pieces that rise throughout');
  await saved(page);
  await page.getByRole('button', { name: /^Take back: Kind of map/ }).click();
  await expect(page.getByRole('combobox', { name: 'Kind of map' })).toHaveText('one straight line');
});
