import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { driveMaps, mapGroups, nativeAt, poseMeant } from '../actuators';
import { admit } from '../admit';
import { forward } from '../kinematics';
import { poseOf } from '../kinematics/arms.testkit';
import { positionOf, seededRandom, vec3 } from '../linear';
import type { Rig } from '../rig';
import { accuracyAt, Loading, spreadOf } from './index';

const opened = (document: Rig) => {
  const made = admit(document);
  if (!made.ok) throw new Error(made.faults[0].message);
  return made;
};
const arms = demoRigs().map(({ id, rig }) => ({ id, ...opened(rig) }));

describe('how exact a tool stands', () => {
  it.each(arms)(
    '$id: what motors make of a pose in whole steps is no farther off than is said',
    ({ rig, mechanism }) => {
      const build = { ...rig.builds[0], backlash: {} };
      const maps = driveMaps(rig, mechanism, build);
      const random = seededRandom(4);
      let seen = 0;
      for (let i = 0; i < 150; i++) {
        const q = poseOf(mechanism, Array.from({ length: mechanism.m }, random), 0.15);
        for (const tool of mechanism.tools) {
          const { worst } = accuracyAt(rig, mechanism, build, tool, q);
          const stands = poseMeant(mapGroups(maps), mechanism, (map) => nativeAt(map, mechanism, q), q.slice());
          const [wished, got] = [q, stands].map((at) => positionOf(forward(mechanism, at).tools.get(tool.id)!));
          const off = vec3.norm(vec3.sub(wished, got));
          if (!Number.isFinite(off)) continue;
          seen++;
          // To the first order: a step of a degree more would show in the second.
          expect(off).toBeLessThan(worst * 1.02 + 2e-6);
        }
      }
      expect(seen).toBeGreaterThan(100);
    },
  );
  it('adds slack, dead bands and what a calibration left over, each by its joint’s arm', () => {
    const { rig, mechanism } = opened(tileDipper());
    const [tool] = mechanism.tools;
    const bare = { ...rig.builds[0], backlash: {}, calibrations: [] };
    const q = Float64Array.from(mechanism.home);
    const of = (build: typeof bare) => accuracyAt(rig, mechanism, build, tool, q);
    const slot = mechanism.slotOf.get('turn')!;
    const slack = of({ ...bare, backlash: { turn: { slack: 2, takenOn: '' } } });
    const part = slack.parts.find(({ kind }) => kind === 'slack')!;
    // One degree either way at how far the tool is from the turn's axis.
    const [x, y] = positionOf(forward(mechanism, q).tools.get(tool.id)!);
    expect(part.slot).toBe(slot);
    expect(part.atTool).toBeCloseTo((Math.hypot(x, y) * Math.PI) / 180, 9);
    expect(slack.worst).toBeGreaterThan(of(bare).worst + 0.5 * part.atTool);
    expect(slack.rss).toBeCloseTo(Math.hypot(of(bare).rss, part.atTool), 12);
    expect(slack.rss).toBeLessThan(slack.worst);
    // Points that lie on no line leave something.
    const off = (deg: number) =>
      of({
        ...bare,
        calibrations: [
          {
            drive: 'm-turn',
            fit: 'line',
            takenOn: '',
            points: [-40, 0, 40].map((at, k) => ({ at, us: 1500 + 10 * (at + (k === 1 ? deg : 0)) })),
          },
        ],
      } as never).parts.find(({ kind }) => kind === 'calibration');
    expect(off(0)?.most ?? 0).toBeLessThan(1e-9);
    expect(off(3)!.most).toBeCloseTo(2, 9);
    expect(off(3)!.spread).toBeCloseTo(Math.sqrt(2), 9);
    const kinds = of(bare).parts.map(({ kind }) => kind);
    expect(kinds).toContain('dead-band');
    expect(kinds).toContain('step');
    // What has no motor is named.
    const none = accuracyAt({ ...rig, transmissions: [] }, mechanism, bare, tool, q);
    expect(none).toMatchObject({ parts: [], worst: 0, rss: 0 });
    expect(none.unknown).toEqual([...tool.slots]);
  });
  it('gives way where a stiffness is known: the tool goes where a pose turned by torque over stiffness has it', () => {
    for (const { rig: document, mechanism } of arms) {
      const rig = structuredClone(document);
      rig.mechanism.joints.forEach((joint, k) => joint.type !== 'fixed' && (joint.stiffness = 20 + 7 * k));
      const [tool] = mechanism.tools;
      const loading = new Loading(rig, mechanism);
      const random = seededRandom(9);
      for (let i = 0; i < 12; i++) {
        const q = poseOf(mechanism, Array.from({ length: mechanism.m }, random), 0.15);
        const found = accuracyAt(rig, mechanism, rig.builds[0], tool, q, loading);
        loading.rest(q);
        const sagged = q.slice();
        for (const slot of tool.slots) {
          const joint = rig.mechanism.joints.find(({ id }) => id === mechanism.slotIds[slot])!;
          if (joint.type === 'fixed') continue;
          sagged[slot] -= (loading.torques[slot] / joint.stiffness!) * mechanism.siPerUnit[slot];
        }
        const [from, to] = [q, sagged].map((at) => positionOf(forward(mechanism, at).tools.get(tool.id)!));
        const moved = vec3.sub(to, from);
        if (!Number.isFinite(vec3.norm(moved))) continue;
        expect(vec3.norm(vec3.sub(moved, found.droop))).toBeLessThan(0.03 * vec3.norm(moved) + 1e-6);
        const bare = accuracyAt(rig, mechanism, rig.builds[0], tool, q);
        expect(found.rss).toBeGreaterThanOrEqual(bare.rss);
        expect(bare.droop).toEqual([0, 0, 0]);
      }
    }
  });
  it('scatters as its parts do: the trace is the square of what is said, and a ball becomes what scatters so', () => {
    for (const { rig, mechanism } of arms) {
      const random = seededRandom(6);
      for (let i = 0; i < 10; i++) {
        const q = poseOf(mechanism, Array.from({ length: mechanism.m }, random), 0.15);
        const { scatter, rss, parts } = accuracyAt(rig, mechanism, rig.builds[0], mechanism.tools[0], q);
        expect(scatter[0] + scatter[4] + scatter[8]).toBeCloseTo(rss ** 2, 12);
        if (!parts.length) continue;
        const l = spreadOf(scatter);
        for (let a = 0; a < 3; a++)
          for (let b = 0; b < 3; b++) {
            const back = [0, 1, 2].reduce((sum, k) => sum + l[3 * a + k] * l[3 * b + k], 0);
            expect(Math.abs(back - scatter[3 * a + b])).toBeLessThan(1e-9 * rss ** 2 + 1e-15);
          }
      }
    }
  });
});
