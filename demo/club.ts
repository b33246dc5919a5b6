/** Parts that several of the club's rigs share: checked rigs, servos, poses by numbers. */
import { parseRoutine } from '@cork-elbow/core/routine';
import { servosFor, type ServoClass } from '@cork-elbow/core/presets';
import { admit } from '@cork-elbow/core/admit';
import { type JointInput, type Rig, type RigInput } from '@cork-elbow/core/rig';

/** Checks a rig that is meant to be right. */
export function must(input: unknown): Rig {
  const parsed = admit(input);
  if (!parsed.ok) throw new Error(parsed.faults.map((f) => f.message).join('\n'));
  return parsed.rig;
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

const BIG: ServoClass = { model: 'standard servo, metal gear, 55 g', speedDegPerS: 350, stallNm: 1.9 };
const SMALL: ServoClass = { model: 'micro servo, 9 g', speedDegPerS: 480, stallNm: 0.18 };

/** Hobby servos on one board, big ones for the joints named. */
export const servos = (joints: readonly JointInput[], big: ReadonlySet<string>): Partial<RigInput> =>
  servosFor(joints, ({ id }) => (big.has(id) ? BIG : SMALL), 'pwm');

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

interface Written {
  readonly id: string;
  readonly name: string;
  readonly note?: string;
  readonly role?: 'park' | 'unpark';
  readonly profile?: Rig['routines'][number]['profile'];
  readonly text: string;
}

/** The rig with more routines, written as sentences; each may call those before it. */
export const withRoutines = (rig: Rig, written: readonly Written[]): Rig =>
  written.reduce((before, { text, ...rest }) => {
    const parsed = parseRoutine(before, text);
    if (!parsed.ok) throw new Error(`${rest.name}: ${parsed.faults[0].message}`);
    return must({ ...before, routines: [...before.routines, { ...rest, steps: parsed.steps }] });
  }, rig);
