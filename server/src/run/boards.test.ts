import { describe, expect, it } from 'vitest';
import { boardReader, encodeBoard, hostReader, type HostMessage } from '@cork-elbow/core/board';
import { standing } from '@cork-elbow/core/admit';
import { contractFindings } from '@cork-elbow/core/contract';
import type { Rig, Step } from '@cork-elbow/core/rig';
import { presetById, rigFromPreset } from '@cork-elbow/core/presets';
import { kilnLoader, tileDipper } from '@cork-elbow/demo';
import { wholePoints } from '../../../core/src/board/board.testkit';
import { openLink } from '../links';
import type { Imperfect } from '../links/simulated';
import type { LineEnd, Link } from '../links/link';
import type { LoopEvent } from './events';
import { RunLoop } from './loop';

/** Elbow and wrist on a board of their own, the rest on the first; all go to and fro together for ever. */
const shared = (): Rig => {
  const rig = structuredClone(tileDipper()) as Rig;
  rig.boards.push({ ...structuredClone(rig.boards[0]), id: 'second', name: 'Second board' });
  for (const wire of rig.wiring) if (['m-elbow', 'm-wrist'].includes(wire.drive)) wire.board = 'second';
  const step = (id: string, more: object): Step => ({ id, enabled: true, note: '', ...more }) as Step;
  const move = (id: string, by: number): Step =>
    step(id, {
      kind: 'joint-move',
      target: { joints: { turn: by, elbow: 90 + by, wrist: 70 + by } },
      pace: { speedShare: 0.3 },
    });
  rig.routines[0].steps = [
    step('a', { kind: 'repeat', times: null }),
    move('b', 20),
    move('c', -20),
    step('d', { kind: 'end' }),
  ];
  return rig;
};

/** A rig on boards with options of their own: what each is sent, and what each says of itself. */
function desk(rig: Rig, links: Record<string, Imperfect> = {}) {
  const events: LoopEvent[] = [];
  const loop = new RunLoop((event) => events.push(structuredClone(event)));
  const ends = new Map<string, LineEnd>();
  const sent = new Map<string, HostMessage[]>();
  /** Where each board is by what it was told, by drive; and the least and most it had queued after a point. */
  const at = new Map<string, number>();
  const queued = new Map<string, [number, number]>();
  const muted = new Set<string>();
  const failed = new Map<string, string>();
  /** Boards that are not told to wake. */
  const dozing = new Set<string>();
  let now = 0;
  let counts = false;
  const open = (end: LineEnd): Link => {
    const inner = openLink(end, { kind: 'simulated', ...links[end.board] }, 0);
    const [host, board] = [hostReader(), boardReader()];
    const refused: Uint8Array[] = [];
    ends.set(end.board, end);
    sent.set(end.board, []);
    queued.set(end.board, [Infinity, 0]);
    const drives = new Map(end.maps.map((map) => [map.channel, map.drive.id]));
    return {
      ...inner,
      get failure() {
        return failed.get(end.board) ?? null;
      },
      write(bytes) {
        const messages = host.push(bytes);
        for (const message of messages) if (message) sent.get(end.board)!.push(message);
        const wake = messages.find((message) => message?.word === 'wake');
        if (dozing.has(end.board) && wake?.word === 'wake')
          refused.push(encodeBoard({ word: 'refused', what: 'wake', number: wake.number, why: 'bounds' }));
        else inner.write(bytes);
      },
      read() {
        const all = [...inner.read(), ...refused.splice(0)];
        if (muted.has(end.board)) return [];
        for (const message of all.flatMap((bytes) => board.push(bytes))) {
          if (message?.word === 'here') for (const [channel, v] of message.commanded) at.set(drives.get(channel)!, v);
          if (message?.word === 'took' && counts) {
            const [least, most] = queued.get(end.board)!;
            queued.set(end.board, [Math.min(least, message.queuedMs), Math.max(most, message.queuedMs)]);
          }
        }
        return all;
      },
    };
  };
  loop.connect('r', rig, 'b1', open, 0);
  const to = (ms: number, look?: () => void): void => {
    for (const end = now + ms; now < end;) {
      loop.tick((now += 2));
      look?.();
    }
  };
  to(200);
  const begin = (): void => {
    loop.arm('hold', now);
    to(3000);
    const [{ id: routineId }] = rig.routines;
    loop.start({ id: 'run', rigId: 'r', revision: 1, buildId: 'b1', routineId, asDrawn: true }, rig, () => now);
    to(6000);
    counts = true;
  };
  return { loop, ends, sent, at, queued, muted, failed, dozing, events, to, begin, now: () => now };
}
const points = wholePoints;

