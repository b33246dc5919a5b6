/** The Kiln-shelf loader: six stepper axes riding on a rail, a suction cup that takes kiln shelves by their middle. */
import { catalogue } from '@cork-elbow/core/actuators';
import { newBoard } from '@cork-elbow/core/wiring';
import type { Drive, HomingAxis, Rig, Transmission } from '@cork-elbow/core/rig';
import { must, tour, turn, withRoutines } from './club';

/** Joint, size class, sense, and degrees of the motor per degree (or mm) of the joint: gearbox × belt. */
const motors: readonly (readonly [string, string, string, 1 | -1, number])[] = [
  ['rail', 'Rail stepper', 'stepper-57', 1, 9],
  ['turn', 'Turntable stepper', 'stepper-57', 1, 10],
  ['shoulder', 'Shoulder stepper', 'stepper-57', -1, 24],
  ['elbow', 'Elbow stepper', 'stepper-42-geared', 1, 5],
  ['twist', 'Twist stepper', 'stepper-42', 1, 8],
];
const figures = (id: string): Omit<Drive, 'id' | 'name'> => catalogue.find((entry) => entry.id === id)!.figures;
const drives = [
  ...motors.map(([id, name, model, direction]) => ({ ...figures(model), direction, id: `m-${id}`, name })),
  // Nod and flange share two small steppers: the flange's belt runs over the nod's axis.
  ...['nod', 'spin'].map((id, k) => ({
    ...figures('stepper-35'),
    id: `m-${id}`,
    name: k ? 'Flange stepper' : 'Nod stepper',
  })),
] as Drive[];
const transmissions: Transmission[] = [
  ...motors.map(([id, , , , reduction]): Transmission => ({
    id: `t-${id}`,
    kind: 'ratio',
    joints: [id],
    drives: [`m-${id}`],
    reduction,
  })),
  {
    id: 't-wrist',
    kind: 'matrix',
    joints: ['nod', 'spin'],
    drives: ['m-nod', 'm-spin'],
    matrix: [
      [6, 0],
      [3, 4],
    ],
  },
];

const axes = ['rail', 'turn', 'shoulder', 'elbow', 'twist', 'nod', 'spin'] as const;
const titles = ['rail', 'turntable', 'shoulder', 'elbow', 'twist', 'nod', 'flange'] as const;
const colours = ['brown', 'red', 'orange', 'yellow', 'green', 'blue', 'violet'] as const;

/** Joint, which end, speed, where its switch trips, and the pose of others that it needs. */
const seeks: readonly (readonly [string, 'min' | 'max', number, number, Record<string, number>, boolean])[] = [
  ['elbow', 'max', 20, 141.5, {}, false],
  ['shoulder', 'min', 15, -72, { elbow: 140 }, false],
  ['nod', 'max', 30, 106, {}, false],
  ['twist', 'min', 40, -172, {}, true],
  ['spin', 'min', 40, -172, {}, false],
  ['turn', 'min', 20, -167, { shoulder: -60, elbow: 140 }, false],
  ['rail', 'min', 60, 4, {}, true],
];
const homing = seeks.map(([joint, end, fast, at, waits, together]): HomingAxis => ({
  joint,
  by: 'switch',
  end,
  signal: `${joint}-switch`,
  switchKind: joint === 'rail' ? 'mechanical' : 'optical',
  fast,
  slow: fast / 8,
  backOff: joint === 'rail' ? 6 : 3,
  at,
  spread: 0.05,
  waits,
  together,
}));

