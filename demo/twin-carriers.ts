/** The Twin carriers: a torso with two four-joint arms on one servo board that lift a ware board with both hands. */
import { mechanismSchema, mirrorLimb, type JointInput, type Rig, type TreeDoc } from '@cork-elbow/core/rig';
import { must, servos, tour, turn } from './club';

const left: JointInput[] = [
  turn('swing-l', 'Left swing', null, [0, 108, 372], [0, 1, 0], [-150, 20], {
    home: -35,
    massG: 95,
    radiusMm: 21,
  }),
  turn('aside-l', 'Left lift aside', 'swing-l', [0, 22, 0], [1, 0, 0], [-8, 85], {
    home: 6,
    massG: 85,
    radiusMm: 19,
  }),
  turn('elbow-l', 'Left elbow', 'aside-l', [0, 0, -138], [0, 1, 0], [-125, 0], {
    home: -70,
    massG: 62,
    radiusMm: 15,
  }),
  turn('wrist-l', 'Left wrist', 'elbow-l', [0, 0, -121], [0, 1, 0], [-90, 90], {
    home: 15,
    massG: 34,
    radiusMm: 12,
    speed: 120,
  }),
];

export function twinCarriers(): Rig {
  const doc = mechanismSchema.parse({
    joints: left,
    tools: [
      {
        id: 'hand-l',
        name: 'Left hand',
        parent: 'wrist-l',
        origin: { xyzMm: [0, 0, -58], rpyDeg: [180, 0, 0] },
        massG: 38,
        comMm: [0, 0, -25],
        padFriction: 0.8,
      },
    ],
  }) as TreeDoc;
  const right = mirrorLimb(doc, 'swing-l');
  const joints = [...doc.joints, ...right.joints];
  /** The same values on both sides. */
  const both = (values: Record<string, number>): Record<string, number> =>
    Object.fromEntries(
      Object.entries(values).flatMap(([id, v]) => [
        [`${id}-l`, v],
        [`${id}-r`, v],
      ]),
    );
  return must({
    format: 'cork-elbow-rig',
    version: 7,
    name: 'Twin carriers',
    mechanism: {
      base: {
        feet: [
          [130, 150],
          [-130, 150],
          [-130, -150],
          [130, -150],
        ],
        massG: 4200,
        comMm: [0, 0, 120],
        bodies: [
          { kind: 'box', centreMm: [-6, 0, 168], sizeMm: [54, 70, 320] },
          { kind: 'box', centreMm: [0, 0, 352], sizeMm: [76, 176, 92] },
          { kind: 'cylinder', centreMm: [0, 0, 412], sizeMm: [44, 44, 28], tone: 'dark' },
        ],
      },
      joints,
      tools: [...doc.tools, ...right.tools],
    },
    ...servos(joints as JointInput[], new Set(['swing-l', 'aside-l', 'elbow-l', 'swing-r', 'aside-r', 'elbow-r'])),
    spots: [
      { id: 'left-edge', name: 'Board, left edge', xyzMm: [246, 134, 178] },
      { id: 'left-shelf', name: 'Drying shelf, left', xyzMm: [190, 210, 330] },
    ],
    obstacles: [
      { id: 'table', name: 'glazing table', kind: 'box', xyzMm: [330, 0, 0], sizeMm: [240, 620, 150] },
      { id: 'chest', name: 'own chest', kind: 'box', xyzMm: [0, 0, 306], sizeMm: [80, 180, 92], fixedTo: 'base' },
    ],
    payloads: [{ id: 'ware-board', name: 'ware board', massG: 680, comMm: [0, 0, 8], sizeMm: [150, 260, 16] }],
    poses: [
      { id: 'rest', name: 'Arms down', joints: both({ swing: 0, aside: 4, elbow: -15, wrist: 0 }) },
      { id: 'ready', name: 'Ready at the table', joints: both({ swing: -35, aside: 6, elbow: -70, wrist: 15 }) },
      { id: 'lift', name: 'Board lifted', joints: both({ swing: -62, aside: 4, elbow: -60, wrist: 32 }) },
    ],
    routines: [
      tour('lift', 'Lift and set down', [
        ['rest', 0.5, 0],
        ['ready', 0.4, 1],
        ['lift', 0.3, 2],
        ['ready', 0.3, 1],
        ['rest', 0.4, 0],
      ]),
    ],
  });
}
