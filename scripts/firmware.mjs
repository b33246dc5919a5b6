/**
 * `npm run firmware [-- RIG …]`: programs of the demo's boards, compiled for the small class (8 bits, 32 KB of flash, 2 KB of memory) where
 * its cross compiler is installed, and how large they are. What the platform's own parts take (serial line, servos, clock) comes to that.
 */
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { admit } from '../core/src/admit/index.ts';
import { encodeHost, MAX_LINE, pointLines } from '../core/src/board/index.ts';
import { commandMaps, linedBoards } from '../core/src/actuators/index.ts';
import {
  describe,
  handControlOf,
  registersOf,
  sizeOf,
  sources,
  stepsOf,
  tableOf,
} from '../core/src/firmware/index.ts';
import { flowOf, planCommands, planRoutine } from '../core/src/routine/index.ts';
import { dipperWithEncoders, dipperWithSticks } from '../core/src/firmware/boards.testkit.ts';
import { panelChecksum } from '../core/src/firmware/registers.testkit.ts';
import { demoRigs } from '../demo/index.ts';

const standIn = new URL('../core/firmware/stand-in', import.meta.url).pathname;
if (spawnSync('avr-g++', ['--version']).status !== 0) {
  console.error('The cross compiler is not installed:  sudo apt-get install gcc-avr avr-libc');
  process.exit(1);
}
const flags = ['-mmcu=avr5', '-DF_CPU=16000000', '-std=gnu++11', '-Os', '-Wall', '-Wextra', '-Werror', '-Wno-cpp'];
const folder = mkdtempSync(join(tmpdir(), 'cork-elbow-sizes-'));

/** Bytes of flash and of memory. */
function sizes(files) {
  for (const { name, text } of files) {
    mkdirSync(dirname(join(folder, name)), { recursive: true });
    writeFileSync(join(folder, name), text);
  }
  const object = join(folder, 'program.o');
  const main = join(folder, files[0].name);
  const made = spawnSync(
    'avr-g++',
    [...flags, '-I', standIn, '-include', 'stand_in.h', '-x', 'c++', '-c', main, '-o', object],
    {
      encoding: 'utf8',
    },
  );
  if (made.status !== 0) throw new Error(made.stderr);
  const [text, data, bss] = spawnSync('avr-size', [object], { encoding: 'utf8' })
    .stdout.split('\n')[1]
    .trim()
    .split(/\s+/)
    .map(Number);
  return { flash: text + data, memory: data + bss };
}

/** Share of a millisecond (%) that its loop takes on the small class, in the mean and at most: run by a simulator of that processor. */
const canRun = spawnSync('simavr', ['--list-cores']).status !== null;
function shareOf(files, { lines, firstMs, everyMs, fromMs, forMs, firstStick = 255 }) {
  const main = join(folder, files[0].name);
  const bytes = lines.map((line) => (typeof line === 'string' ? [...Buffer.from(line)] : line));
  const texts = bytes.map((list, k) => `static const uint8_t LINE_${k}[] PROGMEM = {${list.join(', ')}};`);
  writeFileSync(
    join(folder, 'input.h'),
    [
      ...texts,
      `static const uint8_t* const INPUT_LINES[] PROGMEM = {${lines.map((_, k) => `LINE_${k}`).join(', ')}};`,
      `static const uint16_t INPUT_SIZES[] PROGMEM = {${bytes.map((list) => list.length).join(', ')}};`,
      `enum : uint32_t { INPUT_COUNT = ${lines.length}, FIRST_LINE_MS = ${firstMs}, LINE_EVERY_MS = ${everyMs}, COUNT_FROM_MS = ${fromMs}, MILLISECONDS = ${fromMs + forMs}, FIRST_STICK = ${firstStick}, PUSHED_FROM_MS = ${fromMs} };`,
    ].join('\n'),
  );
  const program = join(folder, 'program.elf');
  const own = flags.map((flag) => (flag.startsWith('-mmcu') ? '-mmcu=atmega328p' : flag));
  const made = spawnSync(
    'avr-g++',
    [...own, '-I', standIn, '-I', folder, '-include', 'stand_in.h', '-x', 'c++', main, smallClass, '-o', program],
    { encoding: 'utf8' },
  );
  // Too large for the class.
  if (made.stderr.includes('overflowed')) return null;
  if (made.status !== 0) throw new Error(made.stderr);
  const { stdout, stderr } = spawnSync('simavr', ['-m', 'atmega328p', '-f', '16000000', program], {
    encoding: 'utf8',
    timeout: 120_000,
  });
  // Nothing: its memory is too small for it.
  const said = /(\d+) (\d+)\.?\s/.exec(stdout + stderr);
  if (!said) return null;
  return said.slice(1, 3).map((half) => Number(half) / 20);
}
const smallClass = new URL('../core/firmware/small-class/main.cpp', import.meta.url).pathname;
const sharesSaid = (files, how) => {
  const shares = canRun && shareOf(files, how);
  if (!shares) return '';
  const [mean, most] = shares;
  return `   ${mean.toFixed(1)} %, at most ${most.toFixed(1)} %`;
};

