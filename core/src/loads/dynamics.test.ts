import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { framesInto, kinematicsSpace } from '../kinematics';
import { compiled, deltaDoc, poseOf, treeDoc } from '../kinematics/arms.testkit';
import { families } from '../kinematics/families.testkit';
import { apply, seededRandom, STRIDE, vec3, type Vec3 } from '../linear';
import { together, type Mechanism, type RigidBody } from '../mechanism';
import { mechanismSchema } from '../rig';
import { GRAVITY } from '../units';
import { Dynamics, type Held } from './index';

type Points = readonly { readonly mass: number; readonly at: Vec3 }[];
const triple = (random: () => number, size: number): Vec3 => [
  size * (random() - 0.5),
  size * (random() - 0.5),
  size * (random() - 0.5),
];
/** Four point masses fixed to each other: with an inertia along no axis in particular. */
const points = (random: () => number): Points =>
  Array.from({ length: 4 }, () => ({ mass: 0.02 + 0.2 * random(), at: triple(random, 0.2) }));
const bodyOf = (all: Points): RigidBody =>
  together(all.map(({ mass, at }) => ({ mass, com: at, inertia: [0, 0, 0, 0, 0, 0] })));

/** A mechanism whose links weigh, with the points that they are made of. */
function weighing(plain: Mechanism, random: () => number): { mechanism: Mechanism; links: readonly Points[] } {
  const links = plain.ids.map(() => points(random));
  const tools = plain.tools.map((tool) => ({ ...tool, mounted: false }));
  return { mechanism: { ...plain, tools, bodies: links.map(bodyOf), baseBody: bodyOf([]) }, links };
}
/** Where each point is (m, world) at a pose. */
function places(mechanism: Mechanism, links: readonly Points[], q: Float64Array): Vec3[] {
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, q);
  return links.flatMap((own, j) => own.map(({ at }) => apply(space.frames, at, STRIDE * j)));
}
const moved = (q: Float64Array, v: Float64Array, a: Float64Array, t: number): Float64Array =>
  q.map((value, s) => value + v[s] * t + (a[s] * t * t) / 2);
const only = (m: number, slot: number, value = 1): Float64Array =>
  Float64Array.from({ length: m }, (_, s) => (s === slot ? value : 0));

/** What slots give by d'Alembert's principle, point by point: accelerations and ways by differences of where points are. */
function byPoints(
  mechanism: Mechanism,
  links: readonly Points[],
  q: Float64Array,
  v: Float64Array,
  a: Float64Array,
): { torques: number[]; force: Vec3; moment: Vec3 } {
  const h = 2e-4;
  const masses = links.flatMap((own) => own.map(({ mass }) => mass));
  const [before, now, after] = [-h, 0, h].map((t) => places(mechanism, links, moved(q, v, a, t)));
  const forces = now.map((at, i): Vec3 => {
    const change = vec3.sub(vec3.add(before[i], after[i]), vec3.scale(at, 2));
    return vec3.scale(vec3.add(vec3.scale(change, 1 / (h * h)), [0, 0, GRAVITY]), masses[i]);
  });
  const still = new Float64Array(mechanism.m);
  const torques = Array.from({ length: mechanism.m }, (_, slot) => {
    const [back, on] = [-h, h].map((t) => places(mechanism, links, moved(q, only(mechanism.m, slot), still, t)));
    return forces.reduce((sum, f, i) => sum + vec3.dot(f, vec3.scale(vec3.sub(on[i], back[i]), 1 / (2 * h))), 0);
  });
  return {
    torques,
    force: forces.reduce((sum, f) => vec3.add(sum, f)),
    moment: forces.reduce<Vec3>((sum, f, i) => vec3.add(sum, vec3.cross(now[i], f)), [0, 0, 0]),
  };
}

