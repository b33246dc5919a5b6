/** Parts that several of the club's rigs share: checked rigs, servos, poses by numbers. */
import { parseRig, type JointInput, type Rig, type RigInput } from '@cork-elbow/core/rig';

/** Checks a rig that is meant to be right. */
export function must(input: unknown): Rig {
  const parsed = parseRig(input);
  if (!parsed.ok) throw new Error(parsed.faults.map((f) => f.message).join('\n'));
  return parsed.value;
}

type Triple = [number, number, number];
interface Extras {
  home?: number;
  massG?: number;
  radiusMm?: number;
  speed?: number;
  accel?: number;
  [key: string]: unknown;
}

/** A turning joint: pivot seen from its parent (mm), axis, range (°). */
export const turn = (
  id: string,
  name: string,
  parent: string | null,
  xyzMm: Triple,
  axis: Triple,
  [min, max]: [number, number],
  { home = 0, massG = 60, radiusMm = 0, speed = 90, accel = 300, ...rest }: Extras = {},
): JointInput =>
  ({
    id,
    name,
    type: 'revolute',
    parent,
    origin: { xyzMm },
    axis,
    limits: { min, max, maxSpeed: speed, maxAccel: accel, maxJerk: accel * 8 },
    home,
    link: { massG, radiusMm },
    ...rest,
  }) as JointInput;

/** Hobby servos on one board, one for each joint named, the neutral pulse in the middle of its range. */
export function servos(joints: readonly JointInput[], big: ReadonlySet<string>): Partial<RigInput> {
  const driven = joints.filter(
    (joint) => joint.type === 'revolute' && !('follows' in joint && joint.follows),
  ) as Extract<JointInput, { type: 'revolute' }>[];
  return {
    drives: driven.map((joint) => ({
      id: `m-${joint.id}`,
      name: `${joint.name} servo`,
      kind: 'servo' as const,
      model: big.has(joint.id) ? 'standard servo, metal gear, 55 g' : 'micro servo, 9 g',
      travelDeg: 180,
      centreUs: Math.round(1500 - 10 * (((joint.limits?.min ?? 0) + (joint.limits?.max ?? 0)) / 2)),
      usPerDeg: 10,
      direction: 1 as const,
      minUs: 500,
      maxUs: 2500,
      speedDegPerS: big.has(joint.id) ? 350 : 480,
      stallNm: big.has(joint.id) ? 1.9 : 0.18,
      deadBandUs: 5,
    })),
    transmissions: driven.map(({ id }) => ({
      id: `t-${id}`,
      kind: 'ratio' as const,
      joints: [id] as [string],
      drives: [`m-${id}`] as [string],
      reduction: 1,
    })),
    boards: [{ id: 'pwm', name: 'Servo board', kind: 'servo-board' as const, channels: 16 }],
    wiring: driven.map(({ id }, channel) => ({ id: `w-${id}`, drive: `m-${id}`, board: 'pwm', channel })),
  };
}

/** A routine that goes through poses one after another, with a pause at each. */
export const tour = (
  id: string,
  name: string,
  stops: readonly (readonly [pose: string, speedShare: number, pauseS: number])[],
): NonNullable<RigInput['routines']>[number] => ({
  id,
  name,
  steps: stops.flatMap(([pose, speedShare, pauseS], i) => [
    { id: `m${i + 1}`, kind: 'joint-move' as const, target: { pose }, pace: { speedShare } },
    ...(pauseS > 0 ? [{ id: `w${i + 1}`, kind: 'wait' as const, durationS: pauseS }] : []),
  ]),
});
