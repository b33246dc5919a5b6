import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { compiled, deltaDoc, poseOf, treeDoc } from '../kinematics/arms.testkit';
import { framesInto, kinematicsSpace } from '../kinematics';
import { apply, seededRandom, STRIDE, vec3 } from '../linear';
import { together, type Mechanism, type RigidBody } from '../mechanism';
import { mechanismSchema, rigSchema } from '../rig';
import { GRAVITY } from '../units';
import { Dynamics, heldBy, seatsOf } from './index';

const light: RigidBody = { mass: 0, com: [0, 0, 0], inertia: [0, 0, 0, 0, 0, 0] };
const isMoving = ({ type }: { type: string }): boolean => type !== 'fixed';
const anyPose = (mechanism: Mechanism, random: () => number): Float64Array =>
  poseOf(mechanism, Array.from({ length: mechanism.m }, random), 0.1);
const restTorques = (mechanism: Mechanism, q: Float64Array): Float64Array => {
  const out = new Float64Array(mechanism.m);
  new Dynamics(mechanism).gravityInto(out, q);
  return out;
};
/** Change of an energy (J) a rad or m of each slot. */
const slopes = (q: Float64Array, energy: (q: Float64Array) => number): number[] =>
  Array.from(q, (_, slot) => {
    const h = 1e-5;
    const [back, on] = [-h, h].map((by) => energy(q.map((v, s) => (s === slot ? v + by : v))));
    return (on - back) / (2 * h);
  });

describe('springs', () => {
  it('are held by what their energy changes by, at joints and between any two places of any tree', () => {
    let seen = 0;
    fc.assert(
      fc.property(treeDoc, fc.integer({ min: 1, max: 1e9 }), (doc, seed) => {
        const random = seededRandom(seed);
        const moving = doc.joints.filter(isMoving);
        if (!moving.length) return;
        const any = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
        const place = () => ({
          joint: random() < 0.3 ? null : any(doc.joints).id,
          xyzMm: [300 * random() - 150, 300 * random() - 150, 300 * random() - 150],
        });
        const springs = [
          {
            kind: 'at-joint',
            id: 's1',
            name: 'a',
            joint: any(moving).id,
            stiffness: 0.02,
            slackAt: 40 * random() - 20,
          },
          { kind: 'between', id: 's2', name: 'b', from: place(), to: place(), nPerMm: 0.4, freeMm: 120 * random() },
        ];
        const mechanism = compiled(mechanismSchema.parse({ ...doc, springs }));
        const bare = { ...mechanism, bodies: mechanism.bodies.map(() => light), tools: [] };
        const q = anyPose(bare, random);
        const space = kinematicsSpace(bare);
        const energy = (at: Float64Array): number => {
          framesInto(space, bare, at);
          return bare.springs.reduce((sum, spring) => {
            if (spring.kind === 'at-joint')
              return sum + (spring.stiffness * (space.all[spring.joint] - spring.slackAt) ** 2) / 2;
            const [from, to] = [spring.from, spring.to].map(({ joint, at: point }) =>
              joint < 0 ? apply(bare.base, point) : apply(space.frames, point, STRIDE * joint),
            );
            const longer = Math.max(0, vec3.norm(vec3.sub(to, from)) - spring.free);
            return sum + (spring.stiffness * longer ** 2) / 2;
          }, 0);
        };
        const wanted = slopes(q, energy);
        const got = restTorques(bare, q);
        const size = 1 + Math.max(...wanted.map(Math.abs));
        wanted.forEach((v, s) => expect(Math.abs(got[s] - v)).toBeLessThan(1e-5 * size));
        // On the move they are the same, and the base bears nothing of what is tensed inside the arm.
        const none = new Float64Array(bare.m);
        const { force } = new Dynamics({ ...bare, baseBody: light }).torquesInto(none.slice(), q, none, none);
        expect(vec3.norm(force)).toBeLessThan(1e-9);
        seen++;
      }),
      { numRuns: 80 },
    );
    expect(seen).toBeGreaterThan(40);
  });
  it('that lie slack between two places pull nothing', () => {
    const at = (joint: string | null) => ({ joint, xyzMm: [0, 0, 40] as [number, number, number] });
    const doc = structuredClone(tileDipper().mechanism);
    const plain = compiled(doc);
    doc.springs = [{ kind: 'between', id: 's', name: 's', from: at(null), to: at('elbow'), nPerMm: 3, freeMm: 900 }];
    expect(restTorques(compiled(doc), plain.home)).toEqual(restTorques(plain, plain.home));
  });
  it('in the document are N·m a degree and N a millimetre', () => {
    const doc = structuredClone(tileDipper().mechanism);
    doc.springs = [{ kind: 'at-joint', id: 's', name: 's', joint: 'shoulder', stiffness: 0.01, slackAt: 10 }];
    const mechanism = compiled(doc);
    const plain = compiled(tileDipper().mechanism);
    const q = mechanism.home;
    const slot = mechanism.slotOf.get('shoulder')!;
    const at = q[slot] / mechanism.siPerUnit[slot];
    expect(restTorques(mechanism, q)[slot] - restTorques(plain, q)[slot]).toBeCloseTo(0.01 * (at - 10), 9);
  });
});

