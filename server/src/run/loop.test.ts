import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hostReader, type HostMessage } from '@cork-elbow/core/board';
import { contractFindings, idleStatus, type ArmHow, type Away } from '@cork-elbow/core/contract';
import { standing } from '@cork-elbow/core/admit';
import { nativeAt, spinMaps, spinPulse } from '@cork-elbow/core/actuators';
import { Channels } from '@cork-elbow/core/commands';
import { restPose } from '@cork-elbow/core/bring-up';
import { spinningDipper } from '../../../core/src/actuators/spin.testkit';
import { compile } from '@cork-elbow/core/mechanism';
import type { Rig } from '@cork-elbow/core/rig';
import { runPace } from '@cork-elbow/core/routine';
import { kilnLoader, tileDipper } from '@cork-elbow/demo';
import type { Link } from '../links/link';
import { simulatedLink } from '../links/simulated';
import type { LoopEvent } from './events';
import { wholePoints } from '../../../core/src/board/board.testkit';
import { RunLoop } from './loop';
import { PERIOD } from './pacer';

const dipper = tileDipper();
const rig = dipper;

/** A loop on a simulated board whose bytes are also kept, with the time each message was sent. */
function bench(
  rig: Rig = dipper,
  rigId = 'tile-dipper',
  how: ArmHow | null = 'hold',
  mostPins = Infinity,
): {
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
    rigId,
    rig,
    'b1',
    (end): Link => {
      const inner = simulatedLink({ ...end, maps: end.maps.filter((m) => m.pin! < mostPins) }, 0);
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
  if (how) loop.arm(how, now);
  if (how) to(2500);
  return { loop, sent, events, to, now: () => now, mute: () => (silent = true) };
}
const points = (sent: readonly { at: number; message: HostMessage }[]) => {
  const whole = wholePoints(sent.map(({ message }) => message));
  const ends = sent.filter(({ message }) => 'goesOn' in message && !message.goesOn);
  return ends.map(({ at }, k) => ({ at, message: whole[k] }));
};
const begin = (b: ReturnType<typeof bench>): void =>
  b.loop.start({ id: 'r1', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' }, rig, () => b.now());

describe('a page that is gone', () => {
  it('finds what was done about it when it is back, whatever else was remarked meanwhile', () => {
    const b = bench();
    begin(b);
    b.to(b.now() + 4000);
    b.loop.setAlone(true);
    const { notice } = b.loop.state;
    expect(notice).toMatch(/slowed to a stand/);
    // The computer is away while the run slows down: on its own that would be told.
    b.loop.tick(b.now() + 300);
    expect(b.loop.state).toMatchObject({ run: 'pausing', notice });
    b.to(b.now() + 3000);
    expect(b.loop.state).toMatchObject({ run: 'paused', alone: true, notice });
  });

  const gone = (b: ReturnType<typeof bench>, away: Away): void => {
    b.loop.setAway(away);
    b.loop.setAlone(true);
  };
  const done = (b: ReturnType<typeof bench>): void => {
    while (b.loop.state.run === 'starting' || b.loop.state.run === 'running') b.to(50);
  };
  it('leaves a run to its end where that was chosen, and says so', () => {
    const b = bench();
    begin(b);
    b.to(4000);
    gone(b, { run: 'finish', then: 'hold', afterS: 5, silentOffS: null });
    expect(b.loop.state).toMatchObject({ alone: true, away: { run: 'finish' } });
    expect(b.loop.state.notice).toBe(contractFindings.say('page-gone-finishes'));
    b.to(1000);
    expect(b.loop.state.run).toMatch(/starting|running/);
    done(b);
    b.to(20_000);
    expect(b.loop.state).toMatchObject({ run: 'finished', armed: true, mode: 'normal' });
  });
  it('changes nothing where nothing runs, and is told once', () => {
    const b = bench();
    const events = b.events.length;
    gone(b, { run: 'stand', then: 'hold', afterS: 5, silentOffS: null });
    b.loop.setAlone(true);
    expect(b.loop.state.notice).toBe('');
    expect(b.events.slice(events).filter((e) => e.type === 'status')).toHaveLength(2);
    b.to(60_000);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'normal' });
    expect(points(b.sent)).toHaveLength(0);
  });
  it('after the time that was chosen the arm lies down where it rests, and goes off there; never before', () => {
    const b = bench();
    begin(b);
    b.to(6000);
    gone(b, { run: 'stand', then: 'rest', afterS: 20, silentOffS: null });
    b.to(3000);
    expect(b.loop.state).toMatchObject({ run: 'paused', mode: 'normal' });
    b.to(16_000);
    expect(b.loop.state).toMatchObject({ run: 'paused', mode: 'normal', armed: true });
    b.to(4000);
    expect(b.loop.state).toMatchObject({ run: 'stopped', mode: 'lying-down', armed: true });
    expect(b.loop.state.notice).toBe(contractFindings.say('page-gone-rests'));
    const paused = points(b.sent).length;
    for (let k = 0; k < 600 && b.loop.state.armed; k++) b.to(100);
    expect(b.loop.state).toMatchObject({ armed: false, mode: 'normal' });
    expect(b.sent.at(-1)!.message.word).toBe('sleep');
    // It came to where it rests, point by point, no faster than it is brought up.
    const way = points(b.sent).slice(paused);
    expect(way.length).toBeGreaterThan(20);
    const stands = standing(dipper, 'b1');
    if (!stands.ok) throw new Error('not standing');
    const { all } = new Channels(dipper, stands.mechanism, stands.build);
    const rest = restPose(dipper, stands.mechanism);
    const last = new Map(way.at(-1)!.message.values);
    for (const map of all)
      if ('native' in map)
        expect(Math.abs(last.get(map.channel!)! - nativeAt(map, stands.mechanism, rest)!)).toBeLessThanOrEqual(1);
  });
  it('waits anew where a page was back meanwhile, and does not lie down while a run goes on', () => {
    const b = bench();
    gone(b, { run: 'finish', then: 'rest', afterS: 10, silentOffS: null });
    b.to(8000);
    b.loop.setAlone(false);
    b.to(8000);
    b.loop.setAlone(true);
    b.to(8000);
    expect(b.loop.state).toMatchObject({ mode: 'normal', armed: true });
    // It rests already: all that is left to do is to switch it off.
    b.to(4000);
    expect(b.loop.state).toMatchObject({ mode: 'normal', armed: false });
    const c = bench();
    begin(c);
    c.to(3000);
    gone(c, { run: 'finish', then: 'rest', afterS: 2, silentOffS: null });
    while (c.loop.state.run === 'starting' || c.loop.state.run === 'running') {
      expect(c.loop.state.mode).toBe('normal');
      c.to(100);
    }
    // Whoever is back stops it where it is.
    const d = bench();
    begin(d);
    d.to(6000);
    gone(d, { run: 'stand', then: 'rest', afterS: 5, silentOffS: null });
    for (let k = 0; k < 400 && d.loop.state.mode !== 'lying-down'; k++) d.to(50);
    d.to(100);
    expect(d.loop.state).toMatchObject({ mode: 'lying-down', armed: true });
    d.loop.setAlone(false);
    d.loop.stop(d.now());
    d.to(100);
    expect(d.loop.state).toMatchObject({ mode: 'normal', armed: false });
    expect(d.sent.at(-1)!.message.word).toBe('halt');
  });
});

describe('the run loop', () => {
  it('begins when it is planned, however long that took: nothing is late, and nobody is told that anything was', () => {
    const b = bench();
    const asked = b.now();
    b.loop.start({ id: 'r1', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' }, rig, () => {
      b.to(asked + 400);
      return b.now();
    });
    b.to(asked + 3000);
    expect(b.loop.state).toMatchObject({ run: 'running', notice: '' });
    expect(b.loop.state.late!.mostMs).toBeLessThanOrEqual(4);
    expect(Math.min(...points(b.sent).map(({ at }) => at))).toBeGreaterThanOrEqual(asked + 400);
  });

  it('keeps to the share of its speed that an arm which has not homed may have, and says which', () => {
    const loader = kilnLoader();
    const b = bench(loader, 'kiln-shelf-loader');
    const [{ id: routineId }] = loader.routines;
    const ask = { id: 'r1', rigId: 'kiln-shelf-loader', revision: 1, buildId: 'b1', routineId };
    b.loop.start(ask, loader, () => b.now());
    const { share } = runPace(loader, false);
    expect(share).toBeLessThan(1);
    expect(b.loop.state.notice).toBe(contractFindings.say('position-unverified', { share: share * 100 }));
    const looked = bench(loader, 'kiln-shelf-loader');
    looked.loop.start({ ...ask, asDrawn: true }, loader, () => looked.now());
    expect(looked.loop.state.notice).toBe('');
  });
  it('tells where it is no more often than was asked for, and that often', () => {
    const b = bench();
    begin(b);
    const before = b.events.length;
    b.to(2000, 1);
    const told = b.events.slice(before).filter((e) => e.type === 'telemetry');
    const every = 2000 / told.length;
    expect(every).toBeGreaterThanOrEqual(b.loop.tellEvery);
    expect(every).toBeLessThan(b.loop.tellEvery + 1);
  });

  it('arms and runs nothing before a board is there, and wakes none twice', () => {
    const events: LoopEvent[] = [];
    const loop = new RunLoop((event) => events.push(structuredClone(event)));
    const refused = (act: () => void): string[] => {
      const before = events.length;
      act();
      return events.slice(before).flatMap((e) => (e.type === 'refused' ? [e.code] : []));
    };
    const arm = (): void => loop.arm('hold', 0);
    const ask = { id: 'r1', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' };
    const start = (): void => loop.start(ask, rig, () => 0);
    expect([refused(arm), refused(start)]).toEqual([['board-absent'], ['board-absent']]);
    // A board that has been asked and has not answered yet is none.
    loop.connect('tile-dipper', rig, 'b1', (end) => simulatedLink(end, 0), 0);
    expect(loop.state.link).toBe('connecting');
    expect([refused(arm), refused(start)]).toEqual([['board-absent'], ['board-absent']]);
    const b = bench();
    const sent = b.sent.length;
    b.loop.arm('hold', b.now());
    b.to(300);
    expect(b.sent.slice(sent).filter(({ message }) => message.word === 'wake')).toEqual([]);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'normal', notice: '' });
    begin(b);
    b.to(3000);
    b.loop.arm('hold', b.now());
    b.to(300);
    expect(b.loop.state).toMatchObject({ run: 'running', armed: true });
  });

  it('finishes the routine, one point a period, none of them refused', () => {
    const b = bench();
    begin(b);
    b.to(80_000);
    expect(b.loop.state).toMatchObject({ run: 'finished', armed: true, notice: '' });
    // What leaves when it is due is not late.
    expect(b.loop.state.late!.mostMs).toBeLessThanOrEqual(4);
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
    b.loop.stop(b.now());
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
    b.loop.start({ id: 'r2', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' }, broken, () =>
      b.now(),
    );
    const refusal = b.events.findLast((e) => e.type === 'refused');
    expect(refusal?.type === 'refused' && refusal.findings[0]).toMatchObject({
      code: 'pose-unknown',
      severity: 'stop',
    });
    expect(points(b.sent)).toHaveLength(0);
  });

  it('begins with a step when asked to: first slowly to where that one begins', () => {
    const b = bench();
    const step = rig.routines[0].steps[11];
    const run = { id: 'r3', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' };
    b.loop.start({ ...run, fromStep: 'nowhere' }, rig, () => b.now());
    expect(b.events.at(-1)).toMatchObject({ type: 'refused', code: 'run-step-unknown' });
    b.loop.start({ ...run, fromStep: step.id }, rig, () => b.now());
    expect(b.loop.state).toMatchObject({ run: 'starting', runId: 'r3' });
    const begun = b.loop.state.runS;
    expect(begun).toBeGreaterThan(20);
    b.to(40_000);
    expect(b.loop.state).toMatchObject({ run: 'finished' });
    // No joint ever went faster than it may, on the way to the step either.
    const values = points(b.sent).map(({ message }) => new Map(message.values));
    for (let i = 1; i < values.length; i++)
      for (const [channel, value] of values[i])
        expect(Math.abs(value - (values[i - 1].get(channel) ?? value))).toBeLessThan(60);
  });

  it('keeps to what has been confirmed on this build', () => {
    const b = bench();
    const narrow = structuredClone(rig);
    narrow.builds[0].confirmed = { turn: { min: -30, max: 30 } };
    b.loop.start({ id: 'r3', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' }, narrow, () =>
      b.now(),
    );
    const refusal = b.events.findLast((e) => e.type === 'refused');
    expect(refusal?.type === 'refused' && refusal.findings[0]).toMatchObject({
      code: 'target-over-confirmed',
      place: { joint: 'turn' },
    });
    expect(points(b.sent)).toHaveLength(0);
  });

  it('halts at once, keeps the board from moving, and is no longer armed', () => {
    const b = bench();
    begin(b);
    b.to(500);
    b.loop.halt(b.now());
    b.to(100);
    expect(b.loop.state).toMatchObject({ run: 'stopped', armed: false });
  });
});

describe('what pages are told of a run, as it is asked for', () => {
  const statuses = (b: ReturnType<typeof bench>) =>
    b.events.flatMap((event) => (event.type === 'status' ? [event.status] : []));
  it('stop, pause and going on are told at once, before the next beat', () => {
    const b = bench();
    begin(b);
    b.to(4000);
    for (const [ask, run] of [
      [() => b.loop.pause(), 'pausing'],
      [() => b.loop.resume(b.now()), 'running'],
      [() => b.loop.stop(b.now()), 'stopping'],
    ] as const) {
      const before = b.events.length;
      ask();
      expect(b.events.slice(before)).toMatchObject([{ type: 'status', status: { run } }]);
      b.to(PERIOD);
    }
  });
  it('a second stop halts; without a run there is nothing to stop', () => {
    const b = bench();
    b.loop.stop(b.now());
    expect(b.sent.some(({ message }) => message.word === 'halt')).toBe(false);
    begin(b);
    b.to(4000);
    b.loop.stop(b.now());
    expect(b.sent.some(({ message }) => message.word === 'halt')).toBe(false);
    b.loop.stop(b.now());
    expect(b.sent.some(({ message }) => message.word === 'halt')).toBe(true);
    expect(b.loop.state.run).toBe('stopped');
    expect(b.events.filter((e) => e.type === 'ended')).toMatchObject([{ outcome: 'stopped' }]);
  });
  it('stopped while it stands, a run has ended at once', () => {
    const b = bench();
    begin(b);
    b.to(4000);
    b.loop.pause();
    b.to(3000);
    expect(b.loop.state.run).toBe('paused');
    b.loop.stop(b.now());
    expect(b.loop.state.run).toBe('stopped');
  });
  it('disarmed or disconnected in the middle it is told how it ended, and what is left is as before anything was', () => {
    const b = bench();
    expect(statuses(b)[0]).toMatchObject({ link: 'connecting', rigId: 'tile-dipper' });
    begin(b);
    b.to(3000);
    b.loop.disarm(b.now());
    expect(b.loop.state).toMatchObject({ run: 'stopped', mode: 'normal' });
    b.to(200);
    b.loop.arm('hold', b.now());
    b.to(3000);
    begin(b);
    b.to(3000);
    b.loop.disconnect(b.now());
    expect(b.events.filter((e) => e.type === 'ended')).toMatchObject([{ outcome: 'stopped' }, { outcome: 'failed' }]);
    expect(b.loop.state).toEqual(idleStatus);
    // Nothing is told of a rig that is not connected.
    const before = b.events.length;
    b.to(500);
    b.loop.disconnect(b.now());
    expect(b.events.length).toBe(before);
  });
  it('a computer that was away is said while the arm moves, and not while it stands', () => {
    const b = bench();
    begin(b);
    b.to(3000);
    b.to(400, 400);
    expect(b.loop.state.notice).toMatch(/^The computer or the line to a board was busy for \d+ ms/);
    const still = bench();
    begin(still);
    still.to(3000);
    still.loop.pause();
    still.to(3000);
    still.to(400, 400);
    expect([still.loop.state.run, still.loop.state.notice]).toEqual(['paused', '']);
  });
});

type Sent = ReturnType<typeof bench>['sent'];
const wakes = (sent: Sent): { at: number; values: readonly (readonly [number, number])[] }[] =>
  sent.flatMap(({ at, message }) => (message.word === 'wake' ? [{ at, values: message.values }] : []));

describe('switching on', () => {
  it('wakes one drive after the other, the gap apart, each where it stands, and sends nothing more', () => {
    const b = bench();
    const on = wakes(b.sent);
    expect(on).toHaveLength(dipper.drives.length);
    on.slice(1).forEach((w, k) => expect(w.at - on[k].at).toBeGreaterThanOrEqual(dipper.powerUp.gapMs - 2));
    expect(points(b.sent)).toHaveLength(0);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'normal' });
  });
  it('is not ready for a run before all are on', () => {
    const b = bench(dipper, 'tile-dipper', null);
    b.loop.arm('hold', b.now());
    b.to(400);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'bringing-up' });
    begin(b);
    expect(b.events.filter((e) => e.type === 'refused')).toMatchObject([{ code: 'board-not-ready' }]);
  });
  it('by the power-up plan moves every joint gently to where its motor’s neutral is', () => {
    const b = bench(dipper, 'tile-dipper', 'power-up');
    b.to(30_000);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'normal' });
    const last = points(b.sent).at(-1)!.message.values;
    const span = new Map<number, number[]>();
    for (const { message } of points(b.sent))
      for (const [c, v] of message.values) span.set(c, [...(span.get(c) ?? []), v]);
    for (const [channel, track] of span) {
      const drive = dipper.drives[channel];
      if (drive.kind !== 'servo') continue;
      const perPoint = (20 * drive.usPerDeg * PERIOD) / 1000;
      for (let i = 1; i < track.length; i++)
        expect(Math.abs(track[i] - track[i - 1])).toBeLessThanOrEqual(perPoint * 1.1 + 1);
      const bounds = b.sent.find((s) => s.message.word === 'bounds' && s.message.channel === channel)!.message;
      if (bounds.word !== 'bounds') continue;
      const neutral = Math.min(bounds.high, Math.max(bounds.low, drive.centreUs));
      expect(Math.abs(last.find(([c]) => c === channel)![1] - neutral)).toBeLessThanOrEqual(1);
    }
  });
  it('to neutral sends every servo its own centre pulse whatever the joints’ limits, and lets nothing run after', () => {
    const b = bench(dipper, 'tile-dipper', 'neutral');
    b.to(30_000);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'neutral' });
    for (const [channel, value] of points(b.sent).at(-1)!.message.values) {
      const drive = dipper.drives[channel];
      if (drive.kind === 'servo') expect(value).toBe(drive.centreUs);
    }
    begin(b);
    expect(b.events.filter((e) => e.type === 'refused')).toMatchObject([{ code: 'board-not-ready' }]);
    b.loop.disarm(b.now());
    b.to(100);
    expect(b.loop.state).toMatchObject({ armed: false, mode: 'normal' });
    const bounds = b.sent.flatMap(({ message }) => (message.word === 'bounds' ? [{ ...message, number: 0 }] : []));
    // The joints' own bounds are back.
    expect(bounds.slice(-5)).toEqual(bounds.slice(0, 5));
  });
  it('says that nothing is wired, and is ready again after a refused wake', () => {
    const bare = bench({ ...dipper, wiring: [] }, 'tile-dipper', null);
    bare.loop.arm('hold', bare.now());
    expect(bare.events.filter((e) => e.type === 'refused')).toMatchObject([{ code: 'board-empty' }]);
    expect(bare.loop.state.mode).toBe('normal');
    // One wire off the end of what the board has: it refuses that channel.
    const far = structuredClone(dipper);
    far.boards[0].pins.push({ pin: 200, label: '200', can: ['pulse'], boot: 'off', reserved: '' });
    far.wiring[0].channel = 200;
    const b = bench(far, 'tile-dipper', null, 20);
    b.loop.arm('hold', b.now());
    b.to(3000);
    expect(b.loop.state.mode).toBe('normal');
    expect(b.loop.state.notice).toMatch(/refused/);
  });
  it('halt ends it at once', () => {
    const b = bench(dipper, 'tile-dipper', null);
    b.loop.arm('power-up', b.now());
    b.to(700);
    b.loop.halt(b.now());
    b.to(3000);
    expect(b.loop.state).toMatchObject({ armed: false, mode: 'normal' });
    expect(wakes(b.sent).length).toBeLessThan(dipper.drives.length);
  });
});

