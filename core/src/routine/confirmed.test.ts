import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { Channels, fingerprint } from '../commands';
import { describe as described } from '../firmware';
import { linedBoards, nativeAt } from '../actuators';
import { compiled } from '../kinematics/arms.testkit';
import { seededRandom } from '../linear';
import { confirmedLimits, fromUnit, inUnit, type Mechanism } from '../mechanism';
import { poseAt } from '../motion';
import type { Rig } from '../rig';
import { fixOf } from './mends';
import { planMotion, planParts, planRoutine } from './index';

/** Demo rigs of which some joints were moved part of their way, home included. */
const rigs = demoRigs().flatMap(({ id, rig: whole }) => {
  const random = seededRandom(id.length);
  return Array.from({ length: 3 }, (_, k): [string, Rig, Mechanism] => {
    const rig = structuredClone(whole) as Rig;
    const mechanism = compiled(rig.mechanism);
    mechanism.slotIds.forEach((joint, s) => {
      if (random() < 0.5 || !Number.isFinite(mechanism.upper[s] - mechanism.lower[s])) return;
      const [low, home, high] = [mechanism.lower[s], mechanism.home[s], mechanism.upper[s]].map((v) =>
        inUnit(mechanism, s, v),
      );
      const [min, max] = [home - random() * (home - low), home + random() * (high - home)];
      rig.builds[0].confirmed[joint] = { min, max };
    });
    return [`${id} ${k}`, rig, mechanism];
  });
});

describe('a build of which some is confirmed', () => {
  it.each(rigs)(
    '%s: no plan goes past that, and what would is told with how far; the mend ends there',
    (_, rig, mechanism) => {
      const [build] = rig.builds;
      const arm = confirmedLimits(mechanism, build);
      for (const routine of rig.routines) {
        const plan = planRoutine(rig, mechanism, build, routine);
        const motion = planMotion(plan);
        for (let k = 0; k <= 200; k++)
          poseAt(motion, (k / 200) * plan.durationS).forEach((v, s) => {
            expect(v).toBeGreaterThanOrEqual(arm.lower[s] - 1e-6);
            expect(v).toBeLessThanOrEqual(arm.upper[s] + 1e-6);
          });
        // A run that asks inputs plans as it goes, by the same.
        const parts = planParts(rig, mechanism, build, routine, mechanism.home);
        for (let next = parts.next(); !next.done; next = parts.next(false))
          for (const { block } of next.value.plan.blocks)
            block.to.forEach((v, s) => {
              expect(v).toBeGreaterThanOrEqual(arm.lower[s] - 1e-6);
              expect(v).toBeLessThanOrEqual(arm.upper[s] + 1e-6);
            });
        // The same as of an arm that was designed so, but for the words.
        const narrow = planRoutine(rig, arm, { ...build, confirmed: {} }, routine);
        expect(narrow.durationS).toBe(plan.durationS);
        const words = plan.findings.map(({ code }) =>
          code === 'target-over-confirmed' ? 'target-over-limit' : code,
        );
        expect(words).toEqual(narrow.findings.map(({ code }) => code));
        for (const found of plan.findings.filter(({ code }) => code === 'target-over-confirmed')) {
          const { min, max } = build.confirmed[found.place.joint!];
          const { value, by, side } = found.data;
          const end = side === 'max' ? max : min;
          expect(Math.abs(Number(value) - end)).toBeCloseTo(Number(by), 6);
          const mended = structuredClone(rig);
          const mend = fixOf(rig, found);
          // How wide a jaw opens is said by its tool.
          const step = routine.steps.find(({ id }) => id === found.place.step);
          if (found.place.routine === routine.id) expect(mend === null).toBe(step?.kind === 'grip');
          if (!mend) continue;
          mend.apply(mended);
          const again = planRoutine(
            mended,
            mechanism,
            build,
            mended.routines.find(({ id }) => id === routine.id)!,
          );
          const key = ({ code, place }: typeof found): string =>
            `${code} ${place.routine} ${place.step} ${place.joint}`;
          expect(again.findings.map(key)).not.toContain(key(found));
        }
      }
    },
  );
  it.each(rigs)(
    '%s: programs of its boards hold to it, and are known by it as a connected board is',
    (_, rig, mechanism) => {
      const [build] = rig.builds;
      const arm = confirmedLimits(mechanism, build);
      for (const { id } of linedBoards(rig)) {
        const made = described(rig, mechanism, build, id, 1);
        expect(made.fingerprint).toBe(fingerprint(new Channels(rig, arm, build).on(id), arm));
        for (const { map, low, high } of made.motors) {
          const [slot, ...others] = 'slots' in map ? map.slots : [];
          if (slot === undefined || others.length || !('native' in map)) continue;
          const own = build.confirmed[arm.slotIds[slot]];
          if (!own) continue;
          const ends = [own.min, own.max].map((v) => {
            const pose = arm.home.slice();
            pose[slot] = Math.min(arm.upper[slot], Math.max(arm.lower[slot], fromUnit(arm, slot, v)));
            return nativeAt(map, arm, pose)!;
          });
          expect(low).toBeGreaterThanOrEqual(Math.min(...ends) - 1);
          expect(high).toBeLessThanOrEqual(Math.max(...ends) + 1);
        }
      }
    },
  );
});
