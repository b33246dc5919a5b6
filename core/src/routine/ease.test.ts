import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { admit } from '../admit';
import { finish } from '../jobs';
import { alongJob, loadedMotors, Loading, LoadsOnPath, type LoadsAlong } from '../loads';
import { blockMotion, lineSegment, sampleBuffers } from '../motion';
import type { Mechanism } from '../mechanism';
import type { Respect, Rig } from '../rig';
import { Ease } from './ease';
import { heldAlong, heldBack, MoveCache, planMotion, planRoutine } from './index';
import { blocksOf, type MadeBlock } from './legs';

const made = (document: Rig, id: string) => {
  const admitted = admit(document);
  if (!admitted.ok) throw new Error(admitted.faults[0].message);
  const { rig, mechanism } = admitted;
  const plan = planRoutine(
    rig,
    mechanism,
    rig.builds[0],
    rig.routines.find((r) => r.id === id)!,
  );
  const motion = planMotion(plan);
  const along: LoadsAlong = finish(alongJob(rig, mechanism, motion, heldAlong(rig, mechanism, plan)));
  return { rig, mechanism, plan, motion, along };
};
/** A rig of the demo with weaker motors or nearer feet, whose routine is slowed down for it or not. */
const changed = (document: Rig, id: string, strength: number, feet: number, respect: Respect[]): Rig => {
  const rig = structuredClone(document);
  for (const drive of rig.drives) {
    drive.stallNm *= strength;
    if (drive.holdNm !== undefined) drive.holdNm *= strength;
    drive.torqueAtSpeed?.forEach((point) => (point.nm *= strength));
  }
  rig.mechanism.base.feet = rig.mechanism.base.feet.map(([x, y]) => [x * feet, y * feet]);
  const routine = rig.routines.find((r) => r.id === id)!;
  routine.respect = respect;
  // Corners that are rounded: several steps in one block.
  for (const step of routine.steps) if (step.kind === 'joint-move' && !('durationS' in step.pace)) step.blendMm = 25;
  return rig;
};
const cases = demoRigs().flatMap(({ rig }) =>
  rig.routines
    .filter(({ id }) => ['stir', 'fold', 'nod', 'lift', 'rosette'].includes(id))
    .map(({ id }) => [rig, id] as const),
);
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });

