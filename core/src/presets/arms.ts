/** Presets of arms that stand in one place. */
import { feet, following, gripper, measure, PITCH, rigOf, sliding, TURN, turning } from './parts';
import type { Measured, Measure, Preset } from './preset';

const plate = (forward = 150, left = 130) => ({
  feet: feet(forward, left),
  massG: 600,
  comMm: [0, 0, 25] as [number, number, number],
});

const shoulderMeasures: readonly Measure[] = [
  measure('height', 'Bench up to the shoulder pivot', 90, ['ground/shoulder', 'shoulder'], 'upright'),
  measure('ahead', 'Turn axis forward to the shoulder pivot', 0, ['turn', 'shoulder'], 'level', { min: 0, max: 500 }),
  measure('upper', 'Shoulder pivot to elbow pivot', 120, ['shoulder', 'elbow']),
];

/** Turntable, shoulder and elbow with the arm upright at 0. */
function shoulderOf(v: Measured, { lean = -10, elbow = [-20, 140] as [number, number], bend = 100 } = {}) {
  const turnAt = Math.round(v.height * 0.6);
  return [
    turning('turn', 'Turntable', null, [0, 0, turnAt], TURN, [-90, 90], { massG: 90, radiusMm: 24 }),
    turning('shoulder', 'Shoulder', 'turn', [v.ahead, 0, v.height - turnAt], PITCH, [-60, 90], {
      home: lean,
      massG: 70,
    }),
    turning('elbow', 'Elbow', 'shoulder', [0, 0, v.upper], PITCH, elbow, { home: bend, massG: 55 }),
  ];
}

export const threeAxis: Preset = {
  id: 'servo-arm-3',
  name: 'Three-axis servo arm',
  says: 'Turntable, shoulder, elbow: the tip goes anywhere, its direction follows.',
  group: 'arms',
  measures: [...shoulderMeasures, measure('fore', 'Elbow pivot to the tip', 130, ['elbow', 'tool/gripper'])],
  build(name, v) {
    const { joint, tool } = gripper('elbow', v.fore);
    return rigOf(name, { base: plate(), joints: [...shoulderOf(v), joint], tools: [tool] }, { servos: true });
  },
};

export const fourAxis: Preset = {
  id: 'servo-arm-4',
  name: 'Four-axis servo arm',
  says: 'A wrist that nods, so the gripper can stay straight down or level.',
  group: 'arms',
  measures: [
    ...shoulderMeasures,
    measure('fore', 'Elbow pivot to wrist pivot', 110, ['elbow', 'wrist']),
    measure('hand', 'Wrist pivot to the tip', 85, ['wrist', 'tool/gripper']),
  ],
  build(name, v) {
    const { joint, tool } = gripper('wrist', v.hand);
    const wrist = turning('wrist', 'Wrist', 'elbow', [0, 0, v.fore], PITCH, [-90, 90], { home: 70, massG: 30 });
    return rigOf(name, { base: plate(), joints: [...shoulderOf(v), wrist, joint], tools: [tool] }, { servos: true });
  },
};

export const fiveAxis: Preset = {
  id: 'servo-arm-5',
  name: 'Five-axis servo arm',
  says: 'Nods and rolls at the wrist: the gripper can also turn round its own line.',
  group: 'arms',
  measures: [
    ...shoulderMeasures,
    measure('fore', 'Elbow pivot to wrist pivot', 110, ['elbow', 'wrist']),
    measure('roll', 'Wrist pivot to the rolling joint', 35, ['wrist', 'roll']),
    measure('hand', 'Rolling joint to the tip', 90, ['roll', 'tool/gripper']),
  ],
  build(name, v) {
    const { joint, tool } = gripper('roll', v.hand);
    return rigOf(
      name,
      {
        base: plate(),
        joints: [
          ...shoulderOf(v),
          turning('wrist', 'Wrist', 'elbow', [0, 0, v.fore], PITCH, [-90, 90], { home: 70, massG: 30 }),
          turning('roll', 'Roll', 'wrist', [0, 0, v.roll], TURN, [-90, 90], { massG: 25 }),
          joint,
        ],
        tools: [tool],
      },
      { servos: true },
    );
  },
};