const loader = (): Rig =>
  must({
    format: 'cork-elbow-rig',
    version: 7,
    name: 'Kiln-shelf loader',
    drives,
    transmissions,
    boards: [newBoard('step-board', 'steps', 'Step board in the plinth')],
    rails: [
      { id: 'motors', name: 'Motor supply', volts: 24, source: 'supply', amps: 14.6, fuseA: 15 },
      { id: 'pump', name: 'Pump supply', volts: 12, source: 'supply', amps: 3, fuseA: 3 },
    ],
    wiring: axes.map((id, k) => ({
      id: `w-${id}`,
      drive: `m-${id}`,
      board: 'steps',
      channel: k,
      direction: 8 + k,
      enable: 16,
      rail: 'motors',
      colour: colours[k],
    })),
    signals: [
      ...axes.map((id, k) => ({
        id: `${id}-switch`,
        name: `Home switch, ${titles[k]}`,
        way: 'in' as const,
        board: 'steps',
        channel: 17 + k,
        activeLow: true,
        pull: 'up' as const,
      })),
      {
        id: 'vacuum',
        name: 'Vacuum',
        way: 'out',
        board: 'steps',
        channel: 27,
        activeLow: true,
        pull: 'up',
        note: 'Relay board; its input is on when low.',
      },
      {
        id: 'door',
        name: 'Kiln door open',
        way: 'in',
        board: 'steps',
        channel: 24,
        activeLow: true,
        pull: 'up',
        note: 'Reed switch on the door.',
      },
      {
        id: 'lamp',
        name: 'Warning lamp',
        way: 'out',
        board: 'steps',
        channel: 28,
        activeLow: true,
        pull: 'up',
      },
    ],
    sensors: axes.slice(1).map((id, k) => ({
      id: `${id}-encoder`,
      name: `Encoder, ${titles[k + 1]}`,
      kind: 'encoder' as const,
      joint: id,
      countsPerTurn: 4096,
      wraps: true,
      board: 'steps',
      channel: 32,
      address: 54,
      port: k,
    })),
    homing: { axes: homing, parked: { pose: 'rest', speedShare: 0.3 } },
    powerUp: { rest: 'rest', gapMs: 300, maxDegPerS: 20, order: axes.map((id) => `m-${id}`), at: {} },
    mechanism: {
      base: {
        feet: [
          [140, 560],
          [-140, 560],
          [-140, -560],
          [140, -560],
        ],
        massG: 14500,
        comMm: [0, 0, 40],
      },
      joints: [
        {
          id: 'rail',
          name: 'Rail',
          type: 'prismatic',
          parent: null,
          origin: { xyzMm: [0, -450, 84] },
          axis: [0, 1, 0],
          limits: { min: 0, max: 900, maxSpeed: 150, maxAccel: 300, maxJerk: 2000 },
          physical: { min: -8, max: 912 },
          home: 450,
          link: { massG: 2100, radiusMm: 62 },
        },
        turn('turn', 'Turntable', 'rail', [0, 0, 96], [0, 0, 1], [-170, 170], {
          massG: 2400,
          radiusMm: 52,
          speed: 60,
          accel: 180,
        }),
        turn('shoulder', 'Shoulder', 'turn', [42, 0, 92], [0, 1, 0], [-75, 100], {
          home: -30,
          massG: 1900,
          radiusMm: 44,
          speed: 45,
          accel: 140,
        }),
        turn('elbow', 'Elbow', 'shoulder', [0, 0, 320], [0, 1, 0], [-20, 142], {
          home: 110,
          massG: 1300,
          radiusMm: 36,
          speed: 60,
          accel: 180,
        }),
        turn('twist', 'Forearm twist', 'elbow', [0, 0, 118], [0, 0, 1], [-175, 175], {
          massG: 700,
          radiusMm: 29,
          speed: 120,
          accel: 400,
        }),
        turn('nod', 'Wrist nod', 'twist', [0, 0, 184], [0, 1, 0], [-110, 110], {
          home: 100,
          massG: 420,
          radiusMm: 24,
          speed: 120,
          accel: 400,
        }),
        turn('spin', 'Flange', 'nod', [0, 0, 62], [0, 0, 1], [-175, 175], {
          massG: 130,
          radiusMm: 20,
          speed: 180,
          accel: 600,
        }),
      ],
      // The forearm's belt cover meets the upper arm's motor.
      limitRules: [{ while: { joint: 'shoulder', above: 70 }, joint: 'elbow', max: 95 }],
      cables: [
        {
          id: 'hose',
          name: 'Vacuum hose',
          slackMm: 130,
          around: [
            { joint: 'twist', radiusMm: 22 },
            { joint: 'spin', radiusMm: 18 },
          ],
        },
      ],
      tools: [
        {
          id: 'cup',
          name: 'Suction cup',
          parent: 'spin',
          origin: { xyzMm: [0, 0, 74] },
          massG: 160,
          comMm: [0, 0, -34],
          grip: { output: 'vacuum', openS: 0.6, closeS: 1.2 },
          padFriction: 0.7,
        },
        {
          id: 'fork',
          name: 'Post fork',
          parent: 'spin',
          origin: { xyzMm: [0, 0, 128] },
          massG: 310,
          comMm: [0, 0, -70],
          mounted: false,
        },
      ],
    },
    spots: [
      { id: 'cart', name: 'Cart, top shelf', xyzMm: [60, 620, 250], direction: [0, 0, -1] },
      { id: 'kiln', name: 'Kiln, second tier', xyzMm: [520, 0, 262], direction: [0, 0, -1] },
    ],
    frames: [
      {
        id: 'kiln-floor',
        name: 'Kiln floor',
        fixedTo: 'world',
        xyzMm: [360, -170, 120],
        rpyDeg: [0, 0, 0],
        touchedMm: [
          [360, -170, 120],
          [560, -170, 120],
          [360, 60, 120],
        ],
      },
      { id: 'flange', name: 'Flange face', fixedTo: { joint: 'spin' }, xyzMm: [0, 0, 12] },
    ],
    obstacles: [
      { id: 'floor', name: 'kiln floor', kind: 'box', xyzMm: [540, 0, 0], sizeMm: [360, 380, 120] },
      { id: 'left-wall', name: 'kiln wall, left', kind: 'box', xyzMm: [540, 205, 120], sizeMm: [360, 30, 260] },
      { id: 'right-wall', name: 'kiln wall, right', kind: 'box', xyzMm: [540, -205, 120], sizeMm: [360, 30, 260] },
      { id: 'back-wall', name: 'kiln wall, back', kind: 'box', xyzMm: [735, 0, 120], sizeMm: [30, 440, 260] },
      { id: 'cart', name: 'shelf cart', kind: 'box', xyzMm: [60, 640, 0], sizeMm: [330, 300, 240] },
    ],
    payloads: [{ id: 'shelf', name: 'kiln shelf', massG: 1450, comMm: [0, 0, 7], sizeMm: [280, 230, 14] }],
    poses: [
      {
        id: 'rest',
        name: 'Rest',
        joints: { rail: 450, turn: 0, shoulder: -60, elbow: 140, twist: 0, nod: 100, spin: 0 },
      },
      {
        id: 'at-cart',
        name: 'Over the cart',
        joints: { rail: 700, turn: 75, shoulder: 12, elbow: 92, twist: 0, nod: 76, spin: 0 },
      },
      {
        id: 'at-kiln',
        name: 'Before the kiln',
        joints: { rail: 450, turn: 0, shoulder: 8, elbow: 96, twist: 0, nod: 76, spin: 0 },
      },
      {
        id: 'drawn-in',
        name: 'Drawn in',
        joints: { rail: 450, turn: 75, shoulder: -20, elbow: 92, twist: 0, nod: 108, spin: 0 },
      },
    ],
    routines: [
      tour('round', 'Cart to kiln, empty', [
        ['rest', 0.6, 0],
        ['at-cart', 0.5, 2],
        ['at-kiln', 0.4, 2],
        ['rest', 0.5, 0],
      ]),
    ],
  });

