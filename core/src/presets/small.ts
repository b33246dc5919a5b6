/** Presets of trial rigs: one joint on the bench, a servo with a lever, a pair of wheels. */
import { feet, measure, PITCH, rigOf, turning } from './parts';
import type { Preset } from './preset';

export const benchRig: Preset = {
  id: 'bench-rig',
  name: 'One joint on the bench',
  says: 'A single joint with an arm and a weight: try a motor before the whole arm hangs on it.',
  group: 'small',
  measures: [
    measure('height', 'Bench up to the pivot', 140, ['ground/joint', 'joint'], 'upright'),
    measure('arm', 'Pivot to the middle of the weight', 150, ['joint', 'tool/weight']),
  ],
  build: (name, v) =>
    rigOf(
      name,
      {
        base: {
          feet: feet(140, 120),
          massG: 1200,
          bodies: [{ kind: 'box', centreMm: [0, 26, (v.height + 26) / 2], sizeMm: [60, 16, v.height + 26] }],
        },
        joints: [
          turning('joint', 'Joint', null, [0, 0, v.height], PITCH, [-90, 90], { home: 60, massG: 60, radiusMm: 16 }),
        ],
        tools: [{ id: 'weight', name: 'Weight', parent: 'joint', origin: { xyzMm: [0, 0, v.arm] }, massG: 100 }],
      },
      { servos: true },
    ),
};

export const lever: Preset = {
  id: 'lever',
  name: 'Servo with a lever',
  says: 'One servo pushing a lever: a flap, a latch, a bell.',
  group: 'small',
  measures: [
    measure('height', 'Base up to the shaft', 45, ['ground/shaft', 'shaft'], 'upright'),
    measure('lever', 'Shaft to the lever’s hole', 32, ['shaft', 'tool/hole']),
  ],
  build: (name, v) =>
    rigOf(
      name,
      {
        base: {
          feet: feet(60, 50),
          massG: 120,
          bodies: [{ kind: 'box', centreMm: [0, 16, v.height - 8], sizeMm: [40, 20, 38], tone: 'dark' }],
        },
        joints: [
          turning('shaft', 'Shaft', null, [0, 0, v.height], PITCH, [-90, 90], { home: 35, massG: 9, radiusMm: 7 }),
        ],
        tools: [{ id: 'hole', name: 'Lever hole', parent: 'shaft', origin: { xyzMm: [0, 0, v.lever] } }],
      },
      { servos: true },
    ),
};

export const wheels: Preset = {
  id: 'wheels',
  name: 'Pair of wheels',
  says: 'Two driven wheels and a castor: a base that rolls.',
  group: 'small',
  measures: [
    measure('track', 'One wheel’s middle to the other’s', 150, ['wheel-r', 'wheel-l'], 'level', { view: 'front' }),
    measure('wheel', 'Wheel across', 66, ['back/wheel-l', 'front/wheel-l'], 'level'),
    measure('castor', 'Axle back to the castor', 90, ['wheel-l', 'tool/castor'], 'level'),
  ],
  build(name, v) {
    const r = v.wheel / 2;
    const wheel = (id: string, label: string, y: number) => ({
      id,
      name: label,
      type: 'continuous' as const,
      parent: null,
      origin: { xyzMm: [0, y, r] as [number, number, number] },
      axis: [0, 1, 0] as [number, number, number],
      limits: { maxSpeed: 360, maxAccel: 900, maxJerk: 9000 },
      link: {
        massG: 30,
        radiusMm: 5,
        bodies: [
          {
            kind: 'cylinder' as const,
            centreMm: [0, 0, 0] as [number, number, number],
            rpyDeg: [90, 0, 0] as [number, number, number],
            sizeMm: [v.wheel, v.wheel, 22] as [number, number, number],
            tone: 'dark' as const,
          },
          {
            kind: 'cylinder' as const,
            centreMm: [0, 0, 0] as [number, number, number],
            rpyDeg: [90, 0, 0] as [number, number, number],
            sizeMm: [v.wheel * 0.5, v.wheel * 0.5, 24] as [number, number, number],
            tone: 'paper' as const,
          },
          {
            kind: 'box' as const,
            centreMm: [0, 0, v.wheel * 0.17] as [number, number, number],
            sizeMm: [5, 26, v.wheel * 0.18] as [number, number, number],
            tone: 'cork' as const,
          },
        ],
      },
    });
    const castor = 11;
    return rigOf(name, {
      base: {
        massG: 700,
        comMm: [-20, 0, r + 12],
        wheels: [
          { id: 'left', xyzMm: [0, v.track / 2, r], radiusMm: r, widthMm: 22, kind: 'driven', joint: 'wheel-l' },
          { id: 'right', xyzMm: [0, -v.track / 2, r], radiusMm: r, widthMm: 22, kind: 'driven', joint: 'wheel-r' },
          { id: 'castor', xyzMm: [-v.castor, 0, castor], radiusMm: castor, widthMm: 10, kind: 'castor' },
        ],
        bodies: [
          {
            kind: 'box',
            centreMm: [-v.castor * 0.42, 0, r + 14],
            sizeMm: [v.castor * 1.35, Math.max(30, v.track - 34), 18],
          },
        ],
      },
      joints: [wheel('wheel-l', 'Left wheel', v.track / 2), wheel('wheel-r', 'Right wheel', -v.track / 2)],
      tools: [
        {
          id: 'castor',
          name: 'Castor',
          parent: null,
          origin: { xyzMm: [-v.castor, 0, castor], rpyDeg: [180, 0, 0] },
        },
      ],
    });
  },
};
