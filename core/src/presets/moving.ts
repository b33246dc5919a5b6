/** Presets of arms that are carried along: on a rail, on a lifting column. */
import { feet, gripper, measure, PITCH, rigOf, sliding, TURN, turning } from './parts';
import type { Preset } from './preset';

export const onRail: Preset = {
  id: 'rail-arm',
  name: 'Arm on a rail',
  says: 'A four-axis arm on a carriage that runs sideways along a bench.',
  group: 'moving',
  measures: [
    measure('rail', 'Bench up to the carriage’s top', 50, ['ground/rail', 'rail'], 'upright', { min: 5 }),
    measure('travel', 'How far the carriage runs', 600, ['min/rail', 'max/rail'], 'straight', {
      view: 'plan',
      min: 20,
      max: 5000,
    }),
    measure('shoulder', 'Carriage’s top up to the shoulder pivot', 80, ['rail', 'shoulder'], 'upright'),
    measure('upper', 'Shoulder pivot to elbow pivot', 150, ['shoulder', 'elbow']),
    measure('fore', 'Elbow pivot to wrist pivot', 140, ['elbow', 'wrist']),
    measure('hand', 'Wrist pivot to the tip', 90, ['wrist', 'tool/gripper']),
  ],
  build(name, v) {
    const { joint, tool } = gripper('wrist', v.hand);
    return rigOf(
      name,
      {
        base: { feet: feet(160, v.travel + 120), massG: 2500 },
        joints: [
          sliding('rail', 'Rail', null, [0, -v.travel / 2, v.rail], [0, 1, 0], [0, v.travel], {
            home: v.travel / 2,
            massG: 600,
            radiusMm: 40,
          }),
          turning('turn', 'Turntable', 'rail', [0, 0, Math.round(v.shoulder * 0.5)], TURN, [-90, 90], {
            massG: 90,
            radiusMm: 24,
          }),
          turning(
            'shoulder',
            'Shoulder',
            'turn',
            [0, 0, v.shoulder - Math.round(v.shoulder * 0.5)],
            PITCH,
            [-60, 90],
            { home: -15, massG: 80 },
          ),
          turning('elbow', 'Elbow', 'shoulder', [0, 0, v.upper], PITCH, [-20, 140], { home: 105, massG: 60 }),
          turning('wrist', 'Wrist', 'elbow', [0, 0, v.fore], PITCH, [-90, 90], { home: 75, massG: 30 }),
          joint,
        ],
        tools: [tool],
      },
      { servos: true },
    );
  },
};

export const onColumn: Preset = {
  id: 'column-arm',
  name: 'Arm on a lifting column',
  says: 'A level-swinging arm that a column lifts: floor to shelf without a long reach.',
  group: 'moving',
  stands: { lift: 0 },
  measures: [
    measure('low', 'Floor up to the arm, lift at the bottom', 120, ['ground/lift', 'lift'], 'upright'),
    measure('travel', 'How far the column lifts', 400, ['min/lift', 'max/lift'], 'upright', { min: 20, max: 5000 }),
    measure('bracket', 'Column forward to the first swing', 60, ['lift', 'first'], 'level', { min: 0 }),
    measure('first', 'First swing to the second', 170, ['first', 'second'], 'straight', { view: 'plan' }),
    measure('second', 'Second swing to the wrist', 150, ['second', 'wrist'], 'straight', { view: 'plan' }),
    measure('hand', 'Wrist pivot to the tip', 90, ['wrist', 'tool/gripper'], 'straight', { view: 'plan' }),
  ],
  build(name, v) {
    const { joint, tool } = gripper('wrist', v.hand);
    return rigOf(name, {
      base: {
        feet: feet(260, 300),
        massG: 4000,
        bodies: [
          {
            kind: 'box',
            centreMm: [-30, 0, (v.low + v.travel + 60) / 2],
            sizeMm: [36, 60, v.low + v.travel + 60],
            tone: 'paper',
          },
        ],
      },
      joints: [
        sliding('lift', 'Column', null, [0, 0, v.low], TURN, [0, v.travel], {
          home: v.travel / 2,
          massG: 500,
          radiusMm: 26,
        }),
        turning('first', 'First swing', 'lift', [v.bracket, 0, 0], TURN, [-95, 95], {
          home: 35,
          massG: 250,
          radiusMm: 24,
        }),
        turning('second', 'Second swing', 'first', [v.first, 0, 0], TURN, [-140, 140], {
          home: -70,
          massG: 160,
          radiusMm: 20,
        }),
        // The hand points forward; its own Z is the way it reaches.
        turning('wrist', 'Wrist nod', 'second', [v.second, 0, 0], PITCH, [-90, 90], {
          massG: 40,
          radiusMm: 15,
          rpyDeg: [0, 90, 0],
        }),
        joint,
      ],
      tools: [tool],
    });
  },
};
