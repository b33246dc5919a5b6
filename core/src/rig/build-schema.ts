/** One physical copy of a design: what was measured on it and set for it. */
import { z } from 'zod';
import { finite, frameSchema, idSchema, line, name, note, notNegative, positive } from './mechanism-schema';

const takenOn = line(40).default('');

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
  takenOn,
});

const notZero = finite.refine((v) => v !== 0, 'not 0');
export const turnSchema = z.strictObject({ asked: notZero, moved: notZero, takenOn });
export const speedsSchema = z.strictObject({
  stopUs: positive,
  points: z.array(z.strictObject({ us: positive, degPerS: finite })).max(32),
  takenOn,
});
export const backlashSchema = z.strictObject({ slack: notNegative, takenOn });
export const sensorReadingSchema = z.strictObject({
  zero: finite,
  direction: z.union([z.literal(1), z.literal(-1)]).default(1),
  ends: z
    .strictObject({
      low: finite,
      high: finite,
      centre: finite,
      /** Largest swing of the reading while nothing moves. */
      noise: notNegative,
      /** Readings this near the last one count as no change. */
      deadBand: notNegative,
    })
    .optional(),
  takenOn,
});

/** A lift that was tried: what was held where, what was foretold and what came of it. */
export const liftSchema = z.strictObject({
  drive: idSchema,
  /** How the arm stood, by joint. */
  joints: z.record(z.string(), finite),
  payloadG: notNegative,
  /** Torque (N·m at the motor's shaft) that it was reckoned to take, and what the motor was then said to have. */
  needNm: notNegative,
  hasNm: notNegative,
  result: z.enum(['lifted', 'slowly', 'stalled']),
  /** Of the motor afterwards, °C. */
  celsius: finite.min(-50).max(400).optional(),
  note,
  takenOn,
});

/** How far a joint was moved with nothing in its way. */
const rangeSchema = z.strictObject({ min: finite, max: finite });

/** One measurement of a build as its history keeps it: what was measured, on what, with all that is needed to apply it again. */
export const factSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('points'), calibration: calibrationSchema, trimUs: finite }),
  z.strictObject({ kind: z.literal('turn'), drive: idSchema, turn: turnSchema }),
  z.strictObject({ kind: z.literal('speeds'), drive: idSchema, speeds: speedsSchema }),
  z.strictObject({ kind: z.literal('sensor'), sensor: idSchema, reading: sensorReadingSchema }),
  z.strictObject({ kind: z.literal('backlash'), joint: idSchema, backlash: backlashSchema }),
  z.strictObject({ kind: z.literal('range'), joint: idSchema, range: rangeSchema }),
  z.strictObject({ kind: z.literal('lift'), lift: liftSchema }),
]);

export const buildSchema = z.strictObject({
  id: idSchema,
  name,
  mounting: frameSchema.nullable().default(null),
  calibrations: z.array(calibrationSchema).default([]),
  /** Per drive: how far its joint was asked to go (by the nominal figures) and how far it went, in the joint's unit. */
  turns: z.record(z.string(), turnSchema).default({}),
  /** Per continuous servo: the pulse at which it stands, and speeds (°/s) measured at other pulses. */
  speeds: z.record(z.string(), speedsSchema).default({}),
  /** Per sensor: raw reading at zero and the sense; for a knob or potentiometer its raw ends, centre, noise and dead band. */
  sensors: z.record(z.string(), sensorReadingSchema).default({}),
  /** Per joint: slack (° or mm) between coming from below and from above. */
  backlash: z.record(z.string(), backlashSchema).default({}),
  /** µs added to every pulse of a drive. */
  trims: z.record(z.string(), finite).default({}),
  /** How far each joint of this build was moved with nothing in its way. */
  confirmed: z.record(z.string(), rangeSchema).default({}),
  /** Lifts that were tried, the latest last. */
  lifts: z.array(liftSchema).max(200).optional(),
  firmware: line(200).nullable().default(null),
});

export type Fact = z.infer<typeof factSchema>;
export type Lift = z.infer<typeof liftSchema>;
export type Build = z.infer<typeof buildSchema>;
export type Calibration = z.infer<typeof calibrationSchema>;
export type SensorReading = z.infer<typeof sensorReadingSchema>;
