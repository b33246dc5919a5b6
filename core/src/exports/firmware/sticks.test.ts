import { describe as group, expect, it } from 'vitest';
import { demoRigs } from '../../../../demo';
import { linedBoards } from '../../actuators';
import { DIPPER_STICKS, dipperWithSticks, knobOn } from '../../firmware/boards.testkit';
import { closedFormOf } from '../../kinematics';
import { compile } from '../../firmware/compiled.testkit';
import type { Rig } from '../../rig';
import { exportOf, optionFields } from '../index';
import { fieldsWhile } from '../options';
import { sourceOf } from './source.testkit';

const firmware = exportOf('firmware')!;
const [x, y, z, tilt] = DIPPER_STICKS;
const all = { stickX: x, stickY: `-${y}`, stickZ: z, stickTilt: tilt };
const chosen = (more: object) =>
  firmware.options.parse({ kind: 'hand-control', board: 'pwm', follow: 'tool', ...more });
/** What keeps the dipper from being steered. */
function said(edit: (rig: Rig) => void = () => {}, more: object = all): string[] {
  const document = dipperWithSticks();
  edit(document);
  return firmware.lacks(sourceOf(document), chosen(more)).map(({ code, message }) => `${code}: ${message}`);
}

group('firmware that is steered by sticks', () => {
  it('is made for the dipper, and its head says which stick does what', () => {
    expect(said()).toEqual([]);
    const source = sourceOf(dipperWithSticks());
    const files = firmware.write(source, chosen({ ...all, toolMmPerS: 45, toolDegPerS: 20 }));
    compile(files.map(({ name, text }) => ({ name, text: String(text) })));
    const [{ text }] = files;
    expect(text).toMatch(/STICKS \(Tongs; the world’s axes; 45 mm and 20° a second at most\)/);
    expect(text).toMatch(
      /Stick x: pushes forward \(X\)\n.*Stick y: pushes left \(Y\), the other way round\n.*Stick z: pushes up \(Z\)\n.*Stick tilt: tilts the hand/,
    );
    expect(text).toMatch(/WIRING[^]*Stick x: analogue pin 18/);
  });
  it('says what is missing, by name', () => {
    expect(said(undefined, {})).toEqual([expect.stringMatching(/^firmware-no-sticks: No stick pushes Tongs yet/)]);
    expect(said((rig) => (rig.sensors[0].channel = null))).toEqual([
      expect.stringMatching(/^firmware-stick: Stick x is to push the tool/),
    ]);
    expect(said(undefined, { ...all, stickY: '-nothing' })).toEqual([
      expect.stringMatching(/^firmware-stick: nothing is/),
    ]);
    expect(said(undefined, { ...all, stickRoll: x })).toEqual([
      'firmware-push: A stick rolls the hand, and Tongs has no joint for that.',
    ]);
    expect(said((rig) => (rig.sensors[1].channel = rig.sensors[0].channel))).toEqual([
      'firmware-stick-twice: Stick x and Stick y are read from one pin: they would push together.',
    ]);
    const away = (id: string) => (rig: Rig) => void (rig.wiring = rig.wiring.filter(({ drive }) => drive !== id));
    expect(said(away('m-elbow'))).toEqual([expect.stringMatching(/^firmware-steer-joint: Elbow, which Tongs needs/)]);
  });
  it('says that nothing is led from where motors come on, and is not made where nothing is led from anywhere', () => {
    // Where the dipper rests elbow and wrist add up to more than this.
    const folded = (max: number) => (rig: Rig) => {
      const terms = ['elbow', 'wrist'].map((joint) => ({ joint, factor: 1 }));
      Object.assign(rig.mechanism, { limitRules: [{ terms, min: -720, max }] });
    };
    const rests = dipperWithSticks();
    const sums = rests.poses.map(({ joints }) => joints.elbow + joints.wrist);
    const rest = sums[rests.poses.findIndex(({ id }) => id === rests.powerUp.rest)];
    const least = Math.min(...sums);
    expect(least).toBeLessThan(rest - 2);
    const noted = (max: number): readonly string[] => {
      folded(max)(rests);
      return firmware.notes(sourceOf(rests), chosen(all));
    };
    expect(noted(rest + 1).join()).not.toContain('sticks lead only');
    expect(noted(rest - 1)).toContainEqual(expect.stringMatching(/^“.*” does not hold where the motors come on/));
    expect(said(folded(rest - 1))).toEqual([]);
    expect(said(folded(least - 1))).toEqual([expect.stringMatching(/^firmware-steer-rest: “.*” does not hold/)]);
  });
  it('says so too of a motor that shares its joints and does not go as far as the arm rests', () => {
    const shared = (second: number) => (rig: Rig) => {
      // The elbow's motor stands in the base: it turns by shoulder and elbow together.
      const pair = rig.transmissions.filter(({ joints: [id] }) => id === 'shoulder' || id === 'elbow');
      rig.transmissions = rig.transmissions.filter((tie) => !pair.includes(tie));
      const matrix = [
        [1, 0],
        [second, second],
      ];
      const drives = pair.map(({ drives: [id] }) => id);
      for (const build of rig.builds)
        build.calibrations = build.calibrations.filter(({ drive }) => !drives.includes(drive));
      rig.transmissions.push({ id: 'pair', kind: 'matrix', joints: ['shoulder', 'elbow'], drives, matrix } as never);
    };
    expect(said(shared(0.5))).toEqual([]);
    expect(said(shared(2))).toEqual([
      expect.stringMatching(/^firmware-steer-rest: “the reach of Elbow servo” does not hold/),
    ]);
  });
  it('refuses a motor that moves several joints, and a limit that it could not hold to', () => {
    const mixed = (rig: Rig): void => {
      // Wrist and grip by two motors together: the jaw is none of the tool’s joints.
      const pair = rig.transmissions.filter(({ joints: [id] }) => id === 'wrist' || id === 'jaw');
      rig.transmissions = rig.transmissions.filter((tie) => !pair.includes(tie));
      const ids = pair.map(({ joints: [id] }) => id);
      const drives = pair.map(({ drives: [id] }) => id);
      rig.transmissions.push({
        id: 'mixed',
        kind: 'matrix',
        joints: ids,
        drives,
        matrix: [
          [1, 0.2],
          [0, 1],
        ],
      } as never);
    };
    expect(
      said(mixed)
        .filter((words) => words.startsWith('firmware-steer'))
        .join(),
    ).toMatch(/^firmware-steer-motor: .*several joints at once/);
    const tabled = (rig: Rig): void => {
      rig.transmissions = rig.transmissions.filter(({ joints: [id] }) => id !== 'elbow' && id !== 'wrist');
      rig.drives = rig.drives.filter(({ id }) => id !== 'm-wrist');
      rig.wiring = rig.wiring.filter(({ drive }) => drive !== 'm-wrist');
      for (const build of rig.builds)
        build.calibrations = build.calibrations.filter(({ drive }) => drive !== 'm-wrist');
      const points = [0, 60, 120].map((deg) => ({ driveDeg: deg, joints: [deg, deg / 2] }));
      rig.transmissions.push({ id: 'table', kind: 'table', joints: ['elbow', 'wrist'], drives: ['m-elbow'], points });
    };
    expect(
      said(tabled)
        .filter((words) => words.startsWith('firmware-steer'))
        .join(),
    ).toMatch(/^firmware-steer-motor: Elbow servo moves several joints at once/);
    const limited = (rig: Rig): void => {
      const terms = [
        { joint: 'wrist', factor: 1 },
        { joint: 'jaw', factor: 1 },
      ];
      Object.assign(rig.mechanism, { limitRules: [{ terms, min: -500, max: 500 }] });
    };
    expect(said(limited)).toEqual([
      expect.stringMatching(/^firmware-steer-rule: The limit “.*” mixes joints of Tongs/),
    ]);
  });
  it.each(demoRigs().map(({ id }) => id))('of %s: it is made and compiled for each tool, or says why not', (id) => {
    const document = structuredClone(demoRigs().find((rig) => rig.id === id)!.rig) as Rig;
    const [{ id: board, pins }] = linedBoards(document);
    const pin = Math.max(...pins.map((each) => each.pin)) + 1;
    pins.push({ ...pins[0], pin, label: `A${pin}`, can: ['analog'] });
    document.sensors.push(knobOn(board, pin, 'stick-1'));
    const source = sourceOf(document);
    for (const { id: tool } of source.mechanism.tools) {
      const options = firmware.options.parse({
        kind: 'hand-control',
        board,
        follow: 'tool',
        tool,
        stickX: 'stick-1',
      });
      const lacks = firmware.lacks(source, options);
      for (const { message } of lacks) expect(message).not.toMatch(/undefined|\{/);
      const form = closedFormOf(
        source.mechanism,
        source.mechanism.tools.find((each) => each.id === tool)!,
      );
      const isKnown = form !== null || source.mechanism.delta !== null;
      expect(lacks.map(({ code }) => code)).toEqual(isKnown ? [] : ['firmware-steer-form']);
      if (!lacks.length)
        compile(firmware.write(source, options).map(({ name, text }) => ({ name, text: String(text) })));
    }
  });
  it('asks for what steering needs only where the tool is steered', () => {
    const keys = (more: object): string[] =>
      fieldsWhile(optionFields(firmware.options), chosen(more)).map(({ key }) => key);
    expect(keys({})).toEqual(expect.arrayContaining(['tool', 'stickX', 'stickRoll', 'toolMmPerS']));
    expect(keys({ follow: 'place' }).filter((key) => /tool|stick/i.test(key))).toEqual([]);
  });
});
