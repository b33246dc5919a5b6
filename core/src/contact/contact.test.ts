import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { forward } from '../kinematics';
import { apply, fromXyzRpy, identity, inverse, mul, vec3, type Vec3 } from '../linear';
import type { Rig } from '../rig';
import { presets, rigFromPreset } from '../presets';
import { planMotion, planRoutine } from '../routine';
import {
  boxField,
  coneField,
  contactScene,
  contactsAt,
  cylinderField,
  fieldOf,
  gapBetween,
  obstacleSolid,
  ringField,
  sweptContacts,
  TOUCH,
  type Part,
  type Solid,
} from './index';
import { wayOf } from '../motion/motion.testkit';
import { between } from '../units/between.testkit';

const number = between;
const point = (size: number): fc.Arbitrary<Vec3> =>
  fc.tuple(number(-size, size), number(-size, size), number(-size, size));
const frame = fc.tuple(point(0.15), point(3)).map(([xyz, rpy]) => fromXyzRpy(xyz, rpy));
const capsule = fc
  .tuple(point(0.1), point(0.1), number(0.001, 0.03))
  .map(([a, b, radius]): Solid => ({ kind: 'capsule', a, b, radius }));
const box = fc
  .tuple(number(0.005, 0.1), number(0.001, 0.1), number(0.001, 0.1))
  .map((half): Solid => ({ kind: 'filled', centre: [0, 0, 0], half, field: boxField(half) }));

describe('fields', () => {
  it('never change by more than the way between two points', () => {
    const fields = fc.constantFrom(
      boxField([0.03, 0.05, 0.002]),
      cylinderField(0.04, 0, 0.08),
      ringField(0.03, 0.034, 0, 0.1),
      coneField(0.05, -0.03, 0.06),
    );
    fc.assert(
      fc.property(fields, point(0.2), point(0.2), (field, p, q) => {
        expect(Math.abs(field(p) - field(q))).toBeLessThanOrEqual(vec3.distance(p, q) + 1e-12);
      }),
    );
  });
  it('an open jar is empty inside and full in its wall and floor', () => {
    const field = fieldOf(
      obstacleSolid({
        ...{ kind: 'jar', id: 'j', name: 'jar', xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] },
        ...{ innerRadiusMm: 40, wallMm: 5, heightMm: 90, fillMm: 60 },
      }),
    );
    expect(field([0, 0, 0.05])).toBeCloseTo(0.04, 9);
    expect(field([0.0425, 0, 0.05])).toBeLessThan(0);
    expect(field([0, 0, 0.002])).toBeLessThan(0);
  });
});

