import { choose, expect, goTo, open, saved, test, type } from './harness';

test('a joint becomes a stepper with its steps per degree, and its commands are handed off in steps', async ({
  page,
  server,
}) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  await choose(page, 'Kind of drive', 'stepper');
  await page.getByRole('button', { name: 'Change it and forget them' }).click();
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
  await goTo(page, 'Hand-off');
  await expect(page.getByRole('columnheader', { name: /steps/ })).toBeVisible();
});

test('a motor with an encoder has pins for both tracks: one that is missing is told, and put on with one click', async ({
  page,
  server,
}) => {
  await open(page, server, 'motors', 'kiln-shelf-loader');
  await page.getByRole('button', { name: 'Forearm twist', exact: true }).click();
  await choose(page, 'Kind of drive', 'motor with encoder');
  await page.getByRole('button', { name: 'Boards & wires', exact: true }).click();
  const row = page.locator('[data-drive=m-twist]');
  await expect(row.getByRole('combobox')).toHaveCount(7);
  const track = row.getByRole('combobox', { name: /^Pin of the second track/ });
  await track.click();
  await page.getByRole('option', { name: '–', exact: true }).click();
  const told = page.locator('[data-code=counter-unwired]');
  await expect(told).toContainText('is on one pin only');
  await told.getByRole('button', { name: /^Put it on pin/ }).click();
  await expect(told).toHaveCount(0);
  await expect(track).not.toHaveText('–');
  await page.keyboard.press('Control+z');
  await expect(told).toHaveCount(1);
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
  await choose(page, 'Kind of transmission', 'motors mixing to as many joints');
  await choose(page, 'Other joint', 'Wrist');
  await page.getByRole('button', { name: 'Join the two' }).click();
  // The belt runs over the elbow: the wrist follows its motor backwards.
  await type(page, 'Wrist follows Elbow servo by', 1);
  await expect(page.locator('[data-mix]')).toContainText(
    'Wrist goes 1° for a degree of Elbow servo and 1° for a degree of Wrist servo.',
  );
  await page.getByRole('button', { name: 'As numbers' }).click();
  await expect(page.getByLabel('Wrist servo per Elbow')).toHaveValue('−1');
  // The wrist's motor now turns with the elbow.
  const wrist = page.locator('[data-joint=wrist] .wire');
  const before = await wrist.innerText();
  await type(page, 'Elbow position', 100);
  await expect(wrist).not.toHaveText(before);
  await type(page, 'Elbow servo per Elbow', 0);
  await expect(page.getByRole('alert')).toContainText('no inverse');
  await page.getByLabel('Elbow servo per Elbow').press('Escape');
  // A third joint mixes too, and goes out again.
  await choose(page, 'One more joint', 'Shoulder');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByLabel('Shoulder servo per Shoulder')).toHaveValue('1');
  await type(page, 'Wrist servo per Shoulder', 0.5);
  await page.getByRole('button', { name: 'What follows what' }).click();
  await expect(page.getByLabel('Wrist follows Shoulder servo by')).toHaveValue('−0.5');
  await page.getByRole('button', { name: 'Take Shoulder out' }).click();
  await expect(page.getByLabel('Wrist follows Shoulder servo by')).toHaveCount(0);
  await page.getByRole('button', { name: 'Part them again' }).click();
  await expect(page.getByLabel('Reduction', { exact: true })).toBeVisible();
});

