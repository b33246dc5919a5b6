/** What goes over the WebSocket between the web app and the server, and the states of link and run. */
import { z } from 'zod';
import { findingSchema } from '../findings';
import { lineTemplate } from './line-template';

const finite = z.number().min(-1e9).max(1e9);
const whole = z.number().int().min(-99_999_999).max(99_999_999);

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
/**
 * bringing-up: motors are being switched on; neutral: they stand where joints do not count, and nothing can be run; lying-down: the arm
 * goes to where it rests, and its motors go off there; by-hand: joints are led; one-motor: a motor alone is on, to be measured; homing:
 * joints find their places.
 */
export const boardModes = [
  'normal',
  'bringing-up',
  'neutral',
  'lying-down',
  'by-hand',
  'one-motor',
  'homing',
] as const;
/** What can be made to go wrong on a simulated board. */
export const troubles = ['jam', 'free', 'slip', 'reset', 'cut', 'noise', 'quiet'] as const;
export type Trouble = (typeof troubles)[number];
export type ArmHow = (typeof armings)[number];
export type BoardMode = (typeof boardModes)[number];
export type LinkState = (typeof linkStates)[number];
export type RunState = (typeof runStates)[number];
/** States in which a run holds the board. */
export const isActive = (state: RunState): boolean => !['idle', 'finished', 'stopped', 'failed'].includes(state);

/** Letters, digits, dots and hyphens, or an address of six groups and more with colons. */
const HOST = /^(?:[a-z0-9](?:[a-z0-9.-]{0,251}[a-z0-9])?|[0-9a-f:.]{2,45})$/i;
const PORT_PATH = /^(?:\/dev\/(?!.*\.\.)[\w./:-]{1,200}|COM\d{1,3})$/i;
const share = z.number().min(0).max(0.2);
const lines = lineTemplate
  .optional()
  .describe('its firmware is the builder’s own: it reads these lines instead of the protocol');
/** How a board is reached, and what is not ideal about it. */
export const linkOptions = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('simulated'),
    lines,
    ppm: z
      .number()
      .min(-20_000)
      .max(20_000)
      .optional()
      .describe('millionths by which the board’s clock is fast; negative: slow'),
    delayMs: z.number().min(0).max(500).optional().describe('ms that bytes are on their way, either way'),
    jitterMs: z.number().min(0).max(500).optional().describe('ms by which some of them are longer'),
    lostShare: share.optional().describe('share of the bytes that the line loses, either way'),
    astray: z
      .number()
      .min(0)
      .max(20)
      .optional()
      .describe('most by which joints of motors that count stand off where they rest as it begins, ° or mm'),
    load: z
      .number()
      .min(0)
      .max(1.5)
      .optional()
      .describe('share of its stall torque that pulls each motor towards lower angles; from 1 on it gives way'),
    weight: z
      .number()
      .min(0)
      .max(2)
      .optional()
      .describe('how many times the arm’s own weight its motors have to bear, by their torques; 0: none'),
    heldG: z.number().min(0).max(500_000).optional().describe('g that the first tool holds meanwhile'),
    slop: z.number().min(0).max(10).optional().describe('play of each joint beside its motor, ° or mm'),
    noise: z
      .number()
      .min(0)
      .max(1000)
      .optional()
      .describe('raw counts by which sensors scatter (standard deviation of a normal distribution)'),
    sensorOff: z
      .number()
      .min(-180)
      .max(180)
      .optional()
      .describe('° or mm that sensors read more than their zero says'),
    supplyV: z
      .number()
      .min(0)
      .max(60)
      .optional()
      .describe('volts of the one supply of board and motors; 0: each has its own, which never dips'),
    supplyOhm: z.number().min(0).max(10).optional().describe('ohms of that supply and its wires together'),
    resetV: z.number().min(0).max(60).optional().describe('volts below which the board begins anew'),
    doubledShare: share.optional().describe('share of the bytes that come out of it twice'),
    bufferBytes: z.number().int().min(64).max(4096).optional().describe('taken in before the board reads them'),
    loopMs: z.number().int().min(0).max(20).optional().describe('how often (ms) it reads them; 0: at once'),
    seed: z
      .number()
      .int()
      .min(0)
      .max(2_147_483_647)
      .optional()
      .describe('where its dice begin: the same again each time'),
  }),
  /** A board of the network, or one that runs as a process of its own. */
  z.strictObject({
    kind: z.literal('tcp'),
    lines,
    host: z.string().regex(HOST, 'a name or an address of a computer').describe('name or address of its computer'),
    port: z.number().int().min(1).max(65_535).describe('TCP port there'),
  }),
  z.strictObject({
    kind: z.literal('serial'),
    lines,
    path: z
      .string()
      .regex(PORT_PATH, 'the path of a port, such as /dev/ttyACM0 or COM3')
      .describe('of the port, as the system names it'),
    baud: z.number().int().min(1200).max(4_000_000).describe('speed of the line'),
  }),
]);
export type LinkOptions = z.infer<typeof linkOptions>;
/** How the boards of a build are reached, by id of the board; those that are not named are simulated. */
export const linksSchema = z.record(z.string().max(64), linkOptions);
export type Links = z.infer<typeof linksSchema>;

