import { contractFindings } from '@cork-elbow/core/contract';
import { isSpin, nativeAt, type DriveMap } from '@cork-elbow/core/actuators';
import { kilnLoader, tileDipper } from '@cork-elbow/demo';
import { boardReader, encodeBoard, hostReader, type HostMessage } from '@cork-elbow/core/board';
import { describe, expect, it, vi } from 'vitest';
import type { LineEnd, Link } from '../links/link';
import { simulatedLink } from '../links/simulated';
import type { LoopEvent } from './events';
import { RunLoop } from './loop';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { poseAt, sampleTimes } from '@cork-elbow/core/motion';
import type { Rig } from '@cork-elbow/core/rig';

/** Whether the loop knows of a limit of the shoulder that the planner did not, and where it then is (rad). */
let narrower = false;
/** Whether it is narrower than where the arm stands at the beginning. */
let already = false;
let limit = Infinity;
/** By how much (rad) the turn is told to be elsewhere from one moment to the next, a second after the run begins. */
let leap = 0;
vi.mock('./prepare', async (original) => {
  const real = await original<typeof import('./prepare')>();
  return {
    ...real,
    prepareRun: (...args: Parameters<typeof real.prepareRun>) => {
      const course = real.prepareRun(...args);
      if (course.ok && leap) {
        const { motion } = course;
        const turn = course.mechanism.slotOf.get('turn')!;
        const sampleInto: typeof motion.sampleInto = (q, v, a, t) => {
          motion.sampleInto(q, v, a, t);
          if (t > 1) q[turn] += leap;
        };
        return { ...course, motion: { ...motion, sampleInto } };
      }
      if (!course.ok || !narrower) return course;
      const slot = course.mechanism.slotOf.get('shoulder')!;
      const upper = course.mechanism.upper.slice();
      const { motion } = course;
      const most = already
        ? poseAt(motion, 0)[slot]
        : Math.max(...sampleTimes(motion.durationS, 0.05).map((t) => poseAt(motion, t)[slot]));
      upper[slot] = limit = most - 0.1;
      return { ...course, mechanism: { ...course.mechanism, upper } };
    },
  };
});