export const stacking: Preset = {
  id: 'stacking-arm',
  name: 'Stacking arm with level bars',
  says: 'Parallel bars keep the tool level at every reach; three motors, all low down.',
  group: 'arms',
  measures: [
    ...shoulderMeasures.map((m) =>
      m.key === 'ahead' ? { ...m, usual: 25 } : m.key === 'upper' ? { ...m, usual: 135 } : m,
    ),
    measure('fore', 'Elbow pivot to the pivot of the level head', 150, ['elbow', 'level']),
    measure('out', 'Level head’s pivot forward to the tool', 35, ['level', 'tool/cup'], 'level', { min: 0 }),
    measure('drop', 'Level head’s pivot down to the tool’s tip', 40, ['level', 'tool/cup'], 'upright', { min: 0 }),
  ],
  build(name, v) {
    return rigOf(
      name,
      {
        base: plate(170, 150),
        joints: [
          ...shoulderOf(v, { lean: 0, elbow: [15, 150], bend: 95 }),
          following(
            'level',
            'Level head',
            'elbow',
            [0, 0, v.fore],
            PITCH,
            [
              { joint: 'shoulder', factor: -1 },
              { joint: 'elbow', factor: -1 },
            ],
            'bars',
            { massG: 20, radiusMm: 9 },
          ),
        ],
        // The bars lock up where the forearm stands upright or points down.
        limitRules: [
          {
            terms: [
              { joint: 'shoulder', factor: 1 },
              { joint: 'elbow', factor: 1 },
            ],
            min: 25,
            max: 160,
          },
        ],
        tools: [
          {
            id: 'cup',
            name: 'Suction cup',
            parent: 'level',
            origin: { xyzMm: [v.out, 0, -v.drop], rpyDeg: [180, 0, 0] },
            massG: 25,
            comMm: [0, 0, -10],
            grip: { output: 'pump', openS: 0.3, closeS: 0.5 },
          },
        ],
      },
      { servos: true },
    );
  },
};

const sixMeasures: readonly Measure[] = [
  measure('height', 'Bench up to the shoulder pivot', 160, ['ground/shoulder', 'shoulder'], 'upright'),
  measure('ahead', 'Turn axis forward to the shoulder pivot', 30, ['turn', 'shoulder'], 'level', {
    min: 0,
    max: 500,
  }),
  measure('upper', 'Shoulder pivot to elbow pivot', 200, ['shoulder', 'elbow']),
  measure('fore', 'Elbow pivot to the wrist’s nodding pivot', 190, ['elbow', 'nod']),
];
function sixOf(name: string, v: Measured, aside: number) {
  return rigOf(name, {
    base: plate(220, 200),
    joints: [
      turning('turn', 'Turntable', null, [0, 0, Math.round(v.height * 0.55)], TURN, [-170, 170], {
        massG: 900,
        radiusMm: 38,
      }),
      turning(
        'shoulder',
        'Shoulder',
        'turn',
        [v.ahead, 0, v.height - Math.round(v.height * 0.55)],
        PITCH,
        [-90, 110],
        { home: -15, massG: 700, radiusMm: 30 },
      ),
      turning('elbow', 'Elbow', 'shoulder', [0, 0, v.upper], PITCH, [-45, 150], {
        home: 105,
        massG: 450,
        radiusMm: 26,
      }),
      turning('twist', 'Forearm twist', 'elbow', [0, 0, Math.round(v.fore * 0.45)], TURN, [-170, 170], {
        massG: 250,
        radiusMm: 21,
      }),
      turning('nod', 'Wrist nod', 'twist', [0, aside, v.fore - Math.round(v.fore * 0.45)], PITCH, [-115, 115], {
        home: 60,
        massG: 160,
        radiusMm: 17,
      }),
      turning('spin', 'Flange', 'nod', [0, 0, v.flange], TURN, [-175, 175], { massG: 60, radiusMm: 14 }),
    ],
    tools: [
      {
        id: 'tool',
        name: 'Tip',
        parent: 'spin',
        origin: { xyzMm: [0, 0, v.tool] },
        massG: 80,
        comMm: [0, 0, -v.tool / 2],
      },
    ],
  });
}