test('a horn is put on the right tooth, and the rest taken as trim', async ({ page, server }) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  // A gear changes travel, speed, torque and fineness together: 180°, 350°/s, 1.9 N·m, 1/10.1° a µs.
  await page.getByRole('button', { name: 'Transmission', exact: true }).click();
  await type(page, 'Reduction', 2);
  await expect(page.locator('[data-seen]')).toContainText(
    'travel 90°, 175°/s, 3.8 N·m at stall without losses, 0.05° for a µs',
  );
  await type(page, 'Reduction', 1);
  await page.getByRole('button', { name: 'Horn', exact: true }).click();
  await type(page, 'Teeth of the spline', 25);
  await type(page, 'Joint at the centre pulse', 60);
  // The range is −40° to 95°, its middle 27.5°: 32.5° are 2.26 teeth of 14.4°.
  await expect(page.locator('[data-teeth]')).toContainText('2 teeth');
  await expect(page.locator('[data-fits=true]')).toContainText('14.4°');
  await page.getByRole('button', { name: 'Apply this trim' }).click();
  // The centre pulse, measured to bring the joint to 60°, now means 60°.
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  await expect(page.getByLabel('Trim', { exact: true })).not.toHaveValue('0');
  // A slip of the pen is told as it is typed; other figures of the same kind leave the points alone.
  await type(page, 'Angle at point 1', 85);
  await expect(page.locator('[data-doubt]').first()).toContainText('from where the motor’s figures put it');
  await page.getByRole('button', { name: 'Motor', exact: true }).click();
  await choose(page, 'Kind of drive', 'stepper');
  await expect(page.locator('[data-asks=points]')).toContainText('would be forgotten');
  await page.getByRole('button', { name: 'Leave it as it is' }).click();
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
  await expect(page.getByLabel('Angle at point 1', { exact: true })).toHaveValue('85');
});

test('a motor that knows speeds only is refused by Reach with the reason', async ({ page, server }) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Turntable', exact: true }).click();
  await choose(page, 'Kind of drive', 'continuous servo');
  await page.getByRole('button', { name: 'Change it and forget them' }).click();
  await expect(page.getByText('Can only be told how fast to turn')).toBeVisible();
  await goTo(page, 'Reach');
  await expect(page.locator('[data-reason=speed-only]')).toContainText('knows speeds only');
  await goTo(page, 'Motors');
  await page.getByLabel('a sensor on the shaft tells where it is').check();
  await goTo(page, 'Reach');
  await expect(page.locator('[data-answer=reached]')).toBeVisible();
});

test('a servo is calibrated by many points: the odd one is named, measured again, and backlash told', async ({
  page,
  server,
}) => {
  await open(page, server, 'motors');
  await page.getByRole('button', { name: 'Elbow', exact: true }).click();
  await page.getByRole('button', { name: 'Calibrate', exact: true }).click();
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
  // Written down, changed, and the earlier row applied again: its difference at the tip is told.
  const history = page.getByRole('table', { name: 'Measurements of this build' });
  await type(page, 'Note for the history', 'first time');
  await page.getByRole('button', { name: /^Write down/ }).click();
  await expect(history.getByText('applied')).toBeVisible();
  await type(page, 'Trim', 40);
  await page.getByRole('button', { name: /^Write down/ }).click();
  await expect(history.locator('tbody tr')).toHaveCount(2);
  const first = history.getByRole('row', { name: /first time/ });
  await expect(first).toContainText(/[1-9][0-9.]* mm/);
  await first.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByLabel('Trim', { exact: true })).toHaveValue('0');
  await expect(first).toContainText('0 mm');
});