const rig = tileDipper();
function bench(
  standsAt?: (mechanism: Mechanism, rest: Float64Array) => Float64Array,
  document: Rig = rig,
  refused: readonly string[] = [],
) {
  const sent: HostMessage[] = [];
  const events: LoopEvent[] = [];
  const spoken: Uint8Array[] = [];
  /** Words that the board refuses. */
  const refusing = new Set<string>(refused);
  const loop = new RunLoop((event) => events.push(structuredClone(event)));
  const reader = hostReader();
  let wire!: LineEnd;
  let now = 0;
  loop.connect(
    'tile-dipper',
    document,
    'b1',
    (end): Link => {
      wire = end;
      const inner = simulatedLink({ ...end, rest: standsAt?.(end.mechanism, end.rest) ?? end.rest }, 0);
      return {
        ...inner,
        write(bytes) {
          for (const message of reader.push(bytes)) {
            if (!message) continue;
            sent.push(message);
            const { word } = message;
            if (!refusing.has(word)) inner.write(bytes);
            else {
              const number = 'seq' in message ? message.seq : message.number;
              spoken.push(encodeBoard({ word: 'refused', what: word, number, why: 'bounds' }));
            }
          }
        },
        read: () => [...inner.read(), ...spoken.splice(0)],
      };
    },
    0,
  );
  const to = (ms: number): void => {
    for (const end = now + ms; now < end;) loop.tick((now += 2));
  };
  to(100);
  loop.arm('hold', now);
  to(2500);
  return { loop, sent, events, spoken, refusing, to, rig: document, wire: () => wire, now: () => now };
}
const begin = (b: ReturnType<typeof bench>): void =>
  b.loop.start({ id: 'r1', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' }, b.rig, () =>
    b.now(),
  );

describe('what the server holds by itself', () => {
  it('a set point past a limit never leaves: the board is halted and the run has failed, whatever was planned', () => {
    narrower = true;
    const b = bench();
    begin(b);
    const from = b.sent.length;
    b.to(80_000);
    narrower = false;
    expect(b.loop.state).toMatchObject({ run: 'failed', notice: contractFindings.say('run-held-back') });
    const after = b.sent.slice(from);
    expect(after.some((m) => m.word === 'halt')).toBe(true);
    // Nothing that was sent is past the limit by more than its pulse is wide.
    const { mechanism } = b.wire();
    const maps = b.wire().maps.filter((map): map is DriveMap => !isSpin(map));
    const shoulder = maps.find((map) => map.drive.id === 'm-shoulder')!;
    const slot = mechanism.slotOf.get('shoulder')!;
    const q = mechanism.home.slice();
    q[slot] = limit;
    const most = nativeAt(shoulder, mechanism, q)!;
    const way = Math.sign(shoulder.native.perDeg);
    for (const message of after)
      if (message.word === 'point')
        for (const [channel, value] of message.values)
          if (channel === shoulder.channel) expect(way * value).toBeLessThanOrEqual(way * most + 1);
    expect(b.events.filter((e) => e.type === 'ended')).toMatchObject([{ outcome: 'failed' }]);
  });
  it('of several boards none gets a share of it, and the run has begun before it has failed', () => {
    narrower = already = true;
    const two = structuredClone(rig) as Rig;
    two.boards.push({ ...structuredClone(two.boards[0]), id: 'second', name: 'Second board' });
    for (const wire of two.wiring) if (wire.drive !== 'm-turn') wire.board = 'second';
    const b = bench(undefined, two);
    expect(b.sent.some((m) => m.word === 'wake')).toBe(true);
    const from = b.sent.length;
    begin(b);
    b.to(500);
    narrower = already = false;
    expect(b.loop.state).toMatchObject({ run: 'failed', notice: contractFindings.say('run-held-back') });
    expect(b.sent.slice(from).filter((m) => m.word === 'point')).toEqual([]);
    expect(b.events.flatMap((e) => (e.type === 'started' || e.type === 'ended' ? [e.type] : []))).toEqual([
      'started',
      'ended',
    ]);
  });
  it('armed to hold, every motor is sent what was read back, wherever the arm was thought to rest', () => {
    const b = bench((mechanism, rest) =>
      rest
        .map((v, s) => v + (s % 2 ? 0.2 : -0.2))
        .map((v, s) => Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], v))),
    );
    const { mechanism } = b.wire();
    const maps = b.wire().maps.filter((map): map is DriveMap => !isSpin(map));
    const woken = new Map(b.sent.flatMap((m) => (m.word === 'wake' ? [...m.values] : [])));
    expect(woken.size).toBe(maps.length);
    let moved = 0;
    const rest = b.loop.state && mechanism.home;
    for (const map of maps) {
      const stood = b.events.findLast((e) => e.type === 'telemetry');
      expect(stood?.type === 'telemetry' && stood.telemetry.wire[map.drive.id]).toBe(woken.get(map.channel!));
      if (woken.get(map.channel!) !== nativeAt(map, mechanism, rest)) moved++;
    }
    expect(moved).toBeGreaterThan(2);
    // Nothing moved: what is read back is still what it was before.
    const before = b.sent.filter((m) => m.word === 'point');
    expect(before).toEqual([]);
    const last = b.events.findLast((e) => e.type === 'telemetry');
    if (last?.type !== 'telemetry') throw new Error('nothing was told');
    for (const [id, value] of Object.entries(last.telemetry.measured))
      expect(value).toBeCloseTo(last.telemetry.commanded[id], 0);
  });
  it('a motor that reads back is held there though its fellow of one transmission does not', () => {
    const loader = kilnLoader();
    const loop = new RunLoop(() => undefined);
    const sent: HostMessage[] = [];
    const [reader, heard] = [hostReader(), boardReader()];
    let [now, nod, spin] = [0, -1, -1];
    loop.connect(
      'kiln',
      loader,
      'b1',
      (end): Link => {
        const channelOf = (id: string): number => end.maps.find((map) => map.drive.id === id)!.channel!;
        [nod, spin] = [channelOf('m-nod'), channelOf('m-spin')];
        const elsewhere = end.rest.slice();
        elsewhere[end.mechanism.slotOf.get('spin')!] += 0.5;
        const inner = simulatedLink({ ...end, rest: elsewhere }, 0);
        return {
          ...inner,
          write(bytes) {
            for (const message of reader.push(bytes)) if (message) sent.push(message);
            inner.write(bytes);
          },
          // The nod's driver has lost its line back.
          read: () =>
            inner
              .read()
              .flatMap((bytes) => heard.push(bytes))
              .map((message) =>
                encodeBoard(
                  message!.word === 'here'
                    ? { ...message!, measured: message!.measured.filter(([channel]) => channel !== nod) }
                    : message!,
                ),
              ),
        };
      },
      0,
    );
    const to = (ms: number): void => {
      for (const end = now + ms; now < end;) loop.tick((now += 2));
    };
    to(100);
    const stood = new Map<number, number>();
    loop.arm('hold', now);
    to(4000);
    for (const message of sent)
      if (message.word === 'wake') for (const [channel, value] of message.values) stood.set(channel, value);
    // 0.5 rad of the flange are 4 motor turns a turn of it, 3200 steps each.
    const { drives, transmissions } = loader;
    const stepper = drives.find((d) => d.id === 'm-spin')!;
    const tie = transmissions.find((t) => t.id === 't-wrist')!;
    if (stepper.kind !== 'stepper' || tie.kind !== 'matrix') throw new Error('another wrist');
    const perRad = (stepper.stepsPerTurn * stepper.microsteps * tie.matrix[1][1]) / (2 * Math.PI);
    const mechanismRest = 100 * tie.matrix[1][0];
    const expected = (mechanismRest / 360) * stepper.stepsPerTurn * stepper.microsteps + 0.5 * perRad;
    expect(stood.get(spin)).toBeCloseTo(stepper.direction * expected, -1);
  });
  it('a set point that asks a motor for more than its speed is given the time that it takes, or held back', () => {
    for (const [rad, isHeld] of [
      [0.1, false],
      [0.8, true],
    ] as const) {
      leap = rad;
      const b = bench();
      begin(b);
      b.to(3000);
      leap = 0;
      const points = b.sent.filter((m) => m.word === 'point');
      const perS = new Map(b.sent.flatMap((m) => (m.word === 'bounds' ? [[m.channel, m.perS]] : [])));
      const last = new Map(b.sent.flatMap((m) => (m.word === 'wake' ? m.values : [])));
      for (const { ms, values } of points)
        for (const [channel, value] of values) {
          expect(Math.abs(value - last.get(channel)!)).toBeLessThanOrEqual((perS.get(channel)! * ms) / 1000 + 1);
          last.set(channel, value);
        }
      const longer = points.filter(({ ms }) => ms > 20 && ms !== 60);
      expect([b.loop.state.run, longer.length]).toEqual(
        isHeld ? ['failed', 0] : [expect.stringMatching(/starting|running/), 1],
      );
      if (!isHeld) continue;
      expect(b.loop.state.notice).toBe(contractFindings.say('run-too-fast'));
      expect(b.sent.at(-1)).toMatchObject({ word: 'halt' });
      const count = points.length;
      b.to(500);
      expect(b.sent.filter((m) => m.word === 'point')).toHaveLength(count);
    }
  });
  it('a refused point ends the run, and says what was refused', () => {
    const b = bench();
    begin(b);
    b.to(3000);
    expect(b.loop.state.run).toMatch(/starting|running/);
    b.refusing.add('point');
    b.to(30);
    expect(b.loop.state).toMatchObject({ run: 'failed', notice: expect.stringContaining('point: bounds') });
    expect(b.events.filter((e) => e.type === 'ended')).toMatchObject([{ outcome: 'failed' }]);
    const count = b.sent.filter((m) => m.word === 'point').length;
    b.to(500);
    expect(b.sent.filter((m) => m.word === 'point')).toHaveLength(count);
  });
  it('a refused letting go ends the run: what was to be off holds on, and counts as held', () => {
    const steps = [
      { id: 'l', kind: 'let-go', enabled: true, note: '', joints: ['turn'] },
      { id: 'w', kind: 'wait', enabled: true, note: '', durationS: 9 },
    ] as Rig['routines'][number]['steps'];
    const b = bench(undefined, { ...rig, routines: [{ ...rig.routines[0], steps }] }, ['letgo']);
    begin(b);
    b.to(1500);
    expect(b.sent.filter((m) => m.word === 'letgo')).toHaveLength(1);
    expect(b.loop.state).toMatchObject({ run: 'failed', limp: [], notice: expect.stringContaining('letgo: bounds') });
  });
  it('a refused wake ends the switching on, and says so', () => {
    const b = bench(undefined, rig, ['wake']);
    expect(b.loop.state).toMatchObject({ armed: false, notice: expect.stringContaining('wake: bounds') });
    expect(b.sent.filter((m) => m.word === 'wake')).toHaveLength(1);
  });
  it('any other refusal is told, and lines that did not arrive are no refusals', () => {
    const told = bench(undefined, rig, ['report']);
    expect(told.events).toContainEqual(
      expect.objectContaining({
        status: expect.objectContaining({ notice: expect.stringContaining('report: bounds') }),
      }),
    );
    const b = bench();
    begin(b);
    b.to(3000);
    b.spoken.push(encodeBoard({ word: 'refused', what: 'line', number: 3, why: 'garbled' }));
    b.to(200);
    expect(b.loop.state).toMatchObject({ run: expect.stringMatching(/starting|running/), notice: '' });
  });
});
