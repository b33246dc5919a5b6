import { spawnSync } from 'node:child_process';
import { describe as group, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { admit } from '../admit';
import { commandMaps } from '../actuators';
import { valuesAt } from '../commands';
import { sampleBuffers } from '../motion';
import { planCommands, planRoutine } from '../routine';
import { newBoard } from '../wiring';
import { described } from './boards.testkit';
import { driverDivider, scriptOf, tableOf } from './index';

/** The dipper on a computer: one servo on its pulse pin, the others on a driver at address 66. */
function onComputer(): unknown {
  const rig = structuredClone(tileDipper()) as unknown as {
    boards: unknown[];
    wiring: { board: string; channel: number }[];
  };
  rig.boards = [
    newBoard('single-board', 'pc', 'Little computer'),
    { ...newBoard('pwm-driver', 'd'), host: 'pc', address: 66 },
  ];
  rig.wiring.forEach((wire, k) => Object.assign(wire, k ? { board: 'd', channel: k } : { board: 'pc', channel: 18 }));
  return rig;
}
const admitted = admit(onComputer());
if (!admitted.ok) throw new Error(admitted.faults[0].message);
const { rig, mechanism, build } = admitted;
const plan = planRoutine(
  rig,
  mechanism,
  build,
  rig.routines.find(({ id }) => id === 'dip')!,
);
const motion = planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
const board = described(onComputer(), 'pc');
const table = tableOf(board, 'Dip """ one tile', motion, [], {
  frameMs: 20,
  startMs: null,
  starts: [],
  watches: [],
  again: false,
});
const { text } = scriptOf(board, 'dip.py', table);

interface Written {
  readonly s: number;
  readonly motor: number;
  readonly us: number;
}
/** What a dry run says that it would write. */
function dry(source: string): Written[] {
  const { stdout, stderr, status } = spawnSync('python3', ['-'], {
    input: source,
    encoding: 'utf8',
    maxBuffer: 1 << 26,
  });
  expect(status, stderr).toBe(0);
  return stdout
    .trimEnd()
    .split('\n')
    .map((row) => {
      const [s, kind, at, ...more] = row.split(' ');
      if (kind === 'pwm')
        return {
          s: Number(s),
          motor: board.motors.findIndex((m) => m.kind === 'pulse-pin'),
          us: Number(more[0]) / 1000,
        };
      const [register, , , low, high] = more.map(Number);
      expect(Number(at)).toBe(66);
      const motor = board.motors.findIndex((m) => m.kind === 'pulse-driver' && m.pin === (register - 6) / 4);
      return {
        s: Number(s),
        motor,
        us: high & 16 ? 0 : ((low + 256 * high) * (driverDivider(board.driverHz) + 1)) / 25,
      };
    });
}

group('a script for a single-board computer, run dry', () => {
  const written = dry(text);
  /** A driver counts in steps of about 5 µs. */
  const room = (k: number): number => (board.motors[k].kind === 'pulse-driver' ? 3.5 : 1);
  it('comes on one motor after the other where it is expected to stand, and lets all go in the end', () => {
    const firsts = board.order.map((k) => written.find(({ motor }) => motor === k)!);
    firsts.forEach(({ us, motor }) =>
      expect(Math.abs(us - board.motors[motor].rest)).toBeLessThanOrEqual(room(motor)),
    );
    for (let k = 1; k < firsts.length; k++) expect(firsts[k].s - firsts[k - 1].s).toBeGreaterThanOrEqual(0.299);
    for (const [k] of board.motors.entries()) expect(written.findLast(({ motor }) => motor === k)!.us).toBe(0);
  });
  it('writes what the plan says, frame by frame, each a fiftieth of a second after the other', () => {
    const [p, v, a] = sampleBuffers(mechanism.m);
    /** Places on a way of so many frames, beat by beat: the pace rises over a quarter of a second. */
    const beats = (frames: number): number[] => {
      const all: number[] = [];
      for (let [at, pace] = [0, 0]; at < frames - 1; all.push(at)) {
        pace = Math.min(1, pace + 0.02 / 0.25);
        at = Math.min(frames - 1, at + pace);
      }
      return all;
    };
    const there = beats(Math.max(1, Math.round(table.thereMs / 20)) + 1);
    const begun = (rig.powerUp.gapMs * board.motors.length) / 1000 + there.length * 0.02;
    const at = beats(table.frames.levels.length);
    for (const [k, { map }] of board.motors.entries()) {
      const own = written.filter(({ motor, us }) => motor === k && us > 0);
      let row = 0;
      at.forEach((frame, beat) => {
        while (row + 1 < own.length && own[row + 1].s <= begun + (beat + 1) * 0.02 + 1e-3) row++;
        if (beat % 5) return;
        const near = [-0.012, 0, 0.012].map((by) => {
          motion.sampleInto(p, v, a, Math.min(motion.durationS, Math.max(0, frame * 0.02 + by)));
          return valuesAt([map], mechanism, p, v)[0][1];
        });
        const what = `${map.drive.name} at ${(frame * 0.02).toFixed(2)} s`;
        expect(own[row].us, what).toBeGreaterThanOrEqual(Math.min(...near) - room(k) - 1);
        expect(own[row].us, what).toBeLessThanOrEqual(Math.max(...near) + room(k) + 1);
      });
    }
  });
  it('gets no motor past the limits of its joint', () => {
    const far = text.replace(
      /FRAMES = \(\n[^]*?\n\)/,
      'FRAMES = ((500,) * 5, (9000,) * 5, (-9000,) * 5, (1500,) * 5)',
    );
    const rows = dry(far).filter(({ us }) => us > 0);
    for (const [k, { low, high }] of board.motors.entries()) {
      const own = rows.filter(({ motor }) => motor === k).map(({ us }) => us);
      expect(Math.min(...own)).toBeGreaterThanOrEqual(low - room(k));
      expect(Math.max(...own)).toBeLessThanOrEqual(high + room(k));
    }
  });
});
