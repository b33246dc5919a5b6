import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { finish, type Job } from '../jobs';
import { forward } from '../kinematics';
import { compiled, poseOf } from '../kinematics/arms.testkit';
import { positionOf, vec3 } from '../linear';
import { type Motion, poseAt } from '../motion';
import { wayOf } from '../motion/motion.testkit';
import type { Obstacle, Rig } from '../rig';
import { contactScene, contactsAt, heldKey, reachOfSlots, sweepJob, sweptContacts } from './index';
import { between } from '../units/between.testkit';

const rig = tileDipper();
const mechanism = compiled(rig.mechanism);
const crate = (xyzMm: [number, number, number], sizeMm: [number, number, number]): Obstacle => ({
  ...{ kind: 'box', id: 'crate', name: 'Crate', rpyDeg: [0, 0, 0], fixedTo: 'world' },
  ...{ xyzMm, sizeMm },
});
const among = (...obstacles: Obstacle[]): Rig => ({ ...rig, obstacles, spots: [] });
/** A turn of the base from one angle (rad) to another with the arm stretched forward. */
const swing = (from: number, to: number, seconds: number): Motion =>
  wayOf(mechanism.m, seconds, (t, out) => {
    out.set(mechanism.home);
    out[0] = from + (t / seconds) * (to - from);
    out[1] = 1.2;
    out[2] = 0.3;
  });

describe('a sweep', () => {
  it('finds whatever a fine walk of looks finds, at least as deep, whatever stands around', () => {
    const place = fc.tuple(
      fc.integer({ min: 90, max: 300 }),
      fc.integer({ min: -200, max: 200 }),
      fc.integer({ min: 0, max: 60 }),
    );
    const size = fc.tuple(
      fc.integer({ min: 5, max: 90 }),
      fc.integer({ min: 5, max: 90 }),
      fc.integer({ min: 20, max: 260 }),
    );
    fc.assert(
      fc.property(place, size, (at, sizeMm) => {
        const scene = contactScene(among(crate(at as never, sizeMm as never)), mechanism);
        const motion = swing(-0.9, 0.9, 2);
        const deepest = new Map<string, number>();
        for (let k = 0; k <= 300; k++)
          for (const { a, b, depth } of contactsAt(scene, poseAt(motion, (2 * k) / 300))) {
            const pair = `${a.name}/${b.name}`;
            deepest.set(pair, Math.max(deepest.get(pair) ?? 0, depth));
          }
        const found = new Map(sweptContacts(scene, motion).map((c) => [`${c.a.name}/${c.b.name}`, c]));
        for (const [pair, depth] of deepest) {
          // Two looks stand at most two millimetres of way apart.
          if (depth < 0.004) continue;
          expect([pair, found.has(pair)]).toEqual([pair, true]);
          expect(found.get(pair)!.depth).toBeGreaterThan(depth - 0.004);
        }
      }),
      { numRuns: 8 },
    );
  });
  it('has times in their order, inside the motion, and names each pair once', () => {
    const scene = contactScene(among(crate([220, 0, 0], [40, 40, 250])), mechanism);
    const found = sweptContacts(scene, swing(-0.9, 0.9, 2));
    expect(found.length).toBeGreaterThan(0);
    const names = found.map((c) => `${c.a.name}/${c.b.name}`);
    expect(new Set(names).size).toBe(names.length);
    for (const { fromS, deepestS, untilS } of found) {
      expect(fromS).toBeGreaterThanOrEqual(0);
      expect(deepestS).toBeGreaterThanOrEqual(fromS);
      expect(untilS).toBeGreaterThanOrEqual(deepestS);
      expect(untilS).toBeLessThanOrEqual(2);
    }
    expect([...found].sort((a, b) => a.fromS - b.fromS)).toEqual(found);
    // The crate stands ahead: it is passed in the middle of the swing, as long before as after.
    const middle = (found[0].fromS + found[0].untilS) / 2;
    expect(middle).toBeCloseTo(1, 1);
  });
  it('is the same however its work is cut, and tells how far it is', () => {
    const scene = contactScene(among(crate([220, 0, 0], [40, 40, 250])), mechanism);
    const job: Job<unknown> = sweepJob(scene, swing(-0.5, 0.5, 1));
    const whole = sweptContacts(scene, swing(-0.5, 0.5, 1));
    expect(finish(job)).toEqual(whole);
  });
  it('of an arm that stands still looks once and finds what stands in it', () => {
    const scene = contactScene(among(crate([0, 0, 0], [60, 60, 120])), mechanism);
    const found = sweptContacts(
      scene,
      wayOf(mechanism.m, 0, (_, out) => out.set(mechanism.home)),
    );
    for (const { fromS, untilS } of found) expect([fromS, untilS]).toEqual([0, 0]);
  });
});

