/**
 * The rig document: one JSON document in people's units (mm, °, g, s, µs), the unit in the name; joint-valued numbers
 * carry no suffix (° for revolute and continuous joints, mm for prismatic). Strict: an unknown key is a fault.
 * Any new key raises {@link RIG_VERSION} and brings a migration and a stored sample file with it.
 */
import { z } from 'zod';
import {
  finite,
  frameSchema,
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

export * from './mechanism-schema';

export const RIG_FORMAT = 'cork-elbow-rig';
export const RIG_VERSION = 3;
/** Most joints one document may have: well above a walker with two arms, well below what stalls a page. */
export const MAX_JOINTS = 128;
export const MAX_RIG_BYTES = 2 * 1024 * 1024;

/** Figures of a motor as far as they are known; what is left out is not checked. */
const driveFigures = {
  voltageV: positive.max(500).optional(),
  /** Torque it may hold for long, N·m. */
  holdNm: notNegative.optional(),
  idleA: notNegative.optional(),
  movingA: notNegative.optional(),
  stallA: notNegative.optional(),
  massG: notNegative.optional(),
  /** In whatever money the builder counts. */
  price: notNegative.optional(),
  splineTeeth: z.number().int().min(3).max(120).optional(),
  /** Highest temperature (°C) of its insulation or gears. */
  thermalC: positive.max(400).optional(),
  /** Torque left at speed, rising in speed. */
  torqueAtSpeed: z
    .array(z.strictObject({ degPerS: notNegative, nm: notNegative }))
    .max(32)
    .optional(),
};
const driveBase = {
  id: idSchema,
  name,
  /** What kind of motor, in generic words: "standard servo, 55 g". */
  model: z.string().max(80).default(''),
  direction: z.union([z.literal(1), z.literal(-1)]),
  stallNm: notNegative.default(0),
  ...driveFigures,
};
/** No-load speed of the shaft at its rail's voltage, °/s. */
const speedDegPerS = positive;
const pulses = {
  minUs: positive,
  maxUs: positive,
  deadBandUs: notNegative.default(0),
  updateHz: positive.default(50),
};

export const driveSchema = z.discriminatedUnion('kind', [
  /** Goes to the angle that a pulse asks for. */
  z.strictObject({
    kind: z.literal('servo'),
    ...driveBase,
    travelDeg: positive.max(3600),
    centreUs: positive,
    usPerDeg: positive,
    speedDegPerS,
    ...pulses,
  }),
  /** Turns at the speed that a pulse asks for; without feedback it cannot be sent to an angle. */
  z.strictObject({
    kind: z.literal('continuous-servo'),
    ...driveBase,
    stopUs: positive,
    /** Pulse away from the stop (µs) at which it runs at its full speed. */
    fullUs: positive,
    speedDegPerS,
    feedback: z.boolean().default(false),
    ...pulses,
  }),
  /** Speaks in counts over a bus and can be read back. */
  z.strictObject({
    kind: z.literal('bus-servo'),
    ...driveBase,
    countsPerTurn: positive.max(1e6),
    centreCount: finite,
    minCount: finite,
    maxCount: finite,
    address: z.number().int().min(0).max(253),
    deadBandCounts: notNegative.default(0),
    speedDegPerS,
    updateHz: positive.default(50),
  }),
  z.strictObject({
    kind: z.literal('stepper'),
    ...driveBase,
    stepsPerTurn: positive.max(1e5),
    microsteps: z.number().int().min(1).max(256),
    /** Highest step rate that motor and driver follow, and the one it may start with, microsteps per s. */
    maxStepHz: positive,
    startStepHz: positive.optional(),
  }),
  /** A motor whose shaft is counted by an encoder. */
  z.strictObject({
    kind: z.literal('dc-encoder'),
    ...driveBase,
    countsPerTurn: positive.max(1e7),
    speedDegPerS,
  }),
]);

const ties = { id: idSchema };
const unitVector = xyz.refine((v) => Math.hypot(...v) > 1e-9, 'A direction with a length');
const pushRod = z.strictObject({
  atMm: xyz,
  axis: unitVector,
  along: unitVector,
  hornMm: positive,
  rodMm: positive,
  plateMm: xyz,
});
/** Ties joints to drives; see drives/transmissions for what each kind computes. */
export const transmissionSchema = z.discriminatedUnion('kind', [
  /** reduction = drive units per joint unit: 2 means the motor turns twice as far as the joint. */
  z.strictObject({
    ...ties,
    kind: z.literal('ratio'),
    joints: z.tuple([idSchema]),
    drives: z.tuple([idSchema]),
    reduction: finite,
  }),
  /** drives = matrix · joints; one row a drive, one column a joint. */
  z.strictObject({
    ...ties,
    kind: z.literal('matrix'),
    joints: z.array(idSchema).min(2).max(6),
    drives: z.array(idSchema).min(2).max(6),
    matrix: z.array(z.array(finite).min(2).max(6)).min(2).max(6),
  }),
  z.strictObject({
    ...ties,
    kind: z.literal('four-bar'),
    joints: z.tuple([idSchema]),
    drives: z.tuple([idSchema]),
    crankMm: positive,
    couplerMm: positive,
    rockerMm: positive,
    groundMm: positive,
    crankZeroDeg: finite,
    rockerZeroDeg: finite,
    branch: z.union([z.literal(1), z.literal(-1)]),
    marginDeg: finite.min(0.5).max(60).default(15),
  }),
  /** The first joint decides the motor's angle, the others follow it. */
  z.strictObject({
    ...ties,
    kind: z.literal('table'),
    joints: z.array(idSchema).min(1).max(4),
    drives: z.tuple([idSchema]),
    points: z
      .array(z.strictObject({ driveDeg: finite, joints: z.array(finite).min(1).max(4) }))
      .min(2)
      .max(64),
  }),
  z.strictObject({
    ...ties,
    kind: z.literal('tilt-plate'),
    joints: z.tuple([idSchema, idSchema]),
    drives: z.tuple([idSchema, idSchema]),
    rods: z.tuple([pushRod, pushRod]),
  }),
]);

export const boardSchema = z.strictObject({
  id: idSchema,
  name,
  kind: z.literal('servo-board'),
  channels: z.number().int().min(1).max(64),
});

export const wireSchema = z.strictObject({
  id: idSchema,
  drive: idSchema,
  board: idSchema,
  channel: z.number().int().min(0).max(255),
  note,
});

export const calibrationSchema = z.strictObject({
  drive: idSchema,
  /** Measured pairs: the drive's own angle (°) and the pulse (µs) that brought it there. */
  points: z
    .array(
      z.strictObject({
        at: finite,
        us: positive,
        /** Which way the joint came there; left out where it did not matter. */
        from: z.enum(['below', 'above']).optional(),
      }),
    )
    .min(2)
    .max(64),
  /** A straight line through the points, or pieces that rise throughout. */
  fit: z.enum(['line', 'monotone']).default('line'),
  takenOn: z.string().max(40).default(''),
});

export const buildSchema = z.strictObject({
  id: idSchema,
  name,
  mounting: frameSchema.nullable().default(null),
  calibrations: z.array(calibrationSchema).default([]),
  /** µs added to every pulse of a drive. */
  trims: z.record(z.string(), finite).default({}),
  /** What has been tried on this build and found free, per joint. */
  confirmed: z.record(z.string(), z.strictObject({ min: finite, max: finite })).default({}),
  firmware: z.string().max(200).nullable().default(null),
});

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

export const poseSchema = z.strictObject({ id: idSchema, name, joints: z.record(z.string(), finite), note });

export const paceSchema = z.union([
  z.strictObject({ speedShare: finite.gt(0).max(1), accelShare: finite.gt(0).max(1).optional() }),
  z.strictObject({ durationS: finite.gt(0).max(3600) }),
]);
export const targetSchema = z.union([
  z.strictObject({ pose: idSchema }),
  z.strictObject({ joints: z.record(z.string(), finite) }),
]);
const stepBase = { id: idSchema, enabled: z.boolean().default(true), note };
export const stepSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('joint-move'), ...stepBase, target: targetSchema, pace: paceSchema }),
  z.strictObject({ kind: z.literal('wait'), ...stepBase, durationS: notNegative.max(3600) }),
  z.strictObject({
    kind: z.literal('grip'),
    ...stepBase,
    tool: idSchema,
    /** A jaw value, or one of the tool's two named ones. */
    to: z.union([z.enum(['open', 'closed']), finite]),
    /** What the jaw holds from here on, or lets go of (null); left out: no change. */
    payload: idSchema.nullable().optional(),
    pace: paceSchema,
  }),
  z.strictObject({ kind: z.literal('note'), ...stepBase }),
]);

