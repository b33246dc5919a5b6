import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { GRAVITY } from '../units';
import { gripOn, Loading, massHeld, squeezeFor } from './index';

describe('a grip', () => {
  const rig = tileDipper();
  const mechanism = compiled(rig.mechanism);
  const [tool] = rig.mechanism.tools;
  const on = (mm: number, of = rig) => gripOn(new Loading(of, mechanism), mechanism, tool, mm);

  it('squeezes so that what the jaw’s motor does is what its pads do, between every two rows of its table', () => {
    const loading = new Loading(rig, mechanism);
    const motor = loading.motors.find(({ slots }) => slots[0] === mechanism.slotOf.get('jaw'))!;
    const torque = motor.torque![0].nm;
    const table = tool.grip && 'joint' in tool.grip ? tool.grip.openingMm! : [];
    for (let k = 1; k < table.length; k++) {
      const [low, high] = [table[k - 1], table[k]];
      const grip = on((low.mm + high.mm) / 2);
      if (!grip.ok) throw new Error(grip.why);
      expect(grip.at).toBeCloseTo((low.at + high.at) / 2, 9);
      // Work of the motor over the stretch, and of both pads, half of the way each.
      const work = (torque * (high.at - low.at) * Math.PI) / 180;
      expect((2 * grip.longN * (high.mm - low.mm)) / 2 / 1000).toBeCloseTo(work, 9);
      expect(grip.stallN).toBeCloseTo(grip.longN / 0.4, 9);
    }
  });
  it('holds by friction what it can squeeze for', () => {
    expect(massHeld(10, 0.5, 0)).toBeCloseTo(10 / GRAVITY, 12);
    expect(massHeld(10, 0.5, 5)).toBeCloseTo(10 / (GRAVITY + 5), 12);
    expect(squeezeFor(massHeld(7, 0.3, 2), 0.3, 2)).toBeCloseTo(7, 12);
    expect(squeezeFor(1, 0, 0)).toBe(Infinity);
  });
  it('is none where it is not known: no jaw, no table, too wide, no motor', () => {
    expect(on(400)).toEqual({ ok: false, why: 'too-wide' });
    const loose = { ...rig, transmissions: rig.transmissions.filter(({ joints }) => !joints.includes('jaw')) };
    expect(on(10, loose)).toEqual({ ok: false, why: 'no-motor' });
    const loading = new Loading(rig, mechanism);
    expect(gripOn(loading, mechanism, { ...tool, grip: undefined }, 10)).toEqual({ ok: false, why: 'no-jaw' });
    const bare = { ...tool, grip: { joint: 'jaw', open: 40, closed: 8 } };
    expect(gripOn(loading, mechanism, bare, 10)).toEqual({ ok: false, why: 'no-table' });
    for (const { rig: other } of demoRigs())
      for (const own of other.mechanism.tools) {
        const made = compiled(other.mechanism);
        expect(gripOn(new Loading(other, made), made, own, 5).ok).toBeTypeOf('boolean');
      }
  });
});