export const kilnLoader = (): Rig =>
  withRoutines(loader(), [
    {
      id: 'fold',
      name: 'Fold over the plinth',
      role: 'park',
      text: `
        Joint move to pose "Before the kiln", rounded by 60 mm, at 30 %
        Joint move to pose "Rest", at 30 %`,
    },
    {
      id: 'load',
      name: 'Load one shelf',
      note: 'From the cart to the second tier; the lamp is on while the arm is near the kiln.',
      text: `
        Wait for input "Kiln door open" on, at most 60 s, then jump to "door shut"
        Set output "Warning lamp" on
        Grip with tool "Suction cup" to open, at 50 %
        Joint move to pose "Over the cart", at 50 %
        Approach spot "Cart, top shelf", last 80 mm straight, slowly at 40 mm/s, at 40 %
        Grip with tool "Suction cup" to closed, holding payload "kiln shelf", at 50 %
        Retreat 80 mm, at 60 mm/s
        Joint move to pose "Drawn in", at 30 %, note "The shelf passes the kiln's wall and clears the shoulder"
        Joint move to pose "Before the kiln", at 30 %
        Approach spot "Kiln, second tier", last 50 mm straight, slowly at 25 mm/s, at 25 %
        Grip with tool "Suction cup" to open, letting go, at 50 %
        Retreat 50 mm, at 60 mm/s
        Joint move to pose "Before the kiln", at 40 %
        Set output "Warning lamp" off
        Call "Fold over the plinth"
        Return, skipped
        Marker "door shut"
        Note, note "The door stayed shut: the arm does not move"`,
    },
  ]);
