/** What a firmware knows of its rig: the tables of its data header. */
import { unitOf } from '../actuators';
import type { Board } from '../rig';
import { onDisplay, type Display } from './display';
import { doesCount, fullCountsPerS, NO_PIN, type Described, type FirmwareMotor } from './described';
import { KNOB_PLACES, type HandControl } from './knobs';
import type { Registers } from './registers';
import { outBytes, queueRoom, sensorRoom } from './room';
import { speedsOf, type Speeds } from './speeds';
import { steeringRows } from './steering-rows';
import type { Steps } from './steps';
import type { Playing, Table } from './table';
import { inComment, numbers, rows } from './text';
import { WATCH_PLACES, type Watch } from './watches';
import type { Work } from './work';

export const BAUD = 115_200;
/** Bytes: a line of 120, and 40 of the 64 that ports of small boards hold. */
const BUFFER = 160;
/** Clock of a 12-bit driver (Hz), and its counts a frame. */
const DRIVER_HZ = 25_000_000;
const DRIVER_COUNTS = 4096;
/** What the divider of a driver may be. */
const DIVIDER = { min: 3, max: 255 };
export const driverDivider = (pulseHz: number): number =>
  Math.min(DIVIDER.max, Math.max(DIVIDER.min, Math.round(DRIVER_HZ / (DRIVER_COUNTS * pulseHz)) - 1));

/** Ticks a millisecond of the timer that all axes of a board share. */
export const ticksPerMs = ({ kind }: Board): number => (kind === 'small-8-bit' || kind === 'large-8-bit' ? 20 : 50);

