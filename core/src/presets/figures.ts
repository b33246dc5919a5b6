/** Presets of figures: necks, heads, legs, walkers, torsos. Forward is where they look, left is their left. */
import { mechanismSchema, mirrorLimb, type JointInput, type ToolInput, type TreeDoc } from '../rig';
import { feet, following, measure, PITCH, rigOf, ROLL, TURN, turning } from './parts';
import type { Measured, Preset } from './preset';

type Triple = [number, number, number];
const box = (centreMm: Triple, sizeMm: Triple, tone: 'paper' | 'dark' | 'cork' = 'paper') => ({
  kind: 'box' as const,
  centreMm,
  sizeMm,
  tone,
});
const ball = (centreMm: Triple, d: number, tone: 'paper' | 'dark' | 'cork' = 'paper') => ({
  kind: 'ball' as const,
  centreMm,
  sizeMm: [d, d, d] as Triple,
  tone,
});

export const neck: Preset = {
  id: 'neck',
  name: 'Neck: turn, nod, tilt',
  says: 'Three axes under a head, or under a camera that should keep looking at something.',
  group: 'figures',
  measures: [
    measure('height', 'Stand up to the nodding pivot', 110, ['ground/nod', 'nod'], 'upright'),
    measure('tilt', 'Nodding pivot up to the tilting pivot', 30, ['nod', 'tilt'], 'upright', { min: 0 }),
    measure('up', 'Tilting pivot up to the eye line', 55, ['tilt', 'tool/gaze'], 'upright', { min: 0 }),
    measure('ahead', 'Tilting pivot forward to the face', 48, ['tilt', 'tool/gaze'], 'level', { min: 0 }),
  ],
  build: (name, v) =>
    rigOf(
      name,
      {
        base: { feet: feet(110, 110), massG: 500 },
        joints: [
          turning('turn', 'Turn', null, [0, 0, Math.round(v.height * 0.6)], TURN, [-80, 80], {
            massG: 60,
            radiusMm: 20,
          }),
          turning('nod', 'Nod', 'turn', [0, 0, v.height - Math.round(v.height * 0.6)], PITCH, [-40, 50], {
            massG: 50,
            radiusMm: 15,
          }),
          turning('tilt', 'Tilt', 'nod', [0, 0, v.tilt], ROLL, [-30, 30], {
            link: {
              massG: 180,
              comMm: [0, 0, v.up],
              radiusMm: 12,
              bodies: [
                { kind: 'ball', centreMm: [0, 0, v.up], sizeMm: [v.ahead * 2, v.ahead * 1.7, v.ahead * 2.1] },
                ball([v.ahead * 0.86, v.ahead * 0.34, v.up + 4], 12, 'dark'),
                ball([v.ahead * 0.86, -v.ahead * 0.34, v.up + 4], 12, 'dark'),
              ],
            },
          }),
        ],
        tools: [
          {
            id: 'gaze',
            name: 'Line of sight',
            parent: 'tilt',
            origin: { xyzMm: [v.ahead, 0, v.up], rpyDeg: [0, 90, 0] },
          },
        ],
      },
      { servos: true },
    ),
};

