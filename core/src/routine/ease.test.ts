import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { admit } from '../admit';
import { finish } from '../jobs';
import { alongJob, loadedMotors, type LoadsAlong } from '../loads';
import { sampleBuffers } from '../motion';
import type { Respect, Rig } from '../rig';
import { heldAlong, heldBack, planMotion, planRoutine } from './index';

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
  it('leave every motor and the base what they have, but for what is too much at rest; and nothing quicker would', () => {
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
                // Standing there, about to go up, it would be too much too.
                const i = kept.along.timeS.findIndex((t) => t >= atS - 1e-9);
                const isWeak = restNeeds(kept, motor, kept.along.timeS[i]) > 0.99;
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
          // What happened at a moment of a block happens at the same share of it.
          const later = (t: number): number => {
            const k = free.plan.blocks.findLastIndex(({ startS }) => startS <= t + 1e-9);
            if (k < 0) return t;
            const [a, b] = [free.plan.blocks[k], kept.plan.blocks[k]];
            return b.startS + ((t - a.startS) * b.block.duration) / a.block.duration;
          };
          kept.plan.steps.forEach(({ endS }, k) => expect(endS).toBeCloseTo(later(free.plan.steps[k].endS), 6));
          // Steps begin and end with their blocks, one after the other, as they did.
          expect(kept.plan.steps.map(({ stepId }) => stepId)).toEqual(free.plan.steps.map(({ stepId }) => stepId));
          for (const { block, startS, stepId } of kept.plan.blocks) {
            const step = kept.plan.steps.find((s) => s.stepId === stepId && s.endS >= startS + block.duration - 1e-6);
            if (step && kept.plan.steps.filter((s) => s.stepId === stepId).length === 1)
              expect(step.startS).toBeLessThanOrEqual(startS + 1e-6);
          }
          expect(Math.max(...kept.plan.steps.map(({ endS }) => endS))).toBeCloseTo(kept.plan.durationS, 6);
          // The same way: every block goes through the places it went through, in the same shares of its time.
          expect(kept.plan.blocks.length).toBe(free.plan.blocks.length);
          const [q, p, v, a] = [new Float64Array(kept.mechanism.m), ...sampleBuffers(kept.mechanism.m)];
          kept.plan.blocks.forEach(({ startS, block }, k) => {
            const before = free.plan.blocks[k];
            for (const share of [0.13, 0.5, 0.81]) {
              kept.motion.sampleInto(q, v, a, startS + share * block.duration);
              free.motion.sampleInto(p, v, a, before.startS + share * before.block.duration);
              for (let s = 0; s < q.length; s++) expect(q[s]).toBeCloseTo(p[s], 6);
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
  it('keep their rounded corners, and each step ends at its own share of the longer way', () => {
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
    for (const [k, { endS }] of kept.plan.steps.entries())
      expect(endS / kept.plan.durationS).toBeCloseTo(free.plan.steps[k].endS / free.plan.durationS, 6);
    expect(kept.along.weak.filter(({ kind }) => kind === 'over')).toEqual([]);
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