const kinds: Record<FirmwareMotor['kind'], string> = {
  'pulse-pin': 'PULSE_PIN',
  'pulse-driver': 'PULSE_DRIVER',
  stepper: 'STEPPER',
  counted: 'COUNTED',
};
const addresses = (described: Described): number[] => [
  ...new Set(described.motors.filter(({ kind }) => kind === 'pulse-driver').map(({ second }) => second)),
];
/** What both kinds know. */
function known(described: Described, work: Work): string[] {
  const baud = work.kind === 'registers' ? work.registers.baud : BAUD;
  const { motors: all, signals, sensorCount, revision } = described;
  const uses = (kind: FirmwareMotor['kind']): number => Number(all.some((motor) => motor.kind === kind));
  const isWide = all.some(doesCount);
  const made = revision === null ? ' - -' : ` ${revision} ${described.fingerprint}`;
  const drivers = addresses(described);
  const shows = work.display ?? null;
  return [
    `#define USES_PULSE_PINS ${uses('pulse-pin')}`,
    `#define USES_DRIVER ${uses('pulse-driver')}`,
    `#define USES_STEPS ${uses('stepper')}`,
    `#define USES_COUNTED ${uses('counted')}`,
    '#define USES_TICK (USES_STEPS || USES_COUNTED)',
    `#define USES_WATCH ${Number(watchesIn(work).length > 0)}`,
    `#define USES_STEERING ${Number(work.kind === 'hand' && work.control.steering !== null)}`,
    `#define USES_HOMING ${Number(work.kind === 'steps' && work.steps.homing !== null)}`,
    `#define USES_BUS ${Number(uses('pulse-driver') > 0 || sensorCount > 0 || shows !== null)}`,
    `#define DISPLAY_ROWS ${shows?.rows ?? 0}`,
    '',
    `static const uint32_t BAUD = ${baud};`,
    '// Whole numbers that motors are told: µs, and microsteps or counts where there are any.',
    `typedef ${isWide ? 'int32_t' : 'int16_t'} Value;`,
    `static const long VALUE_MOST = ${isWide ? '999999999' : '32767'};`,
    ...(isWide
      ? [
          '// Ticks of the timer in a millisecond: the most steps of an axis.',
          `static const uint8_t TICKS_PER_MS = ${ticksPerMs(described.board)};`,
        ]
      : []),
    ...(uses('stepper')
      ? [`static const uint8_t STEP_COUNT = ${all.filter(({ kind }) => kind === 'stepper').length};`]
      : []),
    '',
    'enum MotorKind : uint8_t { PULSE_PIN, PULSE_DRIVER, STEPPER, COUNTED };',
    `static const uint8_t NO_PIN = ${NO_PIN};`,
    '// second: pin of the direction of what counts, address of the driver. low, high: nothing it is told goes past them. rest: before it is told.',
    'struct Motor {',
    '  uint16_t channel;',
    '  MotorKind kind;',
    '  uint8_t pin, second, enable, turns;',
    '  int32_t low, high, rest;',
    '};',
    `static const uint8_t MOTOR_COUNT = ${all.length};`,
    `static const Motor MOTORS[] PROGMEM = {${rows(
      all.map(({ channel, kind, pin, second, enable, turns, low, high, own, rest, map }) => {
        const range = work.kind === 'bridge' ? own : { low, high };
        return (
          `{${channel}, ${kinds[kind]}, ${pin}, ${second}, ${enable ?? NO_PIN}, ${Number(turns)}, ${range.low}, ${range.high}, ${rest}},  ` +
          `// ${inComment(map.drive.name)}, ${unitOf(map)}`
        );
      }),
    )}};`,
    '',
    ...countersOf(all),
    '// level: of an output while it is off, of an input while it is on.',
    'struct Signal {',
    '  uint8_t pin, isOutput, level, pull, stops;',
    '};',
    `static const uint8_t SIGNAL_COUNT = ${signals.length};`,
    `static const Signal SIGNALS[] PROGMEM = {${
      signals.length
        ? rows(
            signals.map(
              ({ pin, isOutput, level, pullsUp, stops, name }) =>
                `{${pin}, ${Number(isOutput)}, ${level}, ${Number(pullsUp)}, ${Number(stops)}},  // ${inComment(name)}`,
            ),
          )
        : '{0, 0, 0, 0, 0}'
    }};`,
    '',
    ...(drivers.length
      ? [
          '// Bus addresses of 12-bit drivers; (divider + 1) · 4096 / 25 µs are a frame.',
          `static const uint8_t DRIVER_COUNT = ${drivers.length};`,
          `static const uint8_t DRIVERS[] PROGMEM = {${drivers.join(', ')}};`,
          `static const uint8_t DRIVER_DIVIDER = ${driverDivider(described.driverHz)};`,
          '',
        ]
      : []),
    '// A multiplexer of the two-wire bus, and where encoders on it have their count: twelve bits, high byte first.',
    'static const uint8_t MULTIPLEXER = 0x70, ENCODER_REGISTER = 12;',
    `static const uint16_t CHANNEL_COUNT = ${described.channelCount};`,
    `static const char MADE_FOR[] PROGMEM = "${made}";`,
    ...(shows
      ? [
          `static const uint8_t DISPLAY_ADDRESS = ${shows.address}, DISPLAY_COLUMNS = ${shows.columns};`,
          `static const char DISPLAY_NAME[] PROGMEM = ${quoted(described.rig.name)};`,
          `static const char DISPLAY_MADE_FOR[] PROGMEM = ${quoted(madeFor(described, shows))};`,
        ]
      : []),
    '// What it takes in before it has done a line: one line, and some of what the port holds meanwhile.',
    `static const uint8_t BUFFER_BYTES = ${BUFFER};`,
    '// What goes out and has no room at the port yet.',
    `static const uint16_t OUT_BYTES = ${outBytes(described)};`,
  ];
}

/** Bits of a duty, and of the part behind its point. */
const FULL_DUTY = 255;
const PART = 256;
/** An error of what a motor does at full duty in so many ms is answered by full duty. */
const ANSWER_MS = 60;
/** So far backwards at full duty it may go, of what it does at full duty. */
const SLIP_MS = 50;
/** The loop of each motor with an encoder, by its counts and its speed at full duty. */
function countersOf(all: readonly FirmwareMotor[]): string[] {
  const found = all.flatMap(({ map: { drive }, tracks }) =>
    tracks && drive.kind === 'dc-encoder' ? [{ drive, tracks }] : [],
  );
  if (!found.length) return [];
  return [
    '// Motors with an encoder. first, second: pins of its tracks. perCount, perPace: 256ths of duty (255 is full) for each count that it is off,',
    '// and for each count a millisecond that it is to go. slip: counts that it may go the wrong way at full duty.',
    'struct Counter {',
    '  uint8_t first, second;',
    '  int32_t perCount, perPace, slip;',
    '};',
    `static const uint8_t COUNTED_COUNT = ${found.length};`,
    `static const Counter COUNTERS[] PROGMEM = {${rows(
      found.map(({ drive, tracks }) => {
        const perMs = fullCountsPerS(drive) / 1000;
        const perPace = (FULL_DUTY * PART) / perMs;
        const figures = [Math.min(65_535, perPace / ANSWER_MS), perPace, Math.max(4, perMs * SLIP_MS)];
        return `{${tracks.join(', ')}, ${figures.map(Math.round).join(', ')}},  // ${inComment(drive.name)}`;
      }),
    )}};`,
    '',
  ];
}

/** A text of C. */
const quoted = (words: string): string => `"${onDisplay(words).replace(/"/g, "'").replace(/\?/g, '\\?')}"`;
/** Revision and fingerprint, as far as they have room. */
const madeFor = ({ revision, fingerprint }: Described, { columns }: Display): string =>
  (revision === null
    ? ['', fingerprint]
    : [`rev ${revision} ${fingerprint}`, `${revision} ${fingerprint}`, fingerprint]
  ).filter((words) => words.length <= columns)[0] || fingerprint;