export const head: Preset = {
  id: 'head',
  name: 'Head with eyes and lids',
  says: 'A nodding neck, two eyes that turn together, one motor for both lids.',
  group: 'figures',
  measures: [
    measure('height', 'Stand up to the nodding pivot', 90, ['ground/nod', 'nod'], 'upright'),
    measure('up', 'Nodding pivot up to the eyes', 75, ['nod', 'eyes'], 'upright'),
    measure('ahead', 'Nodding pivot forward to the eyes', 34, ['nod', 'eyes'], 'level', { min: 0 }),
    measure('apart', 'Middle of one eye to the other', 52, ['eye-l', 'eye-r'], 'level', { view: 'front' }),
    measure('ball', 'Eyeball across', 30, ['back/eye-l', 'front/eye-l'], 'level'),
  ],
  build(name, v) {
    const eye = (id: string, label: string, y: number, follow: boolean): JointInput => {
      const link = {
        massG: 8,
        radiusMm: 4,
        bodies: [ball([0, 0, 0], v.ball), ball([v.ball * 0.36, 0, 0], v.ball * 0.42, 'dark' as const)],
      };
      return follow
        ? following(id, label, 'eyes', [0, y, 0], TURN, [{ joint: 'eye-l', factor: 1 }], 'cord', { link })
        : turning(id, label, 'eyes', [0, y, 0], TURN, [-30, 30], { link, massG: 8 });
    };
    const lid = (id: string, label: string, y: number, follow: boolean): JointInput => {
      const shell = v.ball * 1.14;
      const link = {
        massG: 4,
        radiusMm: 3,
        bodies: [box([shell * 0.12, 0, shell * 0.46], [shell * 0.8, shell, shell * 0.16], 'cork' as const)],
      };
      return follow
        ? following(id, label, 'nod', [v.ahead, y, v.up], PITCH, [{ joint: 'lid-l', factor: 1 }], 'cord', { link })
        : turning(id, label, 'nod', [v.ahead, y, v.up], PITCH, [-35, 55], { link, massG: 4 });
    };
    const half = v.apart / 2;
    return rigOf(
      name,
      {
        base: { feet: feet(110, 110), massG: 500 },
        joints: [
          turning('turn', 'Neck turn', null, [0, 0, Math.round(v.height * 0.6)], TURN, [-70, 70], {
            massG: 70,
            radiusMm: 20,
          }),
          turning('nod', 'Neck nod', 'turn', [0, 0, v.height - Math.round(v.height * 0.6)], PITCH, [-35, 40], {
            link: {
              massG: 260,
              comMm: [5, 0, v.up],
              radiusMm: 14,
              bodies: [
                {
                  kind: 'ball',
                  centreMm: [v.ahead * 0.1, 0, v.up * 0.95],
                  sizeMm: [v.ahead * 2.4, v.apart * 1.9, v.up * 1.5],
                },
                {
                  kind: 'cone',
                  centreMm: [v.ahead * 1.45, 0, v.up * 0.72],
                  rpyDeg: [0, 90, 0],
                  sizeMm: [18, 18, 34],
                  tone: 'cork',
                },
              ],
            },
          }),
          turning('eyes', 'Eyes up and down', 'nod', [v.ahead, 0, v.up], PITCH, [-25, 25], {
            link: { massG: 10, radiusMm: 3, bodies: [box([-v.ball * 0.6, 0, 0], [5, v.apart, 5], 'dark')] },
          }),
          eye('eye-l', 'Left eye', half, false),
          eye('eye-r', 'Right eye', -half, true),
          lid('lid-l', 'Left lid', half, false),
          lid('lid-r', 'Right lid', -half, true),
        ],
        tools: [
          {
            id: 'gaze',
            name: 'Line of sight',
            parent: 'eye-l',
            origin: { xyzMm: [v.ball / 2, 0, 0], rpyDeg: [0, 90, 0] },
          },
        ],
      },
      { servos: true },
    );
  },
};

