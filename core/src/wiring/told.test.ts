import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { catalogue, driveMaps, firstOfKind } from '../actuators';
import { compiled } from '../kinematics/arms.testkit';
import { parseRig, type Board, type Drive, type Rig } from '../rig';
import { checkWiring } from './checks';
import { newBoard, wiringMends } from './index';

type Told = readonly [code: string, place: object, data: object];
const rigs = { dipper: tileDipper(), loader: kilnLoader() };
/** Everything that is told of the wiring of a rig, changed: nothing else than what the change brings. */
function told(which: keyof typeof rigs, edit: (draft: Rig) => unknown): Told[] {
  const draft = structuredClone(rigs[which]) as Rig;
  edit(draft);
  const parsed = parseRig(draft);
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  const rig = parsed.value;
  const mechanism = compiled(rig.mechanism);
  return checkWiring(rig, mechanism, driveMaps(rig, mechanism, rig.builds[0])).map((f) => [f.code, f.place, f.data]);
}
const wires = (drive: string, more: object = {}): object => ({ station: 'motors', part: 'wires', drive, ...more });
const item = (part: string, id: string): object => ({ station: 'motors', part, item: id });
const pin = (d: Rig, number: number): Board['pins'][number] => d.boards[0].pins.find((p) => p.pin === number)!;
/** The dipper on another kind of board, its motors on these pins. */
const onKind = (kind: Parameters<typeof newBoard>[0], pins: readonly number[]) => (d: Rig) => {
  d.boards[0] = { ...newBoard(kind, 'pwm'), name: 'Other board' };
  d.wiring.forEach((wire, k) => (wire.channel = pins[k]));
};
const PWM = 'Servo board on the bench';
const STEPS = 'Step board in the plinth';