export const sixSpherical: Preset = {
  id: 'six-spherical',
  name: 'Six axes, wrist in one point',
  says: 'Twist, nod and flange meet in one point: every pose has its exact solutions.',
  group: 'arms',
  measures: [
    ...sixMeasures,
    measure('flange', 'Wrist’s nodding pivot to the flange', 45, ['nod', 'spin']),
    measure('tool', 'Flange to the tool’s tip', 60, ['spin', 'tool/tool'], 'straight', { min: 0 }),
  ],
  build: (name, v) => sixOf(name, v, 0),
};
export const sixOffset: Preset = {
  id: 'six-offset',
  name: 'Six axes, offset wrist',
  says: 'The nodding pivot sits beside the twist axis, as cheap brackets make it.',
  group: 'arms',
  measures: [
    ...sixMeasures,
    measure('aside', 'Twist axis sideways to the nodding pivot', 28, ['twist', 'nod'], 'level', {
      view: 'front',
      min: 0,
      max: 300,
    }),
    measure('flange', 'Wrist’s nodding pivot to the flange', 45, ['nod', 'spin']),
    measure('tool', 'Flange to the tool’s tip', 60, ['spin', 'tool/tool'], 'straight', { min: 0 }),
  ],
  build: (name, v) => sixOf(name, v, v.aside),
};

export const scara: Preset = {
  id: 'scara',
  name: 'Arm that swings level (SCARA)',
  says: 'Two swinging links, a lift and a spin: stiff downward, quick across a table.',
  group: 'arms',
  stands: { lift: 0 },
  measures: [
    measure('height', 'Bench up to the links', 180, ['ground/first', 'first'], 'upright'),
    measure('first', 'Column axis to the second swing', 160, ['first', 'second'], 'straight', { view: 'plan' }),
    measure('second', 'Second swing to the lift', 130, ['second', 'lift'], 'straight', { view: 'plan' }),
    measure('quill', 'Links down to the tip, lift at the top', 70, ['lift', 'tool/tool'], 'upright'),
  ],
  build: (name, v) =>
    rigOf(name, {
      base: plate(180, 180),
      joints: [
        turning('first', 'First swing', null, [0, 0, v.height], TURN, [-130, 130], {
          home: 35,
          massG: 400,
          radiusMm: 30,
        }),
        turning('second', 'Second swing', 'first', [v.first, 0, 0], TURN, [-140, 140], {
          home: -70,
          massG: 250,
          radiusMm: 24,
        }),
        sliding('lift', 'Lift', 'second', [v.second, 0, 0], [0, 0, -1], [0, 80], {
          home: 20,
          massG: 150,
          radiusMm: 9,
        }),
        turning('spin', 'Spin', 'lift', [0, 0, -Math.round(v.quill * 0.6)], TURN, [-180, 180], {
          massG: 30,
          radiusMm: 8,
        }),
      ],
      tools: [
        {
          id: 'tool',
          name: 'Tip',
          parent: 'spin',
          origin: { xyzMm: [0, 0, -(v.quill - Math.round(v.quill * 0.6))], rpyDeg: [180, 0, 0] },
          massG: 40,
        },
      ],
    }),
};

export const delta: Preset = {
  id: 'rotary-delta',
  name: 'Rotary delta',
  says: 'Three servos on a hanging plate, rods to a small platform: light and very quick.',
  group: 'arms',
  measures: [
    measure('height', 'Table up to the motor axes', 330, ['ground/base', 'base'], 'upright', { min: 50 }),
    measure('baseRadius', 'Middle of the plate to a motor’s axis', 85, ['base', 'a'], 'level'),
    measure('upper', 'Motor axis to the rods’ upper joints', 95, ['a', 'knee/a']),
    measure('forearm', 'Rods, joint to joint', 215, ['knee/a', 'foot/a']),
    measure(
      'platformRadius',
      'Middle of the platform to the rods’ lower joints',
      35,
      ['platform', 'foot/a'],
      'level',
    ),
    measure('tip', 'Platform down to the tip', 40, ['platform', 'tool/pen'], 'upright', { min: 0 }),
  ],
  build: (name, v) =>
    rigOf(
      name,
      {
        family: 'rotary-delta',
        base: { massG: 700, mounting: { xyzMm: [0, 0, v.height] } },
        delta: {
          baseRadiusMm: v.baseRadius,
          platformRadiusMm: v.platformRadius,
          upperArmMm: v.upper,
          forearmMm: v.forearm,
          masses: { upperArmG: 30, forearmG: 24, platformG: 40 },
        },
        joints: ['a', 'b', 'c'].map((id, i) => ({
          id,
          name: `Motor ${i + 1}`,
          type: 'revolute' as const,
          limits: { min: -45, max: 80, maxSpeed: 240, maxAccel: 1500, maxJerk: 20000 },
          home: 20,
        })),
        tools: [
          {
            id: 'pen',
            name: 'Tip',
            parent: 'platform',
            origin: { xyzMm: [0, 0, -v.tip], rpyDeg: [180, 0, 0] },
            massG: 15,
          },
        ],
      },
      { servos: true },
    ),
};
