/** What happens when power comes, and how the joints find their places. */
import { z } from 'zod';
import { finite, idSchema, notNegative, positive } from './mechanism-schema';

/** How one joint finds where it is. Speeds and ways in the joint's unit. */
export const homingAxisSchema = z.strictObject({
  joint: idSchema,
  /** A switch, a known cradle, a hard stop at low current, a sensor that knows, or a servo's own neutral. */
  by: z.enum(['switch', 'cradle', 'end-stop', 'sensor', 'neutral']),
  /** Which end it seeks. */
  end: z.enum(['min', 'max']),
  /** The input that trips. */
  signal: idSchema.nullable().default(null),
  switchKind: z.enum(['mechanical', 'optical', 'magnetic']).default('mechanical'),
  fast: positive,
  slow: positive,
  backOff: notNegative,
  /** The joint's value where the switch trips. */
  at: finite,
  /** Spread of the trip point from time to time. */
  spread: notNegative.default(0),
  /** Where other joints wait meanwhile. */
  waits: z.record(z.string(), finite).default({}),
  /** Runs at the same time as the axis before it. */
  together: z.boolean().default(false),
});

export const homingSchema = z.strictObject({
  axes: z.array(homingAxisSchema).max(64),
  /** May be skipped when the arm was parked: its remembered pose then counts, unverified, at a capped speed. */
  parked: z.strictObject({ pose: idSchema, speedShare: finite.gt(0).max(1) }).nullable(),
});

export const powerUpSchema = z.strictObject({
  /** The pose in which the arm is expected to rest. */
  rest: idSchema.nullable(),
  /** Between one drive and the next, ms. */
  gapMs: notNegative.max(60000),
  /** Speed of every joint on the way to where it is to stand (° or mm per s). */
  maxDegPerS: positive.max(1000),
  /** Drives in the order they get power; the others after them. */
  order: z.array(idSchema).max(128),
  /** What a drive does when power comes, where it differs from its kind's way. */
  at: z.record(z.string(), z.enum(['neutral', 'limp', 'hold', 'homes'])),
});

export type HomingAxis = z.infer<typeof homingAxisSchema>;
export type Homing = z.infer<typeof homingSchema>;
export type PowerUp = z.infer<typeof powerUpSchema>;
