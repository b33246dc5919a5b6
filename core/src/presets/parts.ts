/** Joints, tools and drives that presets are put together from. */
import { motorName } from '../actuators';
import { newBoard } from '../wiring/boards';
import type { JointInput, MechanismInput, RigInput, ToolInput } from '../rig';
import type { Anchor, DrawnView, Measure } from './preset';

type Triple = readonly [number, number, number];

/** Axes in words: turn about up, pitch about left, roll about forward. */
export const TURN: Triple = [0, 0, 1];
export const PITCH: Triple = [0, 1, 0];
export const ROLL: Triple = [1, 0, 0];

interface JointExtras {
  home?: number;
  massG?: number;
  radiusMm?: number;
  speed?: number;
  rpyDeg?: Triple;
  [key: string]: unknown;
}

/** A turning joint; `at` is its pivot seen from the pivot it hangs on, `range` its limits in °. */
export function turning(
  id: string,
  name: string,
  parent: string | null,
  at: Triple,
  axis: Triple,
  range: readonly [number, number],
  { home = 0, massG = 40, radiusMm = 0, speed = 120, rpyDeg = [0, 0, 0], ...more }: JointExtras = {},
): JointInput {
  return {
    id,
    name,
    type: 'revolute',
    parent,
    origin: { xyzMm: at, rpyDeg },
    axis,
    limits: { min: range[0], max: range[1], maxSpeed: speed, maxAccel: 400, maxJerk: 3000 },
    home,
    link: { massG, radiusMm },
    ...more,
  } as JointInput;
}

/** A sliding joint; `range` in mm. */
export function sliding(
  id: string,
  name: string,
  parent: string | null,
  at: Triple,
  axis: Triple,
  range: readonly [number, number],
  { home = 0, massG = 200, radiusMm = 22, ...more }: JointExtras = {},
): JointInput {
  return {
    id,
    name,
    type: 'prismatic',
    parent,
    origin: { xyzMm: at },
    axis,
    limits: { min: range[0], max: range[1], maxSpeed: 80, maxAccel: 300, maxJerk: 3000 },
    home,
    link: { massG, radiusMm },
    ...more,
  } as JointInput;
}

/** A joint that follows others: q = offset + Σ factor·source. */
export function following(
  id: string,
  name: string,
  parent: string,
  at: Triple,
  axis: Triple,
  follows: readonly { joint: string; factor: number }[],
  coupling: 'bars' | 'gears' | 'cord' | 'computed',
  { offset = 0, ...more }: JointExtras & { offset?: number } = {},
): JointInput {
  const joint = turning(id, name, parent, at, axis, [-180, 180], more) as Record<string, unknown>;
  delete joint.limits;
  return { ...joint, follows, offset, coupling } as unknown as JointInput;
}

/** A two-fingered gripper on `parent`, `length` mm out along its Z, with the jaw joint that works it. */
export function gripper(
  parent: string,
  length: number,
  id = 'gripper',
  name = 'Gripper',
): { joint: JointInput; tool: ToolInput } {
  const jaw = id === 'gripper' ? 'jaw' : `${id}-jaw`;
  return {
    joint: turning(jaw, `${name} jaw`, parent, [0, 0, Math.max(5, length - 50)], PITCH, [0, 45], {
      home: 30,
      massG: 15,
      radiusMm: 8,
      role: 'jaw',
    }),
    tool: {
      id,
      name,
      parent,
      origin: { xyzMm: [0, 0, length] },
      massG: 45,
      comMm: [0, 0, -30],
      grip: {
        joint: jaw,
        open: 40,
        closed: 5,
        openingMm: [
          { at: 0, mm: 0 },
          { at: 20, mm: 17 },
          { at: 45, mm: 36 },
        ],
        openS: 0.4,
        closeS: 0.4,
      },
      padFriction: 0.6,
    },
  };
}

/** Four feet of a rectangular base plate, forward × left mm. */
export const feet = (forward: number, left: number): [number, number][] => [
  [forward / 2, left / 2],
  [-forward / 2, left / 2],
  [-forward / 2, -left / 2],
  [forward / 2, -left / 2],
];

