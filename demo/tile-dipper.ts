/**
 * Builds the Tile dipper of the Fernhollow pottery club: a made-up club, a made-up arm, made-up readings. The poses
 * are solved with the core's own inverse kinematics.
 */
import { newBoard } from '@cork-elbow/core/wiring';
import { solveInverse } from '@cork-elbow/core/kinematics';
import { compile, fromSlotsRounded } from '@cork-elbow/core/mechanism';
import type { Rig, RigInput } from '@cork-elbow/core/rig';
import { must, withRoutines } from './club';

const RACK = { azimuth: 62, radius: 186 };
const JAR = { azimuth: 0, radius: 185 };
const BAT = { azimuth: -58, radius: 195 };
/** Height of the tool point over the tile's lower edge, and what the tile stands on. */
const HANG = 48;
const RACK_FLOOR = 14;
const BAT_TOP = 20;

const at = ({ azimuth, radius }: typeof JAR): [number, number] => {
  const a = (azimuth * Math.PI) / 180;
  return [Math.round(radius * Math.cos(a) * 10) / 10, Math.round(radius * Math.sin(a) * 10) / 10];
};
const [jarX, jarY] = at(JAR);
const [rackX, rackY] = at(RACK);
const [batX, batY] = at(BAT);

const servo = (id: string, name: string, big: boolean, centreUs: number, usPerDeg: number, direction: 1 | -1) => ({
  id,
  name,
  kind: 'servo' as const,
  model: big ? 'standard servo, metal gear, 55 g' : 'micro servo, 9 g',
  travelDeg: 180,
  centreUs,
  usPerDeg,
  direction,
  minUs: 500,
  maxUs: 2500,
  speedDegPerS: big ? 350 : 500,
  stallNm: big ? 1.9 : 0.18,
  deadBandUs: big ? 4 : 6,
  updateHz: 50,
  voltageV: 6,
  idleA: 0.01,
  movingA: big ? 0.6 : 0.15,
  stallA: big ? 2.4 : 0.7,
  massG: big ? 55 : 9,
  splineTeeth: big ? 25 : 21,
});
const revolute = (
  id: string,
  name: string,
  parent: string | null,
  xyzMm: [number, number, number],
  axis: [number, number, number],
  min: number,
  max: number,
  home: number,
  massG: number,
  radiusMm: number,
  speed = 120,
) => ({
  id,
  name,
  type: 'revolute' as const,
  parent,
  origin: { xyzMm },
  axis,
  limits: { min, max, maxSpeed: speed, maxAccel: 400, maxJerk: 3000 },
  home,
  link: { massG, comMm: [0, 0, 40] as [number, number, number], radiusMm },
});

