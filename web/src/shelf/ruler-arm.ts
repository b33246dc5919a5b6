/** A new arm from what a ruler says: a base turn, two or three parallel joints, a gripper; a servo for each. */

import { parseRig, type Parsed, type Rig, type RigInput } from '@cork-elbow/core/rig';

export interface Ruler {
  name: string;
  axes: 3 | 4;
  /** mm: bench to shoulder pivot, shoulder to elbow, elbow to wrist (or tip), wrist to tip. */
  shoulderHeight: number;
  upperArm: number;
  forearm: number;
  hand: number;
}

export const usual: Ruler = { name: 'My arm', axes: 4, shoulderHeight: 90, upperArm: 120, forearm: 110, hand: 80 };

export function rulerArm(ruler: Ruler): Parsed<Rig> {
  const turnHeight = Math.round(ruler.shoulderHeight * 0.6);
  const joint = (
    id: string,
    name: string,
    parent: string | null,
    z: number,
    axis: [number, number, number],
    min: number,
    max: number,
    home: number,
  ) => ({
    id,
    name,
    type: 'revolute' as const,
    parent,
    origin: { xyzMm: [0, 0, z] as [number, number, number] },
    axis,
    limits: { min, max, maxSpeed: 120, maxAccel: 400, maxJerk: 3000 },
    home,
    link: { massG: 60 },
  });
  const arm = [
    joint('turn', 'Turntable', null, turnHeight, [0, 0, 1], -90, 90, 0),
    joint('shoulder', 'Shoulder', 'turn', ruler.shoulderHeight - turnHeight, [0, 1, 0], -60, 90, 0),
    joint('elbow', 'Elbow', 'shoulder', ruler.upperArm, [0, 1, 0], -30, 140, 90),
  ];
  if (ruler.axes === 4) arm.push(joint('wrist', 'Wrist', 'elbow', ruler.forearm, [0, 1, 0], -90, 90, 60));
  const last = ruler.axes === 4 ? 'wrist' : 'elbow';
  const reach = ruler.axes === 4 ? ruler.hand : ruler.forearm;
  const joints: NonNullable<RigInput['mechanism']['joints']> = [
    ...arm,
    { ...joint('jaw', 'Gripper', last, Math.max(0, reach - 50), [0, 1, 0], 0, 45, 30), role: 'jaw' },
  ];
  const ids = joints.map((j) => j.id);
  const input: RigInput = {
    format: 'cork-elbow-rig',
    version: 1,
    name: ruler.name,
    mechanism: {
      base: {
        feet: [
          [70, 60],
          [-70, 60],
          [-70, -60],
          [70, -60],
        ],
        massG: 500,
      },
      joints,
      tools: [
        {
          id: 'gripper',
          name: 'Gripper',
          parent: last,
          origin: { xyzMm: [0, 0, reach] },
          massG: 40,
          grip: { joint: 'jaw', open: 40, closed: 5 },
        },
      ],
    },
    drives: joints.map((j, i) => ({
      id: `m-${j.id}`,
      name: `${(j as { name: string }).name} servo`,
      kind: 'servo' as const,
      model: i < 3 ? 'standard servo, 45 g' : 'micro servo, 9 g',
      // Neutral pulse in the middle of each joint's range.
      travelDeg: 180,
      centreUs: Math.round(
        1500 -
          10 *
            (((j as { limits: { min: number; max: number } }).limits.min +
              (j as { limits: { max: number } }).limits.max) /
              2),
      ),
      usPerDeg: 10,
      direction: 1 as const,
      minUs: 500,
      maxUs: 2500,
      speedDegPerS: 300,
      deadBandUs: 5,
    })),
    transmissions: ids.map((id) => ({
      id: `t-${id}`,
      kind: 'ratio' as const,
      joints: [id] as [string],
      drives: [`m-${id}`] as [string],
      reduction: 1,
    })),
    boards: [{ id: 'board', name: 'Servo board', kind: 'servo-board', channels: 16 }],
    wiring: ids.map((id, channel) => ({ id: `w-${id}`, drive: `m-${id}`, board: 'board', channel })),
    routines: [{ id: 'first', name: 'First routine', steps: [] }],
  };
  return parseRig(input);
}