describe('moves slowed down for loads', () => {
  it('leave every motor and the base what they have, but for what is too much at rest, on the same way', () => {
    let slowed = 0;
    fc.assert(
      fc.property(
        fc.constantFrom(...cases),
        number(0.2, 0.8),
        number(0.8, 1),
        fc.subarray<Respect>(['torque', 'tip'], { minLength: 1 }),
        ([document, id], strength, feet, respect) => {
          const free = made(changed(document, id, strength, feet, []), id);
          const kept = made(changed(document, id, strength, feet, respect), id);
          const motors = loadedMotors(kept.rig, kept.mechanism);
          // What goes beside other moves, or spins, is told by what is found about it instead.
          const plain = kept.plan.blocks.every(({ block }) =>
            ['move', 'own-pace', 'path', 'hold'].includes(block.kind),
          );
          if (!plain || kept.plan.endlessFromS !== null) return;
          if (respect.includes('torque'))
            kept.along.weak
              .filter(({ kind }) => kind === 'over')
              .forEach(({ motor, atS }) => {
                // Standing there, about to go up, hardly anything would be left too.
                const i = kept.along.timeS.findIndex((t) => t >= atS - 1e-9);
                const isWeak = restNeeds(kept, motor, kept.along.timeS[i]) > 0.95;
                expect([motors[motor].drive.name, isWeak]).toEqual([motors[motor].drive.name, true]);
              });
          expect(kept.plan.durationS).toBeGreaterThanOrEqual(free.plan.durationS - 1e-9);
          const says = kept.plan.findings.filter(({ code }) => code === 'slowed-for-load');
          if (kept.plan.durationS > free.plan.durationS + 1e-6) {
            slowed++;
            expect(says.length).toBeGreaterThan(0);
            const reasons = heldBack(kept.mechanism, kept.plan).map(({ by }) => by);
            expect(reasons.some((by) => by === 'torque' || by === 'tip')).toBe(true);
          } else expect(says).toEqual([]);
          // A step ends where it ended.
          const [q, p, v, a] = [new Float64Array(kept.mechanism.m), ...sampleBuffers(kept.mechanism.m)];
          const placesAt = (t: number, u: number): void => {
            kept.motion.sampleInto(q, v, a, t);
            free.motion.sampleInto(p, v, a, u);
          };
          kept.plan.steps.forEach(({ endS }, k) => {
            placesAt(endS, free.plan.steps[k].endS);
            for (let s = 0; s < q.length; s++) expect(q[s]).toBeCloseTo(p[s], 6);
          });
          // Steps begin and end with their blocks, one after the other, as they did.
          expect(kept.plan.steps.map(({ stepId }) => stepId)).toEqual(free.plan.steps.map(({ stepId }) => stepId));
          for (const { block, startS, stepId } of kept.plan.blocks) {
            const step = kept.plan.steps.find((s) => s.stepId === stepId && s.endS >= startS + block.duration - 1e-6);
            if (step && kept.plan.steps.filter((s) => s.stepId === stepId).length === 1)
              expect(step.startS).toBeLessThanOrEqual(startS + 1e-6);
          }
          expect(Math.max(...kept.plan.steps.map(({ endS }) => endS))).toBeCloseTo(kept.plan.durationS, 6);
          // The same way: every block goes through the places it went through, in the same order.
          expect(kept.plan.blocks.length).toBe(free.plan.blocks.length);
          kept.plan.blocks.forEach(({ startS, block }, k) => {
            const before = free.plan.blocks[k];
            let from = 0;
            for (const share of [0.13, 0.5, 0.81]) {
              const at = startS + share * block.duration;
              let [near, nearest] = [from, Infinity];
              const off = (u: number): number => {
                placesAt(at, before.startS + u * before.block.duration);
                return q.reduce((sum, value, s) => sum + Math.abs(value - p[s]), 0);
              };
              for (let u = from; u <= 1; u += 0.01) if (off(u) < nearest) [near, nearest] = [u, off(u)];
              // Nearer and nearer to the place that it passed.
              for (let step = 0.005; step > 1e-9; step /= 2)
                for (const u of [near - step, near + step])
                  if (u >= 0 && u <= 1 && off(u) < nearest) [near, nearest] = [u, off(u)];
              expect(nearest).toBeLessThan(1e-5);
              expect(near).toBeGreaterThanOrEqual(from - 0.01);
              from = near;
            }
          });
        },
      ),
      { numRuns: 7 },
    );
    expect(slowed).toBeGreaterThan(0);
  });
  it.each([
    ['tile-dipper', 'stir'],
    ['kiln-shelf-loader', 'fold'],
  ])(
    '%s: leave the base on its feet where it stands at rest, and would tip at the pace that was asked',
    (rigId, id) => {
      const document = demoRigs().find((d) => d.id === rigId)!.rig;
      // Feet so near that at rest a hair's breadth is left: what is left grows in pieces of straight lines with how far out they are.
      const wide = made(changed(document, id, 9, 1, []), id);
      const rest = (feet: number): number => restTips({ ...wide, rig: changed(document, id, 9, feet, []) });
      let [far, near] = [1, 0.9];
      let [most, less] = [rest(far), rest(near)];
      for (let i = 0; i < 6 && Math.abs(less - 0.0002) > 2e-5; i++) {
        const next = near + ((0.0002 - less) * (far - near)) / (most - less);
        [far, most] = [near, less];
        [near, less] = [next, rest(next)];
      }
      expect(less).toBeCloseTo(0.0002, 4);
      const [free, kept] = ([[], ['tip']] as Respect[][]).map((respect) =>
        made(changed(document, id, 9, near, respect), id),
      );
      expect(Math.min(...free.along.tip!)).toBeLessThan(0);
      expect(Math.min(...kept.along.tip!)).toBeGreaterThanOrEqual(-1e-5);
      // It goes as fast as it may: near its edge somewhere.
      expect(Math.min(...kept.along.tip!)).toBeLessThan(0.00025);
      expect(kept.plan.durationS).toBeGreaterThan(free.plan.durationS);
    },
  );
  it('keep their rounded corners', () => {
    const rig = tileDipper();
    // Hardly any torque is left at half the joints' speeds.
    for (const drive of rig.drives) drive.torqueAtSpeed = [{ degPerS: 60, nm: 0.001 }];
    const move = (id: string, shoulder: number) =>
      ({
        ...{ kind: 'joint-move', id, enabled: true, note: '', pace: { speedShare: 1 } },
        ...{ target: { joints: { shoulder, elbow: 80 - shoulder } }, blendMm: 25 },
      }) as Rig['routines'][number]['steps'][number];
    const routine = rig.routines.find(({ id }) => id === 'dip')!;
    routine.steps = [move('a', 10), move('b', 40), move('c', 0), move('d', 30)];
    const free = made(rig, 'dip');
    routine.respect = ['torque'];
    const kept = made(rig, 'dip');
    expect(free.plan.blocks.length).toBeLessThan(4);
    expect(kept.plan.durationS).toBeGreaterThan(1.2 * free.plan.durationS);
    const at = ({ motion, plan, mechanism }: typeof kept, k: number): number[] => {
      const [q, v, a] = sampleBuffers(mechanism.m);
      motion.sampleInto(q, v, a, plan.steps[k].endS);
      return Array.from(q);
    };
    kept.plan.steps.forEach((_, k) =>
      at(kept, k).forEach((value, s) => expect(value).toBeCloseTo(at(free, k)[s], 6)),
    );
    expect(kept.along.weak.filter(({ kind }) => kind === 'over')).toEqual([]);
  });
  it.each(['s-curve', 'trapezoid', 'minimum-jerk'] as const)(
    '%s: slow down where they have to, never more than slowed as a whole, and keep all limits',
    (profile) => {
      let [gained, slowed] = [0, 0];
      fc.assert(
        fc.property(
          fc.constantFrom(...demoRigs().map(({ rig }) => rig)),
          fc.array(fc.integer({ min: 5, max: 95 }), { minLength: 16, maxLength: 16 }),
          fc.integer({ min: 20, max: 70 }),
          (document, shares, strength) => {
            const admitted = admit(changed(document, document.routines[0].id, strength / 100, 1, ['torque']));
            if (!admitted.ok) throw new Error(admitted.faults[0].message);
            const { rig, mechanism } = admitted;
            const pose = (k: number): Float64Array =>
              mechanism.home.map((home, s) => {
                const [low, high] = [Math.max(-2, mechanism.lower[s]), Math.min(2, mechanism.upper[s])];
                return mechanism.delta ? home : low + ((high - low) * shares[(s + k) % 16]) / 100;
              });
            const [from, to] = [pose(0), pose(8)];
            const leg = {
              ...{ ref: null as never, from, to, segment: lineSegment(from, to), tool: undefined, pace: { profile } },
              ...{ toolSpeed: Infinity, ownPace: false, blend: 0, key: 'move' },
            };
            const [block] = blocksOf(mechanism, [leg], (_, make) => make()).blocks;
            if (!block) return;
            const burden = { carried: new Map(), mounted: new Set<string>(), loose: new Set<number>() };
            const eased = (it: MadeBlock): MadeBlock =>
              new Ease(rig, mechanism, new MoveCache()).eased(it, ['torque'], burden);
            const [kept, whole] = [eased(block), eased({ ...block, bearing: () => null })];
            expect(kept.block.duration).toBeLessThanOrEqual(whole.block.duration);
            expect(kept.ends.map(({ s }) => s)).toEqual([kept.block.duration]);
            // Retimed by itself it hardly asks for too much: with steps of acceleration nowhere at a node, on either side of it.
            const load = new LoadsOnPath(new Loading(rig, mechanism), ['torque'], burden.loose);
            const retimed = block.bearing(load)?.block;
            if (retimed?.kind === 'path' && retimed.curve.kind === 'retimed') {
              const { curve, stretch } = retimed;
              const [q, v, a] = sampleBuffers(mechanism.m);
              const least = Array.from(curve.t)
                .flatMap((t) =>
                  [t - 1e-7, t + 1e-7].map((at) => {
                    blockMotion(retimed).sampleInto(q, v, a, at * stretch);
                    return load.paceAt(q, v, a);
                  }),
                )
                .reduce((x, y) => Math.min(x, y), 1);
              expect(least).toBeGreaterThan(profile === 'trapezoid' ? 0.999 : 0.95);
            }
            if (whole.block.duration > block.block.duration) slowed++;
            if (kept.block.duration < 0.9 * whole.block.duration) gained++;
            const [q, v, a] = sampleBuffers(mechanism.m);
            for (let i = 1; i < 200; i++) {
              blockMotion(kept.block).sampleInto(q, v, a, (kept.block.duration * i) / 200);
              for (let s = 0; s < mechanism.m; s++) {
                expect(Math.abs(v[s]) / mechanism.speed[s]).toBeLessThan(1 + 1e-5);
                expect(Math.abs(a[s]) / mechanism.accel[s]).toBeLessThan(1 + 1e-5);
              }
            }
          },
        ),
        { numRuns: 15 },
      );
      expect(slowed).toBeGreaterThan(0);
      // A profile that was chosen for its form keeps it.
      if (profile === 'minimum-jerk') expect(gained).toBe(0);
      else expect(gained).toBeGreaterThan(0);
    },
  );
  /** A move of shoulder and elbow by itself. */
  const lonely = (rig: Rig, mechanism: Mechanism, speedShare: number) => {
    const to = mechanism.home.map((v, s) => v + (s === 1 ? 0.5 : s === 2 ? -0.7 : 0));
    const leg = {
      ...{ ref: null as never, from: mechanism.home, to, segment: lineSegment(mechanism.home, to), tool: undefined },
      ...{
        pace: { profile: 'trapezoid' as const, speedShare },
        toolSpeed: Infinity,
        ownPace: false,
        blend: 0,
        key: '',
      },
    };
    const [block] = blocksOf(mechanism, [leg], (_, make) => make()).blocks;
    return { block, load: new LoadsOnPath(new Loading(rig, mechanism), ['torque'], new Set()) };
  };
  it.each([0.25, 1])('retimed with rows that bind nowhere take as long as without, at a share of %s too', (share) => {
    const { rig, mechanism } = made(changed(tileDipper(), 'dip', 900, 1, []), 'dip');
    const { block, load } = lonely(rig, mechanism, share);
    expect(block.bearing(load)!.block.duration / block.block.duration).toBeCloseTo(1, 1.5);
  });
  it('are worked out again for other motors, and for joints that are let go, though moves are kept', () => {
    const cache = new MoveCache();
    const none = new Set<number>();
    const eased = (strength: number, loose: ReadonlySet<number>): number => {
      const document = tileDipper();
      for (const drive of document.drives) drive.torqueAtSpeed = [{ degPerS: 200 * strength, nm: 0.001 }];
      const { rig, mechanism } = made(document, 'dip');
      const { block } = lonely(rig, mechanism, 1);
      const burden = { carried: new Map<string, string>(), mounted: new Set<string>(), loose };
      return new Ease(rig, mechanism, cache).eased(block, ['torque'], burden).block.duration;
    };
    const [strong, weak] = [eased(900, none), eased(0.3, none)];
    expect(weak).toBeGreaterThan(strong);
    expect(eased(0.3, new Set([0, 1, 2, 3, 4]))).toBe(strong);
    expect(eased(0.3, none)).toBe(weak);
    expect(eased(900, none)).toBe(strong);
  });
  it('stay as they are where a motor has not even what its friction takes: no pace helps that', () => {
    const document = tileDipper();
    for (const joint of document.mechanism.joints) if (joint.type !== 'fixed') joint.friction = 50;
    const { rig, mechanism } = made(document, 'dip');
    const { block } = lonely(rig, mechanism, 1);
    const burden = { carried: new Map<string, string>(), mounted: new Set<string>(), loose: new Set<number>() };
    const eased = new Ease(rig, mechanism, new MoveCache()).eased(block, ['torque', 'tip'], burden);
    expect(eased.block.duration).toBe(block.block.duration);
  });
  it('are as they were where nothing is asked for, or nothing is too much', () => {
    const plain = made(changed(tileDipper(), 'dip', 1, 1, []), 'dip');
    const asked = made(changed(tileDipper(), 'dip', 1, 1, ['torque', 'tip']), 'dip');
    expect(asked.plan.durationS).toBe(plain.plan.durationS);
    expect(asked.plan.steps).toEqual(plain.plan.steps);
  });
});