/** What is done when the page that has the controls is gone. */
export const awaySchema = z.strictObject({
  /** stand: a run slows to a stand; finish: it goes on to its end. */
  run: z.enum(['stand', 'finish']),
  /** Once nothing runs. hold: motors stay on; rest: after so long the arm lies down by the power-up plan, and they go off. */
  then: z.enum(['hold', 'rest']),
  afterS: z.number().min(5).max(86_400),
  /** Boards that hear nothing from the computer any more hold; so long (s) later their motors go off. null: they hold on. */
  silentOffS: z.number().min(0).max(86_400).nullable().default(null),
});
export type Away = z.infer<typeof awaySchema>;
export const usualAway: Away = { run: 'stand', then: 'hold', afterS: 600, silentOffS: null };
/** After so long (s) without a line from the computer a board takes it to be gone. */
export const SILENT_S = 10;
/** What motors do once somebody has stopped the arm and it stands. */
export const afterStops = ['hold', 'off'] as const;
export type AfterStop = (typeof afterStops)[number];
/** A page that has not been heard for so long (ms) is gone; it is asked each second. */
export const GONE_MS = 3000;
export const BEAT_MS = 1000;

/** Shares of the joints' speed at which arms are led by hand. */
export const LEAST_SHARE = 0.01;
export const MOST_SHARE = 0.5;
export const USUAL_SHARE = 0.1;
/** Shares of its planned speed at which a run goes. */
export const LEAST_PACE = 0.1;
export const MOST_PACE = 1.5;

const pageSchema = z.strictObject({
  /** Its own name, the same after a reload. */
  page: z.string().min(1).max(64),
  openedAt: z.iso.datetime(),
});
export type PageName = z.infer<typeof pageSchema>;