const bare: RigInput = {
  format: 'cork-elbow-rig',
  version: 10,
  name: 'Tile dipper',
  mechanism: {
    base: {
      feet: [
        [80, 70],
        [-80, 70],
        [-80, -70],
        [80, -70],
      ],
      massG: 850,
      comMm: [0, 0, 25],
    },
    joints: [
      revolute('turn', 'Turntable', null, [0, 0, 62], [0, 0, 1], -95, 95, 0, 120, 26),
      revolute('shoulder', 'Shoulder', 'turn', [0, 0, 38], [0, 1, 0], -40, 95, -20, 95, 19),
      revolute('elbow', 'Elbow', 'shoulder', [0, 0, 140], [0, 1, 0], -10, 135, 115, 70, 16),
      revolute('wrist', 'Wrist', 'elbow', [0, 0, 128], [0, 1, 0], -60, 110, 85, 45, 13),
      { ...revolute('jaw', 'Tongs', 'wrist', [0, 0, 34], [0, 1, 0], 0, 45, 40, 20, 8, 150), role: 'jaw' },
    ],
    tools: [
      {
        id: 'tongs',
        name: 'Tongs',
        parent: 'wrist',
        origin: { xyzMm: [0, 0, 88] },
        massG: 60,
        comMm: [0, 0, -55],
        mounted: true,
        grip: {
          joint: 'jaw',
          open: 40,
          closed: 8,
          openingMm: [
            { at: 0, mm: 0 },
            { at: 8, mm: 6 },
            { at: 20, mm: 15 },
            { at: 40, mm: 29 },
            { at: 45, mm: 32 },
          ],
        },
      },
    ],
  },
  drives: [
    servo('m-turn', 'Turntable servo', true, 1500, 10.1, -1),
    servo('m-shoulder', 'Shoulder servo', true, 1240, 10.1, 1),
    servo('m-elbow', 'Elbow servo', true, 900, 10.1, 1),
    servo('m-wrist', 'Wrist servo', false, 1290, 10.4, -1),
    servo('m-jaw', 'Tongs servo', false, 1300, 10.4, 1),
  ],
  transmissions: ['turn', 'shoulder', 'elbow', 'wrist', 'jaw'].map((id) => ({
    id: `t-${id}`,
    kind: 'ratio' as const,
    joints: [id] as [string],
    drives: [`m-${id}`] as [string],
    reduction: 1,
  })),
  boards: [newBoard('servo-board', 'pwm', 'Servo board on the bench')],
  powerUp: {
    rest: 'rest',
    gapMs: 300,
    maxDegPerS: 20,
    order: ['m-wrist', 'm-elbow', 'm-shoulder', 'm-turn', 'm-jaw'],
    at: {},
  },
  rails: [{ id: 'servos', name: 'Servo supply', volts: 6, source: 'supply', amps: 8, fuseA: 7.5 }],
  wiring: ['turn', 'shoulder', 'elbow', 'wrist', 'jaw'].map((id, channel) => ({
    id: `w-${id}`,
    drive: `m-${id}`,
    board: 'pwm',
    channel,
    rail: 'servos',
    colour: ['white', 'yellow', 'orange', 'blue', 'green'][channel],
  })),
  builds: [
    {
      id: 'b1',
      name: 'build 1',
      calibrations: [
        {
          drive: 'm-turn',
          takenOn: '2026-09-12',
          points: [
            { at: -60, us: 2118 },
            { at: 60, us: 894 },
          ],
        },
        {
          drive: 'm-shoulder',
          takenOn: '2026-09-12',
          points: [
            { at: 0, us: 1236 },
            { at: 90, us: 2154 },
          ],
        },
        {
          drive: 'm-elbow',
          takenOn: '2026-09-12',
          points: [
            { at: 0, us: 908 },
            { at: 90, us: 1812 },
          ],
        },
        {
          drive: 'm-wrist',
          takenOn: '2026-09-13',
          points: [
            { at: -45, us: 1764 },
            { at: 90, us: 354 + 500 },
          ],
        },
        {
          drive: 'm-jaw',
          takenOn: '2026-09-13',
          points: [
            { at: 0, us: 1302 },
            { at: 45, us: 1766 },
          ],
        },
      ],
      trims: { 'm-turn': 6, 'm-wrist': -9 },
    },
  ],
  spots: [
    { id: 's-rack', name: 'Rack, slot 2', xyzMm: [rackX, rackY, RACK_FLOOR + HANG], direction: [0, 0, -1] },
    { id: 's-jar', name: 'Glaze jar, mouth', xyzMm: [jarX, jarY, 90], direction: [0, 0, -1] },
    { id: 's-bat', name: 'Drying bat', xyzMm: [batX, batY, BAT_TOP + HANG], direction: [0, 0, -1] },
  ],
  obstacles: [
    {
      id: 'jar',
      name: 'glaze jar',
      kind: 'jar',
      xyzMm: [jarX, jarY, 0],
      innerRadiusMm: 42,
      wallMm: 4,
      heightMm: 90,
      fillMm: 64,
    },
    {
      id: 'rack',
      name: 'tile rack',
      kind: 'rack',
      xyzMm: [rackX, rackY, 0],
      rpyDeg: [0, 0, RACK.azimuth],
      sizeMm: [84, 60, 46],
      slots: 3,
      slotMm: 9,
    },
    { id: 'bat', name: 'drying bat', kind: 'cylinder', xyzMm: [batX, batY, 0], radiusMm: 62, heightMm: BAT_TOP },
  ],
  payloads: [{ id: 'tile', name: 'test tile', massG: 42, comMm: [0, 0, 18], sizeMm: [6, 50, 60] }],
};

