/**
 * The part of the rig document that says what the arm is: joints, tools, base. Conventions stand in docs/maths.md;
 * joint values are ° for turning joints and mm for sliding ones.
 */
import { z } from 'zod';

/** Short and immutable; a key inside the document. */
export const idSchema = z
  .string()
  .regex(/^[A-Za-z][A-Za-z0-9_-]{0,47}$/, 'An id of letters, digits, - and _ that begins with a letter (48 at most)');
/** The name that generated code and tables use. */
const code = z
  .string()
  .regex(
    /^[A-Za-z][A-Za-z0-9_]{0,23}$/,
    'A code name of letters, digits and _ that begins with a letter (24 at most)',
  );
/** What people type on one line: anything that can be printed. */
export const line = (most: number) =>
  z
    .string()
    .max(most)
    .regex(/^[^\p{Cc}\p{Cs}\p{Zl}\p{Zp}\uFFFE\uFFFF]*$/u, 'A text without control characters');
export const name = line(80).trim().min(1);
/** The same over several lines. */
export const note = z
  .string()
  .max(2000)
  .regex(/^(?:[^\p{Cc}\p{Cs}\uFFFE\uFFFF]|[\n\r\t])*$/u, 'A text without control characters')
  .default('');
export const finite = z.number().min(-1e9).max(1e9);
export const positive = finite.gt(0);
export const notNegative = finite.min(0);
export const xyz = z.tuple([finite, finite, finite]);
export const zero3 = [0, 0, 0] as [number, number, number];
export const massG = z.preprocess((v) => v ?? 0, notNegative);
export const inertia = z.tuple([finite, finite, finite, finite, finite, finite]).nullable().default(null);

export const frameSchema = z.strictObject({ xyzMm: xyz.default(zero3), rpyDeg: xyz.default(zero3) });

/**
 * A simple solid on a link or on the base, in its frame: what is drawn, and what contact is checked against. sizeMm is
 * along its own axes; a ball's three are its diameters, a cylinder's and a cone's z is its height (a cone stands on its
 * wide end), centreMm is the middle of that box.
 */
export const bodySchema = z.strictObject({
  kind: z.enum(['box', 'ball', 'cylinder', 'cone']),
  centreMm: xyz.default(zero3),
  rpyDeg: xyz.default(zero3),
  sizeMm: z.tuple([positive, positive, positive]),
  tone: z.enum(['paper', 'dark', 'cork']).default('paper'),
});
const bodies = z.array(bodySchema).max(16).optional();

export const linkSchema = z.strictObject({
  massG: massG.default(0),
  comMm: xyz.default(zero3),
  radiusMm: notNegative.default(0),
  inertiaKgM2: inertia,
  /** Solids that stand for the link instead of a bar to each child. */
  bodies,
});

const limits = z.strictObject({
  min: finite.optional(),
  max: finite.optional(),
  maxSpeed: positive.optional(),
  maxAccel: positive.optional(),
  maxJerk: positive.optional(),
});
const unboundedLimits = limits.omit({ min: true, max: true });

const named = { id: idSchema, name: name.optional(), code: code.optional() };
const jointBase = {
  ...named,
  parent: idSchema.nullable().default(null),
  origin: frameSchema,
  link: linkSchema.optional(),
};
const range = { physical: z.strictObject({ min: finite, max: finite }).optional(), home: finite.default(0) };
/** What its bearings and seals take, whichever way and however fast it moves: N·m, N where it slides. */
const friction = notNegative.optional();
const bears = {
  friction,
  /** How stiff it is with its motor held, gears and link together: N·m per ° (N per mm where it slides). */
  stiffness: positive.optional(),
  /** What carries its link: a second bearing on the other side, or the shaft alone, so far from the link's middle along the axis. */
  bearing: z
    .strictObject({
      second: z.boolean().default(false),
      overhangMm: notNegative.default(0),
      /** Bending moment that its shaft may bear, N·m. */
      ratedNm: positive.optional(),
    })
    .optional(),
};
const movingBase = {
  ...jointBase,
  axis: xyz,
  ...range,
  follows: z
    .array(z.strictObject({ joint: idSchema, factor: finite }))
    .min(1)
    .optional(),
  offset: finite.optional(),
  /** How a follower is made to follow: by parallel bars, gears, a cord or belt, or by a computed command. */
  coupling: z.enum(['bars', 'gears', 'cord', 'computed']).optional(),
  role: z.enum(['jaw']).optional(),
  ...bears,
};
export const jointSchema = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('revolute'), ...movingBase, limits: limits.optional() }),
  z.strictObject({ type: z.literal('prismatic'), ...movingBase, limits: limits.optional() }),
  z.strictObject({ type: z.literal('continuous'), ...movingBase, limits: unboundedLimits.optional() }),
  z.strictObject({ type: z.literal('fixed'), ...jointBase }),
]);
/** A motor of a rotary delta: its place follows from the delta's measures. */
export const deltaJointSchema = z.strictObject({
  type: z.literal('revolute'),
  ...named,
  ...range,
  limits: limits.optional(),
  link: linkSchema.optional(),
  ...bears,
});