describe('gaps', () => {
  /** Least distance over many points of a capsule's middle line. */
  const byPoints = (
    solid: Extract<Solid, { kind: 'capsule' }>,
    at: Float64Array,
    field: (p: Vec3) => number,
  ): number => {
    let least = Infinity;
    for (let k = 0; k <= 400; k++) {
      const p = vec3.add(solid.a, vec3.scale(vec3.sub(solid.b, solid.a), k / 400));
      least = Math.min(least, field(apply(at, p)) - solid.radius);
    }
    return least;
  };
  it('of a capsule from a capsule and from a box agree with a walk along it', () => {
    fc.assert(
      fc.property(capsule, frame, fc.oneof(capsule, box), (a, at, b) => {
        const { distance } = gapBetween(a, at, b, identity());
        const walked = byPoints(a as Extract<Solid, { kind: 'capsule' }>, at, fieldOf(b));
        expect(distance).toBeLessThanOrEqual(walked + 1e-4 + 1e-9);
        // Half a stride of the walk, at most 0.35/400 m.
        expect(walked - distance).toBeLessThanOrEqual(1e-3);
      }),
    );
  });
  it('are the same seen from either side, and find a thin plate', () => {
    fc.assert(
      fc.property(capsule, frame, box, frame, (a, at, b, where) => {
        expect(gapBetween(a, at, b, where).distance).toBe(gapBetween(b, where, a, at).distance);
      }),
    );
    const plate: Solid = {
      kind: 'filled',
      centre: [0, 0, 0],
      half: [0.2, 0.2, 0.001],
      field: boxField([0.2, 0.2, 0.001]),
    };
    fc.assert(
      fc.property(number(-0.19, 0.19), number(-0.19, 0.19), number(0.001, 0.3), (x, y, z) => {
        const rod: Solid = { kind: 'capsule', a: [x, y, z], b: [x, y, -z], radius: 0.002 };
        expect(gapBetween(rod, identity(), plate, identity()).distance).toBeLessThanOrEqual(-0.003 + 1e-4);
      }),
    );
  });
  const below: Solid = { kind: 'below' };
  it('of a capsule above a plane are those of its lower end', () => {
    fc.assert(
      fc.property(capsule, frame, frame, (a, at, plane) => {
        const { distance } = gapBetween(a, at, below, plane);
        const back = inverse(plane);
        const walked = byPoints(a as Extract<Solid, { kind: 'capsule' }>, at, (p) => apply(back, p)[2]);
        expect(distance).toBeCloseTo(walked, 9);
        expect(gapBetween(below, plane, a, at).distance).toBe(distance);
      }),
    );
  });
  it('are more than enough in the short way only where they are', () => {
    const solid = fc.oneof(capsule, box, fc.constant(below));
    fc.assert(
      fc.property(solid, frame, solid, frame, number(-0.02, 0.2), (a, at, b, where, enough) => {
        fc.pre(a.kind !== 'below' || b.kind !== 'below');
        const full = gapBetween(a, at, b, where).distance;
        const short = gapBetween(a, at, b, where, enough).distance;
        // Filled solids are told a millimetre exactly, from either of two sides.
        if (full <= enough - 2e-3) expect(short).toBeLessThanOrEqual(enough);
        if (short > enough) expect(full).toBeGreaterThan(enough - 2e-3);
      }),
      { numRuns: 400 },
    );
  });
  const boxOf = (half: Vec3): Solid => ({ kind: 'filled', centre: [0, 0, 0], half, field: boxField(half) });
  it('of a body on a plate of any thickness say how deep the plate is in it, and none beside it', () => {
    const body = boxOf([0.02, 0.015, 0.03]);
    fc.assert(
      fc.property(
        number(0.0001, 0.004),
        number(-0.1, 0.1),
        number(-0.1, 0.1),
        number(0.0025, 0.03),
        fc.boolean(),
        (half, x, y, into, turned) => {
          const plate = boxOf([0.2, 0.2, half]);
          const tilt: Vec3 = [0, 0, turned ? 0.7 : 0];
          // The body's end goes `into` the plate's face, or clean through it.
          const at = fromXyzRpy([x, y, 0.03 + half - into], tilt);
          const deep = gapBetween(body, at, plate, identity(), -1e-3);
          const expected = Math.min(into, 0.03, Math.max(half, 0.015));
          expect(deep.distance).toBeLessThan(-1e-3);
          expect(-deep.distance).toBeLessThan(into + 1.5e-3);
          expect(-deep.distance).toBeGreaterThan(Math.min(into, expected) - 2.5e-3);
          expect(gapBetween(plate, identity(), body, at, -1e-3).distance).toBeLessThan(-1e-3);
          const apart = fromXyzRpy([x, y, 0.03 + half + 0.0005], tilt);
          expect(gapBetween(body, apart, plate, identity(), -1e-3).distance).toBeGreaterThan(-1e-3);
        },
      ),
      { numRuns: 40 },
    );
  });
  it('of a body in a thin jar’s wall are found as of one in a thick', () => {
    const body = boxOf([0.01, 0.02, 0.02]);
    for (const wallMm of [0.5, 1, 2, 6]) {
      const jar = obstacleSolid({
        ...{ kind: 'jar', id: 'j', name: 'jar', xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] },
        ...{ innerRadiusMm: 45, wallMm, heightMm: 100, fillMm: 60 },
      });
      const inWall = fromXyzRpy([0.0455 - 0.004 + 0.01, 0, 0.05], [0, 0, 0]);
      expect(gapBetween(body, inWall, jar, identity(), -1e-3).distance).toBeLessThan(-2e-3);
      expect(gapBetween(body, fromXyzRpy([0, 0, 0.05], [0, 0, 0]), jar, identity(), -1e-3).distance).toBeGreaterThan(
        0,
      );
    }
  });
  it('of two boxes are found within a millimetre', () => {
    const half: Vec3 = [0.03, 0.02, 0.01];
    const solid: Solid = { kind: 'filled', centre: [0, 0, 0], half, field: boxField(half) };
    fc.assert(
      fc.property(number(0.001, 0.1), fc.constantFrom(0, 1, 2), (apart, k) => {
        const by = [0, 0, 0].map((_, i) => (i === k ? 2 * half[i] + apart : 0)) as unknown as Vec3;
        const { distance } = gapBetween(solid, identity(), solid, fromXyzRpy(by, [0, 0, 0]));
        expect(Math.abs(distance - apart)).toBeLessThan(2.5e-3);
      }),
      { numRuns: 30 },
    );
  });
});

