/** The comment at the head of a firmware: what somebody reads before they switch a supply on. */
import { channelText } from '../board/protocol';
import { delayWords, linkBudget } from './budget';
import { BAUD, ticksPerMs, watchesIn } from './data';
import { NO_PIN, type Described } from './described';
import type { HandControl } from './knobs';
import { TENTHS, type Registers } from './registers';
import { busyAs, busyPercent, sizeOf } from './room';
import type { Push, Steered } from './steering';
import type { Steps } from './steps';
import { RAD_PER_DEG } from '../units/convert';
import { inComment } from './text';
import type { Work } from './work';

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

/** Rows of the comment. */
export function head(described: Described, work: Work): string[] {
  const table = work.kind === 'player' ? work.table : null;
  const control = work.kind === 'hand' ? work.control : null;
  const steering = control?.steering ?? null;
  const { rig, build, board, hanging, motors: all, signals, revision } = described;
  const wiring = [
    ...all.map(({ map, kind: is, channel, pin, second, enable, tracks }) => {
      const where =
        is === 'pulse-driver'
          ? `channel ${pin} of the driver at address ${second} (${channelText(channel)})`
          : is === 'stepper'
            ? `step pin ${pin}, direction pin ${second}${enable === null ? '' : `, enable pin ${enable} (low: on)`}`
            : tracks
              ? `duty pin ${pin}, direction pin ${second} (high: its count rises), tracks on pins ${tracks.join(' and ')}${enable === null ? '' : `, enable pin ${enable} (high: on)`}`
              : `pin ${pin}`;
      return `${map.drive.name}: ${where}`;
    }),
    ...signals.map(({ name, pin, isOutput, level }) =>
      isOutput ? `${name}: output, pin ${pin}, off when ${level ? 'high' : 'low'}` : `${name}: input, pin ${pin}`,
    ),
    ...(control?.sensors ?? []).map(({ sensor, pin, address, port }) => {
      const behind = port === NO_PIN ? '' : `, port ${port} of the multiplexer`;
      return `${sensor.name}: ${address === NO_PIN ? `analogue pin ${pin}` : `bus address ${address}${behind}`}`;
    }),
  ];
  const steps = all.filter(({ kind: is }) => is === 'stepper').length;
  const counted = all.filter(({ kind: is }) => is === 'counted').length;
  const lost = !counted ? 'Steppers' : steps ? 'Steppers and motors with an encoder' : 'Motors with an encoder';
  const size = sizeOf(described, work);
  const percent = busyPercent(described, busyAs(work));
  const busUs = all.some(({ kind: is }) => is === 'pulse-driver') ? 150 : 0;
  return [
    `${rig.name}, ${build.name}${revision === null ? '' : `, revision ${revision}`}. Motors: fingerprint ${described.fingerprint}.`,
    `For ${board.name}${hanging.length ? ` with ${hanging.map(({ name }) => name).join(', ')}` : ''}.`,
    steering ? STEERS : kindWords[work.kind],
    '',
    'BEFORE THE MOTORS GET POWER',
    `  Leave their supply off until ${
      work.kind === 'registers' ? 'registers 5 to 7 have said' : 'the line has said "board" with'
    } the fingerprint above. Another one: this is for another rig.`,
    '  Then take the horns off, or hold the arm, for the first pulse of each motor. Keep hands and faces out of reach.',
    ...(counted
      ? [
          '  A motor with an encoder whose tracks or leads are the wrong way round runs away: it is let go as soon as it goes backwards at full duty for a',
          '  moment, or does not go on for half a second, and all else stands. Try each with its horn or belt off; then swap its two tracks.',
        ]
      : []),
    ...((steps || counted) && work.kind !== 'bridge'
      ? [
          work.kind === 'steps' && work.steps.homing !== null
            ? `  ${lost} do not know where they are: this program homes them once they have come on, by its switches and stops. Keep clear of all that moves then.`
            : `  ${lost} do not know where they are: bring the arm to its resting pose before they come on. This program homes nothing.${work.kind === 'steps' ? ` ${work.steps.noHoming}` : ''}`,
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
    ...(control?.buttons.length
      ? [
          '',
          `Buttons: ${control.buttons.map((signal, k) => `${signals[signal].name}, ${control.presets[k].name}`).join('; ')}.`,
        ]
      : []),
    ...(control && steering ? stickWords(control, steering) : []),
    ...(work.kind === 'steps' ? ['', ...stepsHeld(work.steps)] : []),
    ...(work.kind === 'registers' ? registerMap(work.registers) : []),
    '',
    'WIRING',
    ...wiring.map((row) => `  ${row}`),
    ...(work.display
      ? [
          `  Text display, ${work.display.columns} × ${work.display.rows}: on the two-wire bus, address ${work.display.address}. It may come later.`,
        ]
      : []),
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
      (counted
        ? ` Tracks are read ${ticksPerMs(board)},000 times a second; duties are set once a millisecond.`
        : '') +
      (work.display ? ' A text display takes about 700 µs a letter, one in 5 ms while its words change.' : '') +
      (percent === null
        ? ''
        : ` While all motors move that is about ${Math.round(percent)} % of its time, at 16 MHz.`),
  ].map((row) => inComment(row).trimEnd());
}

const STEERS =
  'Hand control: sticks push the tool, the board works out its joints. Letters: g go, s hold, o motors off, 1 to 9 a pose, ? who are you.';
const pushWords: Record<Push, string> = {
  ...{
    x: 'pushes forward (X)',
    y: 'pushes left (Y)',
    z: 'pushes up (Z)',
    tilt: 'tilts the hand',
    roll: 'rolls the hand',
  },
};
function stickWords({ sensors }: HandControl, { tool, sticks, mmPerS, radPerS }: Steered): string[] {
  const degPerS = Math.round(radPerS / RAD_PER_DEG);
  return [
    '',
    `STICKS (${tool.name}; the world’s axes; ${mmPerS} mm and ${degPerS}° a second at most)`,
    ...sticks.map(({ sensor, push, reversed }) => {
      const { name } = sensors[sensor].sensor;
      return `  ${name}: ${pushWords[push]}${reversed ? ', the other way round' : ''}`;
    }),
    '  A stick leads nothing until it has been let go for half a second: where it stands then is its middle. One whose lead breaks may push by',
    '  itself: keep the motors’ switch in reach. At a limit, or where the arm does not reach, the tool stands; other ways go on.',
  ];
}

/** What makes a player begin, beside the letter. */
function beginWords({ signals }: Described, work: Work): string[] {
  if (work.kind !== 'player' && work.kind !== 'steps') return [];
  const { startMs, starts, again } = work.kind === 'player' ? work.table : work.steps;
  const names = work.kind === 'player' ? [work.table.name] : work.steps.routines.map(({ name }) => name);
  const words = [
    ...(startMs === null ? [] : [`by itself ${startMs / 1000} s after power has come`]),
    ...starts.map(
      ({ input, routine }) =>
        `when input “${signals[input].name}” comes${routine === null ? '' : ` (${names[routine]})`}`,
    ),
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
  const budget = linkBudget(described, BAUD);
  const { baud, pointBytes, pointsPerS, out, back, reportMs } = budget;
  const percent = (share: number): string => `${Math.round(share * 100)} %`;
  return [
    'LINE',
    `  ${pointBytes} bytes a point at most, ${pointsPerS} points a second: ${percent(out)} of ${baud} baud; answers, and reports every ${reportMs} ms: ${percent(back)}.`,
    `  ${delayWords(budget)}`,
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
