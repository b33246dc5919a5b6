import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { commandMaps, isSpin, resolutionAt } from '../actuators';
import { spinningDipper } from '../actuators/spin.testkit';
import { compiled } from '../kinematics/arms.testkit';
import type { Mechanism } from '../mechanism';
import { sampleBuffers, shareOf, type SteppedMotion } from '../motion';
import { plannedMotion, type MotionChoice } from '../rig';
import { planMotion, planRoutine } from '../routine';
import { commandedMotion } from './law';
import { commandTable } from './table';
import { between } from '../units/between.testkit';
import { atLeast, atMost, below } from '../units/held.testkit';

const spinning = spinningDipper().rig;
const arms = [...demoRigs().map(({ rig }) => rig), spinning].map((rig) => {
  const mechanism = compiled(rig.mechanism);
  const build = rig.builds[0];
  const motions = rig.routines.map((routine) => planMotion(planRoutine(rig, mechanism, build, routine)));
  return {
    rig,
    mechanism,
    maps: commandMaps(rig, mechanism, build),
    motions: motions.filter((m) => m.durationS > 0),
  };
});
const armed = fc
  .constantFrom(...arms)
  .chain((arm) => fc.constantFrom(...arm.motions).map((motion) => ({ ...arm, motion })));
const lowPass = fc.record({
  school: fc.constant('low-pass' as const),
  timeConstantS: between(0.005, 2),
  loopMs: between(0.5, 60),
  wholePer: fc.constantFrom(null, 1, 10, 256),
  rocking: fc.constant(null),
});

/** The board's own loop, one after the other from the beginning. */
function byLoops(
  mechanism: Mechanism,
  maps: (typeof arms)[number]['maps'],
  motion: SteppedMotion,
  { timeConstantS, loopMs, wholePer }: MotionChoice,
  t: number,
): Float64Array {
  const h = loopMs / 1000;
  const share = shareOf(timeConstantS, h);
  const counts = new Float64Array(mechanism.m);
  for (const map of maps)
    if (!isSpin(map))
      resolutionAt(map, mechanism, mechanism.home)?.forEach((unit, k) => {
        const s = map.slots[k];
        if (unit > 0) counts[s] = Math.max(counts[s], (wholePer ?? 0) / (unit * mechanism.siPerUnit[s]));
      });
  const y = motion.start.slice();
  for (let done = 0; (done + 1) * h <= t + 1e-9; done++) {
    const x = motion.stretches.findLast((stretch) => stretch.startS <= done * h + 1e-9)!.to;
    for (let s = 0; s < y.length; s++) {
      const way = share * (x[s] - y[s]);
      y[s] += wholePer === null ? way : Math.trunc(way * (counts[s] || 1e6)) / (counts[s] || 1e6);
    }
  }
  return y;
}

const of = (motion: { sampleInto: SteppedMotion['sampleInto']; start: Float64Array }, t: number) => {
  const [q, v, a] = sampleBuffers(motion.start.length);
  motion.sampleInto(q, v, a, t);
  return { q, v, a };
};
const spun = ({ mechanism, maps }: Pick<(typeof arms)[number], 'mechanism' | 'maps'>): boolean[] =>
  Array.from({ length: mechanism.m }, (_, s) => {
    const mine = maps.filter((map) => map.slots.includes(s));
    return mine.length > 0 && mine.every(isSpin);
  });