const openClose = { openS: positive.optional(), closeS: positive.optional() };
export const gripSchema = z.union([
  z.strictObject({
    joint: idSchema,
    open: finite,
    closed: finite,
    openingMm: z
      .array(z.strictObject({ at: finite, mm: notNegative }))
      .max(64)
      .optional(),
    /** How much narrower than what it closes on it is sent. */
    pastMm: notNegative.optional(),
    ...openClose,
  }),
  z.strictObject({ output: idSchema, ...openClose }),
]);

export const toolSchema = z.strictObject({
  id: idSchema,
  name: name.optional(),
  parent: idSchema.nullable().default(null),
  origin: frameSchema.default({ xyzMm: zero3, rpyDeg: zero3 }),
  massG: massG.default(0),
  comMm: xyz.default(zero3),
  inertiaKgM2: inertia,
  mounted: z.boolean().default(true),
  grip: gripSchema.optional(),
  /** Friction of the pads (µ of Coulomb's law). */
  padFriction: finite.min(0).max(3).optional(),
});

/** A wheel under the base: its axle's middle in the base's frame; it touches the ground one radius below. */
export const wheelSchema = z.strictObject({
  id: idSchema,
  xyzMm: xyz,
  radiusMm: positive,
  widthMm: positive.default(10),
  kind: z.enum(['driven', 'free', 'castor']).default('driven'),
  /** The joint that turns it, where one does. */
  joint: idSchema.nullable().default(null),
});

const noMounting = { xyzMm: zero3, rpyDeg: zero3 };
export const baseSchema = z.strictObject({
  feet: z
    .array(z.tuple([finite, finite]))
    .max(64)
    .default([]),
  wheels: z.array(wheelSchema).max(16).optional(),
  /** How the base itself goes: how hard it brakes and speeds up, how fast it is, and how fast it turns meanwhile. */
  travel: z
    .strictObject({
      brakeMmPerS2: notNegative.default(0),
      mmPerS: notNegative.default(0),
      turnDegPerS: notNegative.default(0),
    })
    .optional(),
  massG: massG.default(0),
  comMm: xyz.default(zero3),
  mounting: frameSchema.default(noMounting),
  /** The body that the arm stands on or hangs from; also a keep-out volume. */
  bodies,
});

/** A limit that depends on other joints: a sum that stays inside bounds, or bounds that hold while another joint is past a value. */
export const limitRuleSchema = z.union([
  z.strictObject({
    terms: z.array(z.strictObject({ joint: idSchema, factor: finite })).min(1),
    min: finite,
    max: finite,
  }),
  z.strictObject({
    while: z.union([
      z.strictObject({ joint: idSchema, above: finite }),
      z.strictObject({ joint: idSchema, below: finite }),
    ]),
    joint: idSchema,
    min: finite.optional(),
    max: finite.optional(),
  }),
]);

/**
 * A cable or hose led round joints: turning joint i by θ from `neutral` (°) takes radius·|θ| of its slack (θ in rad), all
 * of them together no more than slackMm.
 */
export const cableSchema = z.strictObject({
  id: idSchema,
  name,
  slackMm: notNegative,
  around: z
    .array(z.strictObject({ joint: idSchema, radiusMm: positive, neutral: finite.default(0) }))
    .min(1)
    .max(6),
});