const wished = process.argv.slice(2);
console.log(
  'rig                  program              flash   memory   (about, as its head says)   of a millisecond on the small class',
);
const row = (rig, program, described, work, how) => {
  const files = sources(described, 'program', work);
  const { flash, memory } = sizes(files);
  const about = sizeOf(described, work);
  console.log(
    `${rig.padEnd(20)} ${program.padEnd(18)} ${String(flash).padStart(7)} ${String(memory).padStart(8)}   (${about.flash}, ${about.memory})${how ? sharesSaid(files, how) : ''}`,
  );
};
/** Played from its beginning, power-up and all. */
const played = { lines: ['g'], firstMs: 10, everyMs: 1, fromMs: 3000, forMs: 12_000 };
/** Points 50 times a second, in each of which every motor is told something else; reports as often as they come. */
function streamed({ motors }) {
  const text = (wish) => new TextDecoder().decode(encodeHost(wish));
  const at = (k) =>
    motors.map(({ channel, rest, own }, m) => [
      channel,
      Math.min(own.high, Math.max(own.low, rest + Math.round(40 * Math.sin(k / 9 + m)))),
    ]);
  let number = 1;
  const lines = [
    text({ word: 'hello', number: number++ }),
    ...motors.map(({ channel, own }) =>
      text({ word: 'bounds', number: number++, channel, low: own.low, high: own.high, perS: 99_999 }),
    ),
    text({ word: 'report', number: number++, everyMs: 20 }),
    ...motors.map(({ channel, rest }) => text({ word: 'wake', number: number++, values: [[channel, rest]] })),
  ];
  const before = lines.length;
  for (let k = 1; k <= POINTS; k++) lines.push(pointLines(k, 20, at(k), MAX_LINE).map(text).join(''));
  return { lines, firstMs: 50, everyMs: 20, fromMs: 50 + 20 * (before + 5), forMs: 20 * (POINTS - 10) };
}
/** A panel that has it come on and sends every joint to one end and the other, one register each 100 ms, at full speed. */
function asked({ joints, station }) {
  const write = (where, value) => {
    const frame = [station, 6, where >> 8, where & 255, (value >> 8) & 255, value & 255];
    return [...frame, ...panelChecksum(frame)];
  };
  const ends = (which) => joints.map((joint, k) => write(10 + k, joint[which]));
  const lines = [
    write(1, 1),
    write(3, 100),
    ...Array.from({ length: 3 }, () => [...ends('high'), ...ends('low')]).flat(),
  ];
  return { lines, firstMs: 50, everyMs: 100, fromMs: 3000, forMs: 100 * (lines.length - 10) };
}
const POINTS = 120;
const arms = [
  ...demoRigs(),
  // Not of the demo.
  { id: 'dipper, encoder', rig: dipperWithEncoders(1) },
  { id: 'dipper, sticks', rig: dipperWithSticks() },
];
for (const { id, rig: document } of arms) {
  if (wished.length && !wished.includes(id)) continue;
  const { rig, mechanism, build } = admit(document);
  const described = describe(rig, mechanism, build, linedBoards(rig)[0].id, 1);
  row(id, 'bridge', described, { kind: 'bridge' }, streamed(described));
  const display = { address: 39, rows: 2, columns: 16 };
  row(id, 'bridge, text display', described, { kind: 'bridge', display });
  const control = handControlOf(described);
  if (control.knobs.length) row(id, 'hand control', described, { kind: 'hand', control });
  const sticks = described.rig.sensors.filter(({ joint }) => joint === null);
  if (sticks.length) {
    const [x, y, z, tilt] = sticks.map((stick) => stick.id);
    const steered = handControlOf(described, {
      following: 'tool',
      steer: { sticks: { x, y, z, tilt }, mmPerS: 60, radPerS: 0.5 },
    });
    row(id, 'sticks', described, { kind: 'hand', control: steered }, { ...played, firstStick: sticks[0].channel });
  }
  const registers = registersOf(described, 1, 19200);
  row(id, 'registers', described, { kind: 'registers', registers }, asked(registers));
  for (const routine of rig.routines) {
    const flow = flowOf(rig, mechanism, routine);
    const steps = stepsOf(described, [{ name: routine.name, flow }], {
      motion: rig.motion,
      startMs: null,
      starts: [],
      watches: [],
      again: false,
    });
    row(id, `steps, ${routine.id}`, described, { kind: 'steps', steps }, played);
    const plan = planRoutine(rig, mechanism, build, routine);
    const motion = planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
    const table = tableOf(described, routine.name, motion, [], {
      frameMs: 20,
      startMs: null,
      starts: [],
      watches: [],
      again: false,
    });
    row(id, `player, ${routine.id}`, described, { kind: 'player', table }, played);
  }
}
rmSync(folder, { recursive: true });
