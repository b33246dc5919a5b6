/** The two files of a firmware: what it does, and what it knows. */
import { channelText } from '../board/protocol';
import { unitOf } from '../actuators';
import type { Board } from '../rig';
import { linkBudget } from './budget';
import { NO_PIN, type Described, type FirmwareMotor } from './described';
import { adapter } from './sections/adapter';
import { bridge, bridgeTypes } from './sections/bridge';
import { hearing, saying } from './sections/line';
import { motors } from './sections/motors';
import { hand } from './sections/hand';
import { mover } from './sections/mover';
import { playing } from './sections/playing';
import { steps } from './sections/steps';
import { watch } from './sections/watch';
import { table } from './sections/table';
import { running } from './sections/running';
import { slave, slaveTypes } from './sections/slave';
import { TENTHS, type Registers } from './registers';
import { busyPercent, outBytes, queueRoom, sensorRoom, sizeOf } from './room';
import { KNOB_PLACES, type HandControl } from './knobs';
import type { Steps } from './steps';
import { speedsOf } from './speeds';
import { WATCH_PLACES, type Watch } from './watches';
import type { Table } from './table';
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
};
/** A name inside of a comment: nothing that ends it, one line. */
const inComment = (name: string): string =>
  name
    .replace(/\*\//g, '* /')
    .replace(/[\r\n\\]+/g, ' ')
    .replace(/\?\?/g, '? ?');
const addresses = (described: Described): number[] => [
  ...new Set(described.motors.filter(({ kind }) => kind === 'pulse-driver').map(({ second }) => second)),
];
/** A table of C; an empty one has a place all the same. */
const rows = (list: readonly string[]): string =>
  list.length ? `\n${list.map((row) => `  ${row}`).join('\n')}\n` : '0';

/** What both kinds know. */
function known(described: Described, work: Work): string[] {
  const baud = work.kind === 'registers' ? work.registers.baud : BAUD;
  const { motors: all, signals, sensorCount, revision } = described;
  const uses = (kind: FirmwareMotor['kind']): number => Number(all.some((motor) => motor.kind === kind));
  const isWide = uses('stepper') > 0;
  const made = revision === null ? ' - -' : ` ${revision} ${described.fingerprint}`;
  const drivers = addresses(described);
  return [
    `#define USES_PULSE_PINS ${uses('pulse-pin')}`,
    `#define USES_DRIVER ${uses('pulse-driver')}`,
    `#define USES_STEPS ${uses('stepper')}`,
    `#define USES_WATCH ${Number(watchesIn(work).length > 0)}`,
    `#define USES_HOMING ${Number(work.kind === 'steps' && work.steps.homing !== null)}`,
    `#define USES_BUS ${Number(uses('pulse-driver') > 0 || sensorCount > 0)}`,
    '',
    `static const uint32_t BAUD = ${baud};`,
    '// Whole numbers that motors are told: µs, and microsteps where there are any.',
    `typedef ${isWide ? 'int32_t' : 'int16_t'} Value;`,
    `static const long VALUE_MOST = ${isWide ? '999999999' : '32767'};`,
    ...(uses('stepper')
      ? [
          '// Ticks of the timer in a millisecond: the most steps of an axis.',
          `static const uint8_t TICKS_PER_MS = ${ticksPerMs(described.board)};`,
          `static const uint8_t STEP_COUNT = ${all.filter(({ kind }) => kind === 'stepper').length};`,
        ]
      : []),
    '',
    'enum MotorKind : uint8_t { PULSE_PIN, PULSE_DRIVER, STEPPER };',
    `static const uint8_t NO_PIN = ${NO_PIN};`,
    '// second: pin of the direction of a stepper, address of the driver. low, high: nothing it is told goes past them. rest: before it is told.',
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
    '// What it takes in before it has done a line: one line, and some of what the port holds meanwhile.',
    `static const uint8_t BUFFER_BYTES = ${BUFFER};`,
    '// What goes out and has no room at the port yet.',
    `static const uint16_t OUT_BYTES = ${outBytes(described)};`,
  ];
}

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
    inFlash('TABLE', bytes),
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
    inFlash('STEPS', bytes),
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

const watchesIn = (work: Work): readonly Watch[] =>
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
  { startMs, startInput, again, watches }: Pick<Steps, 'startMs' | 'startInput' | 'again' | 'watches'>,
  routines: number,
): string[] => [
  ...ofWatches(watches),
  ...ofStart(described, startMs),
  '// The input at whose coming it begins or goes on too.',
  `static const uint8_t START_INPUT = ${startInput ?? NO_PIN};`,
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

const numbers = (list: readonly number[]): string => `{${list.join(', ')}},`;
/** Poses and speeds of what goes to goals. */
function ofGoals({ presets, perS, gentlePerS }: Pick<HandControl, 'presets' | 'perS' | 'gentlePerS'>): string[] {
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
    `static const Following FOLLOWING_BY = ${{ place: 'BY_PLACE', change: 'BY_CHANGE', speed: 'BY_SPEED' }[following]};`,
    '// Inputs that choose the kept poses, in their order.',
    `static const uint8_t BUTTON_COUNT = ${buttons.length};`,
    `static const uint8_t BUTTONS[] PROGMEM = {${buttons.length ? buttons.join(', ') : '0'}};`,
    '',
    ...ofGoals(control),
  ];
}

