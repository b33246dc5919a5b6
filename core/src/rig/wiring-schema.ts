/** Boards with their pins, supply rails, and everything that is joined to them by a wire. */
import { z } from 'zod';
import { finite, idSchema, line, name, note, notNegative, positive } from './mechanism-schema';

/**
 * What a pin can do. pulse: servo pulses timed by hardware; soft-pulse: by software, with jitter; step: step pulses;
 * output, input: plain levels; pwm: duty for a motor driver; analog: measures a voltage; serial: a bus servo's line;
 * bus: the two-wire bus of sensors and drivers.
 */
export const abilities = [
  'pulse',
  'soft-pulse',
  'step',
  'output',
  'pwm',
  'input',
  'analog',
  'serial',
  'bus',
] as const;
/** What a pin does from power-on until the program has set it. */
export const bootStates = ['off', 'low', 'high', 'floats', 'pulses'] as const;

export const pinSchema = z.strictObject({
  /** Number that programs and wires know it by. */
  pin: z.number().int().min(0).max(255),
  /** As printed on the board. */
  label: line(16),
  can: z.array(z.enum(abilities)).max(abilities.length),
  boot: z.enum(bootStates).default('floats'),
  /** What it is kept for, such as the debug port. */
  reserved: line(60).default(''),
});

export const boardKindIds = [
  'small-8-bit',
  'large-8-bit',
  'pwm-driver',
  'servo-board',
  'step-board',
  '32-bit',
  'single-board',
] as const;

export const boardSchema = z.strictObject({
  id: idSchema,
  name,
  kind: z.enum(boardKindIds),
  pins: z.array(pinSchema).min(1).max(128),
  /** Voltage of its signals. */
  logicV: positive.max(60),
  /** Current (A) its own regulator gives to what hangs on its supply pins; 0: it has none. */
  regulatorA: notNegative.default(0),
  /** Current (A) that one of its output pins may give; left out: not known. */
  pinA: positive.optional(),
  /** Step pulses per second that all its step pins have together; 0: it makes none. */
  stepsPerS: notNegative.default(0),
  /** Servo pulses a second: the most it makes, and whether all its channels have the same. */
  pulses: z.strictObject({ mostHz: positive, oneRate: z.boolean() }).default({ mostHz: 400, oneRate: false }),
  /** Uncertainty (µs) of pulses made by software. */
  jitterUs: notNegative.default(0),
  /** The board that speaks for it, and its bus address there; null: it speaks for itself. */
  host: idSchema.nullable().default(null),
  address: z.number().int().min(0).max(127).nullable().default(null),
  /** Times (µs) of one round of its program, and how often it is due (ms). */
  loop: z
    .strictObject({
      everyMs: positive,
      mathsUs: notNegative,
      analogUs: notNegative,
      busUs: notNegative,
      stepUs: notNegative,
    })
    .default({ everyMs: 20, mathsUs: 0, analogUs: 0, busUs: 0, stepUs: 0 }),
});

/** A supply that motors hang on. */
export const railSchema = z.strictObject({
  id: idSchema,
  name,
  volts: positive.max(500),
  source: z.enum(['supply', 'battery', 'board']),
  /** The board whose own regulator feeds it, where the source is a board. */
  board: idSchema.nullable().default(null),
  /** What it gives for long (A), and its fuse. */
  amps: notNegative.default(0),
  fuseA: notNegative.default(0),
  /** What its relay or switch and its connector may carry (A); left out: none, or not known. */
  relayA: positive.optional(),
  connectorA: positive.optional(),
  /** Its ground is joined to the boards'. */
  groundJoined: z.boolean().default(true),
  /** What a battery holds, and the share of it that may be taken out. */
  battery: z.strictObject({ mAh: positive, usable: positive.max(1).default(0.8) }).optional(),
  /** The supply that a converter makes it from, and the share of the power that arrives. */
  from: z.strictObject({ rail: idSchema, efficiency: positive.max(1).default(0.85) }).optional(),
});

export const wireSchema = z.strictObject({
  id: idSchema,
  drive: idSchema,
  board: idSchema,
  /** Pin of the pulse, the step, the duty, or the bus. */
  channel: z.number().int().min(0).max(255),
  /** Pins of direction and enable, for step/direction and duty drives. */
  direction: z.number().int().min(0).max(255).optional(),
  enable: z.number().int().min(0).max(255).optional(),
  /** Pins of the two tracks of its counter: its count rises while the first one leads. */
  firstTrack: z.number().int().min(0).max(255).optional(),
  secondTrack: z.number().int().min(0).max(255).optional(),
  rail: idSchema.nullable().default(null),
  colour: line(40).default(''),
  /** Its supply lead: how long it is one way, and its copper. */
  lengthMm: notNegative.optional(),
  crossMm2: positive.optional(),
  /** What its plug may carry, A. */
  connectorA: positive.optional(),
  note,
});

/** A plain input or output of the rig, named by what it says or does. */
export const signalSchema = z.strictObject({
  id: idSchema,
  name,
  way: z.enum(['in', 'out']),
  board: idSchema.nullable().default(null),
  channel: z.number().int().min(0).max(255).nullable().default(null),
  /** Whether low means on; null: not found out yet. */
  activeLow: z.boolean().nullable().default(null),
  /** A resistor that holds the line while nothing drives it. */
  pull: z.enum(['none', 'up', 'down']).default('none'),
  /** An input that freezes the arm while it is on; left out: it does not. */
  stops: z.boolean().optional(),
  /** What hangs on an output draws from its pin, A. */
  drawsA: notNegative.optional(),
  note,
});

/** Something that reads an angle or a travel. */
export const sensorSchema = z.strictObject({
  id: idSchema,
  name,
  kind: z.enum(['encoder', 'potentiometer', 'servo-potentiometer']),
  /** The joint it reads; null for a knob or a leader's joint. */
  joint: idSchema.nullable().default(null),
  /** On the joint itself, or on the motor's shaft. */
  side: z.enum(['joint', 'motor']).default('joint'),
  /** Raw counts for 360° (or 1 mm). */
  countsPerTurn: positive.max(1e9),
  /** Its reading begins again at 0 after a turn. */
  wraps: z.boolean().default(false),
  board: idSchema.nullable().default(null),
  channel: z.number().int().min(0).max(255).nullable().default(null),
  /** Bus address, and the multiplexer's port it sits behind. */
  address: z.number().int().min(0).max(127).nullable().default(null),
  port: z.number().int().min(0).max(15).nullable().default(null),
  note,
});

/** A joint led by a sensor: q = offset + scale · reading (°). */
export const leaderSchema = z.strictObject({
  id: idSchema,
  name,
  sensor: idSchema,
  joint: idSchema,
  scale: finite,
  offset: finite,
  /** Range (°) in which the leader's own joint turns. */
  low: finite,
  high: finite,
  /** Teeth of the leader's spline, where it sits on one. */
  splineTeeth: z.number().int().min(3).max(120).optional(),
});

export type Ability = (typeof abilities)[number];
export type Pin = z.infer<typeof pinSchema>;
export type Board = z.infer<typeof boardSchema>;
export type Rail = z.infer<typeof railSchema>;
export type Wire = z.infer<typeof wireSchema>;
export type Signal = z.infer<typeof signalSchema>;
export type Sensor = z.infer<typeof sensorSchema>;
export type Leader = z.infer<typeof leaderSchema>;