type MovingInput = Extract<JointInput, { type: 'revolute' }>;

/** What tells one class of hobby servo from another. */
export interface ServoClass {
  readonly model: string;
  readonly speedDegPerS: number;
  readonly stallNm: number;
}

/** One hobby servo for each turning joint with a value of its own, each on its own channel of one board. */
export function servosFor(
  joints: readonly JointInput[],
  classOf: (joint: MovingInput) => ServoClass,
  board = 'board',
): Required<Pick<RigInput, 'drives' | 'transmissions' | 'boards' | 'wiring'>> {
  const driven = (joints as readonly MovingInput[]).filter((joint) => joint.type === 'revolute' && !joint.follows);
  return {
    drives: driven.map((joint) => {
      const { min = -90, max = 90 } = joint.limits ?? {};
      const { model, speedDegPerS, stallNm } = classOf(joint);
      return {
        id: `m-${joint.id}`,
        name: motorName(joint.name ?? joint.id, 'servo'),
        kind: 'servo' as const,
        model,
        travelDeg: 180,
        // The neutral pulse in the middle of the joint's range.
        centreUs: Math.round(1500 - 10 * ((min + max) / 2)),
        usPerDeg: 10,
        direction: 1 as const,
        minUs: 500,
        maxUs: 2500,
        speedDegPerS,
        stallNm,
        deadBandUs: 5,
      };
    }),
    transmissions: driven.map(({ id }) => ({
      id: `t-${id}`,
      kind: 'ratio' as const,
      joints: [id] as [string],
      drives: [`m-${id}`] as [string],
      reduction: 1,
    })),
    boards: driven.length ? [newBoard('servo-board', board, 'Servo board')] : [],
    wiring: driven.map(({ id }, channel) => ({ id: `w-${id}`, drive: `m-${id}`, board, channel })),
  };
}

const STANDARD: ServoClass = { model: 'standard servo, 55 g', speedDegPerS: 350, stallNm: 1.6 };
const MICRO: ServoClass = { model: 'micro servo, 9 g', speedDegPerS: 450, stallNm: 0.18 };
/** Links from this mass on (g) get the bigger servo. */
const HEAVY_G = 40;

/** A whole rig round a mechanism; `servos`: with a hobby servo for each joint. */
export function rigOf(
  name: string,
  mechanism: MechanismInput,
  { servos = false, ...rest }: Partial<RigInput> & { servos?: boolean } = {},
): RigInput {
  return {
    format: 'cork-elbow-rig',
    version: 10,
    name,
    mechanism,
    ...servosFor(servos ? (mechanism.joints as JointInput[]) : [], ({ link }) =>
      Number(link?.massG ?? 0) >= HEAVY_G ? STANDARD : MICRO,
    ),
    routines: [{ id: 'first', name: 'First routine', steps: [] }],
    ...rest,
  };
}

const anchor = (text: string): Anchor => {
  if (text === 'base') return { base: true };
  const [kind, id] = text.split('/');
  if (id === undefined) return { joint: text };
  switch (kind) {
    case 'ground':
      return { groundUnder: id };
    case 'tool':
      return { tool: id };
    case 'min':
    case 'max':
      return { joint: id, end: kind };
    case 'back':
    case 'front':
      return { bodyOf: id, end: kind };
    case 'knee':
    case 'foot':
      return { rodOf: id, end: kind };
    default:
      throw new Error(`no such end of a measure: ${text}`);
  }
};

/**
 * A measure in one line. Ends are joint ids, "tool/…", "base", "ground/…" (straight below a joint or "base"), "min/…" and
 * "max/…" (ends of a slide), "back/…" and "front/…" (of a joint's solid), "knee/…" and "foot/…" (of a delta's arm).
 */
export function measure(
  key: string,
  label: string,
  usual: number,
  [from, to]: readonly [string, string],
  along: Measure['along'] = 'straight',
  { min = 5, max = 2000, view = 'side' as DrawnView } = {},
): Measure {
  return { key, label, unit: 'mm', usual, min, max, from: anchor(from), to: anchor(to), along, view };
}
