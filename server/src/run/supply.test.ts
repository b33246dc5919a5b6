import { describe, expect, it } from 'vitest';
import type { Imperfect } from '../links/simulated';
import { asked, bench, end, lit, turnTo, type Bench } from './bench.testkit';

const rig = lit([turnTo('a', 20), turnTo('b', -20)]);
function ran(imperfect: Imperfect): Bench {
  const b = bench(rig, true, imperfect);
  if (b.loop.state.armed) {
    b.loop.start(asked(rig, 'lit'), rig, b.now);
    end(b);
  }
  return b;
}

describe('one supply for board and motors', () => {
  it('carries a run where it is stiff enough for what motors draw, or the board is content with little', () => {
    for (const imperfect of [
      { load: 0.3 },
      { load: 0.3, supplyV: 6, supplyOhm: 0.05, resetV: 5 },
      { load: 0.3, supplyV: 6, supplyOhm: 0.6, resetV: 3 },
      { supplyV: 6, supplyOhm: 0.6, resetV: 5 },
    ])
      expect(ran(imperfect).loop.state, JSON.stringify(imperfect)).toMatchObject({ armed: true, run: 'finished' });
  });
  it('that is too weak for what holds the arm dips as motors come on: the board begins anew each time, and it is said', () => {
    // Three motors hold 0.3 of 2.4 A, two 0.3 of 0.7 A: 2.6 A behind 0.6 Ω are 1.6 V.
    const b = ran({ load: 0.3, supplyV: 6, supplyOhm: 0.6, resetV: 5 });
    expect(b.loop.state).toMatchObject({ armed: false, link: 'connected' });
    expect(b.loop.state.notice).toContain('began anew');
  });
  it('dips as a motor is held fast in a run that it carried before', () => {
    const b = ran({ supplyV: 6, supplyOhm: 0.6, resetV: 5 });
    for (const { drive } of rig.wiring) b.loop.trouble('jam', drive, 0);
    b.loop.start(asked(rig, 'lit'), rig, b.now);
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'failed', armed: false });
    expect(b.loop.state.notice).toContain('began anew');
  });
  it('that is too low for the board alone never lets it come on', () => {
    const b = bench(rig, false, { supplyV: 4, resetV: 4.5 });
    b.to(2000);
    expect(b.loop.state.link).toBe('lost');
    expect(b.loop.state.notice).toContain('has not said a word');
  });
});
