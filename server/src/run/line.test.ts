import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { boardReader, hostReader, LEAST_BUFFER, type HostMessage } from '@cork-elbow/core/board';
import { rigSchema, RIG_VERSION, type Rig } from '@cork-elbow/core/rig';
import { tileDipper } from '@cork-elbow/demo';
import { wholePoints } from '../../../core/src/board/board.testkit';
import type { Imperfect } from '../links/simulated';
import { openLink } from '../links';
import type { LoopEvent } from './events';
import { RunLoop } from './loop';

const step = (id: string, more: object): object => ({ id, enabled: true, note: '', ...more });
/** So many joints beside each other, each with a servo on a pin of one board; all go to and fro together for ever, or once. */
function many(count: number, forEver = true): Rig {
  const dipper = tileDipper();
  const drive = dipper.drives.find(({ id }) => id === 'm-turn')!;
  const ids = Array.from({ length: count }, (_, k) => `x${k}`);
  const move = (id: string, by: number): object =>
    step(id, {
      kind: 'joint-move',
      target: { joints: Object.fromEntries(ids.map((joint) => [joint, by])) },
      pace: { speedShare: 0.3 },
    });
  const steps = [move('b', 10), move('c', -10)];
  return rigSchema.parse({
    format: 'cork-elbow-rig',
    version: RIG_VERSION,
    name: 'Many',
    mechanism: {
      joints: ids.map((id, k) => ({
        ...{ id, name: id, type: 'revolute', parent: null, axis: [0, 0, 1] },
        ...{
          origin: { xyzMm: [100 * k, 0, 50] },
          limits: { min: -90, max: 90, maxSpeed: 120, maxAccel: 400 },
          home: 0,
        },
      })),
      tools: [],
    },
    drives: ids.map((id) => ({ ...drive, id: `m-${id}`, name: `m-${id}` })),
    transmissions: ids.map((id) => ({
      ...{ id: `t-${id}`, kind: 'ratio', joints: [id], drives: [`m-${id}`], reduction: 1 },
    })),
    boards: [
      {
        ...dipper.boards[0],
        id: 'board',
        pins: ids.map((_, pin) => ({ pin, label: `${pin}`, can: ['pulse'], boot: 'off', reserved: '' })),
      },
    ],
    wiring: ids.map((id, channel) => ({ id: `w-${id}`, drive: `m-${id}`, board: 'board', channel })),
    builds: [{ id: 'b1', name: 'First' }],
    powerUp: { rest: null, gapMs: 0, maxDegPerS: 20, order: [], at: {} },
    routines: [
      {
        ...{ id: 'go', name: 'Go' },
        steps: forEver ? [step('a', { kind: 'repeat', times: null }), ...steps, step('d', { kind: 'end' })] : steps,
      },
    ],
  });
}
/** A run of it over a line whose bytes are looked at. */
function ran(rig: Rig, options: Imperfect = {}) {
  const events: LoopEvent[] = [];
  const loop = new RunLoop((event) => events.push(structuredClone(event)));
  const sent: HostMessage[] = [];
  const reader = hostReader();
  const longest = { line: 0 };
  const here = new Map<number, number>();
  const boards = boardReader();
  let now = 0;
  loop.connect(
    'r',
    rig,
    'b1',
    (end) => {
      const inner = openLink(end, { kind: 'simulated', ...options }, 0);
      return {
        ...inner,
        write(bytes) {
          longest.line = Math.max(longest.line, bytes.length);
          for (const message of reader.push(bytes)) if (message) sent.push(message);
          inner.write(bytes);
        },
        read() {
          const all = inner.read();
          for (const message of all.flatMap((bytes) => boards.push(bytes)))
            if (message?.word === 'here') for (const [channel, value] of message.commanded) here.set(channel, value);
          return all;
        },
      };
    },
    0,
  );
  const to = (ms: number): void => {
    for (const end = now + ms; now < end;) loop.tick((now += 2));
  };
  to(4000);
  loop.arm('hold', now);
  to(6000);
  const [{ id: routineId }] = rig.routines;
  loop.start({ id: 'run', rigId: 'r', revision: 1, buildId: 'b1', routineId, asDrawn: true }, rig, () => now);
  return { loop, sent, events, longest, here, to, now: () => now };
}
const notices = (events: readonly LoopEvent[]): Set<string> =>
  new Set(events.flatMap((event) => (event.type === 'status' && event.status.notice ? [event.status.notice] : [])));

describe('boards of any size', () => {
  it('of 128 channels all move, their lines spread', () => {
    const d = ran(many(128, false), { bufferBytes: 1024 });
    expect(d.loop.state).toMatchObject({ link: 'connected', armed: true });
    d.to(8000);
    expect(d.loop.state).toMatchObject({ run: 'finished', notice: '' });
    expect([...notices(d.events)]).toEqual([]);
    const points = wholePoints(d.sent);
    expect(points.length).toBeGreaterThan(50);
    expect(new Set(points.at(-1)!.values.map(([channel]) => channel)).size).toBe(128);
    expect(d.sent.filter(({ word }) => word === 'more').length).toBeGreaterThan(points.length);
    expect(d.longest.line).toBeLessThanOrEqual(120);
    // Where the last point says, as every one of them says of itself.
    expect(new Map(points.at(-1)!.values)).toEqual(d.here);
  });
  it.each([1, 5, 12])('whose buffer is of 64 bytes, read every other ms, miss nothing with %i channels', (count) => {
    const d = ran(many(count, false), { bufferBytes: LEAST_BUFFER, loopMs: 2 });
    d.to(9000);
    expect([d.loop.state.run, [...notices(d.events)]]).toEqual(['finished', []]);
    expect(d.longest.line).toBeLessThanOrEqual(LEAST_BUFFER);
    expect(new Map(wholePoints(d.sent).at(-1)!.values)).toEqual(d.here);
    const numbers = d.sent.flatMap((message) => (message.word === 'point' ? [message.seq] : []));
    // Nothing had to be sent twice.
    expect(numbers).toEqual(numbers.map((_, k) => k));
  });
  it('that are too slow for what they are sent make the run slow, and say so', () => {
    const d = ran(many(60), { bufferBytes: LEAST_BUFFER, loopMs: 4 });
    d.to(6000);
    expect(d.loop.state.run).toBe('running');
    expect([...notices(d.events)].some((notice) => notice.includes('shifted'))).toBe(true);
  });
});

describe('a line that loses and doubles bytes', () => {
  it('moves nothing wrongly, and the run goes on or ends saying why', () => {
    let [went, noisy] = [0, 0];
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 9999 }),
        fc.constantFrom(0, 2e-4, 1e-3, 5e-3),
        fc.constantFrom(0, 4, 12),
        (seed, share, delayMs) => {
          const d = ran(many(4), { lostShare: share, doubledShare: share, delayMs, jitterMs: delayMs / 2, seed });
          d.to(20_000);
          const said = [...notices(d.events)];
          if (d.loop.state.run === 'running') {
            went++;
            if (said.some((notice) => notice.startsWith('Lines to the board'))) noisy++;
            // What the board is told lies on the way that was planned: all four alike, between both ends.
            const values = [...d.here.values()];
            expect(Math.max(...values) - Math.min(...values)).toBeLessThanOrEqual(1);
          } else expect(said.length, d.loop.state.run).toBeGreaterThan(0);
          if (share === 0) expect([d.loop.state.run, said]).toEqual(['running', []]);
        },
      ),
      { numRuns: 16 },
    );
    expect(went).toBeGreaterThan(8);
    expect(noisy).toBeGreaterThan(2);
  });
});