describe('what weighs', () => {
  it('of a delta is held by what its height changes by, forearms and platform among it', () => {
    const masses = { upperArmG: 40, forearmG: 26, platformG: 55 };
    const mechanism = compiled(deltaDoc({ masses }));
    expect(mechanism.bodies.reduce((sum, { mass }) => sum + mass, 0)).toBeCloseTo(0.253, 12);
    const space = kinematicsSpace(mechanism);
    let seen = 0;
    for (let seed = 1; seed < 40; seed++) {
      const q = anyPose(mechanism, seededRandom(seed));
      framesInto(space, mechanism, q);
      if (space.gap > 0) continue;
      seen++;
      const energy = (at: Float64Array): number => {
        framesInto(space, mechanism, at);
        return mechanism.bodies.reduce(
          (sum, { mass, com }, j) => sum + mass * GRAVITY * apply(space.frames, com, STRIDE * j)[2],
          0,
        );
      };
      const got = restTorques(mechanism, q);
      slopes(q, energy).forEach((v, s) => expect(got[s]).toBeCloseTo(v, 6));
    }
    expect(seen).toBeGreaterThan(10);
  });
  it('as a counterweight, a motor that says where it sits, or a thing in the tool is as much as a part of the link there', () => {
    for (const { rig } of demoRigs().filter((r) => r.rig.mechanism.family === 'tree')) {
      const random = seededRandom(5);
      const [joint] = [...rig.mechanism.joints].reverse();
      const xyzMm: [number, number, number] = [30, -20, 45];
      const weighed = structuredClone(rig);
      weighed.mechanism.weights = [
        { id: 'w', name: 'w', joint: joint.id, xyzMm, massG: 80 },
        { id: 'b', name: 'b', joint: null, xyzMm, massG: 50 },
      ];
      const seated = structuredClone(rig);
      Object.assign(seated.drives[0], { massG: 80, seat: { joint: joint.id, xyzMm } });
      Object.assign(seated.drives[1], { massG: 50, seat: { joint: null, xyzMm } });
      const plain = compiled(rig.mechanism);
      const q = anyPose(plain, random);
      const by = compiled(rigSchema.parse(weighed).mechanism);
      const got = (dynamics: Dynamics): number[] => {
        const out = new Float64Array(plain.m);
        dynamics.gravityInto(out, q);
        return [...out, ...dynamics.borne, dynamics.wholeMass];
      };
      const own = got(new Dynamics(plain));
      const weights = got(new Dynamics(by));
      const seats = got(new Dynamics(plain, [], seatsOf(rigSchema.parse(seated), plain)));
      weights.forEach((v, k) => expect(seats[k]).toBeCloseTo(v, 12));
      expect(weights[plain.m + 3] - own[plain.m + 3]).toBeCloseTo(0.13, 12);
      // And what a tool holds is no other than what the tool weighs.
      const [tool] = plain.tools;
      const payload = { massG: 120, comMm: [4, 5, 30] as [number, number, number], inertiaKgM2: null };
      const heavier = {
        ...plain,
        tools: plain.tools.map((t) => (t === tool ? { ...t, body: together([t.body, heldBy(t, payload).body]) } : t)),
      };
      const held = got(new Dynamics(plain, [heldBy(tool, payload)]));
      got(new Dynamics(heavier)).forEach((v, k) => expect(held[k]).toBeCloseTo(v, 12));
    }
  });
  it('all of it at rest is what the base bears', () => {
    for (const { rig } of demoRigs()) {
      const mechanism = compiled(rig.mechanism);
      const dynamics = new Dynamics(mechanism);
      const q = mechanism.home;
      const out = new Float64Array(mechanism.m);
      const none = new Float64Array(mechanism.m);
      const { force, moment } = dynamics.torquesInto(out.slice(), q, none, none);
      dynamics.gravityInto(out, q);
      expect(force[2]).toBeCloseTo(dynamics.wholeMass * GRAVITY, 9);
      expect(moment[0]).toBeCloseTo(dynamics.borne[1] * GRAVITY, 9);
      expect(moment[1]).toBeCloseTo(-dynamics.borne[0] * GRAVITY, 9);
    }
  });
});
