import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { forward } from '@cork-elbow/core/kinematics';
import { positionOf, seededRandom, vec3, type Vec3 } from '@cork-elbow/core/linear';
import { fromSlots, limitExcess, rulesExcess } from '@cork-elbow/core/mechanism';
import type { Rig } from '@cork-elbow/core/rig';
import { kilnLoader, tileDipper } from '@cork-elbow/demo';
import { bench, driven, type Bench } from './bench.testkit';

const hand = (b: Bench, rig: Rig): void => b.loop.byHand('r', rig, 'b1', b.now());
const guide = (b: Bench, joints: Record<string, number>, share = 0.2, straight?: { tool?: string }): void =>
  b.loop.guide({ joints, share, ...(straight ? { straight } : {}) }, b.now());

describe('an arm led by hand on its board', () => {
  it('is to be found among many kinds', () => expect(driven.length).toBeGreaterThan(8));

  it.each(driven)('%s: wherever it is led, limits and rules hold and the board refuses nothing', (_, rig) => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), (seed) => {
        const random = seededRandom(seed);
        const b = bench(rig);
        hand(b, rig);
        expect(b.loop.state.mode).toBe('by-hand');
        const { mechanism } = b;
        const before = rulesExcess(mechanism, b.pose());
        for (let k = 0; k < 40; k++) {
          const slot = Math.floor(random() * mechanism.m);
          const wide = [mechanism.lower[slot], mechanism.upper[slot]].map((v) => Math.min(9, Math.max(-9, v)));
          const value = wide[0] - 0.2 + random() * (wide[1] - wide[0] + 0.4);
          guide(b, { [mechanism.slotIds[slot]]: value / mechanism.siPerUnit[slot] }, 0.01 + 0.49 * random());
          if (random() < 0.1) b.loop.stop(b.now());
          b.to(Math.floor(random() * 300));
          const pose = b.pose();
          expect(limitExcess(mechanism, pose).by).toBeLessThan(1e-9);
          expect(rulesExcess(mechanism, pose)).toBeLessThanOrEqual(Math.max(1e-6, before));
        }
        // What no motor moves is told; nothing else is refused, by loop or board.
        expect(b.refusals().filter((code) => code !== 'hand-joint')).toEqual([]);
        expect(b.loop.state).toMatchObject({ armed: true, mode: 'by-hand', notice: '' });
      }),
      { numRuns: 3 },
    );
  });

  it('goes where it is told and stands there; told again while it goes, goes there instead', () => {
    const rig = tileDipper();
    const b = bench(rig);
    hand(b, rig);
    guide(b, { shoulder: 20 });
    b.to(100);
    guide(b, { shoulder: -10, elbow: 100 });
    b.to(12_000);
    expect(fromSlots(b.mechanism, b.pose())).toMatchObject({ shoulder: -10, elbow: 100 });
    // Nothing more is sent by the board that keeps time while nothing moves.
    const points = b.sent.filter(({ message }) => message.word === 'point').length;
    b.to(2000);
    expect(b.sent.filter(({ message }) => message.word === 'point')).toHaveLength(points);
    guide(b, { shoulder: -11 });
    b.to(2000);
    expect(fromSlots(b.mechanism, b.pose()).shoulder).toBe(-11);
    expect(b.loop.state).toMatchObject({ mode: 'by-hand', notice: '' });
  });

  it('is no faster than its share', () => {
    const rig = tileDipper();
    const time = (share: number): number => {
      const b = bench(rig);
      hand(b, rig);
      guide(b, { turn: 60 }, share);
      const from = b.now();
      while (Math.abs(fromSlots(b.mechanism, b.pose()).turn - 60) > 1e-6) b.to(20);
      return b.now() - from;
    };
    const [gentle, quick] = [time(0.05), time(0.2)];
    expect(gentle / quick).toBeGreaterThan(2.5);
  });

  const tip = (b: Bench, q: Float64Array, tool: string): Vec3 => positionOf(forward(b.mechanism, q).tools.get(tool)!);

  it.each([
    ['tile dipper', tileDipper()],
    ['kiln loader', kilnLoader()],
  ])('%s: steps of its tool are straight, one after the other, and stopped on the way they stand on it', (_, rig) => {
    const b = bench(rig);
    hand(b, rig);
    // Off the edge of what it reaches.
    const { mechanism } = b;
    const tool = mechanism.tools[0].id;
    const begin = mechanism.home.slice();
    guide(b, fromSlots(mechanism, begin), 0.5);
    while (b.pose().some((v, s) => Math.abs(v - begin[s]) > 1e-6)) b.to(100);
    const from = tip(b, begin, tool);
    const shifted = begin.slice();
    for (let s = 1; s < Math.min(4, mechanism.m); s++) shifted[s] += 0.06 * mechanism.siPerUnit[s] * 57;
    const [low, high] = [mechanism.lower, mechanism.upper];
    const wish = shifted.map((v, s) => Math.min(high[s], Math.max(low[s], v)));
    const end = tip(b, wish, tool);
    guide(b, fromSlots(mechanism, wish), 0.2, { tool });
    expect(b.refusals()).toEqual([]);
    const way = vec3.sub(end, from);
    const off = (p: Vec3): number => vec3.norm(vec3.cross(vec3.sub(p, from), way)) / vec3.norm(way);
    const far = (p: Vec3): number => vec3.distance(p, end);
    let before = far(from);
    for (let k = 0; far(tip(b, b.pose(), tool)) > 1e-5 && k < 500; k++) {
      const now = tip(b, b.pose(), tool);
      expect(off(now)).toBeLessThan(3e-4);
      expect(far(now)).toBeLessThanOrEqual(before + 1e-6);
      before = far(now);
    }
    expect(before).toBeLessThan(1e-4);
    // Back, and stopped on the way.
    guide(b, fromSlots(mechanism, begin), 0.1, { tool });
    b.to(400);
    b.loop.stop(b.now());
    b.to(2500);
    const stands = tip(b, b.pose(), tool);
    expect(off(stands)).toBeLessThan(3e-4);
    b.to(1000);
    expect(vec3.distance(tip(b, b.pose(), tool), stands)).toBe(0);
    expect(far(stands)).toBeGreaterThan(1e-5);
    expect(b.loop.state).toMatchObject({ armed: true, mode: 'by-hand', notice: '' });
  });

  it('waits with no more than eight steps, and says what it cannot do straight', () => {
    const rig = tileDipper();
    const b = bench(rig);
    hand(b, rig);
    const at = fromSlots(b.mechanism, b.pose());
    for (let k = 0; k < 12; k++) guide(b, { ...at, elbow: at.elbow - (k % 2) }, 0.05, {});
    expect(b.refusals()).toContain('hand-busy');
    b.loop.stop(b.now());
    b.to(2000);
    guide(b, { ...fromSlots(b.mechanism, b.pose()), elbow: 999 }, 0.05, {});
    expect(b.refusals().at(-1)).toBe('hand-straight');
    expect(b.loop.state.mode).toBe('by-hand');
  });

  it('stops on asking with its next point, and what was wished before comes back with no other wish', () => {
    const rig = tileDipper();
    const b = bench(rig);
    hand(b, rig);
    guide(b, { turn: 80, shoulder: 60 }, 0.3);
    b.to(900);
    b.loop.stop(b.now());
    b.to(3000);
    const stands = fromSlots(b.mechanism, b.pose());
    expect(stands.turn).toBeLessThan(79);
    guide(b, { elbow: stands.elbow - 5 });
    b.to(3000);
    const now = fromSlots(b.mechanism, b.pose());
    expect(now.turn).toBeCloseTo(stands.turn, 6);
    expect(now.elbow).toBeCloseTo(stands.elbow - 5, 6);
  });

  it('lets a run begin where it stands, and none while it moves; is over when the page is gone', () => {
    const rig = tileDipper();
    const b = bench(rig);
    const run = (): void =>
      b.loop.start({ id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId: 'dip' }, rig, () => b.now());
    hand(b, rig);
    guide(b, { turn: 30 });
    b.to(200);
    run();
    expect(b.refusals()).toEqual(['board-not-ready']);
    b.to(6000);
    run();
    expect(b.loop.state).toMatchObject({ run: 'starting', mode: 'normal' });
    b.loop.stop(b.now());
    b.to(4000);
    hand(b, rig);
    guide(b, { turn: -60 });
    b.to(300);
    b.loop.setAlone(true);
    // While it still slows down nothing more is taken.
    guide(b, { turn: -60 });
    expect(b.refusals().at(-1)).toBe('hand-off');
    b.to(3000);
    expect(b.loop.state).toMatchObject({ mode: 'normal', armed: true });
    expect(Math.abs(fromSlots(b.mechanism, b.pose()).turn + 60)).toBeGreaterThan(5);
    guide(b, { turn: -60 });
    expect(b.refusals().at(-1)).toBe('hand-off');
  });

  it('is led only armed, switched on, the rig that is connected, and joints that motors move', () => {
    const rig = tileDipper();
    const b = bench(rig, false);
    guide(b, { turn: 3 });
    hand(b, rig);
    b.loop.arm('neutral', b.now());
    b.to(5000);
    hand(b, rig);
    b.loop.disarm(b.now());
    b.to(500);
    b.loop.arm('hold', b.now());
    b.to(3000);
    b.loop.byHand('other', rig, 'b1', b.now());
    hand(b, rig);
    guide(b, { nothing: 3 });
    guide(b, { turn: 3, nothing: 3 });
    expect(b.refusals()).toEqual([
      ...['hand-off', 'board-unarmed', 'board-not-ready', 'run-other-rig', 'hand-joint', 'hand-joint'],
    ]);
    b.loop.halt(b.now());
    b.to(500);
    expect(b.loop.state).toMatchObject({ armed: false, mode: 'normal' });
  });
});