export const routineSchema = z.strictObject({
  id: idSchema,
  name,
  note,
  steps: z.array(stepSchema).max(5000),
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
  wiring: z.array(wireSchema).default([]),
  builds: z
    .array(buildSchema)
    .min(1)
    .default([
      { id: 'b1', name: 'build 1', mounting: null, calibrations: [], trims: {}, confirmed: {}, firmware: null },
    ]),
  spots: z.array(spotSchema).default([]),
  frames: z.array(namedFrameSchema).max(200).default([]),
  obstacles: z.array(obstacleSchema).default([]),
  payloads: z.array(payloadSchema).default([]),
  poses: z.array(poseSchema).default([]),
  routines: z.array(routineSchema).default([]),
  clips: reserved,
});

export type Rig = z.infer<typeof rigSchema>;
export type RigInput = Omit<z.input<typeof rigSchema>, 'mechanism'> & { mechanism: MechanismInput };
export type Drive = z.infer<typeof driveSchema>;
export type DriveOf<K extends Drive['kind']> = Extract<Drive, { kind: K }>;
export type ServoDrive = DriveOf<'servo'>;
export type Transmission = z.infer<typeof transmissionSchema>;
export type TransmissionOf<K extends Transmission['kind']> = Extract<Transmission, { kind: K }>;
export type Build = z.infer<typeof buildSchema>;
export type Calibration = z.infer<typeof calibrationSchema>;
export type Wire = z.infer<typeof wireSchema>;
export type Spot = z.infer<typeof spotSchema>;
export type NamedFrame = z.infer<typeof namedFrameSchema>;
export type Obstacle = z.infer<typeof obstacleSchema>;
export type Payload = z.infer<typeof payloadSchema>;
export type Pose = z.infer<typeof poseSchema>;
export type Step = z.infer<typeof stepSchema>;
export type Pace = z.infer<typeof paceSchema>;
export type Routine = z.infer<typeof routineSchema>;
