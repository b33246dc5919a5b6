/**
 * The rig document: one JSON document in people's units (mm, °, g, s, µs), the unit in the name; joint-valued numbers
 * carry no suffix (° for revolute and continuous joints, mm for prismatic). Strict: an unknown key is a fault.
 * Any new key raises {@link RIG_VERSION} and brings a migration and a stored sample file with it.
 */
import { z } from 'zod';
import {
  finite,
  idSchema,
  inertia,
  massG,
  mechanismSchema,
  type MechanismInput,
  name,
  note,
  notNegative,
  positive,
  xyz,
  zero3,
} from './mechanism-schema';

import { buildSchema } from './build-schema';
import { homingSchema, powerUpSchema } from './bring-up-schema';
import { driveSchema, transmissionSchema } from './motor-schema';
import { motionSchema, plannedMotion, routineSchema } from './routine-schema';
import { boardSchema, leaderSchema, railSchema, sensorSchema, signalSchema, wireSchema } from './wiring-schema';

export * from './mechanism-schema';
export * from './motor-schema';
export * from './wiring-schema';
export * from './build-schema';
export * from './bring-up-schema';
export * from './routine-schema';

export const RIG_FORMAT = 'cork-elbow-rig';
export const RIG_VERSION = 10;
/** Most joints one document may have: well above a walker with two arms, well below what stalls a page. */
export const MAX_JOINTS = 128;
export const MAX_RIG_BYTES = 2 * 1024 * 1024;

export const spotSchema = z.strictObject({
  id: idSchema,
  name,
  xyzMm: xyz,
  /** Where the tool's +Z should point there; null leaves it free. World frame. */
  direction: xyz.nullable().default(null),
});

/** What a frame or a keep-out stands on: the world, the base (moves with it), or a joint's link. */
const fixedTo = z.union([z.literal('world'), z.literal('base'), z.strictObject({ joint: idSchema })]);

/** A named frame, typed or found by touching its origin, a point on its X and a third one in its XY plane (kept in `touchedMm`). */
export const namedFrameSchema = z.strictObject({
  id: idSchema,
  name,
  fixedTo: fixedTo.default('world'),
  xyzMm: xyz,
  rpyDeg: xyz.default(zero3),
  touchedMm: z.tuple([xyz, xyz, xyz]).optional(),
});

const placed = {
  id: idSchema,
  name,
  xyzMm: xyz,
  rpyDeg: xyz.default(zero3),
  fixedTo: z.enum(['world', 'base']).optional(),
};
/** xyzMm is the centre of the bottom face (of a plane: a point on it, all below its Z is kept out); sizes along the obstacle's own axes. */
export const obstacleSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('box'), ...placed, sizeMm: z.tuple([positive, positive, positive]) }),
  z.strictObject({ kind: z.literal('plane'), ...placed, sizeMm: z.tuple([positive, positive]).optional() }),
  z.strictObject({ kind: z.literal('cylinder'), ...placed, radiusMm: positive, heightMm: positive }),
  z.strictObject({
    kind: z.literal('jar'),
    ...placed,
    innerRadiusMm: positive,
    wallMm: positive,
    heightMm: positive,
    fillMm: notNegative.default(0),
  }),
  z.strictObject({
    kind: z.literal('rack'),
    ...placed,
    sizeMm: z.tuple([positive, positive, positive]),
    slots: z.number().int().min(1).max(40),
    slotMm: positive,
  }),
]);

export const payloadSchema = z.strictObject({
  id: idSchema,
  name,
  massG,
  comMm: xyz.default(zero3),
  /** Box around the centre of mass, in the tool's axes. */
  sizeMm: z.tuple([positive, positive, positive]),
  inertiaKgM2: inertia,
});

export const poseSchema = z.strictObject({
  id: idSchema,
  name,
  joints: z.record(z.string(), finite),
  note,
  /** A base on wheels may drive while the arm stands so with nothing in its hand. */
  driving: z.boolean().optional(),
});

const reserved = z.array(z.never()).max(0, 'An empty list; nothing may stand here in this version').default([]);

export const rigSchema = z.strictObject({
  format: z.literal(RIG_FORMAT),
  version: z.literal(RIG_VERSION),
  name,
  mechanism: mechanismSchema,
  drives: z.array(driveSchema).default([]),
  transmissions: z.array(transmissionSchema).default([]),
  boards: z.array(boardSchema).default([]),
  rails: z.array(railSchema).max(32).default([]),
  wiring: z.array(wireSchema).default([]),
  signals: z.array(signalSchema).max(128).default([]),
  sensors: z.array(sensorSchema).max(128).default([]),
  leaders: z.array(leaderSchema).max(32).default([]),
  homing: homingSchema.default({ axes: [], parked: null }),
  powerUp: powerUpSchema.default({ rest: null, gapMs: 300, maxDegPerS: 20, order: [], at: {} }),
  builds: z
    .array(buildSchema)
    .min(1)
    .default([buildSchema.parse({ id: 'b1', name: 'build 1' })]),
  spots: z.array(spotSchema).default([]),
  frames: z.array(namedFrameSchema).max(200).default([]),
  obstacles: z.array(obstacleSchema).default([]),
  payloads: z.array(payloadSchema).default([]),
  poses: z.array(poseSchema).default([]),
  routines: z.array(routineSchema).default([]),
  motion: motionSchema.default(plannedMotion),
  clips: reserved,
});

export type Rig = z.infer<typeof rigSchema>;
/** A rig but for what it is to do. */
export type Hardware = Omit<Rig, 'routines'>;
const hardwareKeys = rigSchema.keyof().exclude(['routines']).options;
/** Whether two documents are the very same in all but their routines, by identity. */
export const isSameHardware = (a: Hardware, b: Hardware): boolean => hardwareKeys.every((key) => a[key] === b[key]);
export type RigInput = Omit<z.input<typeof rigSchema>, 'mechanism'> & { mechanism: MechanismInput };
export type Spot = z.infer<typeof spotSchema>;
export type NamedFrame = z.infer<typeof namedFrameSchema>;
export type Obstacle = z.infer<typeof obstacleSchema>;
export type Payload = z.infer<typeof payloadSchema>;
export type Pose = z.infer<typeof poseSchema>;