describe('what is told of pins', () => {
  it.each<[string, keyof typeof rigs, (d: Rig) => unknown, Told[]]>([
    [
      'that are not there',
      'dipper',
      (d) => (d.wiring[1].channel = 21),
      [['channel-missing', wires('m-shoulder'), { drive: 'Shoulder servo', channel: 21, board: PWM }]],
    ],
    [
      'that carry two motors',
      'dipper',
      (d) => (d.wiring[3].channel = 2),
      [
        [
          'channel-twice',
          wires('m-wrist'),
          { first: 'Elbow servo', second: 'Wrist servo', channel: '2', board: PWM },
        ],
      ],
    ],
    [
      'that carry three',
      'dipper',
      (d) => (d.wiring[3].channel = d.wiring[4].channel = 2),
      [
        [
          'channel-twice',
          wires('m-wrist'),
          { first: 'Elbow servo', second: 'Wrist servo', channel: '2', board: PWM },
        ],
        ['channel-twice', wires('m-jaw'), { first: 'Elbow servo', second: 'Tongs servo', channel: '2', board: PWM }],
      ],
    ],
    [
      'that are kept for something',
      'dipper',
      (d) => (pin(d, 1).reserved = 'the program’s own'),
      [
        [
          'pin-reserved',
          wires('m-shoulder'),
          { what: 'Shoulder servo', board: PWM, pin: '1', reserved: 'the program’s own' },
        ],
      ],
    ],
    [
      'that pulse while the board starts',
      'dipper',
      (d) => (pin(d, 0).boot = 'pulses'),
      [['pin-boot', wires('m-turn'), { what: 'Turntable servo', board: PWM, pin: '0' }]],
    ],
    [
      'that cannot, with those that can',
      'dipper',
      (d) => ((pin(d, 2).can = ['input']), (d.boards[0].pins.length = 6)),
      [
        [
          'pin-unable',
          wires('m-elbow'),
          {
            ...{ what: 'Elbow servo', board: PWM, pin: '2', job: 'make servo pulses' },
            fit: 'pins that can: 0, 1, 3, 4 and more',
          },
        ],
      ],
    ],
    [
      'that cannot, with the four that can',
      'dipper',
      (d) => ((pin(d, 2).can = ['input']), (d.boards[0].pins.length = 5)),
      [['pin-unable', wires('m-elbow'), expect.objectContaining({ fit: 'pins that can: 0, 1, 3, 4' })]],
    ],
    [
      'that cannot, where none can',
      'dipper',
      (d) => {
        d.wiring = [d.wiring[2]];
        d.boards[0].pins = d.boards[0].pins
          .slice(0, 3)
          .map((p, k) =>
            k === 2 ? { ...p, can: ['input'] } : k ? { ...p, reserved: 'clock' } : { ...p, boot: 'pulses' },
          );
      },
      [['pin-unable', wires('m-elbow'), expect.objectContaining({ fit: 'none of its pins can' })]],
    ],
    [
      'that make pulses by the program',
      'dipper',
      onKind('small-8-bit', [9, 10, 2, 3, 4]),
      [2, 3, 4].map((_, k): Told => [
        'pin-jitters',
        wires(['m-elbow', 'm-wrist', 'm-jaw'][k]),
        expect.objectContaining({ board: 'Other board', jitter: newBoard('small-8-bit', 'x').jitterUs, unit: '°' }),
      ]),
    ],
    [
      'of a direction',
      'loader',
      (d) => (d.wiring[0].direction = 17),
      [
        [
          'pin-unable',
          wires('m-rail', { role: 'direction' }),
          expect.objectContaining({
            ...{ what: 'Rail stepper, direction', board: STEPS, pin: 'input 1', job: 'give out a level' },
          }),
        ],
        [
          'channel-twice',
          item('signals', 'rail-switch'),
          {
            ...{ first: 'Rail stepper, direction', second: 'Home switch, rail', channel: 'input 1', board: STEPS },
          },
        ],
      ],
    ],
    ['of an enable line that several have together', 'loader', (d) => (d.wiring[6].enable = 15), []],
    [
      'of an enable line and a direction',
      'loader',
      (d) => (d.wiring[6].direction = 16),
      [
        [
          'channel-twice',
          wires('m-spin', { role: 'direction' }),
          {
            ...{
              first: 'Rail stepper, enable',
              second: 'Flange stepper, direction',
              channel: 'enable',
              board: STEPS,
            },
          },
        ],
      ],
    ],
    [
      'of a counter that cannot count, and has one track only',
      'loader',
      (d) => {
        const { id, name, voltageV } = d.drives[0];
        d.drives[0] = { ...firstOfKind('dc-encoder'), id, name, voltageV } as Drive;
        Object.assign(pin(d, 0), { can: ['pwm'] });
        d.wiring[0].secondTrack = 0;
      },
      [
        ['pin-unable', wires('m-rail', { role: 'secondTrack' }), expect.objectContaining({ job: 'count pulses' })],
        [
          'channel-twice',
          wires('m-rail', { role: 'secondTrack' }),
          { first: 'Rail stepper', second: 'Rail stepper, second track', channel: 'step 1', board: STEPS },
        ],
        ['counter-unwired', wires('m-rail', { role: 'firstTrack' }), { drive: 'Rail stepper', on: 'one pin only' }],
      ],
    ],
    [
      'of a counter on no pin',
      'loader',
      (d) => {
        const { id, name, voltageV } = d.drives[0];
        d.drives[0] = { ...firstOfKind('dc-encoder'), id, name, voltageV } as Drive;
        Object.assign(pin(d, 0), { can: ['pwm'] });
      },
      [['counter-unwired', wires('m-rail', { role: 'firstTrack' }), { drive: 'Rail stepper', on: 'no pin' }]],
    ],
    [
      'of an input that cannot read',
      'loader',
      (d) => (d.signals[8].channel = 29),
      [
        [
          'pin-unable',
          item('signals', 'door'),
          expect.objectContaining({ what: 'Kiln door open', job: 'read a level' }),
        ],
      ],
    ],
    [
      'of an output that cannot switch',
      'loader',
      (d) => (d.signals[9].channel = 25),
      [
        [
          'pin-unable',
          item('signals', 'lamp'),
          expect.objectContaining({ what: 'Warning lamp', job: 'give out a level' }),
        ],
      ],
    ],
    [
      'of sensors: bus, counter, voltage',
      'loader',
      (d) => {
        Object.assign(d.sensors[0], { channel: 25 });
        Object.assign(d.sensors[1], { channel: 29, address: null, port: null });
        Object.assign(d.sensors[2], { channel: 30, address: null, port: null, kind: 'potentiometer' });
      },
      [
        [
          'pin-unable',
          item('sensors', 'turn-encoder'),
          expect.objectContaining({ job: 'speak on the two-wire bus' }),
        ],
        [
          'pin-unable',
          item('sensors', 'shoulder-encoder'),
          expect.objectContaining({ job: expect.stringMatching(/^(count pulses|measure a voltage)$/) }),
        ],
        ['pin-unable', item('sensors', 'elbow-encoder'), expect.objectContaining({ job: 'measure a voltage' })],
      ],
    ],
  ])('%s', (_what, which, edit, list) => {
    expect(told(which, edit)).toEqual(list);
  });
});