describe('how far a slot moves any part', () => {
  it('is never less than a joint or tool really goes', () => {
    const shares = fc.array(between(0, 1), { minLength: 7, maxLength: 7 });
    fc.assert(
      fc.property(
        fc.constantFrom(...demoRigs()),
        shares,
        fc.nat(),
        between(-0.2, 0.2),
        ({ rig: doc }, f, pick, by) => {
          const m = compiled(doc.mechanism);
          const q = m.delta ? m.home.slice() : poseOf(m, f);
          const reach = reachOfSlots(contactScene(doc, m), q);
          const slot = pick % m.m;
          const after = q.slice();
          after[slot] += by;
          const [a, b] = [forward(m, q), forward(m, after)];
          for (const [id, frame] of a.tools) {
            const way = vec3.distance(positionOf(frame), positionOf(b.tools.get(id)!));
            expect(way).toBeLessThanOrEqual(Math.abs(by) * reach[slot] * 1.05 + 1e-9);
          }
        },
      ),
    );
  });
});

describe('what a tool holds', () => {
  const loader = kilnLoader();
  const m = compiled(loader.mechanism);
  const [tool] = loader.mechanism.tools;
  const [payload] = loader.payloads;
  const key = heldKey({ tool: tool.id, payload: payload.id });
  const still = wayOf(m.m, 1, (_, out) => out.set(m.home));
  /** A block straight through the place of the payload at home. */
  const frame = forward(m, m.home).tools.get(tool.id)!;
  const at = positionOf(frame);
  const doc: Rig = {
    ...loader,
    spots: [],
    obstacles: [
      {
        ...{ kind: 'box', id: 'block', name: 'Block', rpyDeg: [0, 0, 0], fixedTo: 'world' },
        xyzMm: [at[0] * 1000, at[1] * 1000 + payload.sizeMm[1] * 0.45, at[2] * 1000 - 400],
        sizeMm: [600, payload.sizeMm[1] * 0.2, 800],
      } as Obstacle,
    ],
  };
  const scene = contactScene(doc, m, [{ tool: tool.id, payload: payload.id }]);
  const touched = (heldAt: (t: number) => ReadonlySet<string>): string[] =>
    sweptContacts(scene, still, heldAt)
      .filter((c) => c.a.name.includes(payload.name) || c.b.name.includes(payload.name))
      .map((c) => `${c.a.name}/${c.b.name}`);
  it('is there only while it is held', () => {
    expect(touched(() => new Set())).toEqual([]);
    expect(contactsAt(scene, m.home).some((c) => c.a.held ?? c.b.held)).toBe(false);
  });
  it('may touch what it is taken from, but not what it is carried into', () => {
    const whole = contactsAt(scene, m.home, new Set([key])).filter((c) => c.a.held ?? c.b.held);
    expect(whole.length).toBeGreaterThan(0);
    // Taken right there: it stood in the block before.
    expect(touched((t) => (t < 0.5 ? new Set() : new Set([key])))).toEqual([]);
    // Carried into it: held all along, elsewhere at first.
    const rail = m.slotOf.get('rail')!;
    const move = wayOf(m.m, 1, (t, out) => {
      out.set(m.home);
      out[rail] += (1 - t) * 0.25;
    });
    const into = sweptContacts(scene, move, () => new Set([key]));
    expect(into.some((c) => [c.a.name, c.b.name].includes('Block'))).toBe(true);
  });
});