describe('a routine that comes again for ever', () => {
  const endless = structuredClone(dipper);
  endless.routines.push({
    ...{ id: 'round', name: 'Round', note: '', role: null, profile: 's-curve' },
    steps: [
      { id: 'a', kind: 'joint-move', enabled: true, note: '', target: { pose: 'over-jar' }, pace: { speedShare: 1 } },
      { id: 'loop', kind: 'repeat', enabled: true, note: '', times: null },
      {
        id: 'b',
        kind: 'joint-move',
        enabled: true,
        note: '',
        target: { joints: { turn: 20 } },
        pace: { speedShare: 1 },
      },
      {
        id: 'c',
        kind: 'joint-move',
        enabled: true,
        note: '',
        target: { joints: { turn: -20 } },
        pace: { speedShare: 1 },
      },
      { id: 'end', kind: 'end', enabled: true, note: '' },
    ],
  });
  const ask = { id: 'r9', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'round' };
  const turns = (b: ReturnType<typeof bench>): number[] =>
    b.events.flatMap((e) => (e.type === 'telemetry' ? [e.telemetry.commanded.turn] : []));

  it('runs until it is stopped, lap after lap, without a jump', () => {
    const b = bench(endless);
    b.loop.start(ask, endless, () => b.now());
    b.to(60_000);
    expect(b.loop.state.run).toBe('running');
    const list = turns(b);
    // Each lap goes from one side to the other and back.
    const crossings = list.slice(1).filter((v, i) => v >= 0 !== list[i] >= 0).length;
    expect(crossings).toBeGreaterThan(20);
    const sent = points(b.sent);
    const worst = Math.max(
      ...sent
        .slice(1)
        .flatMap((p, i) => p.message.values.map(([, v], k) => Math.abs(v - sent[i].message.values[k][1]))),
    );
    // 180 °/s at about 10.4 µs/° and 20 ms.
    expect(worst).toBeLessThan(180 * 10.4 * 0.02 * 1.3);
    b.loop.stop(b.now());
    b.to(4000);
    expect(b.loop.state.run).toBe('stopped');
    const ended = b.events.find((e) => e.type === 'ended');
    expect(ended?.type === 'ended' && ended.ranMs).toBeGreaterThan(50_000);
  });
  it('shows where in its lap it is, and goes round from a step inside the loop too', () => {
    const b = bench(endless);
    b.loop.start({ ...ask, fromStep: 'c' }, endless, () => b.now());
    b.to(30_000);
    expect(b.loop.state.run).toBe('running');
    const seen = new Set(b.events.flatMap((e) => (e.type === 'telemetry' ? [e.telemetry.stepId] : [])));
    expect(seen).toContain('b');
    expect(seen).toContain('c');
    for (const e of b.events)
      if (e.type === 'telemetry') expect(e.telemetry.runS).toBeLessThanOrEqual(b.loop.state.totalS + 10);
  });
});

