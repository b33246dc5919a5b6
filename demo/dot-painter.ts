/** The Dot painter: a rotary delta with three servos that sets rings of glaze dots on a tile. */
import { solveInverse } from '@cork-elbow/core/kinematics';
import { compile, fromSlotsRounded } from '@cork-elbow/core/mechanism';
import type { Rig, RigInput } from '@cork-elbow/core/rig';
import { must, servos, withRoutines } from './club';

const TILE_TOP = 18;

const motors = ['one', 'two', 'three'].map((id, i) => ({
  id,
  name: `Motor ${i + 1}`,
  type: 'revolute' as const,
  limits: { min: -40, max: 78, maxSpeed: 200, maxAccel: 1200, maxJerk: 15000 },
  physical: { min: -52, max: 90 },
  home: 8,
}));
const bare: RigInput = {
  format: 'cork-elbow-rig',
  version: 10,
  name: 'Dot painter',
  mechanism: {
    family: 'rotary-delta',
    base: { massG: 620, comMm: [0, 0, 15], mounting: { xyzMm: [0, 0, 286] } },
    delta: {
      baseRadiusMm: 78,
      platformRadiusMm: 31,
      upperArmMm: 88,
      forearmMm: 205,
      rodGapMm: 38,
      masses: { upperArmG: 22, forearmG: 16, platformG: 28 },
    },
    joints: motors,
    tools: [
      {
        id: 'brush',
        name: 'Dotting tip',
        parent: 'platform',
        origin: { xyzMm: [0, 0, -46], rpyDeg: [180, 0, 0] },
        massG: 12,
        comMm: [0, 0, -20],
      },
    ],
  },
  ...servos(
    motors.map((m) => ({ ...m, origin: {}, axis: [0, 1, 0] as [number, number, number] })),
    new Set(motors.map((m) => m.id)),
  ),
  spots: [
    { id: 'middle', name: 'Tile, middle', xyzMm: [0, 0, TILE_TOP], direction: [0, 0, -1] },
    { id: 'pot', name: 'Glaze pot', xyzMm: [-62, 36, 34], direction: [0, 0, -1] },
  ],
  frames: [{ id: 'tile', name: 'Tile', fixedTo: 'world', xyzMm: [0, 0, TILE_TOP] }],
  obstacles: [
    { id: 'tile', name: 'tile', kind: 'box', xyzMm: [0, 0, 10], sizeMm: [100, 100, TILE_TOP - 10] },
    { id: 'stand', name: 'tile stand', kind: 'cylinder', xyzMm: [0, 0, 0], radiusMm: 44, heightMm: 10 },
    {
      id: 'pot',
      name: 'glaze pot',
      kind: 'jar',
      xyzMm: [-62, 36, 0],
      innerRadiusMm: 13,
      wallMm: 2,
      heightMm: 26,
      fillMm: 18,
    },
  ],
};

export function dotPainter(): Rig {
  const rig = must(bare);
  const compiled = compile(rig.mechanism);
  if (!compiled.ok) throw new Error(compiled.faults[0].message);
  const { mechanism } = compiled;
  const poses: Rig['poses'] = [];
  const steps: Rig['routines'][number]['steps'] = [];
  /** A pose with the tip at this place, and a move to it. */
  const go = (id: string, name: string, x: number, y: number, z: number, speedShare: number): void => {
    if (!poses.some((p) => p.id === id)) {
      const { solutions, reasons } = solveInverse(mechanism, mechanism.tools[0], {
        kind: 'free',
        position: [x / 1000, y / 1000, z / 1000],
      });
      if (!solutions.length) throw new Error(`Dot at ${x}, ${y}, ${z}: ${reasons.map((r) => r.message).join(' ')}`);
      poses.push({ id, name, joints: fromSlotsRounded(mechanism, solutions[0].q), note: '' });
    }
    steps.push({
      id: `s${steps.length + 1}`,
      kind: 'joint-move',
      enabled: true,
      note: '',
      target: { pose: id },
      pace: { speedShare },
    });
  };
  const wait = (durationS: number): void =>
    void steps.push({ id: `s${steps.length + 1}`, kind: 'wait', enabled: true, note: '', durationS });
  go('rest', 'Rest', 0, 0, 74, 0.5);
  const dots = 8;
  for (let i = 0; i < dots; i++) {
    const a = (i / dots) * 2 * Math.PI;
    const [x, y] = [Math.round(300 * Math.cos(a)) / 10, Math.round(300 * Math.sin(a)) / 10];
    go(`over-${i + 1}`, `Over dot ${i + 1}`, x, y, TILE_TOP + 12, 0.6);
    go(`dot-${i + 1}`, `Dot ${i + 1}`, x, y, TILE_TOP + 0.5, 0.3);
    wait(0.3);
    go(`over-${i + 1}`, `Over dot ${i + 1}`, x, y, TILE_TOP + 12, 0.4);
  }
  go('rest', 'Rest', 0, 0, 74, 0.5);
  const painter = must({
    ...rig,
    poses,
    spots: [...rig.spots, { id: 'corner', name: 'First dot of the grid', xyzMm: [-16, -16, TILE_TOP + 0.5] }],
    routines: [{ id: 'ring', name: 'One ring of eight dots', note: '', steps }],
  });
  return withRoutines(painter, [
    { id: 'touch', name: 'Touch', note: 'The brush rests on the tile.', text: 'Wait 0.25 s' },
    {
      id: 'rosette',
      name: 'Rosette',
      note: 'A ring of twelve, a smaller one of six, a dot in the middle.',
      text: `
        Joint move to pose "Rest", at 50 %
        Pattern ring about spot "Tile, middle" of 12 radius 34 mm from 0 deg, approach 10 mm, calling "Touch", at 50 %
        Pattern ring about spot "Tile, middle" of 6 radius 17 mm from 15 deg, approach 10 mm, calling "Touch", at 50 %
        Approach spot "Tile, middle", last 10 mm straight, slowly at 40 mm/s, at 60 %
        Call "Touch"
        Retreat 10 mm, at 60 %
        Joint move to pose "Rest", at 50 %`,
    },
    {
      id: 'grid',
      name: 'Grid of dots',
      text: `
        Joint move to pose "Rest", at 50 %
        Pattern grid from spot "First dot of the grid" of 4 by 4 columns 10 0 0 mm rows 0 10 0 mm, approach 8 mm, calling "Touch", at 60 %
        Joint move to pose "Rest", at 50 %`,
    },
  ]);
}