/** What a motor would be asked for standing at a moment's pose, of what it has. */
function restNeeds({ rig, mechanism, plan, motion }: ReturnType<typeof made>, motor: number, t: number): number {
  const q = new Float64Array(mechanism.m);
  motion.sampleInto(q, new Float64Array(mechanism.m), new Float64Array(mechanism.m), t);
  const still = { durationS: 0.02, start: q, stretches: [], sampleInto: hold(q) };
  const held = heldAlong(rig, mechanism, plan).findLast(({ fromS }) => fromS <= t)!;
  const { worst } = finish(alongJob(rig, mechanism, still, [{ ...held, fromS: 0 }]));
  const { needNm, usableNm } = worst[motor].ask;
  return usableNm ? needNm / usableNm : 0;
}
const hold =
  (at: Float64Array) =>
  (q: Float64Array, v: Float64Array, a: Float64Array): void => {
    q.set(at);
    v.fill(0);
    a.fill(0);
  };
/** The least margin of all places on the way, standing there. */
function restTips({ rig, mechanism, plan, motion }: ReturnType<typeof made>): number {
  const slow = {
    ...motion,
    sampleInto(q: Float64Array, v: Float64Array, a: Float64Array, t: number) {
      motion.sampleInto(q, v, a, t);
      v.fill(0);
      a.fill(0);
    },
  };
  return Math.min(...finish(alongJob(rig, mechanism, slow, heldAlong(rig, mechanism, plan))).tip!);
}
