import { describe, expect, it } from 'vitest';
import { asked, bench, lit, turnTo, type Bench } from './bench.testkit';
import type { Rig } from '@cork-elbow/core/rig';

/** The dipper with a door that stops it. */
const guarded = (): Rig => {
  const rig = lit([turnTo('a', 15), turnTo('b', -15), turnTo('c', 15)]);
  rig.signals.find(({ id }) => id === 'door')!.stops = true;
  return rig;
};
const halts = (b: Bench): number[] => b.sent.filter(({ message }) => message.word === 'halt').map(({ at }) => at);

describe('an input that stops the arm', () => {
  it('freezes a run at once, and nothing begins before it is off and somebody has cleared the stop', () => {
    const rig = guarded();
    const b = bench(rig);
    b.loop.start(asked(rig, 'lit'), rig, b.now);
    b.to(700);
    expect(b.loop.state.run).toMatch(/running|starting/);
    const at = b.now();
    b.loop.force('door', true);
    b.to(100);
    expect(b.loop.state).toMatchObject({ run: 'stopped', latched: true });
    expect(b.loop.state.notice).toContain('“door” is on');
    expect(halts(b).find((t) => t >= at)! - at).toBeLessThanOrEqual(10);
    const stood = b.pose();
    b.to(500);
    expect(b.pose()).toEqual(stood);

    const refused = (does: () => void, code: string): void => {
      does();
      expect(b.refusals().at(-1)).toBe(code);
    };
    refused(() => b.loop.clear(), 'stop-input');
    refused(() => b.loop.arm('hold', b.now()), 'stop-latched');
    expect(b.loop.state.armed).toBe(false);
    b.loop.force('door', false);
    b.to(100);
    expect(b.loop.state.latched).toBe(true);
    b.loop.clear();
    expect(b.loop.state).toMatchObject({ latched: false, notice: '' });
    b.loop.arm('hold', b.now());
    for (let k = 0; k < 60 && b.loop.state.mode !== 'normal'; k++) b.to(100);
    b.to(3000);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'normal' });
  });
  it('that is on already lets nothing begin', () => {
    const b = bench(guarded(), false);
    b.loop.force('door', true);
    b.to(100);
    expect(b.loop.state).toMatchObject({ latched: true, armed: false });
    b.loop.arm('hold', b.now());
    b.loop.motorOn('m-turn', 1500, b.now());
    expect(b.refusals()).toEqual(['stop-latched', 'stop-latched']);
  });
  it('freezes whoever leads the arm by hand, too; one that is none stops nothing', () => {
    const rig = guarded();
    const b = bench(rig);
    b.loop.byHand('r', rig, 'b1', b.now());
    b.loop.guide({ joints: { turn: 60 }, share: 0.2 }, b.now());
    b.to(300);
    b.loop.force('door', true);
    b.to(100);
    expect(b.loop.state).toMatchObject({ mode: 'normal', latched: true });
    const plain = lit([turnTo('a', 15)]);
    const other = bench(plain);
    other.loop.force('door', true);
    other.to(200);
    expect(other.loop.state).toMatchObject({ latched: false, armed: true });
  });
});