const state = (mechanism: Mechanism, random: () => number): [Float64Array, Float64Array, Float64Array] => {
  const q = poseOf(mechanism, Array.from({ length: mechanism.m }, random), 0.1);
  // What follows a slide turns fast by it: a degree or more a millimetre.
  const any = (size: number): Float64Array =>
    q.map((_, slot) => {
      const slides = mechanism.units[mechanism.jointOfSlot[slot]] === 'mm';
      return (slides ? 0.02 : 1) * size * (random() - 0.5);
    });
  return [q, any(4), any(8)];
};
const close = (got: ArrayLike<number>, wanted: ArrayLike<number>, off: number, words = ''): void => {
  for (let k = 0; k < wanted.length; k++) expect(Math.abs(got[k] - wanted[k]), `${words} ${k}`).toBeLessThan(off);
};
function agrees(plain: Mechanism, random: () => number, words: string): void {
  const { mechanism, links } = weighing(plain, random);
  const [q, v, a] = state(mechanism, random);
  const dynamics = new Dynamics(mechanism);
  const out = new Float64Array(mechanism.m);
  const { force, moment } = dynamics.torquesInto(out, q, v, a);
  const wanted = byPoints(mechanism, links, q, v, a);
  const size = 1 + Math.max(...wanted.torques.map(Math.abs), vec3.norm(wanted.moment));
  // Differences of places are good to so much of what is borne.
  const off = 1e-4 * size;
  close(out, wanted.torques, off, words);
  close(force, wanted.force, off, `${words} force`);
  close(moment, wanted.moment, off, `${words} moment`);
  // At rest it is the weight alone, in whichever way that is asked.
  const none = new Float64Array(mechanism.m);
  const weight = new Float64Array(mechanism.m);
  dynamics.gravityInto(weight, q);
  dynamics.torquesInto(out, q, none, none);
  close(weight, out, 1e-9 * size, `${words} at rest`);
}