/** A place on the arm: on a joint's link, or on the base; in its frame. */
export const placeOnSchema = z.strictObject({ joint: idSchema.nullable(), xyzMm: xyz });

/** A counterweight, or whatever else weighs and belongs to no link. */
export const weightSchema = z.strictObject({ id: idSchema, name, ...placeOnSchema.shape, massG });

/** A spring that bears a part of the load. */
export const springSchema = z.discriminatedUnion('kind', [
  /** About a joint: N·m per ° away from where it is slack (N per mm of a joint that slides). */
  z.strictObject({
    kind: z.literal('at-joint'),
    id: idSchema,
    name,
    joint: idSchema,
    stiffness: positive,
    slackAt: finite,
  }),
  /** Pulls two places together, and no more than lies slack where they are nearer than its free length. */
  z.strictObject({
    kind: z.literal('between'),
    id: idSchema,
    name,
    from: placeOnSchema,
    to: placeOnSchema,
    nPerMm: positive,
    freeMm: notNegative,
  }),
]);

/**
 * Measures of a rotary delta. Radii end at the hinge pivots; azimuths anticlockwise from +X; a motor's angle is 0 with
 * its upper arm level and pointing outward, positive downward.
 */
export const deltaSchema = z.strictObject({
  baseRadiusMm: positive,
  platformRadiusMm: positive,
  upperArmMm: positive,
  forearmMm: positive,
  azimuthsDeg: z.tuple([finite, finite, finite]).default([0, 120, 240]),
  /** Distance between the two rods of a forearm. */
  rodGapMm: positive.default(40),
  masses: z
    .strictObject({ upperArmG: massG.default(0), forearmG: massG.default(0), platformG: massG.default(0) })
    .default({ upperArmG: 0, forearmG: 0, platformG: 0 }),
});

const common = {
  base: baseSchema.default({ feet: [], massG: 0, comMm: zero3, mounting: noMounting }),
  limitRules: z.array(limitRuleSchema).max(200).default([]),
  cables: z.array(cableSchema).max(64).optional(),
  weights: z.array(weightSchema).max(64).optional(),
  springs: z.array(springSchema).max(64).optional(),
  tools: z.array(toolSchema).default([]),
};
const treeSchema = z.strictObject({ family: z.literal('tree'), joints: z.array(jointSchema), ...common });
const rotaryDeltaSchema = z.strictObject({
  family: z.literal('rotary-delta'),
  joints: z.array(deltaJointSchema).length(3, 'a list of exactly three motors'),
  delta: deltaSchema,
  ...common,
});
/** A mechanism without a family is a tree. */
export const mechanismSchema = z.preprocess(
  (value) =>
    typeof value === 'object' && value !== null && !Array.isArray(value) && !('family' in value)
      ? { family: 'tree', ...value }
      : value,
  z.discriminatedUnion('family', [treeSchema, rotaryDeltaSchema]),
);

export type JointInput = z.input<typeof jointSchema>;
export type ToolInput = z.input<typeof toolSchema>;
export type TreeInput = Omit<z.input<typeof treeSchema>, 'family'> & { family?: 'tree' };
export type MechanismInput = TreeInput | z.input<typeof rotaryDeltaSchema>;
export type MechanismDoc = z.infer<typeof mechanismSchema>;
export type TreeDoc = z.infer<typeof treeSchema>;
export type DeltaDoc = z.infer<typeof rotaryDeltaSchema>;
export type Joint = z.infer<typeof jointSchema>;
export type DeltaJoint = z.infer<typeof deltaJointSchema>;
export type AnyJoint = Joint | DeltaJoint;
export type MovingJoint = Exclude<Joint, { type: 'fixed' }>;
export type JointType = Joint['type'];
export type Tool = z.infer<typeof toolSchema>;
export type Wheel = z.infer<typeof wheelSchema>;
export type Body = z.infer<typeof bodySchema>;
export type LimitRule = z.infer<typeof limitRuleSchema>;
export type Weight = z.infer<typeof weightSchema>;
export type Spring = z.infer<typeof springSchema>;
export type PlaceOn = z.infer<typeof placeOnSchema>;
export type Cable = z.infer<typeof cableSchema>;
export type Frame = z.infer<typeof frameSchema>;