/** From the browser. */
export const clientMessage = z.discriminatedUnion('type', [
  /** Who it is; first, and again when the line was cut. */
  z.strictObject({ type: z.literal('hello'), ...pageSchema.shape }),
  /** Answers each `ping`. */
  z.strictObject({ type: z.literal('beat') }),
  /** Whether it wants to hear every line that goes to the boards and comes from them. */
  z.strictObject({ type: z.literal('listen'), on: z.boolean() }),
  /** Takes the controls, whoever has them. */
  z.strictObject({ type: z.literal('take') }),
  z.strictObject({ type: z.literal('away'), ...awaySchema.shape }),
  z.strictObject({ type: z.literal('after-stop'), then: z.enum(afterStops) }),
  /** Somebody has looked after a stop: what moves may be begun again. */
  z.strictObject({ type: z.literal('clear') }),
  z.strictObject({
    type: z.literal('connect'),
    rigId: z.string(),
    buildId: z.string(),
    /** Simulated boards only: how much faster than real time they live; tests use more than 1. */
    timeScale: z.number().min(0.1).max(100).default(1),
    links: linksSchema.default({}),
  }),
  z.strictObject({ type: z.literal('disconnect') }),
  /** A line of somebody's own to a board, while nothing is armed. A word that is # stands for the next number of an order. */
  z.strictObject({
    type: z.literal('line'),
    board: z.string().max(64),
    text: z.string().regex(/^[!-~][ -~]{0,112}$/, 'printable ASCII, 1 to 113 characters, not beginning with a space'),
  }),
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
    /** It stands where it begins, to be gone through step by step. */
    stepwise: z.boolean().optional(),
    /** Somebody has looked: the arm stands as it is drawn, though it has not homed. */
    asDrawn: z.boolean().optional(),
  }),
  /** One motor alone is switched on, at a value in its own unit (whole); all others stay off. */
  z.strictObject({ type: z.literal('motor-on'), drive: z.string().max(64), value: whole }),
  /** … and goes to another one; its joint's limits do not count, its own range does. */
  z.strictObject({ type: z.literal('motor-to'), value: whole }),
  /** Joints are led by hand from now on, by the rig as it is saved; or no more: what moves slows to a stand. */
  z.strictObject({
    type: z.literal('by-hand'),
    on: z.boolean(),
    /** A joint (id) that may go beyond what was confirmed on the build, up to its software limits: how far it goes is being found. */
    limitsOf: z.string().max(64).optional(),
    rigId: z.string(),
    revision: z.number().int(),
    buildId: z.string(),
  }),
  /** While they are: where joints are to go (° or mm by id); the others stay where they are going. */
  z.strictObject({
    type: z.literal('guide'),
    joints: z.record(z.string().max(64), finite),
    /** Of the joints' speed. */
    share: z.number().min(LEAST_SHARE).max(MOST_SHARE),
    /** The tool's point goes straight to where it is in that pose; all joints are named. */
    straight: z.strictObject({ tool: z.string().max(64).optional() }).optional(),
  }),
  /** While it is armed and no run goes on: an output on or off. */
  z.strictObject({ type: z.literal('switch'), signal: z.string().max(64), on: z.boolean() }),
  /** Simulated boards only: the world holds an input on or off, or lets go of it. */
  z.strictObject({ type: z.literal('force'), signal: z.string().max(64), on: z.boolean().nullable() }),
  /**
   * Simulated boards only: something goes wrong. jam: a motor is held fast; free: no more; slip: what hangs on it stands `by` (° of its
   * shaft) further; reset: the board begins anew; cut: nothing comes over its line any more; noise: sensors scatter by a twentieth of
   * their turn; quiet: no more.
   */
  z.strictObject({
    type: z.literal('trouble'),
    kind: z.enum(troubles),
    drive: z.string().max(64).nullable(),
    by: z.number().min(-360).max(360).default(0),
  }),
  /** The arm goes to where it rests by the power-up plan backwards, and its motors go off there. */
  z.strictObject({ type: z.literal('lie-down') }),
  /** Joints find their places as the rig plans it, from where they are believed to be. */
  z.strictObject({ type: z.literal('home') }),
  /** The run goes on at this share of its planned speed, as far as limits allow. */
  z.strictObject({ type: z.literal('pace'), share: z.number().min(LEAST_PACE).max(MOST_PACE) }),
  /**
   * A run that stands goes on to the end of its step and stands there, or the same way back to where that began. Outputs, counters, what
   * was taken or put down stay as they are; what was let go, swapped or decided by an input is not gone back behind.
   */
  z.strictObject({ type: z.literal('step'), way: z.enum(['on', 'back']) }),
  z.strictObject({ type: z.literal('pause') }),
  z.strictObject({ type: z.literal('resume') }),
  /** Slows down inside the limits and ends the run. */
  z.strictObject({ type: z.literal('stop') }),
  /** Freezes the board where it is, at once: the queue is emptied. */
  z.strictObject({ type: z.literal('halt') }),
]);

/** What a homing axis does, or did: `off`: by how much its joint (its unit) stood off where it was believed to be; null: not known yet. */
export const foundSchema = z.strictObject({
  joint: z.string(),
  act: z.enum(['waits', 'seek', 'back off', 'seek slowly', 'found']),
  off: finite.nullable(),
});
export type Found = z.infer<typeof foundSchema>;

/**
 * A board that is sent a builder's own lines: whether it answers them, and whether any line switches outputs, speaks of one motor alone,
 * lets one go, and switches all of them off.
 */