/** What a bridge knows beside. */
function ofBridge(described: Described): string[] {
  const { freePins } = described;
  const { items, points } = queueRoom(described);
  return [
    '// Pins that may switch or be read, once the computer says so.',
    `static const uint8_t FREE_PIN_COUNT = ${freePins.length};`,
    `static const uint8_t FREE_PINS[] PROGMEM = {${freePins.length ? freePins.join(', ') : '0'}};`,
    `static const uint8_t SENSOR_COUNT = ${sensorRoom(described)};`,
    '// Room of the queue: values, and points.',
    `static const uint16_t ITEM_COUNT = ${items};`,
    `static const uint8_t POINT_COUNT = ${points};`,
  ];
}

function ofPlayer(described: Described, table: Table): string[] {
  const { frames, bytes, frameMs, restart } = table;
  return [
    ...ofPlaying(described, table, 1),
    '',
    `static const uint8_t FRAME_MS = ${frameMs};`,
    `static const long FRAME_COUNT = ${frames.levels.length};`,
    '// Whole values every so many frames, changes of changes in between.',
    `static const uint16_t RESTART_FRAMES = ${restart};`,
    inFlash('PLAYED', bytes),
  ];
}

function ofSteps(
  described: Described,
  { routines, bytes, homing, loops, counters, lowPass, ...choice }: Steps,
): string[] {
  return [
    ...ofPlaying(described, choice, routines.length),
    '',
    ...routines.map(({ name }, k) => `// ${k + 1}: ${inComment(name)}`),
    '// Where the steps of each begin, and what motors are told there.',
    `static const uint32_t ENTRIES[] PROGMEM = {${routines.map(({ place }) => place).join(', ')}};`,
    `static const int32_t FIRST[][MOTOR_COUNT] PROGMEM = {${rows(routines.map(({ first }) => numbers(first)))}};`,
    ...counters.map((name, k) => `// Counter ${k}: ${inComment(name)}`),
    `static const uint8_t COUNTER_COUNT = ${Math.max(1, counters.length)};`,
    ...(homing === null
      ? []
      : ['// Where the steps of homing begin.', `static const uint32_t HOMING_ENTRY = ${homing};`]),
    `static const uint8_t LOOP_COUNT = ${Math.max(1, loops)};`,
    `#define USES_LOW_PASS ${Number(lowPass !== null)}`,
    ...(lowPass
      ? [
          '// 256ths of a millisecond from loop to loop, and the part (65536ths) of what is left that each takes.',
          `static const uint32_t LOOP_TIME = ${Math.round(lowPass.loopMs * 256)};`,
          `static const uint16_t LOOP_PART = ${Math.min(65_535, lowPass.part)};`,
        ]
      : []),
    '',
    inFlash('PLAYED', bytes),
  ];
}

/** Bytes as a table of C. */
function inFlash(name: string, bytes: Uint8Array): string {
  const perRow = 24;
  const lines = Array.from(
    { length: Math.ceil(bytes.length / perRow) },
    (_, k) => `${[...bytes.subarray(k * perRow, (k + 1) * perRow)].join(', ')},`,
  );
  return `static const uint8_t ${name}[] PROGMEM = {  // ${bytes.length} bytes${rows(lines)}};`;
}

export const watchesIn = (work: Work): readonly Watch[] =>
  work.kind === 'player' ? work.table.watches : work.kind === 'steps' ? work.steps.watches : [];
