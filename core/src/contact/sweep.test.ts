import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { finish, type Job } from '../jobs';
import { forward } from '../kinematics';
import { compiled, poseOf } from '../kinematics/arms.testkit';
import { apply, positionOf, vec3, type Vec3 } from '../linear';
import { type Motion, poseAt } from '../motion';
import { wayOf } from '../motion/motion.testkit';
import { presets, rigFromPreset } from '../presets';
import type { Obstacle, Rig } from '../rig';
import { contactScene, contactsAt, heldKey, reachOfSlots, sweepJob, sweptContacts } from './index';
import { PairWatch } from './pair-watch';
import { Placing } from './placed';
import type { Solid } from './solids';
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

const presetRigs = (): Rig[] =>
  presets.flatMap((preset) => {
    const made = rigFromPreset(preset, 'Try');
    return made.ok ? [made.value] : [];
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
  it('is as a fine walk of looks, for every kind of arm, however it moves and whatever stands around', () => {
    const seen = { touching: 0, free: 0, held: 0 };
    const shares = (length: number) => fc.array(between(0, 1), { minLength: length, maxLength: length });
    const way = fc.tuple(between(0.1, 0.9), fc.nat(), between(8, 60), fc.boolean());
    fc.assert(
      fc.property(
        fc.constantFrom(...demoRigs().map(({ rig: demo }) => demo), ...presetRigs()),
        shares(24),
        shares(24),
        way,
        fc.constantFrom(0.3, 1, 4),
        (doc, f, g, [when, where, size, isRound], seconds) => {
          const m = compiled(doc.mechanism);
          const payload = doc.payloads[0];
          const mounted = doc.mechanism.tools.find((tool) => tool.mounted);
          const carried = payload && mounted ? [{ tool: mounted.id, payload: payload.id }] : [];
          const [from, to] = m.delta ? [m.home, m.home] : [poseOf(m, f), poseOf(m, g)];
          // There and a part of the way back, so that joints turn round between two samples.
          const motion = wayOf(m.m, seconds, (t, out) => {
            for (let s = 0; s < m.m; s++) {
              const swing = Math.sin((2.6 * t) / seconds + (m.delta ? 2 * f[s] : 0));
              out[s] = from[s] + (to[s] - from[s]) * swing + (m.delta ? 0.25 * (g[s] - 0.5) * swing : 0);
            }
          });
          // A small thing where a joint or a tip comes by.
          const frames = forward(m, poseAt(motion, when * seconds));
          const places = [...frames.joints.values(), ...frames.tools.values()];
          const shape = isRound
            ? { kind: 'cylinder', radiusMm: size / 2, heightMm: size }
            : { kind: 'box', sizeMm: [size, size * 0.6, size * 1.4] };
          const thing = {
            ...{ id: 'thing', name: 'Thing', rpyDeg: [10, 0, 40], fixedTo: 'world', ...shape },
            xyzMm: vec3.scale(positionOf(places[where % places.length]), 1000),
          } as Obstacle;
          const scene = contactScene({ ...doc, obstacles: [...doc.obstacles, thing] }, m, carried);
          const keys: ReadonlySet<string> = new Set(carried.map(heldKey));
          const heldAt = (t: number): ReadonlySet<string> => (t > seconds / 3 ? keys : new Set());
          const found = sweptContacts(scene, motion, heldAt);
          const pairOf = (c: { a: { name: string }; b: { name: string } }): string => `${c.a.name}/${c.b.name}`;
          const deepest = new Map<string, number>();
          const WALK = 240;
          for (let k = 0; k <= WALK; k++) {
            const t = (seconds * k) / WALK;
            for (const contact of contactsAt(scene, poseAt(motion, t), heldAt(t))) {
              // What is taken up or put down may touch; what that is, is told elsewhere.
              if (contact.a.held ?? contact.b.held) {
                seen.held++;
                continue;
              }
              deepest.set(pairOf(contact), Math.max(deepest.get(pairOf(contact)) ?? 0, contact.depth));
            }
          }
          const told = new Map(found.map((c) => [pairOf(c), c.depth]));
          for (const [pair, depth] of deepest) {
            if (depth < 0.0045) continue;
            seen.touching++;
            expect([pair, told.get(pair) ?? 0]).toEqual([pair, expect.toSatisfy((d: number) => d > depth - 0.004)]);
          }
          if (!deepest.size) seen.free++;
          // Nothing is told that is not there.
          for (const contact of found) {
            const there = contactsAt(scene, poseAt(motion, contact.deepestS), keys);
            const same = there.find((c) => pairOf(c) === pairOf(contact));
            expect(same?.depth).toBeCloseTo(contact.depth, 6);
          }
        },
      ),
      { numRuns: Math.max(10, (fc.readConfigureGlobal().numRuns ?? 20) >> 2) },
    );
    for (const count of Object.values(seen)) expect(count).toBeGreaterThan(0);
  });
  it('was deepest when the arm came there, however long it stands there after', () => {
    const scene = contactScene(among(crate([220, 0, 0], [40, 40, 250])), mechanism);
    // Nearer and nearer by a share of what is left, as a low pass goes, and long after that away again.
    const motion = wayOf(mechanism.m, 12, (t, out) => {
      out.set(mechanism.home);
      out[0] = -0.9 + 0.85 * (1 - Math.exp(-t / 0.2)) - (t > 10 ? 0.4 * (t - 10) : 0);
      out[1] = 1.2;
      out[2] = 0.3;
    });
    const found = sweptContacts(scene, motion);
    expect(found.length).toBeGreaterThan(0);
    for (const { deepestS, untilS } of found) {
      expect(deepestS).toBeLessThan(3);
      expect(untilS).toBeGreaterThan(10);
    }
  });
  it('of a long day looks to its very end', () => {
    const scene = contactScene(among(crate([220, 0, 0], [40, 40, 250])), mechanism);
    // Thousands of swings beside the crate, and one into it at the end.
    const [swings, each] = [1500, 2];
    const seconds = (swings + 1) * each;
    const motion = wayOf(mechanism.m, seconds, (t, out) => {
      out.set(mechanism.home);
      const last = t > swings * each;
      out[0] = last ? -1.4 + 1.4 * ((t - swings * each) / each) : -1.4 + 0.35 * Math.sin((Math.PI * t) / each) ** 2;
      out[1] = 1.2;
      out[2] = 0.3;
    });
    const found = sweptContacts(scene, motion);
    expect(found.length).toBeGreaterThan(0);
    for (const { fromS } of found) expect(fromS).toBeGreaterThan(swings * each);
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

/** Points of a solid in its own frame: ends, corners. */
const pointsOf = (solid: Solid): Vec3[] =>
  solid.kind === 'capsule'
    ? [solid.a, solid.b]
    : solid.kind === 'below'
      ? []
      : [-1, 1].flatMap((x) =>
          [-1, 1].flatMap((y) =>
            [-1, 1].map((z) => vec3.add(solid.centre, [x * solid.half[0], y * solid.half[1], z * solid.half[2]])),
          ),
        );

describe('how far two parts may come towards each other', () => {
  it('is never less than any of their points do, for every kind of arm, and all but exact for one joint', () => {
    let sharpest = 0;
    fc.assert(
      fc.property(
        fc.constantFrom(...demoRigs().map(({ rig: demo }) => demo), ...presetRigs()),
        fc.array(between(0, 1), { minLength: 24, maxLength: 24 }),
        fc.array(between(-1, 1), { minLength: 24, maxLength: 24 }),
        fc.oneof(fc.constant(-1), fc.nat(23)),
        fc.nat(),
        (doc, f, by, only, pick) => {
          const m = compiled(doc.mechanism);
          if (m.delta) return;
          const scene = contactScene(doc, m);
          if (!scene.pairs.length) return;
          const pair = pick % scene.pairs.length;
          const q = poseOf(m, f);
          const watch = new PairWatch(scene, q);
          const still = new Float64Array(m.m);
          watch.look(pair);
          // As far as it goes until it has to be looked at again.
          const step = q.map((_, s) =>
            only < 0 || s === only % m.m ? by[s] * (m.siPerUnit[s] < 0.01 ? 0.05 : 0.3) : 0,
          );
          watch.consider(
            q.map((v, s) => v + step[s]),
            ...([still, still, 0.01] as const),
          );
          const share = Math.min(1, watch.leftOf(pair) / Math.max(1e-12, watch.wayOf(pair)));
          const next = q.map((v, s) => v + share * step[s]);
          watch.consider(next, still, still, 0.01);
          const way = watch.wayOf(pair);
          const [before, after] = [q, next].map((at) => {
            const placing = new Placing(m, scene.parts).at(at);
            const [a, b] = scene.pairs[pair].map((k) => {
              const { solid, frame } = placing.part(k);
              return pointsOf(solid).map((p) => apply(frame, p));
            });
            return a.flatMap((p) => (b.length ? b.map((r) => vec3.distance(p, r)) : [p[2]]));
          });
          let most = 0;
          before.forEach((d, k) => (most = Math.max(most, Math.abs(after[k] - d))));
          expect(most).toBeLessThanOrEqual(way * (1 + 1e-9) + 1e-12);
          if (way > 1e-4) sharpest = Math.max(sharpest, most / way);
        },
      ),
      { numRuns: 400 },
    );
    expect(sharpest).toBeGreaterThan(0.8);
  });
  it('counts what a joint does between two looks that end where they began', () => {
    const scene = contactScene(rig, mechanism);
    const watch = new PairWatch(scene, mechanism.home);
    const fast = new Float64Array(mechanism.m).fill(3);
    const pair = scene.pairs.findIndex(([i, j]) => scene.parts[i].joint > 0 || scene.parts[j].joint > 0);
    watch.look(pair);
    watch.consider(mechanism.home, fast, fast, 0.02);
    expect(watch.wayOf(pair)).toBeGreaterThan(0);
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