const kindWords: Record<Work['kind'], string> = {
  registers:
    'Registers for an operator panel, over a two-wire serial line (Modbus RTU). A transceiver that turns round by itself joins it to the board.',
  hand: 'Hand control: motors follow knobs, and go to kept poses. Letters: g go, s hold, o motors off, 1 to 9 a pose, ? who are you.',
  bridge:
    'Bridge: the board at the end of the line. It is told by a computer where its motors are to be, moment by moment.',
  steps:
    'Step player: walks through routines and works their motion out by itself, without a computer. Letters: g go, s stop, o motors off, 1 to 9 a routine, ? who are you.',
  player:
    'Player: plays one routine from a table, without a computer. Letters: g go, s stop, o motors off, ? who are you.',
};

/** What somebody reads before they switch a supply on. */
function head(described: Described, work: Work): string[] {
  const table = work.kind === 'player' ? work.table : null;
  const { rig, build, board, hanging, motors: all, signals, revision } = described;
  const wiring = [
    ...all.map(({ map, kind: is, channel, pin, second, enable }) => {
      const where =
        is === 'pulse-driver'
          ? `channel ${pin} of the driver at address ${second} (${channelText(channel)})`
          : is === 'stepper'
            ? `step pin ${pin}, direction pin ${second}${enable === null ? '' : `, enable pin ${enable}`}`
            : `pin ${pin}`;
      return `${map.drive.name}: ${where}`;
    }),
    ...signals.map(({ name, pin, isOutput, level }) =>
      isOutput ? `${name}: output, pin ${pin}, off when ${level ? 'high' : 'low'}` : `${name}: input, pin ${pin}`,
    ),
  ];
  const steps = all.filter(({ kind: is }) => is === 'stepper').length;
  const size = sizeOf(described, work);
  const percent = busyPercent(described, work);
  const busUs = all.some(({ kind: is }) => is === 'pulse-driver') ? 150 : 0;
  return [
    `${rig.name}, ${build.name}${revision === null ? '' : `, revision ${revision}`}. Motors: fingerprint ${described.fingerprint}.`,
    `For ${board.name}${hanging.length ? ` with ${hanging.map(({ name }) => name).join(', ')}` : ''}.`,
    kindWords[work.kind],
    '',
    'BEFORE THE MOTORS GET POWER',
    `  Leave their supply off until ${
      work.kind === 'registers' ? 'registers 5 to 7 have said' : 'the line has said "board" with'
    } the fingerprint above. Another one: this is for another rig.`,
    '  Then take the horns off, or hold the arm, for the first pulse of each motor. Keep hands and faces out of reach.',
    ...(steps && work.kind !== 'bridge'
      ? [
          work.kind === 'steps' && work.steps.homing !== null
            ? '  Steppers do not know where they are: this program homes them once they have come on, by its switches and stops. Keep clear of all that moves then.'
            : `  Steppers do not know where they are: bring the arm to its resting pose before they come on. This program homes nothing.${work.kind === 'steps' ? ` ${work.steps.noHoming}` : ''}`,
        ]
      : []),
    '  A stop here is software: have a switch in the motor supply that you can reach. Go by your local rules.',
    ...(table
      ? [
          '',
          `Plays “${table.name}”: ${table.frames.levels.length} frames of ${table.frameMs} ms, ${table.bytes.length} bytes.`,
        ]
      : []),
    ...beginWords(described, work),
    ...(work.kind === 'hand' && work.control.buttons.length
      ? [
          '',
          `Buttons: ${work.control.buttons.map((signal, k) => `${signals[signal].name}, ${work.control.presets[k].name}`).join('; ')}.`,
        ]
      : []),
    ...(work.kind === 'steps' ? ['', ...stepsHeld(work.steps)] : []),
    ...(work.kind === 'registers' ? registerMap(work.registers) : []),
    '',
    'WIRING',
    ...wiring.map((row) => `  ${row}`),
    '',
    'SIZE',
    `  About ${size.flash} bytes of flash and ${size.memory} of memory on an 8-bit board, beside the platform’s own parts.`,
    '',
    ...(work.kind === 'bridge' ? lineTime(described) : []),
    'TIME',
    '  Everything is done once a millisecond; loop() never waits.' +
      (busUs ? ` A driver takes about ${busUs} µs a channel, one a round.` : '') +
      (steps
        ? ` Steps come from a timer, ${ticksPerMs(board)},000 ticks a second, at most one step an axis and tick.`
        : '') +
      (percent === null
        ? ''
        : ` While all motors move that is about ${Math.round(percent)} % of its time, at 16 MHz.`),
  ].map((row) => inComment(row).trimEnd());
}

