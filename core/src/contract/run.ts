/** What goes over the WebSocket between the web app and the server, and the states of link and run. */
import { z } from 'zod';
import { findingSchema } from '../findings';

const finite = z.number().min(-1e9).max(1e9);

export const linkStates = ['absent', 'connecting', 'connected', 'lost'] as const;
export const runStates = [
  'idle',
  'starting',
  'running',
  'pausing',
  'paused',
  'stopping',
  'finished',
  'stopped',
  'failed',
] as const;
export const armings = ['hold', 'power-up', 'neutral'] as const;
/** bringing-up: motors are being switched on; neutral: they stand where joints do not count, and nothing can be run. */
export const boardModes = ['normal', 'bringing-up', 'neutral'] as const;
export type ArmHow = (typeof armings)[number];
export type BoardMode = (typeof boardModes)[number];
export type LinkState = (typeof linkStates)[number];
export type RunState = (typeof runStates)[number];
/** States in which a run holds the board. */
export const isActive = (state: RunState): boolean => !['idle', 'finished', 'stopped', 'failed'].includes(state);

const share = z.number().min(0).max(0.2);
/** How a board is reached, and what is not ideal about it. */
export const linkOptions = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('simulated'),
    /** Millionths by which the board's clock is fast; negative: slow. */
    ppm: z.number().min(-20_000).max(20_000).optional(),
    /** ms that bytes are on their way, either way, and how much longer some of them take. */
    delayMs: z.number().min(0).max(500).optional(),
    jitterMs: z.number().min(0).max(500).optional(),
    /** Shares of the bytes that the line loses, and that come out of it twice, either way. */
    lostShare: share.optional(),
    doubledShare: share.optional(),
    /** Where its dice begin: the same again each time. */
    seed: z.number().int().min(0).max(2_147_483_647).optional(),
  }),
]);
export type LinkOptions = z.infer<typeof linkOptions>;

/** From the browser. */
export const clientMessage = z.discriminatedUnion('type', [
  z.strictObject({
    type: z.literal('connect'),
    rigId: z.string(),
    buildId: z.string(),
    /** Simulated boards only: how much faster than real time they live; tests use more than 1. */
    timeScale: z.number().min(0.1).max(100).default(1),
    /** How boards are reached, by id; those that are not named are simulated. */
    links: z.record(z.string(), linkOptions).default({}),
  }),
  z.strictObject({ type: z.literal('disconnect') }),
  /** hold: motors on where they are; power-up: by the rig's own plan; neutral: each to its neutral, before horns are fitted. */
  z.strictObject({ type: z.literal('arm'), how: z.enum(armings).default('hold') }),
  z.strictObject({ type: z.literal('disarm') }),
  z.strictObject({
    type: z.literal('run'),
    rigId: z.string(),
    revision: z.number().int(),
    buildId: z.string(),
    routineId: z.string(),
    /** Begins there instead of at the first step. */
    fromStep: z.string().optional(),
    /** Somebody has looked: the arm stands as it is drawn, though it has not homed. */
    asDrawn: z.boolean().optional(),
  }),
  z.strictObject({ type: z.literal('pause') }),
  z.strictObject({ type: z.literal('resume') }),
  /** Slows down inside the limits and ends the run. */
  z.strictObject({ type: z.literal('stop') }),
  /** Freezes the board where it is, at once: the queue is emptied. */
  z.strictObject({ type: z.literal('halt') }),
]);

export const statusSchema = z.strictObject({
  link: z.enum(linkStates),
  board: z.string(),
  armed: z.boolean(),
  mode: z.enum(boardModes),
  run: z.enum(runStates),
  runId: z.string().nullable(),
  rigId: z.string().nullable(),
  buildId: z.string().nullable(),
  routineId: z.string().nullable(),
  stepId: z.string().nullable(),
  runS: finite,
  totalS: finite,
  /** Latest notice, one sentence, empty when there is none. */
  notice: z.string(),
});

/** From the server. Joint values in the document's units. */
export const serverMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('status'), status: statusSchema }),
  z.strictObject({
    type: z.literal('telemetry'),
    runS: finite,
    commanded: z.record(z.string(), finite),
    measured: z.record(z.string(), finite),
    /** Native value per drive id, as sent. */
    wire: z.record(z.string(), finite),
    stepId: z.string().nullable(),
  }),
  z.strictObject({
    type: z.literal('refused'),
    code: z.string(),
    message: z.string(),
    remedy: z.string().optional(),
    findings: z.array(findingSchema),
  }),
]);

export type ClientMessage = z.infer<typeof clientMessage>;
export type ClientMessageInput = z.input<typeof clientMessage>;
export type ServerMessage = z.infer<typeof serverMessage>;
export type Status = z.infer<typeof statusSchema>;
export type Telemetry = Extract<ServerMessage, { type: 'telemetry' }>;

export const idleStatus: Status = {
  link: 'absent',
  board: '',
  armed: false,
  mode: 'normal',
  run: 'idle',
  runId: null,
  rigId: null,
  buildId: null,
  routineId: null,
  stepId: null,
  runS: 0,
  totalS: 0,
  notice: '',
};