describe('inverse dynamics', () => {
  it('of any tree are what its points of mass take one by one: followers, slides, fixed joints among them', () => {
    let seen = 0;
    fc.assert(
      fc.property(treeDoc, fc.integer({ min: 1, max: 1e9 }), (doc, seed) => {
        const mechanism = compiled(doc);
        if (!mechanism.m) return;
        seen++;
        agrees(mechanism, seededRandom(seed), 'tree');
      }),
      { numRuns: 120 },
    );
    expect(seen).toBeGreaterThan(60);
  });
  it.each(Object.keys(families))('of %s are the same, however it is mounted', (name) => {
    for (let seed = 1; seed <= 4; seed++) {
      const random = seededRandom(seed);
      const doc = families[name](random);
      const tipped = mechanismSchema.parse({
        ...doc,
        base: { ...doc.base, mounting: { xyzMm: [50, -30, 400], rpyDeg: [180 * random(), 90 * random(), 0] } },
      });
      agrees(compiled(doc), random, `${name} ${seed}`);
      agrees(compiled(tipped), random, `${name} ${seed}, mounted otherwise`);
    }
  });
  it('of a delta follow its platform through the forearms', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), (seed) => {
        const random = seededRandom(seed);
        const plain = compiled(deltaDoc());
        const q = poseOf(plain, [0.3 + 0.4 * random(), 0.3 + 0.4 * random(), 0.3 + 0.4 * random()]);
        const space = kinematicsSpace(plain);
        framesInto(space, plain, q);
        fc.pre(space.gap === 0);
        agrees({ ...plain, lower: q, upper: q }, random, 'delta');
      }),
      { numRuns: 40 },
    );
  });
  it('have a mass matrix that is the same both ways and positive, on every arm of the demo', () => {
    for (const { id, rig } of demoRigs()) {
      const random = seededRandom(7);
      const { mechanism } = weighing(compiled(rig.mechanism), random);
      const dynamics = new Dynamics(mechanism);
      const { m } = mechanism;
      const [q] = state(mechanism, random);
      const none = new Float64Array(m);
      const weight = new Float64Array(m);
      dynamics.gravityInto(weight, q);
      const columns = Array.from({ length: m }, (_, slot) => {
        const out = new Float64Array(m);
        dynamics.torquesInto(out, q, none, only(m, slot));
        return out.map((v, s) => v - weight[s]);
      });
      for (let a = 0; a < m; a++) for (let b = 0; b < a; b++) expect(columns[a][b]).toBeCloseTo(columns[b][a], 9);
      for (let k = 0; k < 10; k++) {
        const v = Float64Array.from({ length: m }, () => random() - 0.5);
        const energy = columns.reduce(
          (sum, column, a) => sum + v[a] * column.reduce((s, c, b) => s + c * v[b], 0),
          0,
        );
        expect(energy, id).toBeGreaterThan(0);
      }
    }
  });
  it('are those of the textbook for two bars with their mass at the end', () => {
    // Craig, Introduction to Robotics, example 6.9: a vertical plane, angles from the horizontal, g down.
    const [l1, l2, m1, m2] = [0.3, 0.2, 1.2, 0.7];
    const doc = mechanismSchema.parse({
      family: 'tree',
      joints: [
        {
          id: 'a',
          type: 'continuous',
          origin: { xyzMm: [0, 0, 0] },
          axis: [0, -1, 0],
          limits: {},
          link: { massG: 1000 * m1, comMm: [1000 * l1, 0, 0] },
        },
        {
          ...{
            id: 'b',
            parent: 'a',
            type: 'continuous',
            axis: [0, -1, 0],
            limits: {},
            origin: { xyzMm: [1000 * l1, 0, 0] },
          },
          link: { massG: 1000 * m2, comMm: [1000 * l2, 0, 0] },
        },
      ],
    });
    const dynamics = new Dynamics(compiled(doc));
    fc.assert(
      fc.property(fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: 6, maxLength: 6 }), (x) => {
        const [t1, t2, v1, v2, a1, a2] = x;
        const out = new Float64Array(2);
        dynamics.torquesInto(out, Float64Array.of(t1, t2), Float64Array.of(v1, v2), Float64Array.of(a1, a2));
        const [c1, c2, c12, s2] = [Math.cos(t1), Math.cos(t2), Math.cos(t1 + t2), Math.sin(t2)];
        const g = GRAVITY;
        const second =
          m2 * l2 ** 2 * (a1 + a2) + m2 * l1 * l2 * c2 * a1 + m2 * l1 * l2 * s2 * v1 ** 2 + m2 * l2 * g * c12;
        const first =
          m2 * l2 ** 2 * (a1 + a2) +
          m2 * l1 * l2 * c2 * (2 * a1 + a2) +
          (m1 + m2) * l1 ** 2 * a1 -
          m2 * l1 * l2 * s2 * v2 ** 2 -
          2 * m2 * l1 * l2 * s2 * v1 * v2 +
          m2 * l2 * g * c12 +
          (m1 + m2) * l1 * g * c1;
        close(out, [first, second], 1e-9);
      }),
    );
  });
  it('count what a tool weighs and holds as if it belonged to the link that it is on', () => {
    for (const { rig } of demoRigs()) {
      const random = seededRandom(3);
      const plain = compiled(rig.mechanism);
      const { mechanism, links } = weighing(plain, random);
      const [tool] = mechanism.tools;
      const [own, payload] = [points(random), points(random)];
      const armed = { ...mechanism, tools: [{ ...tool, mounted: true, body: bodyOf(own) }] };
      const held: Held[] = [{ tool: armed.tools[0], body: bodyOf(payload) }];
      const more = [...own, ...payload].map(({ mass, at }) => ({ mass, at: apply(tool.local, at) }));
      const all = links.map((link, j) => (j === tool.parent ? [...link, ...more] : link));
      const [q, v, a] = state(mechanism, random);
      const out = new Float64Array(mechanism.m);
      new Dynamics(armed, held).torquesInto(out, q, v, a);
      const wanted = byPoints(mechanism, all, q, v, a);
      close(out, wanted.torques, 1e-4, rig.name);
    }
  });
  it('ask the base for the whole weight at rest, below its centre', () => {
    const random = seededRandom(9);
    const { mechanism, links } = weighing(compiled(demoRigs()[0].rig.mechanism), random);
    const base = bodyOf(points(random));
    const [q] = state(mechanism, random);
    const none = new Float64Array(mechanism.m);
    const { force, moment } = new Dynamics({ ...mechanism, baseBody: base }).torquesInto(none.slice(), q, none, none);
    const at = places(mechanism, links, q);
    const masses = links.flatMap((own) => own.map(({ mass }) => mass));
    const mass = masses.reduce((sum, v) => sum + v, base.mass);
    const under = apply(mechanism.base, base.com);
    const centre = [0, 1].map(
      (axis) => (at.reduce((sum, p, i) => sum + masses[i] * p[axis], 0) + base.mass * under[axis]) / mass,
    );
    close(force, [0, 0, mass * GRAVITY], 1e-9);
    close([-moment[1] / force[2], moment[0] / force[2]], centre, 1e-9);
  });
  it('are nothing for an arm of which no mass is known', () => {
    const mechanism = compiled(deltaDoc());
    const light = { ...mechanism, bodies: mechanism.bodies.map(() => bodyOf([])) };
    const out = Float64Array.of(1, 1, 1);
    new Dynamics(light).gravityInto(out, Float64Array.of(0.2, 0.2, 0.2));
    expect([...out]).toEqual([0, 0, 0]);
  });
});