test('every fault of the wiring is found where it is made, and gone when it is taken back', async ({
  page,
  server,
}) => {
  test.slow();
  const wiring = page.getByRole('group', { name: 'Part of the wiring' });
  const part = (name: string): Promise<void> => wiring.getByRole('button', { name, exact: true }).click();
  const enter = async (rig: string): Promise<void> => {
    await open(page, server, 'motors', rig);
    await page.getByRole('button', { name: 'Boards & wires', exact: true }).click();
    await expect(page.locator('.finding')).toHaveCount(0);
  };
  const finds = async (code: string, make: () => Promise<void>): Promise<void> => {
    await test.step(code, async () => {
      await make();
      await expect(page.locator(`[data-code=${code}]`).first()).toBeVisible();
      await page.getByRole('heading', { level: 1 }).click();
      // One fault may have taken several edits.
      for (let k = 0; k < 4 && (await page.locator(`[data-code=${code}]`).count()); k++) {
        await page.keyboard.press('Control+z');
        // Keys are done with the next picture: what is typed after it comes after it.
        await page.evaluate(() => new Promise(requestAnimationFrame));
      }
      await expect(page.locator(`[data-code=${code}]`)).toHaveCount(0);
    });
  };
  await enter('tile-dipper');
  await finds('channel-twice', () => choose(page, 'Pin of Shoulder servo', '0 (taken)'));
  await finds('rail-missing', () => choose(page, 'Supply of Elbow servo', 'no supply'));
  await part('Supplies');
  await finds('voltage-high', () => type(page, 'Volts', 12));
  await finds('voltage-low', () => type(page, 'Volts', 4));
  await finds('rail-on-board', () => choose(page, 'Source of Servo supply', 'a board’s regulator'));
  await finds('ground-open', () => page.getByLabel('its ground is joined').uncheck());
  await part('Boards');
  await finds('pulse-rate-over', () => type(page, 'Servo pulses a second at most', 40));
  const pin = (name: string): Promise<void> =>
    page.getByRole('list', { name: 'Pins' }).getByRole('button', { name, exact: true }).click();
  await pin('2');
  await finds('pin-boot', () => choose(page, 'Pin at power-on', 'pulses'));
  await finds('pin-reserved', () => type(page, 'What the pin is kept for', 'the debug port'));
  await finds('pin-unable', () => page.getByRole('checkbox', { name: 'servo pulses' }).uncheck());
  await finds('board-without-host', async () => {
    await choose(page, 'Add a board', '12-bit PWM driver, 16 channels');
    await expect(page.getByText('12-bit PWM driver, 16 channels.')).toBeVisible();
  });
  await finds('pin-jitters', async () => {
    await choose(page, 'Add a board', '8-bit board, few timer pins');
    await part('Wires');
    await choose(page, 'Board of Elbow servo', '8-bit board, few timer pins');
    await choose(page, 'Pin of Elbow servo', '2');
  });
  await enter('kiln-shelf-loader');
  await part('Inputs & outputs');
  await finds('input-floats', () => choose(page, 'Resistor of Home switch, rail', 'nothing'));
  await finds('output-boot-on', () => choose(page, 'Resistor of Vacuum', 'pull-down'));
  await finds('output-boot-unknown', () => choose(page, 'Resistor of Vacuum', 'nothing'));
  await finds('polarity-unknown', () => choose(page, 'Level of Vacuum', 'unknown'));
  await finds('signal-unwired', () => choose(page, 'Board of Vacuum', 'no board'));
  await part('Sensors');
  await finds('address-twice', () => choose(page, 'Multiplexer port of Encoder, turntable', 'multiplexer port 1'));
  await part('Boards');
  await finds('steps-over-ceiling', () => type(page, 'steps/s', 40000));
  await finds('loop-over', () => type(page, 'due every, ms', 3));
});

