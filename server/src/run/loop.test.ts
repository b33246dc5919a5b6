import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hostReader, type HostMessage } from '@cork-elbow/core/board';
import { tileDipper } from '@cork-elbow/demo';
import type { Link } from '../links/link';
import { simulatedLink } from '../links/simulated';
import { PERIOD, RunLoop, type LoopEvent } from './loop';

const rig = tileDipper();

/** A loop on a simulated board whose bytes are also kept, with the time each message was sent. */
function bench(): {
  loop: RunLoop;
  sent: { at: number; message: HostMessage }[];
  events: LoopEvent[];
  to(ms: number, step?: number): void;
  now(): number;
  mute(): void;
} {
  const sent: { at: number; message: HostMessage }[] = [];
  const events: LoopEvent[] = [];
  const loop = new RunLoop((event) => events.push(structuredClone(event)));
  const reader = hostReader();
  let now = 0;
  let silent = false;
  loop.connect(
    'tile-dipper',
    rig,
    'b1',
    (maps, mechanism): Link => {
      const inner = simulatedLink(16, maps, mechanism.home, 0);
      return {
        ...inner,
        write(bytes) {
          for (const message of reader.push(bytes)) if (message) sent.push({ at: now, message });
          inner.write(bytes);
        },
        read: () => (silent ? [] : inner.read()),
      };
    },
    0,
  );
  const to = (ms: number, step = 2): void => {
    for (const end = now + ms; now < end;) loop.tick((now += step));
  };
  to(100);
  loop.arm();
  to(100);
  return { loop, sent, events, to, now: () => now, mute: () => (silent = true) };
}
const points = (sent: { at: number; message: HostMessage }[]) =>
  sent.filter((s) => s.message.word === 'point') as {
    at: number;
    message: Extract<HostMessage, { word: 'point' }>;
  }[];
const begin = (b: ReturnType<typeof bench>): void =>
  b.loop.start({ id: 'r1', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' }, rig, b.now());

describe('the run loop', () => {
  it('finishes the routine, one point a period, none of them refused', () => {
    const b = bench();
    begin(b);
    b.to(80_000);
    expect(b.loop.state).toMatchObject({ run: 'finished', armed: true, notice: '' });
    const times = points(b.sent)
      .slice(1)
      .map((p) => p.at);
    for (let i = 1; i < times.length; i++) expect(times[i] - times[i - 1]).toBeGreaterThanOrEqual(PERIOD - 2);
  });

  it('never sends points back to back, whatever the computer’s stalls', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 180 }), { minLength: 5, maxLength: 40 }), (gaps) => {
        const b = bench();
        begin(b);
        for (const gap of gaps) {
          b.to(200);
          b.to(gap, gap);
        }
        const times = points(b.sent).map((p) => p.at);
        for (let i = 1; i < times.length; i++) expect(times[i] - times[i - 1]).toBeGreaterThanOrEqual(5);
        expect(['starting', 'running']).toContain(b.loop.state.run);
      }),
      { numRuns: 20 },
    );
  });

  it('stops from full speed inside the joints’ accelerations', () => {
    const b = bench();
    begin(b);
    b.to(2300);
    b.loop.stop();
    b.to(3000);
    expect(b.loop.state.run).toBe('stopped');
    // Second differences of the pulses stay near what 400 °/s² means at about 10 µs/° and 20 ms.
    const list = points(b.sent);
    const worst = Math.max(
      ...list
        .slice(2)
        .flatMap((p, i) =>
          p.message.values.map(([, v], k) =>
            Math.abs(v - 2 * list[i + 1].message.values[k][1] + list[i].message.values[k][1]),
          ),
        ),
    );
    expect(worst).toBeLessThanOrEqual(400 * 10.4 * 0.02 ** 2 * 2 + 4);
  });

  it('gives up when the board goes silent, and says so', () => {
    const b = bench();
    begin(b);
    b.to(1000);
    b.mute();
    b.to(1500);
    expect(b.loop.state).toMatchObject({ link: 'lost', armed: false, run: 'failed' });
    expect(b.loop.state.notice).toMatch(/stopped answering/);
  });

  it('refuses a routine that preflight would stop', () => {
    const b = bench();
    const broken = structuredClone(rig);
    broken.poses = broken.poses.filter((p) => p.id !== 'over-jar');
    b.loop.start({ id: 'r2', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' }, broken, b.now());
    const refusal = b.events.findLast((e) => e.type === 'refused');
    expect(refusal?.type === 'refused' && refusal.findings[0]).toMatchObject({
      code: 'pose-unknown',
      severity: 'stop',
    });
    expect(points(b.sent)).toHaveLength(0);
  });

  it('keeps to what has been confirmed on this build', () => {
    const b = bench();
    const narrow = structuredClone(rig);
    narrow.builds[0].confirmed = { turn: { min: -30, max: 30 } };
    b.loop.start({ id: 'r3', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' }, narrow, b.now());
    const refusal = b.events.findLast((e) => e.type === 'refused');
    expect(refusal?.type === 'refused' && refusal.findings[0]).toMatchObject({
      code: 'target-over-limit',
      place: { joint: 'turn' },
    });
    expect(points(b.sent)).toHaveLength(0);
  });

  it('halts at once, keeps the board from moving, and is no longer armed', () => {
    const b = bench();
    begin(b);
    b.to(500);
    b.loop.halt();
    b.to(100);
    expect(b.loop.state).toMatchObject({ run: 'stopped', armed: false });
  });
});
