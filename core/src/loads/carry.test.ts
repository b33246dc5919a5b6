import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { admit } from '../admit';
import { finish } from '../jobs';
import { heldAlong, planMotion, planRoutine } from '../routine';
import type { Rig } from '../rig';
import { alongJob, carryJob } from './index';

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
  return { rig, mechanism, motion: planMotion(plan), holds: heldAlong(rig, mechanism, plan) };
};
const with_ = (document: Rig, times: number, kg: number): Rig => {
  const rig = structuredClone(document);
  rig.transmissions.forEach((tie, k) => (tie.efficiency = 0.6 + 0.05 * (k % 5)));
  rig.mechanism.joints.forEach((joint, k) => joint.type !== 'fixed' && (joint.friction = 0.02 + 0.01 * (k % 3)));
  for (const payload of rig.payloads) Object.assign(payload, { massG: 1000 * kg * times, inertiaKgM2: null });
  return rig;
};
const cases = demoRigs().flatMap(({ id, rig }) =>
  rig.routines
    .filter(({ steps }) => steps.some((s) => 'payload' in s && s.payload))
    .map((r) => [id, r.id, rig] as const),
);

describe('the heaviest that a routine may carry', () => {
  it.each(cases.slice(0, 4))('%s %s: a little less is borne all the way, a little more is not', (_, id, document) => {
    const { rig, mechanism, motion, holds } = made(with_(document, 1, 0.05), id);
    const found = finish(carryJob(rig, mechanism, motion, holds));
    if (!holds.some(({ held }) => held.length === 1)) return void expect(found).toBeNull();
    expect(found!.kg).toBeGreaterThan(0);
    expect(found!.by).not.toBeNull();
    const isBorne = (times: number): boolean => {
      const other = made(with_(document, times, found!.kg), id);
      const along = finish(alongJob(other.rig, other.mechanism, other.motion, other.holds));
      // While it is held: before and after it does not count.
      const held = (t: number): boolean => (holds.findLast(({ fromS }) => fromS <= t)?.held.length ?? 0) > 0;
      return Array.from(along.timeS).every(
        (t, i) => !held(t) || (along.shares.every((s) => !(s[i] > 1)) && !((along.tip?.[i] ?? 1) < 0)),
      );
    };
    expect(isBorne(0.97)).toBe(true);
    expect(isBorne(1.03)).toBe(false);
  });
  it('is none where nothing is held', () => {
    const [, id, document] = cases[0];
    const { rig, mechanism, motion } = made(document, id);
    expect(finish(carryJob(rig, mechanism, motion, [{ fromS: 0, held: [] }]))).toBeNull();
  });
});
