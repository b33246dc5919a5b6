/** Motors, and what ties them to joints. */
import { z } from 'zod';
import { finite, idSchema, line, name, notNegative, placeOnSchema, positive, xyz } from './mechanism-schema';

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
  /** How warm its winding becomes: K for each W, with so much time constant; its resistance; the share of its rise that arrives around it. */
  heat: z
    .strictObject({
      kPerW: positive.max(10_000).optional(),
      tauS: positive.max(100_000).optional(),
      ohm: positive.max(100_000).optional(),
      outside: positive.max(1).optional(),
    })
    .optional(),
  /** Torque left at speed, rising in speed. */
  torqueAtSpeed: z
    .array(z.strictObject({ degPerS: notNegative, nm: notNegative }))
    .max(32)
    .optional(),
  /** Speeds of the shaft (°/s) in which it rattles, from … to. */
  rattles: z
    .array(z.strictObject({ fromDegPerS: notNegative, toDegPerS: positive }))
    .max(8)
    .optional(),
};
const driveBase = {
  id: idSchema,
  name,
  /** What kind of motor, in generic words: "standard servo, 55 g". */
  model: line(80).default(''),
  direction: z.union([z.literal(1), z.literal(-1)]),
  stallNm: notNegative.default(0),
  ...driveFigures,
  /** Where it sits, so that its mass counts there; left out: the masses of the links have it in them. */
  seat: placeOnSchema.optional(),
  /** Temperature (°C) at which the part around it gives way. */
  softensC: positive.max(400).optional(),
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

const ties = {
  id: idSchema,
  /** Share of the motor's work that arrives at the joint; left out: all of it. */
  efficiency: positive.max(1).optional(),
};
const unitVector = xyz.refine((v) => Math.hypot(...v) > 1e-9, 'A direction with a length');
const pushRod = z.strictObject({
  atMm: xyz,
  axis: unitVector,
  along: unitVector,
  hornMm: positive,
  rodMm: positive,
  plateMm: xyz,
});
/** Ties joints to drives; see transmissions for what each kind computes. */
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

/** Figures of a kind of motor as a catalogue keeps them: a drive without its place in a rig. */
const inCatalogue = { id: true, name: true, seat: true, softensC: true } as const;
export const driveFiguresSchema = z.discriminatedUnion('kind', [
  driveSchema.options[0].omit(inCatalogue),
  driveSchema.options[1].omit(inCatalogue),
  driveSchema.options[2].omit(inCatalogue),
  driveSchema.options[3].omit(inCatalogue),
  driveSchema.options[4].omit(inCatalogue),
]);
export const catalogueEntrySchema = z.strictObject({
  id: idSchema,
  words: name,
  figures: driveFiguresSchema,
});
export const CATALOGUE_FORMAT = 'cork-elbow-motors';
/** A file of own motors, to be carried to another bench. */
export const catalogueFileSchema = z.strictObject({
  format: z.literal(CATALOGUE_FORMAT),
  version: z.literal(1),
  motors: z.array(catalogueEntrySchema).max(500),
});

export type DriveFigures = z.infer<typeof driveFiguresSchema>;
export type CatalogueEntry = z.infer<typeof catalogueEntrySchema>;
export type Drive = z.infer<typeof driveSchema>;
export type DriveOf<K extends Drive['kind']> = Extract<Drive, { kind: K }>;
export type ServoDrive = DriveOf<'servo'>;
export type Transmission = z.infer<typeof transmissionSchema>;
export type TransmissionOf<K extends Transmission['kind']> = Extract<Transmission, { kind: K }>;
