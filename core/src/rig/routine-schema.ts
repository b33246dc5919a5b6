/**
 * Routines: flat lists of steps, a closed union on `kind`; repeat, if, alongside and group close with `end`. What a step names
 * (poses, spots, signals, markers, routines) need not exist: that is a finding, and the document is kept.
 */
import { z } from 'zod';
import { finite, idSchema, line, name, note, notNegative, positive, xyz } from './mechanism-schema';

/** `speedShare` scales time: speed by k, acceleration by k², jerk by k³; `accelShare` acceleration and jerk alone. */
export const paceSchema = z.union([
  z.strictObject({ speedShare: finite.gt(0).max(1), accelShare: finite.gt(0).max(1).optional() }),
  z.strictObject({ durationS: finite.gt(0).max(3600) }),
  /** Of the tool's point, at most. */
  z.strictObject({ mmPerS: finite.gt(0).max(10_000) }),
]);

const values = z.record(z.string(), finite);
export const targetSchema = z.union([
  z.strictObject({ pose: idSchema }),
  /** Where the tool's point goes and its +Z points (world); `direction` left out: as the spot says; null: freely. */
  z.strictObject({ spot: idSchema, direction: xyz.nullable().optional() }),
  z.strictObject({ joints: values }),
  /** From where the arm stands: the tool's point along the world's axes or its own, or joints by so much. */
  z.strictObject({
    shift: z.union([
      z.strictObject({ xyzMm: xyz, along: z.enum(['world', 'tool']) }),
      z.strictObject({ joints: values }),
    ]),
  }),
]);

/** How a move speeds up and slows down; see motion/profile. */
export const profileSchema = z.enum(['s-curve', 'minimum-jerk', 'soft-stop', 'trapezoid', 'linear', 'jump']);

/**
 * What a tool keeps of its orientation on its way: all of its turn, the direction it points in, its tilt from up, or nothing (it
 * follows the arm).
 */
export const keepSchema = z.enum(['turn', 'direction', 'tilt', 'nothing']);

const step = { id: idSchema, enabled: z.boolean().default(true), note };
const paced = { pace: paceSchema, profile: profileSchema.optional() };
/** A tool left out is the first mounted one. */
const way = { tool: idSchema.optional(), ...paced };
/** Along a way of the tool; `keep` left out: as much of its orientation as the arm can. */
const along = { ...way, keep: keepSchema.optional() };
/** The corner at the target may be rounded, no further than this from it (mm at the tool); left out: a stop. */
const blended = { blendMm: positive.max(1000).optional() };
const word = line(40).trim().min(1);
const signalIs = { signal: idSchema, is: z.boolean() };

const conditionSchema = z.union([
  z.strictObject(signalIs),
  z.strictObject({ counter: word, is: z.enum(['below', 'equal', 'above']), value: finite }),
]);

/** Places that a pattern visits, in the world; a grid goes along its rows there and back. */
export const placesSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('grid'),
    spot: idSchema,
    columns: z.number().int().min(1).max(200),
    rows: z.number().int().min(1).max(200),
    /** From one column, and one row, to the next. */
    columnMm: xyz,
    rowMm: xyz,
  }),
  z.strictObject({
    kind: z.literal('ring'),
    spot: idSchema,
    radiusMm: positive,
    count: z.number().int().min(1).max(720),
    /** Of the first place, from forward, anticlockwise. */
    firstDeg: finite.default(0),
  }),
  z.strictObject({ kind: z.literal('list'), pointsMm: z.array(xyz).max(2000) }),
]);

