import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { boardReader, hostReader, MAX_QUEUED_MS, type BoardMessage, type HostMessage } from '@cork-elbow/core/board';
import type { Rig, Step } from '@cork-elbow/core/rig';
import { tileDipper } from '@cork-elbow/demo';
import type { Link } from '../links/link';
import { simulatedLink, type Imperfect } from '../links/simulated';
import { RunLoop } from './loop';
import { Pacer, PERIOD } from './pacer';

/** The dipper with its turn alone on a pin, and a routine that goes to and fro for ever. */
const endless = (): Rig => {
  const rig = structuredClone(tileDipper()) as Rig;
  rig.wiring = rig.wiring.filter((w) => w.drive === 'm-turn');
  const step = (id: string, more: object): Step => ({ id, enabled: true, note: '', ...more }) as Step;
  rig.routines[0].steps = [
    step('a', { kind: 'repeat', times: null }),
    step('b', { kind: 'joint-move', target: { joints: { turn: 10 } }, pace: { speedShare: 0.3 } }),
    step('c', { kind: 'joint-move', target: { joints: { turn: -10 } }, pace: { speedShare: 0.3 } }),
    step('d', { kind: 'end' }),
  ];
  return rig;
};

/** A run on a board of some clock behind some line; what the board had queued before and after each point it took. */
function runOn(
  seconds: number,
  imperfect: Imperfect,
  stepMs = 2,
  stall?: { readonly atMs: number; readonly forMs: number },
) {
  const rig = endless();
  let now = 0;
  const loop = new RunLoop((event) => {
    if (event.type === 'status' && event.status.notice) notices.add(event.status.notice);
  });
  const notices = new Set<string>();
  const queue = { least: Infinity, most: -Infinity, taken: 0 };
  const refused: string[] = [];
  const lengths = new Map<number, number>();
  const [said, asked] = [boardReader(), hostReader()];
  let isRunning = false;
  /** What is stuck in a line that stands still for a while. */
  const kept: Uint8Array[] = [];
  let begun = Infinity;
  const hear = (message: BoardMessage | null): void => {
    if (message?.word === 'refused') refused.push(message.why);
    if (message?.word !== 'took' || !isRunning) return;
    queue.taken++;
    const ms = lengths.get(message.seq)!;
    // The one that lays the cushion comes into an empty queue.
    if (ms === PERIOD) queue.least = Math.min(queue.least, message.queuedMs - ms);
    queue.most = Math.max(queue.most, message.queuedMs);
  };
  loop.connect(
    'dipper',
    rig,
    rig.builds[0].id,
    (end): Link => {
      const inner = simulatedLink(end, 0, imperfect);
      return {
        ...inner,
        write(bytes) {
          for (const message of asked.push(bytes) as (HostMessage | null)[])
            if (message?.word === 'point') lengths.set(message.seq, message.ms);
          const since = stall ? now - begun - stall.atMs : -1;
          if (stall && since >= 0 && since < stall.forMs) kept.push(bytes);
          else for (const late of [...kept.splice(0), bytes]) inner.write(late);
        },
        read() {
          const all = inner.read();
          for (const bytes of all) said.push(bytes).forEach(hear);
          return all;
        },
      };
    },
    0,
  );
  const to = (ms: number): void => {
    for (const end = now + ms; now < end;) loop.tick((now += stepMs));
  };
  to(400);
  loop.arm('hold', now);
  to(3000);
  isRunning = true;
  begun = now;
  loop.start(
    { id: 'r', rigId: 'dipper', revision: 1, buildId: rig.builds[0].id, routineId: rig.routines[0].id },
    rig,
    () => now,
  );
  to(seconds * 1000);
  return { state: loop.state, queue, refused, notices, seconds };
}

