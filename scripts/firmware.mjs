/**
 * `npm run firmware [-- RIG …]`: programs of the demo's boards, compiled for the small class (8 bits, 32 KB of flash, 2 KB of memory) where
 * its cross compiler is installed, and how large they are. What the platform's own parts take (serial line, servos, clock) comes to that.
 */
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { admit } from '../core/src/admit/index.ts';
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

const wished = process.argv.slice(2);
console.log('rig                  program              flash   memory   (about, as its head says)');
const row = (rig, program, described, work) => {
  const { flash, memory } = sizes(sources(described, 'program', work));
  const about = sizeOf(described, work);
  console.log(
    `${rig.padEnd(20)} ${program.padEnd(18)} ${String(flash).padStart(7)} ${String(memory).padStart(8)}   (${about.flash}, ${about.memory})`,
  );
};
for (const { id, rig: document } of demoRigs()) {
  if (wished.length && !wished.includes(id)) continue;
  const { rig, mechanism, build } = admit(document);
  const described = describe(rig, mechanism, build, linedBoards(rig)[0].id, 1);
  row(id, 'bridge', described, { kind: 'bridge' });
  const control = handControlOf(described, null);
  if (control.knobs.length) row(id, 'hand control', described, { kind: 'hand', control });
  row(id, 'registers', described, { kind: 'registers', registers: registersOf(described, 1, 19200) });
  for (const routine of rig.routines) {
    const flow = flowOf(rig, mechanism, routine);
    const steps = stepsOf(described, [{ name: routine.name, flow }], {
      motion: rig.motion,
      startMs: null,
      startInput: null,
      again: false,
    });
    row(id, `steps, ${routine.id}`, described, { kind: 'steps', steps });
    const plan = planRoutine(rig, mechanism, build, routine);
    const motion = planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
    const table = tableOf(described, routine.name, motion, [], {
      frameMs: 20,
      startMs: null,
      startInput: null,
      again: false,
    });
    row(id, `player, ${routine.id}`, described, { kind: 'player', table });
  }
}
rmSync(folder, { recursive: true });