test('homing is timed and played, and a guide is matched to its joint', async ({ page, server }) => {
  await open(page, server, 'motors', 'kiln-shelf-loader');
  await page.getByRole('button', { name: 'Homing', exact: true }).click();
  const time = page.locator('[data-homing-time] b');
  const before = parseFloat(await time.innerText());
  await page.getByRole('button', { name: 'Turntable', exact: true }).click();
  await type(page, 'Fast speed', 40);
  await expect(async () => expect(parseFloat(await time.innerText())).toBeLessThan(before)).toPass();
  const elbow = page.locator('[data-joint=elbow] .wire');
  const pose = await elbow.innerText();
  await page.getByRole('slider', { name: 'Time' }).fill('3');
  await expect(elbow).not.toHaveText(pose);
  await page.getByRole('button', { name: 'Back to my pose', exact: true }).click();
  await expect(elbow).toHaveText(pose);
  await choose(page, 'Input of the switch', 'no input chosen');
  await expect(page.locator('[data-code=homing-no-input]')).toBeVisible();
  // Nothing can home it so: no promise of a real board is left.
  const checks = page.getByRole('button', { name: /^Checks:/ });
  await expect(checks).toHaveAttribute('title', /^Missing for a real board: .*no input is chosen/);
  await page.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-code=homing-no-input]')).toHaveCount(0);
  await expect(checks).toHaveAttribute('data-readiness', 'real');
  await page.getByRole('button', { name: 'Guide', exact: true }).click();
  await page.getByRole('button', { name: 'Add a guide' }).click();
  await type(page, 'Upper end of the guide', 40);
  await expect(page.locator('[data-code=leader-range]').or(page.locator('[data-share]')).first()).not.toHaveAttribute(
    'data-share',
    '100',
  );
  await page.getByRole('button', { name: /^Apply scale/ }).click();
  await expect(page.locator('[data-share="100"]')).toContainText('100 % in common');
  await type(page, 'Upper end of the guide', -95);
  await expect(page.getByRole('alert')).toContainText('Above −90°');
});

test('a board is powered up by the plan, and brings every motor to neutral before the horns go on', async ({
  page,
  server,
}) => {
  await open(page, server, 'bench?timeScale=8');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await expect(page.locator('[data-link=connected]')).toBeVisible();
  await goTo(page, 'Motors');
  await page.getByRole('button', { name: 'Power-up', exact: true }).click();
  await expect(page.locator('[data-contacts="0"]')).toBeVisible();
  const send = page.getByRole('button', { name: 'Arm and power up by the plan' });
  await expect(send).toBeDisabled();
  await page.getByLabel('Fingers and cables are clear').check();
  await send.click();
  // The elbow goes from its rest to where its servo's neutral is.
  await expect(page.locator('[data-joint=elbow]')).toContainText('−1', { timeout: 15_000 });
  await goTo(page, 'Bench');
  await expect(page.locator('[data-mode=normal][data-armed=true]')).toBeVisible();
  await page.getByRole('button', { name: 'Disarm' }).click();
  await expect(page.locator('[data-armed=false]')).toBeVisible();
  await goTo(page, 'Motors');
  await page.getByRole('button', { name: 'Joint by joint', exact: true }).click();
  await page.getByRole('button', { name: 'Horn', exact: true }).click();
  await page.getByLabel('The horns are off').check();
  await page.getByRole('button', { name: 'Arm and bring every motor to neutral' }).click();
  await expect(page.locator('[data-mode=neutral]')).toContainText('put the horns on now', { timeout: 15_000 });
  await page.getByRole('button', { name: 'Disarm' }).click();
  await expect(page.locator('[data-mode=normal]')).toBeVisible();
});

test('an own motor is kept, exported, taken out and imported again; a wrong file is refused', async ({
  page,
  server,
}) => {
  await open(page, server, 'motors');
  await type(page, 'Kind of motor', 'my servo, 30 g');
  await type(page, 'Travel', 200);
  await page.getByText('Own motors in the catalogue').click();
  await page.getByRole('button', { name: 'Keep “my servo, 30 g”' }).click();
  const list = page.getByRole('list', { name: 'Own motors' });
  await expect(list).toContainText('my servo, 30 g');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export' }).click();
  const path = await (await download).path();
  await page.getByRole('button', { name: 'Take my servo, 30 g out of the catalogue' }).click();
  await expect(list).toHaveCount(0);
  await page.getByLabel('File of motors').setInputFiles(path);
  await expect(list).toContainText('my servo, 30 g');
  await page
    .getByLabel('File of motors')
    .setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: Buffer.from('{"format":') });
  await expect(page.getByRole('alert')).toContainText('not JSON');
  await page.getByRole('button', { name: 'Shoulder', exact: true }).click();
  await choose(page, 'Size class', 'my servo, 30 g');
  await expect(page.getByLabel('Travel', { exact: true })).toHaveValue('200');
});
