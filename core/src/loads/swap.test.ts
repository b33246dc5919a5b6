import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { catalogue, driveSpeed } from '../actuators';
import { finish } from '../jobs';
import { compiled } from '../kinematics/arms.testkit';
import { heldBy, lightestJob, loadedMotors, shareOf, swapped, worstJob, type Swap } from './index';

const request = { samples: 4000, seed: 2, accelerating: 'all' as const };

describe('other motors', () => {
  it('stand where the ones before stood, and turn the way they did', () => {
    const rig = structuredClone(tileDipper());
    rig.drives[1].seat = { joint: 'shoulder', xyzMm: [1, 2, 3] };
    // The part around it stays; how warm the old one became does not.
    Object.assign(rig.drives[1], { softensC: 55, heat: { ohm: 7 } });
    rig.drives[1].direction = -1;
    const figures = catalogue.find(({ id }) => id === 'servo-160')!.figures;
    const other = swapped(rig, [{ drive: rig.drives[1].id, figures }]);
    expect(other.drives[1]).toMatchObject({
      ...{ id: rig.drives[1].id, direction: -1, seat: { joint: 'shoulder' }, stallNm: 3.2, softensC: 55 },
    });
    expect(other.drives[1].heat).toBeUndefined();
    expect(other.drives[0]).toBe(rig.drives[0]);
    expect(other.wiring).toBe(rig.wiring);
    const geared = swapped(kilnLoader(), [{ drive: 'm-elbow', reduction: 9 }]);
    expect(geared.transmissions.find(({ id }) => id === 't-elbow')).toMatchObject({ reduction: 9 });
  });
  it('that are the lightest hold the arm everywhere with what was to be left, and none lighter would', () => {
    const wanted = 0.7;
    let changed = 0;
    for (const { id, rig: document } of demoRigs().filter((r) =>
      ['tile-dipper', 'dot-painter', 'heron-greeter'].includes(r.id),
    )) {
      const rig = structuredClone(document);
      // Every second one sits on the link before its joint: its mass is part of the question.
      rig.transmissions.forEach((tie, k) => {
        const joint = rig.mechanism.joints.find((j) => j.id === tie.joints[0]);
        const on = joint && 'parent' in joint ? joint.parent : null;
        const drive = rig.drives.find((d) => d.id === tie.drives[0]);
        if (drive && k % 2) drive.seat = { joint: on, xyzMm: [0, 0, 10] };
      });
      const mechanism = compiled(rig.mechanism);
      const [tool] = mechanism.tools;
      const held = tool ? [heldBy(tool, { massG: 60, comMm: [0, 0, 10], inertiaKgM2: null })] : [];
      const { swaps, short } = finish(lightestJob(rig, mechanism, held, wanted, catalogue));
      const shares = (list: readonly Swap[]): (number | null)[] => {
        const { motors: worst, starting } = finish(worstJob(swapped(rig, list), mechanism, held, null, request));
        return worst.map(({ value: { nm, usableNm } }, k) => shareOf({ nm, needNm: starting![k], usableNm }));
      };
      const motors = loadedMotors(rig, mechanism);
      const now = shares(swaps);
      for (const swap of swaps) {
        changed++;
        const k = motors.findIndex(({ drive }) => drive.id === swap.drive);
        expect(short).not.toContain(swap.drive);
        expect(now[k]!, `${id} ${swap.drive}`).toBeLessThanOrEqual(wanted * 1.0001);
        const { slots, transmission } = motors[k];
        const reduction = transmission.kind === 'ratio' ? Math.abs(transmission.reduction) : 1;
        const isFast = (figures: Swap['figures']): boolean =>
          driveSpeed({ ...motors[k].drive, ...figures } as never) / reduction >=
          mechanism.speed[slots[0]] / mechanism.siPerUnit[slots[0]] - 1e-9;
        expect(isFast(swap.figures)).toBe(true);
        // The next lighter one; those below it are weaker still, or as the search found them.
        const lighter = catalogue
          .filter(
            ({ figures }) =>
              figures.kind === motors[k].drive.kind && figures.massG! < swap.figures!.massG! && isFast(figures),
          )
          .sort((a, b) => b.figures.massG! - a.figures.massG!)
          .slice(0, 1);
        for (const { figures } of lighter) {
          const others = swaps.map((s) => (s === swap ? { ...s, figures } : s));
          expect(shares(others)[k]!, `${id} ${swap.drive}`).toBeGreaterThan(wanted * 0.999);
        }
      }
    }
    expect(changed).toBeGreaterThan(6);
  });
});