/** A leg on hip pivot `at`: swings aside and forward, bends, its sole kept level by a computed ankle. */
function legOf(v: Measured, at: Triple, side: '' | '-l' = ''): { joints: JointInput[]; tool: ToolInput } {
  const label = (text: string): string => (side ? `Left ${text}` : text[0].toUpperCase() + text.slice(1));
  const [hip, thigh, knee, ankle] = ['hip', 'thigh', 'knee', 'ankle'].map((id) => id + side);
  return {
    joints: [
      turning(hip, label('hip aside'), null, at, ROLL, [-25, 35], { massG: 60, radiusMm: 16 }),
      turning(thigh, label('hip forward'), hip, [0, 0, 0], PITCH, [-70, 60], { home: -22, massG: 90, radiusMm: 17 }),
      turning(knee, label('knee'), thigh, [0, 0, -v.thigh], PITCH, [0, 110], { home: 44, massG: 70, radiusMm: 14 }),
      following(
        ankle,
        label('ankle'),
        knee,
        [0, 0, -v.shin],
        PITCH,
        [
          { joint: thigh, factor: -1 },
          { joint: knee, factor: -1 },
        ],
        'computed',
        {
          link: {
            massG: 60,
            radiusMm: 10,
            bodies: [
              box([v.sole * 0.12, 0, -v.ankle + 5], [v.sole, v.sole * 0.55, 10], 'dark'),
              box([0, 0, -v.ankle / 2 + 4], [18, 24, v.ankle], 'paper'),
            ],
          },
        },
      ),
    ],
    tool: {
      id: `sole${side}`,
      name: label('sole'),
      parent: ankle,
      origin: { xyzMm: [0, 0, -v.ankle], rpyDeg: [180, 0, 0] },
    },
  };
}
const RAD = Math.PI / 180;
/** Height of the hip above the sole in the home pose, from the leg's own home angles. */
const standing = (v: Measured): number =>
  Math.round((v.thigh * Math.cos(22 * RAD) + v.shin * Math.cos(22 * RAD) + v.ankle) * 10) / 10;
const legMeasures = (suffix: string) => [
  measure('thigh', 'Hip pivot to knee pivot', 95, [`thigh${suffix}`, `knee${suffix}`]),
  measure('shin', 'Knee pivot to ankle pivot', 90, [`knee${suffix}`, `ankle${suffix}`]),
  measure(
    'ankle',
    'Ankle pivot down to the ground',
    32,
    [`ankle${suffix}`, `tool/sole${suffix}`],
    'upright' as const,
  ),
];

export const leg: Preset = {
  id: 'leg',
  name: 'Leg with a level sole',
  says: 'Four axes from hip to ankle; the ankle is worked out so that the sole stays level.',
  group: 'figures',
  measures: [...legMeasures(''), measure('sole', 'Sole, heel to toe', 90, ['back/ankle', 'front/ankle'], 'level')],
  build(name, v) {
    const { joints, tool } = legOf(v, [0, 0, 0]);
    return rigOf(
      name,
      {
        base: {
          massG: 400,
          mounting: { xyzMm: [0, 0, standing(v)] },
          bodies: [box([0, 0, 38], [70, 80, 40])],
        },
        joints,
        tools: [tool],
      },
      { servos: true },
    );
  },
};

/** An arm on shoulder pivot `at`, hanging: swings forward, aside, bends at the elbow. */
function hangingArm(v: Measured, at: Triple, more: boolean): { joints: JointInput[]; tool: ToolInput } {
  const joints = [
    turning('swing-l', 'Left swing', null, at, PITCH, [-150, 30], { home: -20, massG: 60, radiusMm: 17 }),
    turning('aside-l', 'Left lift aside', 'swing-l', [0, 14, 0], ROLL, [-10, 100], {
      home: 12,
      massG: 50,
      radiusMm: 15,
    }),
    turning('elbow-l', 'Left elbow', 'aside-l', [0, 0, -v.upper], PITCH, [-130, 0], {
      home: -55,
      massG: 40,
      radiusMm: 13,
    }),
  ];
  if (more)
    joints.push(
      turning('wrist-l', 'Left wrist', 'elbow-l', [0, 0, -v.fore], PITCH, [-80, 80], { massG: 25, radiusMm: 11 }),
    );
  return {
    joints,
    tool: {
      id: 'hand-l',
      name: 'Left hand',
      parent: more ? 'wrist-l' : 'elbow-l',
      origin: { xyzMm: [0, 0, more ? -v.hand : -v.fore], rpyDeg: [180, 0, 0] },
      massG: 30,
    },
  };
}

/** A tree of left limbs with the right ones made as their mirror images. */
export function withMirrored(
  left: { joints: JointInput[]; tools: ToolInput[] },
  roots: readonly string[],
): Pick<TreeDoc, 'joints' | 'tools'> {
  const doc = mechanismSchema.parse({ ...left }) as TreeDoc;
  for (const root of roots) {
    const copy = mirrorLimb(doc, root);
    doc.joints.push(...copy.joints);
    doc.tools.push(...copy.tools);
  }
  return doc;
}