describe('what is told of lines, buses and supplies', () => {
  it.each<[string, keyof typeof rigs, (d: Rig) => unknown, Told[]]>([
    [
      'an input that nothing holds',
      'loader',
      (d) => (d.signals[8].pull = 'none'),
      [['input-floats', item('signals', 'door'), { signal: 'Kiln door open' }]],
    ],
    [
      'a line on no pin',
      'loader',
      (d) => (d.signals[9].channel = null),
      [['signal-unwired', item('signals', 'lamp'), { signal: 'Warning lamp' }]],
    ],
    [
      'a line on no board',
      'loader',
      (d) => (d.signals[9].board = null),
      [['signal-unwired', item('signals', 'lamp'), { signal: 'Warning lamp' }]],
    ],
    [
      'a line of no known level',
      'loader',
      (d) => (d.signals[7].activeLow = null),
      [['polarity-unknown', item('signals', 'vacuum'), { signal: 'Vacuum' }]],
    ],
    [
      'an output that is on while the board starts',
      'loader',
      (d) => Object.assign(d.signals[7], { activeLow: false }),
      [
        [
          'output-boot-on',
          item('signals', 'vacuum'),
          {
            ...{ signal: 'Vacuum', pin: 'output 1', level: 'high' },
            advice: 'Put a resistor that pulls down on the line.',
          },
        ],
      ],
    ],
    [
      'an output that nobody can tell',
      'loader',
      (d) => (pin(d, 27).boot = 'pulses'),
      [
        [
          'output-boot-unknown',
          item('signals', 'vacuum'),
          {
            ...{ signal: 'Vacuum', pin: 'output 1' },
            advice:
              'Choose a pin that is high or undriven while the board starts; this one drives the line, and no resistor wins against it.',
          },
        ],
      ],
    ],
    [
      'an output that the pin drives on',
      'loader',
      (d) => (pin(d, 27).boot = 'low'),
      [['output-boot-on', item('signals', 'vacuum'), expect.objectContaining({ level: 'low' })]],
    ],
    [
      'two sensors of one address on one port',
      'loader',
      (d) => (d.sensors[3].port = 1),
      [
        [
          'address-twice',
          item('sensors', 'twist-encoder'),
          { first: 'Encoder, shoulder', second: 'Encoder, twist', address: 54 },
        ],
      ],
    ],
    ['the same address at another port', 'loader', (d) => (d.sensors[3].port = 7), []],
    [
      'two bus servos of one address',
      'dipper',
      (d) => {
        const bus = { ...newBoard('32-bit', 'pwm'), name: 'Bus board' };
        d.boards[0] = bus;
        const serial = bus.pins.find((p) => p.can.includes('serial'))!.pin;
        const { figures } = catalogue.find((entry) => entry.figures.kind === 'bus-servo')!;
        d.drives = d.drives.map(({ id, name }) => ({
          ...structuredClone(figures),
          ...{ id, name, address: id === 'm-jaw' ? 3 : id.length },
        })) as Drive[];
        d.builds[0].calibrations = [];
        d.wiring.forEach((wire) => (wire.channel = serial));
      },
      expect.arrayContaining([
        ['address-twice', wires('m-wrist'), { first: 'Elbow servo', second: 'Wrist servo', address: 7 }],
      ]) as never,
    ],
    [
      'a driver that hangs on no board',
      'dipper',
      onKind('pwm-driver', [0, 1, 2, 3, 4]),
      [['board-without-host', item('boards', 'pwm'), { board: 'Other board' }]],
    ],
    [
      'two drivers of one address on one board',
      'dipper',
      (d) => {
        d.boards.push(
          { ...newBoard('pwm-driver', 'a'), name: 'A', host: 'pwm', address: 64 },
          { ...newBoard('pwm-driver', 'b'), name: 'B', host: 'pwm', address: 64 },
          { ...newBoard('pwm-driver', 'c'), name: 'C', host: 'pwm', address: 65 },
        );
      },
      [['address-twice', item('boards', 'b'), { first: 'A', second: 'B', address: 64 }]],
    ],
    [
      'more volts than a servo may have',
      'dipper',
      (d) => {
        d.rails[0].volts = 7.3;
        d.wiring = d.wiring.slice(0, 1);
      },
      [
        [
          'voltage-high',
          { station: 'motors', part: 'rails', drive: 'm-turn' },
          { drive: 'Turntable servo', wants: 6, rail: 'Servo supply', volts: 7.3 },
        ],
      ],
    ],
    ['as many volts as it may just have', 'dipper', (d) => (d.rails[0].volts = 6 * 1.2), []],
    ['as few volts as it may just have', 'dipper', (d) => (d.rails[0].volts = 6 * 0.75), []],
    [
      'fewer volts than it needs',
      'dipper',
      (d) => {
        d.rails[0].volts = 4.4;
        d.wiring = d.wiring.slice(0, 1);
      },
      [
        [
          'voltage-low',
          { station: 'motors', part: 'rails', drive: 'm-turn' },
          { drive: 'Turntable servo', wants: 6, rail: 'Servo supply', volts: 4.4 },
        ],
      ],
    ],
    ['more volts at a stepper’s driver', 'loader', (d) => (d.rails[0].volts = 36), []],
    [
      'a motor on no supply',
      'dipper',
      (d) => (d.wiring[2].rail = null),
      [['rail-missing', wires('m-elbow'), { drive: 'Elbow servo' }]],
    ],
    ['motors without any supply', 'dipper', (d) => ((d.rails = []), d.wiring.forEach((w) => (w.rail = null))), []],
    [
      'a motor on the board’s own regulator',
      'dipper',
      (d) => {
        Object.assign(d.rails[0], { source: 'board', board: 'pwm' });
        d.boards[0].regulatorA = 0.8;
        d.wiring = d.wiring.slice(3, 4);
      },
      [
        [
          'rail-on-board',
          { station: 'motors', part: 'rails', drive: 'm-wrist' },
          { drive: 'Wrist servo', board: PWM, gives: 0.8, takes: 0.7 },
        ],
      ],
    ],
    [
      'a supply whose ground is apart',
      'dipper',
      (d) => (d.rails[0].groundJoined = false),
      [['ground-open', { station: 'motors', part: 'rails' }, { rail: 'Servo supply' }]],
    ],
    ['one that nothing uses', 'loader', (d) => (d.rails[1].groundJoined = false), []],
    [
      'the board’s own, whose ground is the same',
      'dipper',
      (d) => {
        Object.assign(d.rails[0], { source: 'board', board: 'pwm', groundJoined: false });
        d.wiring = d.wiring.slice(0, 1);
      },
      [['rail-on-board', expect.anything(), expect.objectContaining({ takes: 2.4 })]],
    ],
  ])('%s', (_what, which, edit, list) => {
    expect(told(which, edit)).toEqual(list);
  });
});