export const stepSchema = z.discriminatedUnion('kind', [
  // Moves
  z.strictObject({
    kind: z.literal('joint-move'),
    ...step,
    ...way,
    target: targetSchema,
    ...blended,
    /** Each joint at its own pace; left out: all arrive together. */
    arrive: z.literal('own-pace').optional(),
  }),
  z.strictObject({ kind: z.literal('straight-move'), ...step, ...along, target: targetSchema, ...blended }),
  z.strictObject({ kind: z.literal('arc'), ...step, ...along, via: targetSchema, target: targetSchema, ...blended }),
  /** From where the tool stands through two more places of the circle and back, so many times. */
  z.strictObject({
    kind: z.literal('circle'),
    ...step,
    ...along,
    via: targetSchema,
    second: targetSchema,
    turns: z.number().int().min(1).max(100).default(1),
  }),
  /** Straight from place to place, each corner but the last rounded by `blendMm`. */
  z.strictObject({
    kind: z.literal('path'),
    ...step,
    ...along,
    through: z.array(targetSchema).min(1).max(500),
    blendMm: positive.max(1000).optional(),
  }),
  /** To the target with the last `distanceMm` straight along the tool, that part no faster than `lastMmPerS`. */
  z.strictObject({
    kind: z.literal('approach'),
    ...step,
    ...along,
    target: targetSchema,
    distanceMm: positive.max(2000),
    lastMmPerS: positive.max(10_000).optional(),
  }),
  /** Straight back along the tool. */
  z.strictObject({ kind: z.literal('retreat'), ...step, ...along, distanceMm: positive.max(2000) }),
  z.strictObject({
    kind: z.literal('grip'),
    ...step,
    tool: idSchema,
    /** A jaw value, an opening, what it closes on, or one of the tool's two named ones; a tool worked by an output knows only these two. */
    to: z.union([
      z.enum(['open', 'closed']),
      finite,
      z.strictObject({ openingMm: notNegative }),
      /** Closes on something so wide, and further by what the tool says. */
      z.strictObject({ aroundMm: positive }),
    ]),
    /** Stops where the jaw presses this hard; left out: goes all the way. */
    stopAtN: positive.max(10_000).optional(),
    /** What the tool holds from here on, or lets go of (null); left out: no change. */
    payload: idSchema.nullable().optional(),
    ...paced,
  }),
  /** Turns a joint without ends at a speed (° or mm per s, signed; 0 stops it). */
  z.strictObject({
    kind: z.literal('spin'),
    ...step,
    joint: idSchema,
    speed: finite,
    until: z.union([
      z.strictObject({ forS: positive.max(3600) }),
      z.strictObject({ ...signalIs, atMostS: positive.max(3600) }),
      z.literal('stopped'),
    ]),
  }),
  /** One step over many places: down along `direction` from `approachMm` before it, another routine there, and back. */
  z.strictObject({
    kind: z.literal('pattern'),
    ...step,
    ...way,
    places: placesSchema,
    direction: xyz.nullable().default(null),
    approachMm: notNegative.max(2000),
    routine: idSchema.nullable().default(null),
  }),

  // Waiting, inputs, outputs
  z.strictObject({ kind: z.literal('wait'), ...step, durationS: notNegative.max(3600) }),
  z.strictObject({
    kind: z.literal('wait-input'),
    ...step,
    ...signalIs,
    /** null: for ever. */
    timeoutS: positive.max(86_400).nullable().default(null),
    /** What happens when the time is up. */
    otherwise: z.union([z.enum(['stop', 'go-on']), z.strictObject({ jump: word })]).default('stop'),
  }),
  z.strictObject({ kind: z.literal('output'), ...step, signal: idSchema, on: z.boolean() }),

  // State of the arm
  z.strictObject({ kind: z.literal('hold'), ...step, joints: z.array(idSchema).min(1).max(128) }),
  z.strictObject({ kind: z.literal('let-go'), ...step, joints: z.array(idSchema).min(1).max(128) }),
  z.strictObject({ kind: z.literal('pick-up'), ...step, tool: idSchema, payload: idSchema }),
  z.strictObject({ kind: z.literal('put-down'), ...step, tool: idSchema }),
  z.strictObject({
    kind: z.literal('swap-tool'),
    ...step,
    off: idSchema.nullable(),
    on: idSchema.nullable(),
  }),
  z.strictObject({ kind: z.literal('speed'), ...step, share: finite.gt(0).max(1) }),

  // Order
  z.strictObject({ kind: z.literal('marker'), ...step, name: word }),
  z.strictObject({ kind: z.literal('jump'), ...step, to: word }),
  /** null: for ever. */
  z.strictObject({
    kind: z.literal('repeat'),
    ...step,
    times: z.number().int().min(1).max(100_000).nullable(),
  }),
  z.strictObject({ kind: z.literal('if'), ...step, when: conditionSchema }),
  z.strictObject({ kind: z.literal('else'), ...step }),
  z.strictObject({
    kind: z.literal('counter'),
    ...step,
    counter: word,
    change: z.union([z.strictObject({ set: finite }), z.strictObject({ add: finite })]),
  }),
  z.strictObject({ kind: z.literal('call'), ...step, routine: idSchema }),
  z.strictObject({ kind: z.literal('return'), ...step }),
  /** The other routine runs beside the steps up to `end`, which waits for both. */
  z.strictObject({ kind: z.literal('alongside'), ...step, routine: idSchema }),
  z.strictObject({ kind: z.literal('group'), ...step, name: word }),
  z.strictObject({ kind: z.literal('end'), ...step }),
  z.strictObject({ kind: z.literal('note'), ...step }),
]);

/** torque: no motor is asked for more than it may give; tip: the base stays on its feet. */
export const respectSchema = z.enum(['torque', 'tip']);

export const routineSchema = z.strictObject({
  id: idSchema,
  name,
  note,
  /** Folds the arm away, or brings it out again. */
  role: z.enum(['park', 'unpark']).nullable().default(null),
  /** Of every move that has none of its own. */
  profile: profileSchema.default('s-curve'),
  /** What moves are slowed down for, besides limits of joints; left out: nothing. */
  respect: z.array(respectSchema).max(2).optional(),
  steps: z.array(stepSchema).max(5000),
});

/** How motors are told where to go: along planned motion, through a first-order low pass on the board, or at once. */
export const motionSchema = z.strictObject({
  school: z.enum(['planned', 'low-pass', 'jump']),
  /** Of the low pass (s), whatever the rate of the board's loop. */
  timeConstantS: positive.max(10),
  loopMs: positive.min(0.1).max(1000),
  /** The board reckons in whole numbers of this fraction of its unit; null: with fractions. */
  wholePer: z.number().int().min(1).max(65_536).nullable(),
  /** How the arm rocks after a fast move: its frequency (Hz) and the share of critical damping. */
  rocking: z.strictObject({ hz: positive.max(200), damping: finite.gt(0).lt(1) }).nullable(),
});
export const plannedMotion: z.infer<typeof motionSchema> = {
  school: 'planned',
  timeConstantS: 0.047973,
  loopMs: 4,
  wholePer: null,
  rocking: null,
};

export type Respect = z.infer<typeof respectSchema>;
export type Step = z.infer<typeof stepSchema>;
export type StepOf<K extends Step['kind']> = Extract<Step, { kind: K }>;
export type Target = z.infer<typeof targetSchema>;
export type Pace = z.infer<typeof paceSchema>;
export type Keep = z.infer<typeof keepSchema>;
export type Places = z.infer<typeof placesSchema>;
export type Condition = z.infer<typeof conditionSchema>;
export type Routine = z.infer<typeof routineSchema>;
export type MotionChoice = z.infer<typeof motionSchema>;