export const walker: Preset = {
  id: 'walker',
  name: 'Walker: legs, torso, arms',
  says: 'Two legs, a torso and two arms; the right side is the mirror image of the left.',
  group: 'figures',
  stands: { 'aside-l': 0, 'aside-r': 0 },
  measures: [
    ...legMeasures('-l'),
    measure('hips', 'One hip pivot to the other', 80, ['hip-r', 'hip-l'], 'level', { view: 'front' }),
    measure('torso', 'Hip pivots up to the shoulder pivots', 150, ['hip-l', 'swing-l'], 'upright'),
    measure('shoulders', 'One shoulder pivot to the other', 130, ['swing-r', 'swing-l'], 'level', { view: 'front' }),
    measure('upper', 'Shoulder pivot to elbow pivot', 75, ['aside-l', 'elbow-l']),
    measure('fore', 'Elbow pivot to the hand', 80, ['elbow-l', 'tool/hand-l']),
    measure('sole', 'Sole, heel to toe', 90, ['back/ankle-l', 'front/ankle-l'], 'level'),
  ],
  build(name, v) {
    const one = legOf(v, [0, v.hips / 2, 0], '-l');
    const arm = hangingArm(v, [0, v.shoulders / 2, v.torso], false);
    const limbs = withMirrored({ joints: [...one.joints, ...arm.joints], tools: [one.tool, arm.tool] }, [
      'hip-l',
      'swing-l',
    ]);
    return rigOf(
      name,
      {
        base: {
          massG: 900,
          comMm: [0, 0, v.torso * 0.5],
          mounting: { xyzMm: [0, 0, standing(v)] },
          bodies: [
            box([0, 0, v.torso * 0.62], [60, Math.max(40, v.shoulders - 36), v.torso * 0.66]),
            box([0, 0, v.torso * 0.14], [48, Math.max(30, v.hips - 26), v.torso * 0.26]),
            ball([4, 0, v.torso + 52], 62),
            ball([31, 13, v.torso + 58], 9, 'dark'),
            ball([31, -13, v.torso + 58], 9, 'dark'),
          ],
        },
        joints: limbs.joints,
        tools: limbs.tools,
      },
      { servos: true },
    );
  },
};

export const twinArms: Preset = {
  id: 'twin-arms',
  name: 'Torso with two arms',
  says: 'Two four-joint arms on one column, the right one mirrored from the left.',
  group: 'figures',
  stands: { 'aside-l': 0, 'aside-r': 0 },
  measures: [
    measure('height', 'Bench up to the shoulder pivots', 330, ['ground/swing-l', 'swing-l'], 'upright'),
    measure('shoulders', 'One shoulder pivot to the other', 190, ['swing-r', 'swing-l'], 'level', { view: 'front' }),
    measure('upper', 'Shoulder pivot to elbow pivot', 120, ['aside-l', 'elbow-l']),
    measure('fore', 'Elbow pivot to wrist pivot', 110, ['elbow-l', 'wrist-l']),
    measure('hand', 'Wrist pivot to the hand', 55, ['wrist-l', 'tool/hand-l']),
  ],
  build(name, v) {
    const arm = hangingArm(v, [0, v.shoulders / 2, v.height], true);
    const limbs = withMirrored({ joints: arm.joints, tools: [arm.tool] }, ['swing-l']);
    return rigOf(
      name,
      {
        base: {
          feet: feet(200, 220),
          massG: 2500,
          bodies: [
            box([0, 0, (v.height - 40) / 2], [46, 60, v.height - 40]),
            box([0, 0, v.height - 12], [64, Math.max(40, v.shoulders - 40), 76]),
          ],
        },
        joints: limbs.joints,
        tools: limbs.tools,
      },
      { servos: true },
    );
  },
};
