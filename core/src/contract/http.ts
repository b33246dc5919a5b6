/** Bodies and answers of the HTTP interface. Positions in mm, world frame; joint values in ° or mm. */
import { z } from 'zod';
import { catalogueEntrySchema, factSchema, mechanismSchema, rigSchema } from '../rig/schema';
import { findingSchema } from '../findings/finding';
import { simulatedInputs } from './inputs';

const finite = z.number().min(-1e9).max(1e9);
const xyz = z.tuple([finite, finite, finite]);
const quaternion = z.tuple([finite, finite, finite, finite]);
const values = z.record(z.string(), finite);

export const healthAnswer = z.strictObject({ ok: z.literal(true), version: z.string() });

export const forwardBody = z.strictObject({
  mechanism: mechanismSchema,
  joints: values.default({}),
  tool: z.string().optional(),
});
const frameAnswer = z.strictObject({ positionMm: xyz, quaternion });
export const forwardAnswer = z.strictObject({
  positionMm: xyz.nullable(),
  quaternion: quaternion.nullable(),
  rpyDeg: xyz.nullable(),
  joints: values,
  links: z.record(z.string(), frameAnswer),
});

export const orientationSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('free') }),
  z.strictObject({
    kind: z.literal('direction'),
    direction: xyz.refine((d) => Math.hypot(...d) > 1e-9, 'a direction with a length'),
  }),
  z.strictObject({ kind: z.literal('tilt'), fromUpDeg: z.number().min(0).max(180) }),
  z.strictObject({
    kind: z.literal('full'),
    quaternion: quaternion.refine((q) => Math.hypot(...q) > 1e-9, 'a quaternion with a length'),
  }),
]);
export const targetBody = z.strictObject({
  positionMm: xyz,
  orientation: orientationSchema.default({ kind: 'free' }),
});
/** One tool and its target, or several tools at once, each with its own; `held` joints keep their values. */
export const inverseBody = z
  .strictObject({
    mechanism: mechanismSchema,
    tool: z.string().optional(),
    target: targetBody.optional(),
    targets: z
      .array(z.strictObject({ tool: z.string(), target: targetBody }))
      .min(1)
      .max(16)
      .optional(),
    near: values.optional(),
    held: z.array(z.string()).optional(),
  })
  .refine((body) => (body.target === undefined) !== (body.targets === undefined), {
    path: ['target'],
    message: 'give either target or targets',
  });
const solutionAnswer = z.strictObject({
  joints: values,
  posture: z.string(),
  errorMm: z.number(),
  errorDeg: z.number(),
  limitMargin: z.number(),
  /** Time (s) from `near` with every joint at full speed. */
  awayS: z.number(),
  /** See kinematics/dexterity: product of the singular values, and smallest over largest. */
  manipulability: z.number(),
  evenness: z.number(),
});
export const inverseAnswer = z.strictObject({
  reachable: z.boolean(),
  solutions: z.array(solutionAnswer),
  reasons: z.array(
    z.strictObject({
      code: z.string(),
      message: z.string(),
      joint: z.string().optional(),
      byDeg: z.number().optional(),
      byMm: z.number().optional(),
    }),
  ),
  closest: solutionAnswer.optional(),
});

export const planBody = z.strictObject({
  rig: rigSchema,
  routineId: z.string(),
  /** The build whose measurements and place count; the first one where it is left out. */
  buildId: z.string().optional(),
  sampleMs: finite,
  start: values.optional(),
  /** By id of the signal: a state, or one with the times (s) at which it changes over. */
  inputs: simulatedInputs.optional(),
});
export const planAnswer = z.strictObject({
  durationS: z.number(),
  findings: z.array(findingSchema),
  samples: z.strictObject({
    timeS: z.array(z.number()),
    joints: z.record(z.string(), z.array(z.number())),
    speeds: z.record(z.string(), z.array(z.number())),
    accels: z.record(z.string(), z.array(z.number())),
  }),
});

export const rigSummary = z.strictObject({
  id: z.string(),
  name: z.string(),
  revision: z.number().int(),
  updatedAt: z.string(),
  joints: z.number().int(),
  routines: z.number().int(),
});
export const rigList = z.strictObject({ rigs: z.array(rigSummary) });
export const rigAnswer = z.strictObject({
  id: z.string(),
  revision: z.number().int(),
  updatedAt: z.string(),
  rig: rigSchema,
});
export const savedAnswer = z.strictObject({ revision: z.number().int(), updatedAt: z.string() });

export type Orientation = z.infer<typeof orientationSchema>;
export type ForwardAnswer = z.infer<typeof forwardAnswer>;
export type InverseAnswer = z.infer<typeof inverseAnswer>;
export type PlanAnswer = z.infer<typeof planAnswer>;
export type RigSummary = z.infer<typeof rigSummary>;
export type RigAnswer = z.infer<typeof rigAnswer>;

/** A row of a build's history of measurements. */
export const calibrationEntry = z.strictObject({
  id: z.string(),
  takenAt: z.string(),
  note: z.string(),
  fact: factSchema,
});
export const calibrationList = z.strictObject({ calibrations: z.array(calibrationEntry) });
export const calibrationBody = z.strictObject({ fact: factSchema, note: z.string().max(200).default('') });
export type CalibrationEntry = z.infer<typeof calibrationEntry>;

export const motorList = z.strictObject({ motors: z.array(catalogueEntrySchema) });
export const motorsBody = z.strictObject({ motors: z.array(catalogueEntrySchema).min(1).max(500) });