const ofWatches = (watches: readonly Watch[]): string[] =>
  watches.length
    ? [
        '// Sensors on joints. middle, half: raw counts in the middle of the joint’s range, and to either end; turn: after so many it begins',
        '// again (0: never); most: of the motor’s whole numbers that it is corrected by.',
        'struct Watch {',
        '  uint8_t pin, address, port, motor;',
        '  int32_t middle, half, turn, most;',
        '};',
        `static const uint8_t WATCH_COUNT = ${watches.length};`,
        `static const uint8_t WATCH_PLACES = ${WATCH_PLACES};`,
        `static const Watch WATCHES[] PROGMEM = {${rows(
          watches.map(
            ({ sensor, pin, address, port, motor, middle, half, turn, most }) =>
              `{${pin}, ${address}, ${port}, ${motor}, ${middle}, ${half}, ${turn}, ${most}},  // ${inComment(sensor.name)}`,
          ),
        )}};`,
        `static const int32_t WATCHED[][WATCH_PLACES] PROGMEM = {${rows(watches.map(({ places }) => numbers(places)))}};`,
        '',
      ]
    : [];

/** Of players. */
const ofPlaying = (
  described: Described,
  { startMs, starts, again, watches }: Playing,
  routines: number,
): string[] => [
  ...ofWatches(watches),
  ...ofStart(described, startMs),
  '// Inputs at whose coming it begins or goes on, each with its routine, or with the one that was chosen last.',
  'struct Start {',
  '  uint8_t signal, routine;',
  '};',
  'static const uint8_t LAST_CHOSEN = 255;',
  `static const uint8_t START_COUNT = ${starts.length};`,
  `static const Start STARTS[] PROGMEM = {${
    starts.map(({ input, routine }) => `{${input}, ${routine ?? 'LAST_CHOSEN'}}`).join(', ') || '{0, 0}'
  }};`,
  `static const bool AGAIN = ${again};`,
  `static const uint8_t ROUTINE_COUNT = ${routines};`,
  '// Whole numbers a second on the way to where it begins; 0: of a motor that is sent speeds.',
  `static const int32_t GENTLE_PER_S[] PROGMEM = {${speedsOf(described).gentlePerS.join(', ')}};`,
];

/** Of programs that begin by themselves, or at a letter. */
const ofStart = ({ order, rig }: Described, startMs: number | null): string[] => [
  '// Motors come on one after the other, where they are expected to stand, so far apart.',
  `static const uint8_t POWER_ORDER[] PROGMEM = {${order.join(', ')}};`,
  `static const uint16_t GAP_MS = ${Math.max(1, rig.powerUp.gapMs)};`,
  '// It begins by itself so long after power has come; −1: only when it is told to.',
  `static const long START_MS = ${startMs ?? -1};`,
];

/** Poses and speeds of what goes to goals. */
function ofGoals({ presets, perS, gentlePerS }: Pick<HandControl, 'presets'> & Speeds): string[] {
  return [
    '// Kept poses, by their numbers from 1 on.',
    `static const uint8_t PRESET_COUNT = ${presets.length};`,
    `static const int32_t PRESETS[][MOTOR_COUNT] PROGMEM = {${
      presets.length
        ? rows(presets.map(({ name, places }, k) => `${numbers(places)}  // ${k + 1}: ${inComment(name)}`))
        : '{0}'
    }};`,
    '',
    '// Whole numbers a second: most, and gently.',
    'struct Speed {',
    '  int32_t perS, gentlePerS;',
    '};',
    `static const Speed SPEEDS[] PROGMEM = {${perS.map((most, k) => `{${most}, ${gentlePerS[k]}}`).join(', ')}};`,
  ];
}

function ofRegisters(described: Described, registers: Registers): string[] {
  const { joints, station, baud } = registers;
  const goers = joints.flatMap(({ name, motors: own, low, high, rest, places }, joint) =>
    own.map((motor, k) => ({
      row: `{${joint}, ${motor}, ${low}, ${high}, ${rest}},  // ${inComment(name)}`,
      places: places[k],
    })),
  );
  return [
    ...ofStart(described, null),
    '',
    `static const uint8_t STATION = ${station};`,
    '// What it was made for.',
    `static const uint16_t REVISION = ${(described.revision ?? 0) % 65_536};`,
    `static const uint32_t FINGERPRINT = 0x${described.fingerprint};`,
    '// Silence that ends a frame: three and a half characters of eleven bits, 1.75 ms at least.',
    `static const uint32_t SILENCE_MICROS = ${Math.max(1750, Math.ceil((3.5 * 11 * 1e6) / baud))};`,
    '',
    '// A motor goes where its joint is told (tenths of a degree or mm), between its limits, by a table of places.',
    'struct Goer {',
    '  uint8_t joint, motor;',
    '  int32_t low, high, rest;',
    '};',
    `static const uint8_t JOINT_COUNT = ${joints.length};`,
    '// Of each joint its mirror image on the other side.',
    `static const bool HAS_TWINS = ${joints.some(({ twin }) => twin !== null)};`,
    `static const uint8_t TWINS[] PROGMEM = {${joints.map(({ twin }) => twin ?? NO_PIN).join(', ')}};`,
    `static const uint8_t GOER_COUNT = ${goers.length};`,
    `static const uint8_t GOER_PLACES = ${KNOB_PLACES};`,
    `static const Goer GOERS[] PROGMEM = {${rows(goers.map(({ row }) => row))}};`,
    `static const int32_t PLACES[][GOER_PLACES] PROGMEM = {${rows(goers.map(({ places }) => numbers(places)))}};`,
    '',
    ...ofGoals(registers),
  ];
}