describe('a rig with two boards', () => {
  it('has a line to each, which gets what its own motors are sent and nothing else', () => {
    const d = desk(shared());
    expect([...d.ends.keys()]).toEqual([tileDipper().boards[0].id, 'second']);
    expect(d.loop.state.link).toBe('connected');
    d.begin();
    d.to(2000);
    for (const [board, messages] of d.sent) {
      const own = new Set(d.ends.get(board)!.maps.map((map) => map.channel));
      expect(own.size).toBeGreaterThan(1);
      const named = points(messages).flatMap(({ values }) => values.map(([channel]) => channel));
      expect(new Set(named)).toEqual(own);
      const bounded = messages.flatMap((message) => (message.word === 'bounds' ? [message.channel] : []));
      expect(new Set(bounded)).toEqual(own);
      expect(points(messages).map(({ seq }) => seq)).toEqual(points(messages).map((_, k) => k));
    }
    expect(d.loop.state).toMatchObject({ run: 'running', notice: '' });
  });
  it('are named together, each name once; and a rig that cannot be has no line at all', () => {
    expect(desk(shared()).loop.state.board).toBe('simulated board');
    const named = new RunLoop(() => undefined);
    const line = (end: LineEnd): Link => ({
      ...openLink(end, { kind: 'simulated' }, 0),
      name: `line of ${end.board}`,
    });
    named.connect('r', shared(), 'b1', line, 0);
    expect(named.state.board).toBe(`line of ${tileDipper().boards[0].id}, line of second`);
    const opened: string[] = [];
    const events: LoopEvent[] = [];
    const loop = new RunLoop((event) => events.push(structuredClone(event)));
    const open = (end: LineEnd): Link => {
      opened.push(end.board);
      return openLink(end, { kind: 'simulated' }, 0);
    };
    const made = rigFromPreset(presetById('rotary-delta'), 'Delta');
    if (!made.ok || made.value.mechanism.family !== 'rotary-delta') throw new Error('no delta');
    const torn = { ...made.value, mechanism: structuredClone(made.value.mechanism) };
    torn.mechanism.delta.forearmMm = 1;
    loop.connect('r', torn, 'b1', open, 0);
    expect(events.at(-1)).toMatchObject({ type: 'refused', findings: [] });
    expect([opened, loop.state.link]).toEqual([[], 'absent']);
  });
  it('is asked to run once at a time, and only what it is connected for', () => {
    const d = desk(shared());
    const [{ id: routineId }] = tileDipper().routines;
    const start = (rigId: string): unknown => {
      const before = d.events.length;
      d.loop.start({ id: 'again', rigId, revision: 1, buildId: 'b1', routineId, asDrawn: true }, shared(), d.now);
      return d.events.slice(before).flatMap((e) => (e.type === 'refused' ? [e.code] : []));
    };
    d.loop.arm('hold', d.now());
    d.to(3000);
    expect(start('another')).toEqual(['run-other-rig']);
    expect(d.loop.state.run).toBe('idle');
    expect(start('r')).toEqual([]);
    expect(start('r')).toEqual(['run-busy']);
    expect(d.loop.state.runId).toBe('again');
  });
  it('that is lost while it runs is told as lost, disarmed, with how long nothing was heard', () => {
    const d = desk(shared());
    d.begin();
    d.muted.add('second');
    for (let k = 0; k < 100 && d.loop.state.link === 'connected'; k++) d.to(100);
    expect(d.loop.state).toMatchObject({ link: 'lost', armed: false, mode: 'normal', run: 'failed' });
    expect(d.loop.state.notice).toMatch(/\d/);
  });
  it.each([
    [5000, -5000],
    [-5000, 5000],
    [0, 9000],
  ])('keeps them in step whatever their clocks (%i and %i ppm)', (one, other) => {
    const rig = shared();
    const [{ id }] = rig.boards;
    const d = desk(rig, { [id]: { ppm: one }, second: { ppm: other } });
    const stands = standing(rig, 'b1');
    if (!stands.ok) throw new Error('not standing');
    d.begin();
    const maps = [...d.ends.values()].flatMap((end) => end.maps);
    const deg = (drive: string): number => {
      const map = maps.find((m) => m.drive.id === drive)!;
      if (!('native' in map)) throw new Error('a spin');
      return (d.at.get(drive)! - map.native.atZero) / map.native.perDeg;
    };
    // The turn and the elbow are moved by the same profile: where one is, the other is 90° from it.
    let [least, most, turned] = [Infinity, -Infinity, 0];
    d.to(120_000, () => {
      const gap = deg('m-elbow') - deg('m-turn');
      [least, most] = [Math.min(least, gap), Math.max(most, gap)];
      turned = Math.max(turned, Math.abs(deg('m-turn')));
    });
    expect(turned).toBeGreaterThan(18);
    // At 36 °/s: reports of 20 ms from either side, a millisecond of the pace, and whole pulses.
    expect(most - least).toBeLessThan(1.75);
    expect(d.loop.state).toMatchObject({ run: 'running', notice: '' });
    for (const [low, high] of d.queued.values()) {
      expect(low).toBeGreaterThanOrEqual(30);
      expect(high).toBeLessThanOrEqual(90);
    }
  });
  it('takes as long as on one board, and ends in the same pose on both', () => {
    const once = (rig: Rig): Rig => {
      rig.routines[0].steps = rig.routines[0].steps.filter(({ kind }) => kind === 'joint-move');
      for (const move of rig.routines[0].steps) Object.assign(move, { pace: { speedShare: 0.03 } });
      return rig;
    };
    const whole = once(shared());
    const single = structuredClone(whole) as Rig;
    for (const wire of single.wiring) wire.board = single.boards[0].id;
    const [a, b] = [desk(single), desk(whole, { second: { ppm: -8000 } })].map((d) => {
      d.begin();
      while (d.loop.state.run === 'starting' || d.loop.state.run === 'running') d.to(10);
      return { at: d.at, took: d.now(), state: d.loop.state };
    });
    expect([a.state.run, b.state.run]).toEqual(['finished', 'finished']);
    expect(Math.abs(a.took - b.took)).toBeLessThanOrEqual(20);
    expect(b.at).toEqual(a.at);
  });
  it('halts the others where one is halted, lost, or its line fails', () => {
    const trouble = {
      lost: (d: ReturnType<typeof desk>) => void d.muted.add('second'),
      failed: (d: ReturnType<typeof desk>) => void d.failed.set('second', 'the plug was pulled'),
    };
    for (const [what, make] of Object.entries(trouble)) {
      const d = desk(shared());
      d.begin();
      const [first] = d.ends.keys();
      make(d);
      d.to(1500);
      expect(d.loop.state).toMatchObject({ link: 'lost', armed: false, run: 'failed' });
      for (const id of [first, 'second']) expect(d.sent.get(id)!.at(-1)).toMatchObject({ word: 'halt' });
      if (what === 'failed')
        expect(d.loop.state.notice).toBe(contractFindings.say('link-failed', { reason: 'the plug was pulled' }));
      const before = [...d.sent.values()].map((messages) => points(messages).length);
      d.to(1000);
      expect([...d.sent.values()].map((messages) => points(messages).length)).toEqual(before);
    }
  });
  it('runs nothing while one of them would not wake', () => {
    const why = [shared().boards[0].id, 'second'].map((board) => {
      const d = desk(shared());
      d.dozing.add(board);
      d.begin();
      expect(d.loop.state.run).toBe('idle');
      expect([...d.sent.values()].flatMap(points)).toEqual([]);
      const refused = d.events.findLast((event) => event.type === 'refused');
      return refused?.type === 'refused' ? refused.code : '';
    });
    // The one that is switched on first, or the one that never is.
    expect(why.sort()).toEqual(['board-not-ready', 'board-unarmed']);
  });
  it('keeps the widest gap of a joint whose motors hang on both', () => {
    const rig = structuredClone(kilnLoader()) as Rig;
    rig.boards.push({ ...structuredClone(rig.boards[0]), id: 'second', name: 'Second board' });
    // The wrist's two motors move pitch and spin together.
    for (const wire of rig.wiring) if (wire.drive === 'm-spin') wire.board = 'second';
    const [pitch] = rig.transmissions.find((t) => t.drives.includes('m-spin'))!.joints;
    const step = (id: string, more: object): Step => ({ id, enabled: true, note: '', ...more }) as Step;
    rig.routines[0].steps = [
      step('a', { kind: 'joint-move', target: { shift: { joints: { [pitch]: -15 } } }, pace: { speedShare: 0.3 } }),
    ];
    const d = desk(rig);
    d.begin();
    d.to(6000);
    const ended = d.events.findLast((event) => event.type === 'ended');
    expect(ended).toMatchObject({ outcome: 'finished' });
    expect(ended?.type === 'ended' && ended.worst[pitch]).toBeGreaterThanOrEqual(0);
  });
  it('stands in the same pose on both when it is paused, and goes on from there', () => {
    const d = desk(shared(), { second: { ppm: 4000 } });
    d.begin();
    for (let k = 0; k < 6; k++) {
      d.to(700);
      d.loop.pause();
      d.to(2500);
      expect(d.loop.state.run).toBe('paused');
      const still = new Map(d.at);
      d.to(500);
      expect(d.at).toEqual(still);
      const telemetry = d.events.findLast((event) => event.type === 'telemetry');
      if (telemetry?.type !== 'telemetry') throw new Error('nothing told');
      for (const [id, value] of Object.entries(telemetry.telemetry.measured))
        expect(Math.abs(value - telemetry.telemetry.commanded[id])).toBeLessThan(1);
      d.loop.resume(d.now());
      d.to(100);
      expect(d.loop.state).toMatchObject({ run: 'running', notice: '' });
    }
  });
  it('that has none cannot be connected, in one sentence', () => {
    const rig = { ...tileDipper(), boards: [], wiring: [], signals: [], sensors: [] };
    const d = desk(rig);
    expect(d.events.find((event) => event.type === 'refused')).toMatchObject({ code: 'board-none' });
    expect(d.loop.state.link).toBe('absent');
  });
});
