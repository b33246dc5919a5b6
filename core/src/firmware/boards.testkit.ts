/** Boards that firmware is made for in tests. */
import { admit } from '../admit';
import { tileDipper } from '../../../demo';
import { firstOfKind } from '../actuators';
import type { Drive, Rig, Sensor } from '../rig';
import { newBoard } from '../wiring';
import { describe, type Described, type FirmwareMotor } from './index';

/** The board of exchanges.json: places at 0 and 3, steps at 5, speeds at 7, pins 20 to 22. */
export function exchangeBoard(): Described {
  const motor = (channel: number, of: Partial<FirmwareMotor>, name: string): FirmwareMotor => ({
    map: { drive: { name, kind: 'servo' }, native: { unit: 'µs' } } as unknown as FirmwareMotor['map'],
    ...{
      kind: 'pulse-pin',
      channel,
      pin: channel,
      second: 255,
      enable: null,
      tracks: null,
      low: 900,
      high: 2100,
      rest: 1500,
      turns: false,
    },
    ...of,
    own: { low: of.low ?? 900, high: of.high ?? 2100 },
  });
  return {
    rig: { name: 'Board of the exchanges', powerUp: { gapMs: 0 } } as Described['rig'],
    build: { name: 'build 1' } as Described['build'],
    mechanism: {} as Described['mechanism'],
    board: { ...newBoard('large-8-bit', 'b'), name: 'board' },
    hanging: [],
    motors: [
      motor(0, { rest: 1400 }, 'place 0'),
      motor(3, {}, 'place 3'),
      motor(
        5,
        { kind: 'stepper', pin: 30, second: 31, enable: 32, low: -99_999_999, high: 99_999_999, rest: 0 },
        'steps 5',
      ),
      motor(7, { turns: true }, 'speeds 7'),
    ],
    strange: [],
    signals: [],
    sensorCount: 3,
    freePins: [20, 21, 22],
    channelCount: 24,
    driverHz: 50,
    order: [0, 1, 2, 3],
    rest: new Float64Array(0),
    fingerprint: '00000000',
    revision: null,
  };
}

/** A rig's board as firmware sees it. */
export function described(document: unknown, board: string): Described {
  const admitted = admit(document);
  if (!admitted.ok) throw new Error(admitted.faults[0].message);
  const { rig, mechanism, build } = admitted;
  return describe(rig, mechanism, build, board, 1);
}

/** A knob or stick on an analogue pin of a board. */
export const knobOn = (board: string, channel: number, id: string, name = `Stick ${id}`): Sensor => ({
  ...{ id, name, kind: 'potentiometer', joint: null, side: 'joint', countsPerTurn: 1228, wraps: false, note: '' },
  ...{ board, channel, address: null, port: null },
});
/** The dipper with sticks for each way that its tool goes. */
export const DIPPER_STICKS = ['x', 'y', 'z', 'tilt'] as const;
export function dipperWithSticks(): Rig {
  const rig = structuredClone(tileDipper()) as Rig;
  rig.sensors = DIPPER_STICKS.map((push, k) => knobOn('pwm', 18 + k, push));
  rig.leaders = [];
  const { pins } = rig.boards[0];
  for (const { channel } of rig.sensors)
    if (!pins.some(({ pin }) => pin === channel))
      pins.push({ ...pins.at(-1)!, pin: channel!, label: `A${channel}`, can: ['analog'] });
  return rig;
}

/** Pins of motors with an encoder on a large board: duties whose timers are free. */
export const encoderPins = [5, 6, 7].map((duty, k) => ({
  ...{ duty, direction: 40 + k, enable: 43 + k, first: 22 + 2 * k, second: 23 + 2 * k },
}));
/** The dipper on a large board, its elbow, shoulder and turntable (as many of them) moved by motors with an encoder. */
export function dipperWithEncoders(count: number): Rig {
  const rig = structuredClone(tileDipper()) as Rig;
  rig.boards = [newBoard('large-8-bit', 'big', 'Large board')];
  rig.signals = [];
  rig.sensors = [];
  rig.wiring.forEach((wire, k) => Object.assign(wire, { board: 'big', channel: [2, 3, 4, 11, 12][k] }));
  ['m-elbow', 'm-shoulder', 'm-turn'].slice(0, count).forEach((id, k) => {
    const at = rig.drives.findIndex((drive) => drive.id === id);
    rig.drives[at] = { ...firstOfKind('dc-encoder'), id, name: rig.drives[at].name } as Drive;
    const { duty, direction, enable, first, second } = encoderPins[k];
    const wire = rig.wiring.find(({ drive }) => drive === id)!;
    Object.assign(wire, { channel: duty, direction, enable, firstTrack: first, secondTrack: second });
    for (const build of rig.builds) build.calibrations = build.calibrations.filter(({ drive }) => drive !== id);
  });
  return rig;
}
