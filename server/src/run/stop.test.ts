import { describe, expect, it } from 'vitest';
import type { Rig } from '@cork-elbow/core/rig';
import { kilnLoader } from '@cork-elbow/demo';
import { bench, end, lit, turnTo, type Bench } from './bench.testkit';

const rig = lit([turnTo('a', 20), turnTo('b', -20), turnTo('c', 10)]);
const run = (b: Bench, document: Rig = rig, routineId = 'lit'): void =>
  b.loop.start({ id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId, asDrawn: true }, document, b.now);
const stopped = (b: Bench): void => {
  run(b);
  b.to(1200);
  b.loop.stop(b.now());
  end(b);
  expect(b.loop.state).toMatchObject({ run: 'stopped', latched: true });
};

describe('a stop', () => {
  it('holds back all that moves until somebody has looked and clears it', () => {
    const b = bench(rig);
    stopped(b);
    const points = b.sent.filter(({ message }) => message.word === 'point').length;
    run(b);
    b.loop.byHand('r', rig, 'b1', b.now());
    b.loop.home(null, b.now());
    b.loop.lieDown(b.now());
    b.to(500);
    expect(b.refusals()).toEqual(['stop-latched', 'stop-latched', 'stop-latched', 'stop-latched']);
    expect(b.sent.filter(({ message }) => message.word === 'point')).toHaveLength(points);
    b.loop.disarm(b.now());
    b.to(200);
    b.loop.arm('hold', b.now());
    b.loop.motorOn('m-turn', 1500, b.now());
    b.to(200);
    expect(b.refusals().slice(4)).toEqual(['stop-latched', 'stop-latched']);
    expect(b.loop.state).toMatchObject({ armed: false, latched: true });
    b.loop.clear();
    b.loop.arm('hold', b.now());
    b.to(6000);
    run(b);
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'finished', latched: false });
  });
  it('lets the motors hold, or go off once the arm has slowed to a stand, as was chosen', () => {
    for (const then of ['hold', 'off'] as const) {
      const b = bench(rig);
      b.loop.setAfterStop(then);
      run(b);
      b.to(1200);
      b.loop.stop(b.now());
      b.to(40);
      // Not before it stands.
      expect(b.loop.state).toMatchObject({ run: 'stopping', armed: true });
      end(b);
      b.to(300);
      expect(b.loop.state).toMatchObject({ run: 'stopped', armed: then === 'hold' });
      expect(b.sent.some(({ message }) => message.word === 'sleep')).toBe(then === 'off');
    }
  });
  it('of what is frozen does the same; a run that ends by itself, or by a fault, is no stop', () => {
    const b = bench(rig);
    b.loop.setAfterStop('off');
    run(b);
    b.to(1200);
    b.loop.halt(b.now());
    b.to(100);
    expect(b.loop.state).toMatchObject({ run: 'stopped', latched: true, armed: false });
    expect(b.sent.some(({ message }) => message.word === 'sleep')).toBe(true);
    const c = bench(rig);
    c.loop.setAfterStop('off');
    run(c);
    end(c);
    c.to(300);
    expect(c.loop.state).toMatchObject({ run: 'finished', latched: false, armed: true });
    c.loop.trouble('reset', null, 0);
    c.to(100);
    expect(c.loop.state.latched).toBe(false);
  });
  it('of homing latches too; a page that is gone is no stop', () => {
    const loader = kilnLoader() as Rig;
    const b = bench(loader);
    b.loop.home(null, b.now());
    b.to(3000);
    b.loop.stop(b.now());
    b.to(100);
    expect(b.loop.state).toMatchObject({ mode: 'normal', latched: true });
    const c = bench(loader);
    c.loop.home(null, c.now());
    c.to(3000);
    c.loop.setAlone(true);
    c.to(100);
    expect(c.loop.state).toMatchObject({ mode: 'normal', latched: false });
  });
  it('keeps an arm that was stopped where it is, though nobody comes back', () => {
    const b = bench(rig);
    b.loop.setAway({ run: 'stand', then: 'rest', afterS: 5, silentOffS: null });
    stopped(b);
    b.loop.setAlone(true);
    b.to(20_000);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'normal', latched: true });
    b.loop.clear();
    b.to(40_000);
    expect(b.loop.state).toMatchObject({ armed: false });
  });
  it('is forgotten with the line, what motors do after it is not', () => {
    const b = bench(rig);
    b.loop.setAfterStop('off');
    stopped(b);
    b.loop.disconnect(b.now());
    expect(b.loop.state).toMatchObject({ latched: false, afterStop: 'off' });
  });
});
