import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { compile } from '../mechanism';
import { compiled } from '../kinematics/arms.testkit';
import { spinningDipper } from '../actuators/spin.testkit';
import type { Rig } from '../rig';
import { Channels, fingerprint } from './index';

const rigs = [
  ...demoRigs().map(({ id, rig }): [string, Rig] => [id, rig]),
  ['spinning', spinningDipper().rig] as const,
];
/** By board. */
function prints(rig: Rig): string[] {
  const mechanism = compiled(rig.mechanism);
  const channels = new Channels(rig, mechanism, rig.builds[0]);
  return rig.boards.map(({ id }) => fingerprint(channels.on(id), mechanism));
}
function changed(rig: Rig, change: (draft: Rig) => void): Rig {
  const draft = structuredClone(rig);
  change(draft);
  return draft;
}

describe('the fingerprint of what firmware was made for', () => {
  it.each(rigs)('%s: is eight digits, and the same whatever things are called', (_, rig) => {
    const before = prints(rig);
    for (const print of before) expect(print).toMatch(/^[0-9a-f]{8}$/);
    const renamed = changed(rig, (draft) => {
      draft.name = 'another';
      for (const named of [...draft.mechanism.joints, ...draft.drives, ...draft.boards])
        named.name = `${named.name} x`;
    });
    expect(prints(renamed)).toEqual(before);
  });
  it.each(rigs)(
    '%s: is another one where a motor turns the other way, has another pin, or a joint other limits',
    (_, rig) => {
      const before = prints(rig).join();
      const others = [before];
      for (const k of rig.drives.keys()) {
        const turned = changed(rig, (draft) => {
          const drive = draft.drives[k] as { direction: number };
          drive.direction = -drive.direction;
          // By points it is the points that say which way it turns.
          for (const build of draft.builds)
            Object.assign(build, { calibrations: build.calibrations.filter((c) => c.drive !== draft.drives[k].id) });
          for (const build of draft.builds) delete build.speeds[draft.drives[k].id];
        });
        others.push(prints(turned).join());
      }
      for (const [k, joint] of rig.mechanism.joints.entries()) {
        if (!('limits' in joint) || !joint.limits) continue;
        const narrower = changed(rig, (draft) => {
          const { limits } = draft.mechanism.joints[k] as { limits: { min: number; max: number } };
          limits.max -= (limits.max - limits.min) / 10;
        });
        const driven = compile(narrower.mechanism).ok ? prints(narrower).join() : before;
        if (driven !== before) others.push(driven);
      }
      expect(new Set(others).size).toBe(others.length);
      // All motors, and a joint at least.
      expect(others.length).toBeGreaterThan(rig.drives.length + 1);
    },
  );
  it('is another one where only the end of a calibration of several points has moved', () => {
    const [, rig] = rigs.find(([id]) => id === 'tile-dipper')!;
    const known = compiled(rig.mechanism);
    const { drive } = rig.builds[0].calibrations[0];
    const { joints } = rig.transmissions.find(({ drives }) => (drives as readonly string[]).includes(drive))!;
    const slot = known.slotOf.get(joints[0])!;
    const high = (known.upper[slot] * 180) / Math.PI;
    const low = (known.lower[slot] * 180) / Math.PI;
    const bent = (endUs: number): Rig =>
      changed(rig, (draft) => {
        const [first] = draft.builds[0].calibrations;
        const at = (degrees: number, us: number) => ({ at: degrees, us });
        Object.assign(first, {
          points: [at(low, 800), at(low + 0.9 * (high - low), 1700), at(high, endUs)],
          fit: 'monotone',
        });
      });
    expect(prints(bent(1860))).not.toEqual(prints(bent(1850)));
  });
  it('is another one with another calibration of a single microsecond, and only on the board of that motor', () => {
    const [, rig] = rigs.find(([id]) => id === 'tile-dipper')!;
    const [build] = rig.builds;
    expect(build.calibrations.length).toBeGreaterThan(0);
    const moved = changed(rig, (draft) => {
      for (const point of draft.builds[0].calibrations[0].points) point.us += 1;
    });
    const [before, after] = [prints(rig), prints(moved)];
    expect(after.filter((print, k) => print !== before[k])).toHaveLength(1);
  });
});
