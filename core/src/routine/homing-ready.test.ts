import { describe, expect, it } from 'vitest';
import { kilnLoader } from '../../../demo';
import { SOUGHT } from '../board';
import { Channels } from '../commands';
import { compiled } from '../kinematics/arms.testkit';
import type { Rig } from '../rig';
import { checkRig, homingFindings, homingReady, readinessOf } from './index';

function looked(change: (draft: Rig) => void) {
  const rig = structuredClone(kilnLoader()) as Rig;
  change(rig);
  const mechanism = compiled(rig.mechanism);
  const [build] = rig.builds;
  const channels = new Channels(rig, mechanism, build);
  return {
    found: homingFindings(rig, channels, build),
    ready: homingReady(rig, channels, build),
    whole: checkRig(rig, mechanism, build),
  };
}
const axisOf = (draft: Rig, joint: string): Rig['homing']['axes'][number] =>
  draft.homing.axes.find((axis) => axis.joint === joint)!;
const tieOf = (draft: Rig, joint: string): Rig['transmissions'][number] =>
  draft.transmissions.find((t) => (t.joints as readonly string[]).includes(joint))!;
const signalOf = (draft: Rig, joint: string): Rig['signals'][number] =>
  draft.signals.find(({ id }) => id === axisOf(draft, joint).signal)!;

describe('what keeps an arm from homing', () => {
  it('is nothing on an arm whose switches and motors are on one board', () => {
    const { found, ready, whole } = looked(() => undefined);
    expect(found).toEqual([]);
    expect('code' in ready).toBe(false);
    expect(readinessOf(whole).state).toBe('real');
  });
  const lacks: [string, (draft: Rig) => void, string, string][] = [
    ['no input is chosen', (d) => (axisOf(d, 'elbow').signal = null), 'homing-no-input', 'homing'],
    ['its input is on no pin', (d) => (signalOf(d, 'elbow').channel = null), 'homing-no-switch', 'wires'],
    [
      'its motor is on no pin',
      (d) => {
        const tie = tieOf(d, 'elbow');
        d.wiring = d.wiring.filter((wire) => !tie.drives.includes(wire.drive));
      },
      'homing-no-motor',
      'wires',
    ],
    [
      'its switch hangs on another board',
      (d) => {
        d.boards.push({ ...structuredClone(d.boards[0]), id: 'other', name: 'Other', host: null });
        signalOf(d, 'elbow').board = 'other';
      },
      'homing-apart',
      'wires',
    ],
    [
      'no sensor sits on it',
      (d) => {
        axisOf(d, 'elbow').by = 'sensor';
        d.sensors = [];
      },
      'homing-sensor',
      'wires',
    ],
    [
      'its sensor sits on the motor',
      (d) => {
        axisOf(d, 'elbow').by = 'sensor';
        for (const sensor of d.sensors) sensor.side = 'motor';
      },
      'homing-sensor',
      'wires',
    ],
    [
      'it finds a hard stop and its motor is on no pin',
      (d) => {
        Object.assign(axisOf(d, 'elbow'), { by: 'end-stop', signal: null });
        const { drives } = tieOf(d, 'elbow');
        d.wiring = d.wiring.filter((wire) => !drives.includes(wire.drive));
      },
      'homing-no-motor',
      'wires',
    ],
    [
      'it finds a hard stop with two motors on different boards',
      (d) => {
        Object.assign(axisOf(d, 'elbow'), { by: 'end-stop', signal: null });
        const tie = tieOf(d, 'elbow');
        const [id] = tie.drives;
        d.boards.push({ ...structuredClone(d.boards[0]), id: 'other', name: 'Other', host: null });
        d.drives.push({ ...structuredClone(d.drives.find((each) => each.id === id)!), id: 'twin', name: 'Twin' });
        d.wiring.push({
          ...structuredClone(d.wiring.find((each) => each.drive === id)!),
          drive: 'twin',
          board: 'other',
        });
        (tie.drives as string[]).push('twin');
      },
      'homing-apart',
      'wires',
    ],
    [
      'its sensor has no zero',
      (d) => {
        axisOf(d, 'elbow').by = 'sensor';
        for (const build of d.builds) build.sensors = {};
      },
      'homing-sensor-zero',
      'joints',
    ],
  ];
  it.each(lacks)('is told with its place before anybody presses a button, where %s', (_, change, code, part) => {
    const { found, ready, whole } = looked(change);
    expect(found.map((f) => [f.code, f.place.part, f.place.joint])).toEqual([[code, part, 'elbow']]);
    expect(ready).toMatchObject({ code, message: found[0].message });
    expect(whole).toContainEqual(found[0]);
    expect(readinessOf(whole).state).not.toBe('real');
  });
  it('is told of every axis, a run the first of them', () => {
    const { found, ready } = looked((draft) => draft.homing.axes.forEach((axis) => (axis.signal = null)));
    expect(found.map(({ place }) => place.joint)).toEqual(kilnLoader().homing.axes.map(({ joint }) => joint));
    expect(ready).toEqual(found[0]);
  });
  it('is too many motors on one joint', () => {
    const { found } = looked((draft) => {
      const tie = tieOf(draft, 'elbow');
      const [id] = tie.drives;
      const drive = draft.drives.find((each) => each.id === id)!;
      const wire = draft.wiring.find((each) => each.drive === id)!;
      const board = draft.boards.find((each) => each.id === wire.board)!;
      const copies = Array.from({ length: SOUGHT }, (_, k) => `${id}-${k}`);
      copies.forEach((copy, k) => {
        draft.drives.push({ ...structuredClone(drive), id: copy, name: copy });
        board.pins.push({ ...board.pins.find(({ pin }) => pin === wire.channel)!, pin: 100 + k });
        draft.wiring.push({ ...structuredClone(wire), drive: copy, channel: 100 + k });
        (tie.drives as string[]).push(copy);
      });
    });
    expect(found.map(({ code }) => code)).toEqual(['homing-many']);
  });
});