/** What makes a player begin, beside the letter. */
function beginWords({ signals }: Described, work: Work): string[] {
  if (work.kind !== 'player' && work.kind !== 'steps') return [];
  const { startMs, startInput, again } = work.kind === 'player' ? work.table : work.steps;
  const words = [
    ...(startMs === null ? [] : [`by itself ${startMs / 1000} s after power has come`]),
    ...(startInput === null ? [] : [`when input “${signals[startInput].name}” comes`]),
  ];
  return [
    '',
    ...(words.length
      ? [`Begins ${words.join(', and ')}, beside the letter g. KEEP CLEAR: nothing else is asked.`]
      : []),
    again ? 'Ends never: it begins again by itself.' : 'Stands where it ends.',
    ...(watchesIn(work).length
      ? [
          `Where they are to stand, joints are corrected by their sensors, by 5° at most: ${watchesIn(work)
            .map(({ sensor }) => sensor.name)
            .join(', ')}.`,
        ]
      : []),
  ];
}

const stepsHeld = ({ routines, bytes, counters, lowPass }: Steps): string[] => [
  `Routines, by their letters (${bytes.length} bytes):`,
  ...routines.map(({ name }, k) => `  ${k + 1}  ${name}`),
  ...(counters.length ? [`Counters, which begin at 0: ${counters.join(', ')}.`] : []),
  ...(lowPass ? [`Each move’s end is told at once, through a low pass every ${lowPass.loopMs} ms.`] : []),
];

/** How much of its line a bridge needs. */
function lineTime(described: Described): string[] {
  const { baud, pointBytes, pointsPerS, out, back, reportMs } = linkBudget(described, BAUD);
  const percent = (share: number): string => `${Math.round(share * 100)} %`;
  return [
    'LINE',
    `  ${pointBytes} bytes a point at most, ${pointsPerS} points a second: ${percent(out)} of ${baud} baud; answers, and reports every ${reportMs} ms: ${percent(back)}.`,
    '',
  ];
}

/** What each register is, and what it is after a reset. */
function registerMap({ joints, presets, station, baud }: Registers): string[] {
  const tenth = (value: number): string => (value / TENTHS).toFixed(1);
  return [
    '',
    `REGISTERS (station ${station}, ${baud} baud, 8 bits, no parity; functions 3, 6 and 16; counted from 0)`,
    '  0    read: 0 off, 1 coming on, 2 on, 3 held. After a reset 0',
    '  1    write: 1 come on or go on, 2 hold, 3 motors off',
    `  2    pose that is gone to: ${presets.map(({ name }, k) => `${k + 1} ${name}`).join(', ') || 'none'}. After a reset 0`,
    '  3    share of the speeds, 1 to 100 %. After a reset 20',
    '  4    read: 1 while an input stops the arm',
    ...(joints.some(({ twin }) => twin !== null)
      ? [
          `  8    1: a target or nudge goes to the joint’s mirror image too (${joints
            .flatMap(({ name, twin }, k) => (twin !== null && twin > k ? [`${name} and ${joints[twin].name}`] : []))
            .join('; ')}). After a reset 0`,
        ]
      : []),
    '  5    read: revision of the rig; 6 and 7 read: fingerprint of its motors, high half first',
    ...joints.map(
      ({ name, unit, low, high, rest }, k) =>
        `  ${10 + k}   ${name}: target, tenths of ${unit === '°' ? 'a degree' : 'a millimetre'}, ${low} to ${high}. After a reset ${rest} ` +
        `(${tenth(rest)} ${unit}); ${40 + k} read: where it is told to be now; ${70 + k} write: add so much to the target`,
    ),
    '  Negative numbers as two’s complement. What is out of range is refused (3), what may not be now too (4).',
  ];
}

export interface FirmwareFile {
  readonly name: string;
  readonly text: string;
}

/** Main file and data header, in a folder of one name. */
export function sources(described: Described, folder: string, work: Work): FirmwareFile[] {
  const comment = head(described, work);
  const parts = {
    bridge: [hearing, bridge],
    player: [watch, playing, table],
    steps: [watch, playing, steps],
    hand: [mover, hand],
    registers: [mover, slave],
  }[work.kind];
  const main = [
    '/*',
    ...comment.map((row) => ` * ${row}`.trimEnd()),
    ' */',
    '#include "rig.h"',
    work.kind === 'bridge' ? bridgeTypes : work.kind === 'registers' ? slaveTypes : '',
    adapter,
    motors,
    saying,
    ...parts,
    running,
  ].join('\n');
  const own =
    work.kind === 'bridge'
      ? ofBridge(described)
      : work.kind === 'player'
        ? ofPlayer(described, work.table)
        : work.kind === 'hand'
          ? ofHand(described, work.control)
          : work.kind === 'steps'
            ? ofSteps(described, work.steps)
            : ofRegisters(described, work.registers);
  const data = [
    '// What the firmware knows of the rig. Made with it; change the rig, not this.',
    '#pragma once',
    '#include <stdint.h>',
    '',
    ...known(described, work),
    '',
    ...own,
    '',
  ].join('\n');
  return [
    { name: `${folder}/${folder}.ino`, text: main.replace(/\n{3,}/g, '\n\n') },
    { name: `${folder}/rig.h`, text: data },
  ];
}