describe('a rig of steppers with a shared wrist', () => {
  it('runs at full speed where somebody has looked that it stands as drawn', () => {
    const loader = kilnLoader();
    const b = bench(loader, 'kiln', 'hold');
    const ask = { id: 'r', rigId: 'kiln', revision: 1, buildId: 'b1', routineId: 'round', asDrawn: true };
    b.loop.start(ask, loader, () => b.now());
    b.to(16_000, 4);
    expect(b.loop.state).toMatchObject({ run: 'running', notice: '' });
    b.to(60_000, 4);
    expect(b.loop.state.run).toBe('finished');
  });
  it('runs its routine over the line and ends where the plan does', () => {
    const loader = kilnLoader();
    const b = bench(loader, 'kiln', 'hold');
    const compiled = compile(loader.mechanism);
    if (!compiled.ok) throw new Error();
    const { mechanism } = compiled;
    b.loop.start({ id: 'r', rigId: 'kiln', revision: 1, buildId: 'b1', routineId: 'round' }, loader, () => b.now());
    b.to(60_000, 4);
    // Not homed: it keeps to the share of its speed that its homing plan says.
    expect(b.loop.state.run).toBe('running');
    expect(b.loop.state.notice).toMatch(/not homed/);
    b.to(60_000, 4);
    expect(b.loop.state.run).toBe('finished');
    const last = b.events.filter((e) => e.type === 'telemetry').at(-1)!;
    if (last.type !== 'telemetry') return;
    const rest = restPose(loader, mechanism);
    mechanism.slotIds.forEach((id, s) =>
      expect(last.telemetry.measured[id]).toBeCloseTo(rest[s] / mechanism.siPerUnit[s], 1),
    );
  });
});