describe('what motors are told', () => {
  it('through a low pass is what the board’s loop makes of the targets, whatever moment is asked for first', () => {
    fc.assert(
      fc.property(armed, lowPass, fc.array(between(0, 1), { minLength: 3, maxLength: 3 }), (arm, choice, shares) => {
        const { mechanism, maps, motion } = arm;
        const told = commandedMotion(mechanism, maps, motion, choice);
        const isSpun = spun(arm);
        for (const share of shares) {
          // Half of a loop away from its edges, where rounding could fall either way.
          const h = choice.loopMs / 1000;
          const t = (Math.floor((share * told.durationS) / h) + 0.5) * h;
          if (t >= told.durationS) continue;
          const expected = byLoops(mechanism, maps, motion, choice, t);
          const { q } = of(told, t);
          // One count off is what a sum of rounded shares may differ by.
          for (let s = 0; s < mechanism.m; s++)
            if (!isSpun[s]) below(Math.abs(q[s] - expected[s]), choice.wholePer === null ? 1e-9 : 0.02);
        }
      }),
      { numRuns: 40 },
    );
  });
  it('begins where the motion does, never leaves what it was told to be between, and comes to where it ends', () => {
    fc.assert(
      fc.property(armed, lowPass, between(0, 1), (arm, choice, share) => {
        const { mechanism, maps, motion } = arm;
        const told = commandedMotion(mechanism, maps, motion, choice);
        const isSpun = spun(arm);
        of(told, -1).q.forEach((v, s) => expect(v).toBeCloseTo(motion.start[s], 12));
        expect(told.durationS).toBeGreaterThanOrEqual(motion.durationS);
        const { q } = of(told, share * told.durationS);
        const end = of(told, told.durationS);
        for (let s = 0; s < mechanism.m; s++) {
          if (isSpun[s]) continue;
          const places = [motion.start[s], ...motion.stretches.map(({ to }) => to[s])];
          atLeast(q[s], Math.min(...places) - 1e-9);
          atMost(q[s], Math.max(...places) + 1e-9);
          expect(end.v[s]).toBe(0);
          // In whole numbers a loop stops short; with fractions it has settled.
          if (choice.wholePer === null && choice.loopMs / 1000 < choice.timeConstantS)
            expect(Math.abs(end.q[s] - places.at(-1)!) / mechanism.siPerUnit[s]).toBeLessThan(0.1);
        }
      }),
      { numRuns: 60 },
    );
  });
  it('tells as its speed what the steps of the loop come to', () => {
    const { mechanism, maps, motions } = arms[0];
    const choice: MotionChoice = { ...plannedMotion, school: 'low-pass', loopMs: 1, timeConstantS: 0.2 };
    const told = commandedMotion(mechanism, maps, motions[0], choice);
    for (let t = 0.0005; t < 8; t += 0.05) {
      const [here, next] = [of(told, t), of(told, t + 0.001)];
      for (let s = 0; s < mechanism.m; s++)
        // A loop's share of the way is e^(−h/τ) short of h/τ.
        expect((next.q[s] - here.q[s]) / 0.001).toBeCloseTo(here.v[s] * (shareOf(0.2, 0.001) * 200), 2);
    }
  });
  it('at once is the target of the step under way; planned, it is the motion itself', () => {
    fc.assert(
      fc.property(armed, between(0, 1), (arm, share) => {
        const { mechanism, maps, motion } = arm;
        expect(commandedMotion(mechanism, maps, motion, plannedMotion)).toBe(motion);
        const told = commandedMotion(mechanism, maps, motion, { ...plannedMotion, school: 'jump' });
        expect(told.durationS).toBe(motion.durationS);
        const t = share * motion.durationS;
        const { to } = motion.stretches.findLast(({ startS }) => startS <= t)!;
        const [here, planned] = [of(told, t), of(motion, t)];
        spun(arm).forEach((isSpun, s) => {
          expect(here.q[s]).toBe(isSpun ? planned.q[s] : to[s]);
          expect(here.v[s]).toBe(isSpun ? planned.v[s] : 0);
        });
      }),
    );
  });
  it('keeps the planned speeds of motors that are sent speeds, by every school', () => {
    const { mechanism, maps, motions } = arms.at(-1)!;
    const slots = spun(arms.at(-1)!).flatMap((isSpun, s) => (isSpun ? [s] : []));
    expect(slots).not.toEqual([]);
    let turned = 0;
    for (const school of ['low-pass', 'jump'] as const)
      for (const motion of motions) {
        const told = commandedMotion(mechanism, maps, motion, { ...plannedMotion, school });
        for (let t = 0; t < motion.durationS; t += 0.11)
          for (const s of slots) {
            expect(of(told, t).v[s]).toBe(of(motion, t).v[s]);
            turned += Math.abs(of(motion, t).v[s]);
          }
      }
    expect(turned).toBeGreaterThan(0);
  });
});

describe('a motion', () => {
  it('ends: what was spinning is told to stand then, and only then', () => {
    const { rig, mechanism } = arms.at(-1)!;
    let cuts = 0;
    for (const routine of rig.routines) {
      const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
      plan.blocks.forEach(({ block, startS }, k) => {
        if (block.kind !== 'spinning') return;
        cuts++;
        const durationS = startS + block.duration;
        const cut = planMotion({ ...plan, blocks: plan.blocks.slice(0, k + 1), durationS });
        expect(of(cut, durationS - 1e-6).v.some((v) => v !== 0)).toBe(true);
        expect([...of(cut, durationS).v, ...of(cut, durationS + 1).v].every((v) => v === 0)).toBe(true);
      });
    }
    expect(cuts).toBeGreaterThan(0);
  });
});

describe('the table of commands', () => {
  it('holds for each row the whole numbers of that moment, and none outside a motor’s range', () => {
    const school = fc.constantFrom('planned' as const, 'low-pass' as const, 'jump' as const);
    fc.assert(
      fc.property(armed, school, fc.integer({ min: 5, max: 60 }), ({ mechanism, maps, motion }, name, hz) => {
        const told = commandedMotion(mechanism, maps, motion, { ...plannedMotion, school: name });
        const table = commandTable(mechanism, maps, told, hz);
        expect(table.timeS.at(-1)).toBe(told.durationS);
        maps.forEach((map, k) => {
          const { low, high } = isSpin(map) ? map : map.native;
          for (const value of table.natives[k]) {
            atLeast(value, low);
            atMost(value, high);
          }
          if (isSpin(map)) expect(table.natives[k].at(-1)).toBe(map.stopUs);
        });
      }),
      { numRuns: 20 },
    );
  });
});