describe('contacts of an arm', () => {
  const rig = tileDipper();
  const mechanism = compiled(rig.mechanism);
  const scene = contactScene(rig, mechanism);
  it('are none at home for any kind of arm: what overlaps there is built that way', () => {
    for (const preset of presets) {
      const made = rigFromPreset(preset, preset.name);
      if (!made.ok) throw new Error(made.faults[0].message);
      const own = compiled(made.value.mechanism);
      const found = contactsAt(contactScene(made.value, own), own.home);
      expect([preset.id, ...found.map((c) => `${c.a.name} in ${c.b.name}`)]).toEqual([preset.id]);
    }
  });
  it('are none along the demo routine, which goes into the jar, and one where the arm is pushed into the table', () => {
    const plan = planRoutine(rig, mechanism, rig.builds[0], rig.routines[0]);
    expect(sweptContacts(scene, planMotion(plan))).toEqual([]);
    const q = mechanism.home.slice();
    q[1] = mechanism.upper[1];
    q[2] = 0.9;
    const [first] = contactsAt(scene, q);
    expect([first.a.name, first.b.name]).toContain('the table');
    expect(first.depth).toBeGreaterThan(0.001);
  });
  it('are those of every pair by itself, at any pose of any rig', () => {
    let met = 0;
    for (const { rig: bare } of demoRigs()) {
      const m = compiled(bare.mechanism);
      const rpyDeg = [10, 20, 30] as [number, number, number];
      const made: Rig = {
        ...bare,
        obstacles: [
          ...bare.obstacles,
          { id: 'slope', name: 'slope', kind: 'plane', xyzMm: [0, 0, 60], rpyDeg },
          { id: 'crate', name: 'crate', kind: 'box', xyzMm: [150, -200, 0], rpyDeg, sizeMm: [200, 100, 300] },
        ],
      };
      const all = contactScene(made, m);
      fc.assert(
        fc.property(fc.array(number(0, 1), { minLength: m.m, maxLength: m.m }), (shares) => {
          // Near the ends of joints more often than between them: there arms touch themselves and the table.
          const q = Float64Array.from(shares, (share, s) => {
            const [low, high] = [Math.max(m.lower[s], -Math.PI), Math.min(m.upper[s], Math.PI)];
            return low + ((1 - Math.cos(Math.PI * share)) / 2) * (high - low);
          });
          const frames = forward(m, q);
          const place = (part: Part): Float64Array => {
            if (part.joint === -2 || part.ends) return part.local;
            return mul(part.joint === -1 ? m.base : frames.joints.get(m.ids[part.joint])!, part.local);
          };
          const solid = (part: Part): Solid => {
            const ends = part.ends?.(frames);
            return ends ? ({ ...part.solid, a: ends[0], b: ends[1] } as Solid) : part.solid;
          };
          const pairs = all.pairs.map(([i, j]) => [all.parts[i], all.parts[j]] as const);
          const expected = pairs.filter(
            ([a, b]) => gapBetween(solid(a), place(a), solid(b), place(b), -TOUCH).distance < -TOUCH,
          );
          const found = contactsAt(all, q);
          met += found.length;
          const name = ({ a, b }: { a: Part; b: Part }): string => `${all.parts.indexOf(a)} ${all.parts.indexOf(b)}`;
          expect(found.map(name).sort()).toEqual(expected.map(([a, b]) => name({ a, b })).sort());
        }),
        { numRuns: 400 },
      );
    }
    expect(met).toBeGreaterThan(20);
  });
  it('a sweep names both, and when it went in and came out', () => {
    const loader = kilnLoader();
    const m = compiled(loader.mechanism);
    const from = m.home.slice();
    const to = m.home.slice();
    // The turntable swings the stretched arm through the kiln's wall.
    [from, to].forEach((q, k) => {
      q[2] = 1.2;
      q[3] = 0.3;
      q[1] = k ? 0.9 : -0.9;
    });
    const found = sweptContacts(
      contactScene(loader, m),
      wayOf(m.m, 3, (t, out) => {
        for (let s = 0; s < m.m; s++) out[s] = from[s] + (t / 3) * (to[s] - from[s]);
      }),
    );
    const wall = found.find((c) => [c.a.name, c.b.name].some((n) => n.startsWith('kiln wall')))!;
    expect(wall.fromS).toBeLessThanOrEqual(wall.deepestS);
    expect(wall.deepestS).toBeLessThanOrEqual(wall.untilS);
    expect(wall.depth).toBeGreaterThan(0.001);
  });
});