describe('what is told of rates and homing', () => {
  const place = (drive: string): object => ({ station: 'motors', part: 'wires', drive, item: 'pwm' });
  it.each<[string, keyof typeof rigs, (d: Rig) => unknown, Told[]]>([
    [
      'more pulses than the board makes',
      'dipper',
      (d) => Object.assign(d.drives[1], { updateHz: 334 }),
      [['pulse-rate-over', place('m-shoulder'), { drive: 'Shoulder servo', wants: 334, board: PWM, most: 333 }]],
    ],
    ['as many as it makes', 'dipper', (d) => Object.assign(d.drives[1], { updateHz: 333 }), []],
    [
      'one rate for all, two wanted',
      'dipper',
      (d) => {
        d.boards[0].pulses.oneRate = true;
        Object.assign(d.drives[1], { updateHz: 60 });
        Object.assign(d.drives[3], { updateHz: 40 });
      },
      [
        [
          'pulse-rates-differ',
          place('m-turn'),
          { board: PWM, first: 'Turntable servo', fast: 50, second: 'Wrist servo', slow: 40 },
        ],
      ],
    ],
    ['one rate for all, one wanted', 'dipper', (d) => (d.boards[0].pulses.oneRate = true), []],
    [
      'an axis that trips past its joint',
      'loader',
      (d) => (d.homing.axes[2].at = 120),
      [
        [
          'homing-outside',
          { station: 'motors', part: 'homing', joint: 'nod' },
          expect.objectContaining({ joint: 'Wrist nod', at: 120, unit: '°' }),
        ],
      ],
    ],
    [
      'a hard stop past the limits, where it is',
      'loader',
      (d) => {
        const joint = d.mechanism.joints.find((j) => j.id === 'nod')! as {
          physical?: object;
          limits: { min: number };
        };
        joint.physical = { min: joint.limits.min - 20, max: 125 };
        Object.assign(d.homing.axes[2], { by: 'end-stop', at: 120, signal: null });
      },
      [],
    ],
    [
      'a switch there',
      'loader',
      (d) => {
        const joint = d.mechanism.joints.find((j) => j.id === 'nod')! as {
          physical?: object;
          limits: { min: number };
        };
        joint.physical = { min: joint.limits.min - 20, max: 125 };
        d.homing.axes[2].at = 120;
      },
      [['homing-outside', expect.anything(), expect.anything()]],
    ],
    [
      'a slide that trips past its end',
      'loader',
      (d) => (d.homing.axes[6].at = -30),
      [
        [
          'homing-outside',
          { station: 'motors', part: 'homing', joint: 'rail' },
          expect.objectContaining({ at: -30, unit: 'mm' }),
        ],
      ],
    ],
  ])('%s', (_what, which, edit, list) => {
    expect(told(which, edit)).toEqual(list);
  });
  it('a round of the program that is too long, with its parts', () => {
    const [[code, where, data], ...more] = told('loader', (d) => (d.boards[0].loop.everyMs = 3));
    expect(more).toEqual([]);
    expect([code, where]).toEqual(['loop-over', item('boards', 'steps')]);
    const { used, every, reads, maths, steps } = data as Record<string, number>;
    // Six encoders on the bus at 0.4 ms, seven joints at 0.15 ms.
    expect([every, reads, maths]).toEqual([3, expect.closeTo(2.4, 9), expect.closeTo(1.05, 9)]);
    expect(used).toBeCloseTo(reads + maths + steps, 9);
    expect(steps).toBeGreaterThan(0);
  });
  it('more steps than the board makes, at the joint that asks for most, with the speed that is left', () => {
    const [[code, where, data], ...more] = told('loader', (d) => (d.boards[0].stepsPerS = 50_000));
    expect([code, more]).toEqual(['steps-over-ceiling', []]);
    const { wanted, most, top, speed, unit, joint } = data as Record<string, number> & {
      unit: string;
      joint: string;
    };
    expect([most, speed / top]).toEqual([50_000, expect.closeTo(50_000 / wanted, 9)]);
    const loader = compiled(rigs.loader.mechanism);
    const { joint: id, ...rest } = where as { joint: string };
    expect(rest).toMatchObject({ station: 'motors', part: 'boards', item: 'steps' });
    expect(joint as string).toBe(loader.names[loader.index.get(id)!]);
    expect(unit).toBe(loader.units[loader.index.get(id)!] === 'mm' ? 'mm/s' : '°/s');
  });
});