export function tileDipper(): Rig {
  const rig = must(bare);
  const compiled = compile(rig.mechanism);
  if (!compiled.ok) throw new Error(compiled.faults[0].message);
  const { mechanism } = compiled;
  const tool = mechanism.tools[0];

  /** Joints with the tongs' tip at this place and pointing straight down, elbow up. */
  const down = (x: number, y: number, z: number): Record<string, number> => {
    const result = solveInverse(mechanism, tool, {
      kind: 'direction',
      position: [x / 1000, y / 1000, z / 1000],
      direction: [0, 0, -1],
    });
    const solution = result.solutions.find((s) => s.posture === 'elbow up');
    if (!solution)
      throw new Error(`Demo pose at ${x}, ${y}, ${z}: ${result.reasons.map((r) => r.message).join(' ')}`);
    return fromSlotsRounded(mechanism, solution.q);
  };
  const poses: Rig['poses'] = [];
  const pose = (id: string, name: string, joints: Record<string, number>, note = ''): string => {
    poses.push({ id, name, joints, note });
    return id;
  };
  pose(
    'rest',
    'Rest',
    { turn: 0, shoulder: -20, elbow: 115, wrist: 85, jaw: 40 },
    'Folded over its base, tongs open.',
  );
  const over = 94;
  pose('over-rack', 'Over the rack', down(rackX, rackY, RACK_FLOOR + HANG + over));
  pose('at-rack', 'Tile in slot 2', down(rackX, rackY, RACK_FLOOR + HANG));
  pose('over-jar', 'Over the jar', down(jarX, jarY, 158));
  pose('in-glaze', 'In the glaze', down(jarX, jarY, 60), 'Tip 60 mm above the bench.');
  pose('over-bat', 'Over the bat', down(batX, batY, BAT_TOP + HANG + 80));
  pose('on-bat', 'On the bat', down(batX, batY, BAT_TOP + HANG + 1));

  let n = 0;
  const steps: Rig['routines'][number]['steps'] = [];
  const base = () => ({ id: `st${++n}`, enabled: true, note: '' });
  const move = (id: string, speedShare: number, note = ''): void =>
    void steps.push({ ...base(), kind: 'joint-move', target: { pose: id }, pace: { speedShare }, note });
  type Pace = { speedShare: number } | { durationS: number };
  const straight = (id: string, pace: Pace, note = ''): void =>
    void steps.push({ ...base(), kind: 'straight-move', target: { pose: id }, pace, note });
  const wait = (durationS: number, note: string): void =>
    void steps.push({ ...base(), kind: 'wait', durationS, note });
  const grip = (to: 'open' | 'closed', payload: string | null | undefined, note: string): void =>
    void steps.push({
      ...base(),
      kind: 'grip',
      tool: 'tongs',
      to,
      ...(payload === undefined ? {} : { payload }),
      pace: { speedShare: 0.6 },
      note,
    });

  move('rest', 0.6);
  grip('open', undefined, 'Empty tongs, wide open');
  move('over-rack', 0.6);
  straight('at-rack', { speedShare: 0.5 }, 'Down over the tile’s upper edge');
  grip('closed', 'tile', 'Take the tile');
  straight('over-rack', { speedShare: 0.5 }, 'Up, clear of the rack');
  move('over-jar', 0.6);
  straight('in-glaze', { durationS: 6 }, 'Straight down');
  wait(3, 'Hold in the glaze');
  straight('over-jar', { durationS: 9 }, 'Lift slowly');
  wait(4, 'Let it drip');
  move('over-bat', 0.5);
  straight('on-bat', { speedShare: 0.4 }, 'Down on the bat');
  grip('open', null, 'Leave it to dry');
  straight('over-bat', { speedShare: 0.5 });
  move('rest', 0.6);

  const dipper = must({
    ...rig,
    poses,
    routines: [
      {
        id: 'dip',
        name: 'Dip one tile',
        note: 'Takes the tile from slot 2, dips it straight down, lets it drip and sets it on the bat.',
        steps,
      },
    ],
  });
  return withRoutines(dipper, [
    {
      id: 'park',
      name: 'Fold away',
      note: 'Back to rest by way of a place clear of rack, jar and bat.',
      role: 'park',
      text: `
        Joint move to pose "Over the jar", rounded by 25 mm, at 40 %
        Joint move to pose "Rest", at 40 %`,
    },
    {
      id: 'unpark',
      name: 'Come out',
      role: 'unpark',
      text: `
        Joint move to pose "Rest", at 30 %
        Joint move to pose "Over the jar", at 30 %, minimum jerk`,
    },
    {
      id: 'stir',
      name: 'Stir the glaze',
      note: 'With the tongs closed, four slow rounds in the jar; then a tap of the rim to shake off what hangs.',
      text: `
        Group "Into the jar"
          Grip with tool "Tongs" to closed, at 50 %
          Joint move to pose "Over the jar", at 50 %
          Approach pose "In the glaze", last 60 mm straight, slowly at 30 mm/s, at 50 %
        End
        Counter "rounds" set 0
        Marker "round"
        Full circle through 9 9 0 mm from here and 18 0 0 mm from here, 2 times, at 45 mm/s, note "Two rounds at a time"
        Counter "rounds" add 2
        If counter "rounds" below 4
          Wait 0.5 s
          Jump to "round"
        End
        Retreat 60 mm, at 25 mm/s, note "Slowly out"
        Wait 2 s, note "Let it run off"
        Speed of all 60 %
        Path to 0 12 0 mm from here then 0 12 -6 mm from here then 0 0 -6 mm from here then 0 0 0 mm from here, rounded by 3 mm, at 60 %, note "A small square: shakes off the last drop", skipped
        Arc through -6 10 0 mm from here to 0 20 0 mm from here, at 40 mm/s
        Joint move to pose "Rest", at 60 %`,
    },
    {
      id: 'batch',
      name: 'Three tiles',
      note: 'The club’s volunteer puts the next tile into slot 2 during the pause.',
      text: `
        Repeat 3 times
          Call "Dip one tile"
          Wait 5 s, note "Time to refill slot 2"
        End
        Call "Fold away"`,
    },
  ]);
}
