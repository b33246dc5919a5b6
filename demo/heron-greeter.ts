/** The Heron greeter: the showroom's nodding bird, three neck axes, a beak, lids over both eyes worked by one motor. */
import type { JointInput, Rig } from '@cork-elbow/core/rig';
import { must, servos, tour, turn, withRoutines } from './club';

type Triple = [number, number, number];
const EYE: Triple = [16, 17, 17];
const mirror = ([x, y, z]: Triple): Triple => [x, -y, z];
const ball = (centreMm: Triple, d: number, tone: 'paper' | 'dark' | 'cork') => ({
  kind: 'ball' as const,
  centreMm,
  sizeMm: [d, d, d] as Triple,
  tone,
});
const lid = {
  kind: 'ball' as const,
  centreMm: [-1, 0, 4] as Triple,
  sizeMm: [14, 15, 12] as Triple,
  tone: 'cork' as const,
};

const joints: JointInput[] = [
  turn('turn', 'Neck turn', null, [22, 0, 268], [0, 0, 1], [-75, 75], { massG: 90, radiusMm: 20, speed: 70 }),
  turn('bow', 'Neck bow', 'turn', [0, 0, 26], [0, 1, 0], [-35, 70], {
    home: -14,
    massG: 110,
    radiusMm: 16,
    speed: 60,
  }),
  turn('nod', 'Head nod', 'bow', [0, 0, 172], [0, 1, 0], [-45, 60], {
    home: 24,
    speed: 90,
    link: {
      massG: 95,
      comMm: [14, 0, 10],
      radiusMm: 11,
      bodies: [
        { kind: 'ball', centreMm: [8, 0, 12], sizeMm: [62, 40, 40] },
        { kind: 'cone', centreMm: [78, 0, 13], rpyDeg: [0, 90, 0], sizeMm: [19, 17, 96], tone: 'cork' },
        ball([EYE[0], EYE[1] - 2, EYE[2]], 11, 'dark'),
        ball([EYE[0], -EYE[1] + 2, EYE[2]], 11, 'dark'),
        { kind: 'cone', centreMm: [-34, 0, 24], rpyDeg: [0, -72, 0], sizeMm: [9, 9, 58], tone: 'dark' },
      ],
    },
  }),
  turn('beak', 'Beak', 'nod', [32, 0, 6], [0, 1, 0], [0, 28], {
    role: 'jaw',
    speed: 180,
    link: {
      massG: 9,
      radiusMm: 4,
      bodies: [{ kind: 'cone', centreMm: [42, 0, -2], rpyDeg: [0, 90, 0], sizeMm: [13, 12, 84], tone: 'cork' }],
    },
  }),
  turn('lid-l', 'Left lid', 'nod', EYE, [0, 1, 0], [-10, 60], {
    home: -8,
    speed: 240,
    link: { massG: 2, radiusMm: 3, bodies: [lid] },
  }),
  {
    id: 'lid-r',
    name: 'Right lid',
    type: 'revolute',
    parent: 'nod',
    origin: { xyzMm: mirror(EYE) },
    axis: [0, 1, 0],
    follows: [{ joint: 'lid-l', factor: 1 }],
    coupling: 'cord',
    link: { massG: 2, radiusMm: 3, bodies: [lid] },
  },
];

const heron = (): Rig =>
  must({
    format: 'cork-elbow-rig',
    version: 7,
    name: 'Heron greeter',
    mechanism: {
      base: {
        feet: [
          [90, 70],
          [-90, 70],
          [-90, -70],
          [90, -70],
        ],
        massG: 1900,
        comMm: [0, 0, 90],
        bodies: [
          { kind: 'ball', centreMm: [-22, 0, 222], sizeMm: [190, 92, 104] },
          { kind: 'cone', centreMm: [-132, 0, 206], rpyDeg: [0, -104, 0], sizeMm: [52, 52, 104], tone: 'dark' },
          { kind: 'cylinder', centreMm: [-12, 22, 92], sizeMm: [9, 9, 170], tone: 'dark' },
          { kind: 'cylinder', centreMm: [-12, -22, 92], sizeMm: [9, 9, 170], tone: 'dark' },
          { kind: 'cylinder', centreMm: [0, 0, 9], sizeMm: [150, 150, 6] },
        ],
      },
      joints,
      tools: [
        {
          id: 'tip',
          name: 'Beak tip',
          parent: 'nod',
          origin: { xyzMm: [126, 0, 12], rpyDeg: [0, 90, 0] },
          grip: { joint: 'beak', open: 24, closed: 2, openS: 0.25, closeS: 0.25 },
        },
      ],
    },
    ...servos(joints, new Set(['turn', 'bow'])),
    spots: [
      { id: 'door', name: 'Door, eye level', xyzMm: [620, 260, 520] },
      { id: 'bell', name: 'Bell on the desk', xyzMm: [270, 0, 330] },
    ],
    poses: [
      { id: 'rest', name: 'Asleep', joints: { turn: 0, bow: 58, nod: 40, 'lid-l': 55 } },
      { id: 'look', name: 'Looks up', joints: { turn: 0, bow: -14, nod: 20, 'lid-l': -8 } },
      { id: 'door', name: 'Looks at the door', joints: { turn: 26, bow: -18, nod: 12, 'lid-l': -8 } },
      { id: 'bow', name: 'Bows', joints: { turn: 26, bow: 30, nod: 34, 'lid-l': 20 } },
    ],
    routines: [
      tour('greet', 'Greets a visitor', [
        ['rest', 0.5, 0.5],
        ['look', 0.4, 0.8],
        ['door', 0.5, 0.6],
        ['bow', 0.4, 0.9],
        ['door', 0.4, 1.2],
        ['rest', 0.3, 0],
      ]),
    ],
  });

export const heronGreeter = (): Rig =>
  withRoutines(heron(), [
    {
      id: 'blink',
      name: 'Blink',
      note: 'Both lids, twice; the left one leads.',
      profile: 'soft-stop',
      text: `
        Repeat 2 times
          Joint move to joints lid-l 50, in 1 s
          Joint move to joints lid-l -8, in 1 s
          Wait 0.6 s
        End`,
    },
    {
      id: 'nod',
      name: 'Nods and blinks',
      note: 'The neck goes its own way while the eyes do theirs.',
      profile: 'minimum-jerk',
      text: `
        Joint move to pose "Looks up", at 40 %
        Alongside "Blink"
          Joint move to joints turn 26 bow -18, each at its own pace, at 50 %
          Joint move to joints from here nod 12, at 40 %
          Joint move to joints from here nod -12, at 40 %, soft stop
        End
        Grip with tool "Beak tip" to open, at 80 %
        Grip with tool "Beak tip" to closed, at 80 %
        Joint move to pose "Asleep", at 30 %`,
    },
  ]);