function ofHand(described: Described, control: HandControl): string[] {
  const { sensors, knobs, startMs, following, buttons } = control;
  return [
    ...ofStart(described, startMs),
    '',
    'struct Sensor {',
    '  uint8_t pin, address, port;',
    '};',
    `static const uint8_t SENSOR_COUNT = ${sensors.length};`,
    `static const Sensor SENSORS[] PROGMEM = {${rows(
      sensors.map(({ pin, address, port, sensor }) => `{${pin}, ${address}, ${port}},  // ${inComment(sensor.name)}`),
    )}};`,
    '',
    '// A motor follows a sensor between two counts, by a table of places.',
    'struct Knob {',
    '  uint8_t sensor, motor;',
    '  int32_t low, high;',
    '};',
    `static const uint8_t KNOB_COUNT = ${knobs.length};`,
    `static const uint8_t KNOB_PLACES = ${KNOB_PLACES};`,
    `static const Knob KNOBS[] PROGMEM = {${rows(
      knobs.map(
        ({ sensor, motor, low, high, leader }) =>
          `{${sensor}, ${motor}, ${low}, ${high}},  // ${inComment(leader.name)}`,
      ),
    )}};`,
    `static const int32_t PLACES[][KNOB_PLACES] PROGMEM = {${rows(knobs.map(({ places }) => numbers(places)))}};`,
    '',
    'enum Following : uint8_t { BY_PLACE, BY_CHANGE, BY_SPEED };',
    `static const Following FOLLOWING_BY = ${followingNames[following]};`,
    '// Inputs that choose the kept poses, in their order.',
    `static const uint8_t BUTTON_COUNT = ${buttons.length};`,
    `static const uint8_t BUTTONS[] PROGMEM = {${buttons.length ? buttons.join(', ') : '0'}};`,
    '',
    ...ofGoals(control),
    ...(control.steering ? ['', ...steeringRows(control.steering)] : []),
  ];
}
/** Knobs beside sticks that steer lead by where they stand. */
const followingNames: Record<HandControl['following'], string> = {
  ...{ place: 'BY_PLACE', change: 'BY_CHANGE', speed: 'BY_SPEED', tool: 'BY_PLACE' },
};

/** The data header. */
export function dataOf(described: Described, work: Work): string {
  const own = ownOf(described, work);
  return [
    '// What the firmware knows of the rig. Made with it; change the rig, not this.',
    '#pragma once',
    '#include <stdint.h>',
    '',
    ...known(described, work),
    '',
    ...own,
    '',
  ].join('\n');
}
function ownOf(described: Described, work: Work): string[] {
  switch (work.kind) {
    case 'bridge':
      return ofBridge(described);
    case 'player':
      return ofPlayer(described, work.table);
    case 'steps':
      return ofSteps(described, work.steps);
    case 'hand':
      return ofHand(described, work.control);
    case 'registers':
      return ofRegisters(described, work.registers);
  }
}