describe('what a mend is called, and does', () => {
  /** The rig after the mend of its first finding of a code; its label; what is told then. */
  function mended(
    which: keyof typeof rigs,
    code: string,
    edit: (draft: Rig) => unknown,
  ): { label: string; rig: Rig; left: string[] } | null {
    const draft = structuredClone(rigs[which]) as Rig;
    edit(draft);
    const mechanism = compiled(draft.mechanism);
    const list = checkWiring(draft, mechanism, driveMaps(draft, mechanism, draft.builds[0]));
    const fix = wiringMends[code]!(
      draft,
      list.find((f) => f.code === code)!,
    );
    if (!fix) return null;
    const untouched = structuredClone(draft);
    const rig = structuredClone(draft) as Rig;
    fix.apply(rig);
    expect(draft).toEqual(untouched);
    const after = compiled(rig.mechanism);
    const left = checkWiring(rig, after, driveMaps(rig, after, rig.builds[0])).map((f) => f.code);
    return { label: fix.label, rig, left };
  }
  const wireOf = (rig: Rig, drive: string) => rig.wiring.find((w) => w.drive === drive)!;

  it('moves a motor to the first free pin of its board, else of another, and names that one', () => {
    const own = mended('dipper', 'channel-twice', (d) => (d.wiring[3].channel = 2))!;
    expect([own.label, own.left, wireOf(own.rig, 'm-wrist').channel]).toEqual(['Take pin 3', [], 3]);
    const other = mended('dipper', 'channel-missing', (d) => {
      d.boards[0].pins = d.boards[0].pins.slice(0, 4);
      d.boards.push({ ...newBoard('servo-board', 'two'), name: 'Second' });
    })!;
    expect([other.label, other.left]).toEqual(['Take pin 0 of Second', []]);
    expect(wireOf(other.rig, 'm-jaw')).toMatchObject({ board: 'two', channel: 0 });
    expect(mended('dipper', 'channel-missing', (d) => (d.boards[0].pins = d.boards[0].pins.slice(0, 4)))).toBeNull();
  });
  it('keeps the wires of one motor on one board', () => {
    const stuck = mended('loader', 'channel-twice', (d) => {
      d.wiring[6].channel = 5;
      d.boards[0].pins = d.boards[0].pins.filter((p) => p.pin !== 6 && p.pin !== 7);
      d.boards.push({ ...newBoard('step-board', 'two'), name: 'Second' });
    });
    expect(stuck).toBeNull();
    const moved = mended('loader', 'channel-twice', (d) => (d.wiring[6].channel = 5))!;
    expect([moved.label, wireOf(moved.rig, 'm-spin').channel]).toEqual(['Take pin step 7', 6]);
    const way = mended('loader', 'pin-unable', (d) => (d.wiring[0].direction = 25))!;
    expect(way.left).toEqual([]);
    expect(wireOf(way.rig, 'm-rail')).toMatchObject({
      channel: 0,
      enable: 16,
      direction: expect.toSatisfy((n) => n !== 25),
    });
  });
  it('puts lines and sensors on pins that can, and an output where it is off from the start', () => {
    const input = mended('loader', 'signal-unwired', (d) => (d.signals[8].channel = null))!;
    expect([input.label, input.left, input.rig.signals[8].channel]).toEqual(['Take pin input 8', [], 24]);
    const sensor = mended('loader', 'pin-unable', (d) => (d.sensors[0].channel = 25))!;
    expect([sensor.label, sensor.left, sensor.rig.sensors[0].channel]).toEqual(['Take pin bus data', [], 32]);
    const quiet = mended('loader', 'output-boot-on', (d) => (pin(d, 27).boot = 'low'))!;
    const at = quiet.rig.boards[0].pins.find((p) => p.pin === quiet.rig.signals[7].channel)!;
    expect([quiet.left, at.can.includes('output'), at.boot === 'low']).toEqual([[], true, false]);
  });
  it('gives the next free address, in both ways of writing it, and none that is the bus’s own', () => {
    const twice = (address: number) => (d: Rig) =>
      d.boards.push(
        { ...newBoard('pwm-driver', 'a'), name: 'A', host: 'pwm', address },
        { ...newBoard('pwm-driver', 'b'), name: 'B', host: 'pwm', address },
        { ...newBoard('pwm-driver', 'c'), name: 'C', host: 'pwm', address: address + 1 },
      );
    const two = mended('dipper', 'address-twice', twice(64))!;
    expect([two.label, two.left]).toEqual(['Give it address 66 (0x42)', []]);
    expect(two.rig.boards.map((b) => b.address)).toEqual([null, 64, 66, 65]);
    expect(mended('dipper', 'address-twice', twice(0x76))).toBeNull();
    const encoders = mended('loader', 'address-twice', (d) => (d.sensors[3].port = 1))!;
    expect([encoders.label, encoders.rig.sensors[3].address, encoders.left]).toEqual([
      'Give it address 55 (0x37)',
      55,
      [],
    ]);
  });
  it('takes rates, supplies and hosts that fit', () => {
    const over = mended('dipper', 'pulse-rate-over', (d) => Object.assign(d.drives[1], { updateHz: 400 }))!;
    expect([over.label, over.left]).toEqual(['Take 333 pulses a second', []]);
    expect(over.rig.drives[1]).toMatchObject({ updateHz: 333 });
    const rail = mended('dipper', 'rail-missing', (d) => (d.wiring[2].rail = null))!;
    expect([rail.label, rail.left, wireOf(rail.rig, 'm-elbow').rail]).toEqual([
      'Feed it from Servo supply',
      [],
      'servos',
    ]);
    expect(mended('loader', 'rail-missing', (d) => (d.wiring[2].rail = null))).toBeNull();
    const host = mended('dipper', 'board-without-host', (d) => {
      onKind('pwm-driver', [0, 1, 2, 3, 4])(d);
      d.boards.push({ ...newBoard('32-bit', 'main'), name: 'Main' });
    })!;
    expect([host.label, host.left, host.rig.boards[0].host]).toEqual(['Hang it on Main', [], 'main']);
    expect(mended('dipper', 'board-without-host', onKind('pwm-driver', [0, 1, 2, 3, 4]))).toBeNull();
  });
  it('slows joints, and makes a round as long as it takes', () => {
    const slower = mended('loader', 'steps-over-ceiling', (d) => (d.boards[0].stepsPerS = 50_000))!;
    expect(slower.label).toMatch(/^Slow its joints to \d+(\.\d)? %$/);
    expect(slower.left).toEqual([]);
    const share = Number(/[\d.]+/.exec(slower.label)![0]) / 100;
    const speeds = (rig: Rig): number[] =>
      rig.mechanism.joints.flatMap((j) =>
        'limits' in j && j.limits ? [(j.limits as { maxSpeed: number }).maxSpeed] : [],
      );
    const before = speeds(rigs.loader);
    const after = speeds(slower.rig);
    expect(after.some((v, k) => v < before[k])).toBe(true);
    after.forEach((v, k) => expect([1, share].some((s) => Math.abs(v / before[k] - s) < 2e-3)).toBe(true));
    expect(mended('loader', 'steps-over-ceiling', (d) => (d.boards[0].stepsPerS = 500))).toBeNull();
    const round = mended('loader', 'loop-over', (d) => (d.boards[0].loop.everyMs = 3))!;
    expect([round.label, round.left]).toEqual([`Make a round ${round.rig.boards[0].loop.everyMs} ms`, []]);
    const stuck = mended('loader', 'loop-over', (d) => Object.assign(d.boards[0].loop, { everyMs: 3, stepUs: 40 }));
    expect(stuck).toBeNull();
  });
});
