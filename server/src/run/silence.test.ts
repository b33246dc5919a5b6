import { describe, expect, it } from 'vitest';
import { boardReader, encodeHost, hostReader, type BoardState } from '@cork-elbow/core/board';
import { SILENT_S, usualAway } from '@cork-elbow/core/contract';
import { bench, driven, lit, turnTo, asked, type Bench } from './bench.testkit';

const rig = lit([turnTo('a', 20), turnTo('b', -20), turnTo('c', 10)]);
/** The computer is asleep for so long (s); the boards live on. What the first of them says meanwhile of itself, last. */
function alone(b: Bench, seconds: number): BoardState | undefined {
  const reader = boardReader();
  b.skip(seconds * 1000);
  const said = b.links().map((each) => (each.advanceTo(b.now()), each.read()));
  const states = said[0].flatMap((bytes) => reader.push(bytes)).flatMap((m) => (m?.word === 'here' ? [m.state] : []));
  return states.at(-1);
}

describe('a computer that says nothing', () => {
  it.each(driven.filter((_, k) => k % 3 === 0))(
    '%s: never while the arm merely stands there, however long',
    (_, document) => {
      const b = bench(document);
      const from = b.now();
      b.to(3 * SILENT_S * 1000);
      expect(b.loop.state).toMatchObject({ armed: true, notice: '' });
      // Each board heard something often enough, even where two of the lines in a row are lost.
      const heard = b.sent.filter(({ at }) => at >= from).map(({ at }) => at);
      const gaps = heard.map((at, k) => at - (heard[k - 1] ?? from));
      expect(Math.max(...gaps)).toBeLessThan((SILENT_S * 1000) / 3);
    },
  );
  it('for long: the board holds and takes nothing more; it is said, and it may be armed again', () => {
    const b = bench(rig);
    expect(alone(b, SILENT_S - 2.5)).toBe('awake');
    b.to(200);
    expect(b.loop.state).toMatchObject({ armed: true, notice: '' });
    expect(alone(b, SILENT_S + 0.5)).toBe('halted');
    b.to(200);
    expect(b.loop.state.armed).toBe(false);
    expect(b.loop.state.notice).toContain('heard nothing from this computer for 10 s');
    b.loop.arm('hold', b.now());
    b.to(4000);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'normal', notice: '' });
  });
  it('in the middle of a run: that has ended', () => {
    const b = bench(rig);
    b.loop.start(asked(rig, 'lit'), rig, b.now);
    b.to(500);
    alone(b, SILENT_S + 1);
    b.to(300);
    expect(b.loop.state).toMatchObject({ armed: false, run: 'stopped' });
    expect(b.loop.state.notice).toContain('heard nothing');
  });
  it.each([0, 5])('and motors go off %s s later where that was chosen, not sooner', (offS) => {
    const after = (seconds: number): BoardState | undefined => {
      const b = bench(rig);
      b.loop.setAway({ ...usualAway, silentOffS: offS });
      b.to(100);
      const state = alone(b, SILENT_S + seconds);
      b.to(200);
      expect(b.loop.state.armed).toBe(false);
      return state;
    };
    expect(after(offS + 0.5)).toBe('asleep');
    if (offS) expect(after(offS - 0.5)).toBe('halted');
  });
  it('is no reason where a board halts as somebody says so, or as it refuses a point', () => {
    const told = bench(rig);
    told.loop.halt(told.now());
    told.to(200);
    expect(told.loop.state.notice).not.toContain('heard nothing');
    const b = bench(rig);
    b.loop.start(asked(rig, 'lit'), rig, b.now);
    b.to(500);
    // Somebody else sends it a point that it does not take.
    const [link] = b.links();
    const seq = b.sent.findLast(({ message }) => message.word === 'point')!.message as { seq: number };
    link.write(encodeHost({ word: 'point', seq: seq.seq + 1, ms: 20, values: [[0, 1]], goesOn: false }));
    b.to(500);
    expect(b.loop.state).toMatchObject({ armed: false, run: 'stopped' });
    expect(b.loop.state.notice).toContain('though nobody told it to');
  });
  it('is no reason where a board halts as it refuses what it was sent from here', () => {
    const b = bench(rig);
    b.loop.start(asked(rig, 'lit'), rig, b.now);
    b.to(500);
    // On its way a point becomes one that is out of bounds.
    const link = b.links()[0] as { write(bytes: Uint8Array): void };
    const passOn = link.write.bind(link);
    const reader = hostReader();
    link.write = (bytes) => {
      for (const message of reader.push(bytes))
        if (message?.word === 'point' && message.values.length)
          passOn(encodeHost({ ...message, values: [[message.values[0][0], 1]] }));
        else if (message) passOn(encodeHost(message));
    };
    b.to(500);
    expect(b.loop.state).toMatchObject({ armed: false, run: 'failed' });
    expect(b.loop.state.notice).toContain('point: bounds');
  });
  it('is minded by a board that has begun anew as well', () => {
    const b = bench(rig);
    b.loop.setAway({ ...usualAway, silentOffS: 3 });
    b.loop.trouble('reset', null, 0);
    b.to(300);
    b.loop.arm('hold', b.now());
    b.to(4000);
    expect(b.loop.state.armed).toBe(true);
    expect(alone(b, SILENT_S + 3.5)).toBe('asleep');
  });
});