describe('a run on a board with a clock of its own', () => {
  it.each([10_000, -10_000])(
    'keeps between 30 and 90 ms in its queue for ten minutes at %i ppm, and takes as long as the board’s clock says',
    (ppm) => {
      const { state, queue, refused, notices, seconds } = runOn(600, { ppm }, 4);
      expect([refused, [...notices]]).toEqual([[], []]);
      expect(state.run).toBe('running');
      expect(queue.least).toBeGreaterThanOrEqual(30);
      expect(queue.most).toBeLessThanOrEqual(90);
      const points = (seconds * 1000 * (1 + ppm * 1e-6)) / PERIOD;
      expect(Math.abs(queue.taken - points)).toBeLessThan(5);
    },
  );
  it('is never refused for a full queue and never dry behind a line that is late, whatever its clock', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -10_000, max: 10_000 }),
        fc.integer({ min: 0, max: 40 }),
        fc.integer({ min: 0, max: 15 }),
        fc.integer({ min: 1, max: 999 }),
        (ppm, delayMs, jitterMs, seed) => {
          const { state, queue, refused, notices } = runOn(40, { ppm, delayMs, jitterMs, seed }, 3);
          expect([refused, [...notices]]).toEqual([[], []]);
          expect(state.run).toBe('running');
          expect(queue.least).toBeGreaterThan(0);
          expect(queue.most).toBeLessThanOrEqual(MAX_QUEUED_MS);
        },
      ),
      { numRuns: 12 },
    );
  });
  it('behind a line that loses bytes or brings them twice goes on, or ends and says why', () => {
    let [ended, went] = [0, 0];
    fc.assert(
      fc.property(
        fc.constantFrom(0, 1e-4, 1e-3, 0.01, 0.1),
        fc.constantFrom(0, 1e-4, 1e-3, 0.01),
        fc.integer({ min: 1, max: 999 }),
        (lostShare, doubledShare, seed) => {
          const { state, queue, refused, notices } = runOn(20, { lostShare, doubledShare, seed }, 4);
          expect(queue.most).toBeLessThanOrEqual(MAX_QUEUED_MS);
          if (state.run === 'running') went++;
          else {
            // Nothing stops without a word: what the board refused, that it is silent, or that it never heard what came first.
            ended++;
            const said = notices.size > 0 || refused.length > 0 || state.link === 'connecting' || !state.armed;
            expect([state.run, said]).toEqual([state.run, true]);
          }
          if (lostShare + doubledShare === 0) expect([state.run, notices.size]).toEqual(['running', 0]);
        },
      ),
      { numRuns: 24 },
    );
    // Both happen, or nothing was shown.
    expect(Math.min(ended, went)).toBeGreaterThan(0);
  });
  it('says so when the board has run dry', () => {
    // The line stands still for longer than the cushion lasts, then all comes at once.
    const { notices, refused, state, queue } = runOn(20, {}, 2, { atMs: 10_000, forMs: 66 });
    expect([refused, state.run]).toEqual([[], 'running']);
    expect(queue.least).toBe(0);
    expect([...notices].some((n) => n.startsWith('The board had played all it was sent'))).toBe(true);
  });
});

describe('the beat', () => {
  it('is even while the queue is as it should be, and makes up no more than a twentieth of a period at once', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 100 }), { minLength: 1, maxLength: 60 }), (queued) => {
        const pacer = new Pacer(60, 20);
        let now = 20;
        queued.forEach((ms, seq) => {
          pacer.sent(seq, PERIOD, now);
          pacer.beat(PERIOD);
          const due = -pacer.late(0);
          pacer.took(seq, ms, now);
          const moved = -pacer.late(0) - due;
          expect(Math.abs(moved)).toBeLessThanOrEqual(1);
          expect(Math.sign(moved)).toBe(Math.sign(ms - 60));
          now = -pacer.late(0);
        });
      }),
    );
  });
  it('leaves answers aside that it never asked for, and those of before', () => {
    const pacer = new Pacer(60, 20);
    pacer.sent(4, PERIOD, 20);
    const due = pacer.late(0);
    expect(pacer.took(9, 0, 22)).toBe(false);
    expect(pacer.late(0)).toBe(due);
    expect(pacer.took(4, 20, 22)).toBe(false);
  });
  it('knows what is missing to the cushion by what was answered and what is underway', () => {
    const pacer = new Pacer(60, 0);
    expect(pacer.missing(0)).toBe(60);
    pacer.sent(0, 60, 0);
    expect(pacer.missing(0)).toBe(0);
    expect(pacer.missing(25)).toBe(25);
    pacer.sent(1, PERIOD, 25);
    // The board says it had less than was thought; the second point is still on its way.
    pacer.took(0, 30, 30);
    expect(pacer.doneAt).toBe(30 + 30 + PERIOD);
    expect(pacer.missing(1000)).toBe(60);
  });
});