describe('a motor that is sent speeds', () => {
  const { rig: whirler, mechanism } = spinningDipper();
  const [map] = spinMaps(whirler, mechanism, whirler.builds[0]);
  const whirl = (b: ReturnType<typeof bench>): void =>
    b.loop.start({ id: 'r1', rigId: 'w', revision: 1, buildId: 'b1', routineId: 'whirl' }, whirler, () => b.now());
  const pulses = (b: ReturnType<typeof bench>): { at: number; us: number }[] =>
    points(b.sent).flatMap(({ at, message }) =>
      message.values.filter(([channel]) => channel === map.channel).map(([, us]) => ({ at, us })),
    );

  it.each(['hold', 'power-up', 'neutral'] as const)(
    'is switched on standing still, whatever the way in: %s',
    (how) => {
      const b = bench(whirler, 'w', how);
      const woken = b.sent.flatMap(({ message }) => (message.word === 'wake' ? message.values : []));
      expect(woken.filter(([channel]) => channel === map.channel)).toEqual([[map.channel, map.stopUs]]);
      expect(new Set(pulses(b).map(({ us }) => us))).toEqual(new Set(pulses(b).length ? [map.stopUs] : []));
      expect(
        b.sent.find(({ message }) => message.word === 'bounds' && message.channel === map.channel)!.message,
      ).toMatchObject({ word: 'bounds', channel: map.channel, low: map.low, high: map.high, still: map.stopUs });
    },
  );
  it('gets the pulses of its spins, slows with a pause, and stands at the end', () => {
    const b = bench(whirler, 'w');
    whirl(b);
    while (b.loop.state.run !== 'running') b.to(20);
    b.to(1000);
    const fast = spinPulse(map, mechanism, mechanism.home, speeds(90));
    expect(pulses(b).at(-1)!.us).toBe(fast);
    b.loop.pause();
    b.to(3000);
    expect(b.loop.state.run).toBe('paused');
    expect(pulses(b).at(-1)!.us).toBe(map.stopUs);
    const ways = pulses(b).map(({ us }) => Math.abs(us - map.stopUs));
    // Not at one blow.
    expect(ways.filter((w) => w > 0 && w < Math.abs(fast - map.stopUs)).length).toBeGreaterThan(3);
    b.loop.resume(b.now());
    b.to(9000);
    expect(b.loop.state).toMatchObject({ run: 'finished', notice: '' });
    expect(pulses(b).map(({ us }) => us)).toContain(spinPulse(map, mechanism, mechanism.home, speeds(-30)));
    expect(pulses(b).at(-1)!.us).toBe(map.stopUs);
  });
  function speeds(degPerS: number): Float64Array {
    const v = new Float64Array(mechanism.m);
    v[map.slots[0]] = (degPerS * Math.PI) / 180;
    return v;
  }
});