export const ownLinesSchema = z.strictObject({
  board: z.string(),
  confirms: z.boolean(),
  switches: z.boolean(),
  single: z.boolean(),
  letsGo: z.boolean(),
  turnsOff: z.boolean(),
});
/** A board whose firmware was made for a rig: for which revision, and whether its motors are sent the same there as by the rig as it is. */
export const madeForSchema = z.strictObject({ board: z.string(), revision: z.number().int(), agrees: z.boolean() });
export const statusSchema = z.strictObject({
  /** The page that has the controls; null: whoever connects takes them. */
  control: pageSchema.nullable(),
  /** It is gone. */
  alone: z.boolean(),
  away: awaySchema,
  afterStop: z.enum(afterStops),
  /** Somebody stopped the arm: nothing that moves begins before the stop is cleared. */
  latched: z.boolean(),
  link: z.enum(linkStates),
  board: z.string(),
  /** Boards (ids) that are sent lines of the builder's own: what is known of them. */
  ownLines: z.array(ownLinesSchema),
  madeFor: z.array(madeForSchema),
  armed: z.boolean(),
  mode: z.enum(boardModes),
  /** Id of the drive that is on alone; null while none is. */
  motor: z.string().nullable(),
  run: z.enum(runStates),
  runId: z.string().nullable(),
  rigId: z.string().nullable(),
  buildId: z.string().nullable(),
  routineId: z.string().nullable(),
  stepId: z.string().nullable(),
  runS: finite,
  totalS: finite,
  /** Of the planned speed: the share that is wished, and at which the run goes now; limits hold it below the wish. */
  pace: z.strictObject({ wished: finite, now: finite }).nullable(),
  /** What the run waits for now. */
  waits: z.strictObject({ signal: z.string(), is: z.boolean() }).nullable(),
  /** Tools (ids) that somebody takes off and puts on before the run is told to go on. */
  swap: z.strictObject({ off: z.string().nullable(), on: z.string().nullable() }).nullable(),
  /** While the run stands: which ways it may be stepped; null: none. */
  steps: z.strictObject({ on: z.boolean(), back: z.boolean() }).nullable(),
  /** How late (ms) set points of the run left, of the board that keeps time: 99 in 100 no more, and the worst; null before a run. */
  late: z.strictObject({ p99Ms: z.number(), mostMs: z.number() }).nullable(),
  /** Joints (ids) whose motors were let go while the others hold. */
  limp: z.array(z.string()),
  /** Whether all axes have homed since motors came on; and what they do or found, the last time that the arm homed. */
  homed: z.boolean(),
  found: z.array(foundSchema),
  /** Latest notice, one sentence, empty when there is none. */
  notice: z.string(),
});

/** A line that went to a board or came from it. */
export const boardLineSchema = z.strictObject({
  no: z.number().int().min(1),
  /** s on the clock of the boards, since the server began. */
  atS: finite,
  /** Id of the board. */
  board: z.string(),
  way: z.enum(['out', 'in']),
  /** Without its end; what is no letter is written as \\x and two hex digits. */
  text: z.string(),
});
export type BoardLine = z.infer<typeof boardLineSchema>;

/** From the server. Joint values in the document's units. */
export const serverMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('status'), status: statusSchema }),
  /** What the page may do: on this computer everything; on a device of the network (its name) what was decided. */
  z.strictObject({ type: z.literal('right'), right: z.enum(['here', 'watch', 'drive']), device: z.string() }),
  z.strictObject({
    type: z.literal('telemetry'),
    runS: finite,
    commanded: z.record(z.string(), finite),
    measured: z.record(z.string(), finite),
    /** Native value per drive id, as sent. */
    wire: z.record(z.string(), finite),
    /** Native value per drive id, as the board reads it back; those that it does not are left out. */
    read: z.record(z.string(), finite),
    /** Inputs and outputs by id: whether each is on, as its board says. */
    signals: z.record(z.string(), z.boolean()),
    /** Sensors by id: raw counts over the last readings, their middle and how wide they swing. */
    sensed: z.record(z.string(), z.strictObject({ raw: finite, swing: finite })),
    /**
     * By drive, those that are warm or held fast: share of the warmth that they may have, how long they have been held fast, and in how many
     * s they are too warm if that goes on; null: never.
     */
    heat: z.record(z.string(), z.strictObject({ share: finite, stalledS: finite, leftS: finite.nullable() })),
    stepId: z.string().nullable(),
  }),
  /** What has gone over the lines; to pages that listen. Numbers run on: what lies between two was not kept. */
  z.strictObject({ type: z.literal('lines'), lines: z.array(boardLineSchema) }),
  /** To be answered by a `beat`. */
  z.strictObject({ type: z.literal('ping') }),
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
  control: null,
  alone: false,
  away: usualAway,
  afterStop: 'hold',
  latched: false,
  link: 'absent',
  board: '',
  ownLines: [],
  madeFor: [],
  armed: false,
  mode: 'normal',
  motor: null,
  run: 'idle',
  runId: null,
  rigId: null,
  buildId: null,
  routineId: null,
  stepId: null,
  runS: 0,
  totalS: 0,
  pace: null,
  waits: null,
  swap: null,
  steps: null,
  late: null,
  limp: [],
  homed: false,
  found: [],
  notice: '',
};
