/**
 * Seeded arms of every family that the product meets, and seeded targets on them: for tests and for the soak. Everything
 * is a function of the seed.
 */
import { axisOf, positionOf, vec3 } from '../linear';
import { rulesExcess, type Mechanism } from '../mechanism';
import { presetById, rigFromPreset } from '../presets';
import type { MechanismDoc, TreeInput } from '../rig';
import { compiled, deltaDoc, tree } from './arms.testkit';
import { outerReach } from './end';
import { forward } from './forward';
import type { Task } from './task';

type Random = () => number;
type Joint = TreeInput['joints'][number];
type Triple = [number, number, number];
interface Link {
  readonly axis: Triple;
  readonly xyz?: Triple;
  readonly rpy?: Triple;
  readonly slides?: boolean;
  readonly fixed?: boolean;
  readonly continuous?: boolean;
  readonly min?: number;
  readonly max?: number;
  readonly follows?: { joint: string; factor: number }[];
  readonly offset?: number;
}
type Extra = Partial<Pick<TreeInput, 'limitRules' | 'cables' | 'base'>>;
interface Arm extends Extra {
  readonly links: readonly Link[];
  readonly tip?: Triple;
  readonly tipRpy?: Triple;
}

const X: Triple = [1, 0, 0];
const Y: Triple = [0, 1, 0];
const Z: Triple = [0, 0, 1];
const whole = (random: Random, low: number, high: number): number => low + Math.floor(random() * (high - low + 1));
const oneOf = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)];
const flip = (random: Random, axis: Triple): Triple =>
  random() < 0.5 ? axis : (axis.map((v) => (v === 0 ? 0 : -v)) as Triple);

/** A chain: each link hangs on the one before it. */
function chain({ links, tip = [0, 0, 70], tipRpy = [0, 0, 0], ...extra }: Arm): MechanismDoc {
  const joints = links.map((link, i): Joint => {
    const { axis, xyz = [0, 0, 0], rpy = [0, 0, 0], slides, fixed, continuous, min, max, follows, offset } = link;
    const base = { id: `j${i}`, parent: i ? `j${i - 1}` : null, origin: { xyzMm: xyz, rpyDeg: rpy } };
    if (fixed) return { ...base, type: 'fixed' };
    if (continuous) return { ...base, type: 'continuous', axis };
    const limits = { min: min ?? (slides ? 0 : -110), max: max ?? (slides ? 200 : 120) };
    return { ...base, type: slides ? 'prismatic' : 'revolute', axis, limits, follows, offset };
  });
  const last = joints[joints.length - 1].id;
  return tree({ joints, tools: [{ id: 'tool', parent: last, origin: { xyzMm: tip, rpyDeg: tipRpy } }], ...extra });
}

const turn = (random: Random): Link => ({
  axis: flip(random, Z),
  xyz: [0, 0, whole(random, 30, 80)],
  min: -160,
  max: 160,
});
/** A turn and `bars` parallel joints. */
function turnAndPlanar(random: Random, bars: number, lateral = 0, bent = false): Link[] {
  const axis = flip(random, Y);
  const at = (z: number): Triple => [bent ? whole(random, -25, 25) : 0, 0, z];
  return [
    turn(random),
    { axis, xyz: [random() < 0.5 ? 0 : whole(random, -20, 30), lateral, whole(random, 20, 60)] },
    ...Array.from({ length: bars - 1 }, (): Link => ({ axis, xyz: at(whole(random, 60, 180)), min: -130, max: 130 })),
  ];
}
const roll = (z: number): Link => ({ axis: Z, xyz: [0, 0, z], min: -170, max: 170 });
const rail = (axis: Triple, length: number): Link => ({ axis, xyz: [0, 0, 20], slides: true, min: 0, max: length });
const spherical = (random: Random, shoulder = 20, lateral = 0): Link[] => [
  { axis: Z, xyz: [0, 0, 90], min: -170, max: 170 },
  { axis: Y, xyz: [shoulder, lateral, 40], min: -100, max: 120 },
  { axis: Y, xyz: [0, 0, whole(random, 110, 180)], min: -130, max: 130 },
  { axis: Z, xyz: [0, 0, 60], min: -175, max: 175 },
  { axis: Y, xyz: [0, 0, whole(random, 50, 100)], min: -115, max: 115 },
  { axis: Z, min: -175, max: 175 },
];
function anyChain(random: Random, n: number): MechanismDoc {
  const triple = (size: number): Triple => [0, 1, 2].map(() => whole(random, -size, size)) as Triple;
  return chain({
    links: Array.from({ length: n }, (): Link => {
      const kind = random();
      const axis = ((): Triple => {
        const a = triple(9);
        return Math.hypot(...a) < 1 ? Z : a;
      })();
      const place = { axis, xyz: triple(120), rpy: triple(180) };
      if (kind < 0.2) return { ...place, slides: true, min: -whole(random, 20, 100), max: whole(random, 20, 150) };
      if (kind < 0.3) return { ...place, continuous: true };
      return { ...place, min: -whole(random, 20, 170), max: whole(random, 20, 170) };
    }),
    tip: triple(90),
    tipRpy: triple(180),
  });
}
const narrow = (random: Random, links: Link[]): Link[] =>
  links.map((link) => {
    const middle = whole(random, -60, 60);
    const half = 0.5 + 6 * random();
    return link.slides
      ? { ...link, min: 80, max: 81 + 6 * random() }
      : { ...link, min: middle - half, max: middle + half };
  });
const preset = (id: string) => (): MechanismDoc => {
  const rig = rigFromPreset(presetById(id), id);
  if (!rig.ok) throw new Error(rig.faults[0].message);
  return rig.value.mechanism;
};
const mounted = (random: Random, rpyDeg: Triple): Extra => ({
  base: { mounting: { xyzMm: [whole(random, -50, 50), 0, 300], rpyDeg } },
});
const sumRule = (...joints: number[]): NonNullable<TreeInput['limitRules']>[number] => ({
  terms: joints.map((k) => ({ joint: `j${k}`, factor: 1 })),
  min: -50,
  max: 75,
});
const cable = (slackMm: number, ...joints: number[]): Extra => ({
  cables: [
    { id: 'c', name: 'hose', slackMm, around: joints.map((k) => ({ joint: `j${k}`, radiusMm: 15, neutral: 0 })) },
  ],
});

export const families: Readonly<Record<string, (random: Random) => MechanismDoc>> = {
  ...Object.fromEntries([2, 3, 4, 5, 6, 7].map((n) => [`any chain of ${n}`, (r: Random) => anyChain(r, n)])),
  'turn and 2 bars': (r) => chain({ links: turnAndPlanar(r, 2) }),
  'turn and 3 bars': (r) => chain({ links: turnAndPlanar(r, 3) }),
  'turn, 3 bars, roll': (r) => chain({ links: [...turnAndPlanar(r, 3), roll(30)] }),
  'turn, 2 bars, roll': (r) => chain({ links: [...turnAndPlanar(r, 2), roll(90)] }),
  'shoulder beside the turn': (r) => chain({ links: turnAndPlanar(r, 3, whole(r, 5, 30)) }),
  'bent links': (r) => chain({ links: turnAndPlanar(r, 3, 0, true), tip: [whole(r, -30, 30), 0, 60] }),
  'fixed joints in the middle': (r) => {
    const [a, b, c, d] = turnAndPlanar(r, 3);
    return chain({ links: [a, b, { axis: Z, fixed: true, xyz: [12, 0, 50], rpy: [0, 15, 0] }, c, d] });
  },
  'tool beside the plane': (r) =>
    chain({ links: turnAndPlanar(r, 3), tip: [10, whole(r, -30, 30), 60], tipRpy: [whole(r, -40, 40), 20, 0] }),
  'level bars': preset('stacking-arm'),
  'belt from the shoulder': (r) => {
    const [a, b, c, d] = turnAndPlanar(r, 3);
    const belt: Link = {
      axis: b.axis,
      xyz: [0, 0, 60],
      follows: [{ joint: 'j1', factor: -1 }],
      offset: 20,
      min: -170,
      max: 170,
    };
    return chain({ links: [a, b, belt, { ...c, xyz: [0, 0, 40] }, d] });
  },
  'from the ceiling': (r) => chain({ links: turnAndPlanar(r, 3), ...mounted(r, [180, 0, 0]) }),
  'tilted base': (r) =>
    chain({ links: turnAndPlanar(r, 3), ...mounted(r, [whole(r, -60, 60), whole(r, -60, 60), 30]) }),
  'rail, 2 bars': (r) => chain({ links: [rail(oneOf(r, [X, Y]), 300), ...turnAndPlanar(r, 2)] }),
  'rail, 3 bars': (r) => chain({ links: [rail(oneOf(r, [X, Y]), 300), ...turnAndPlanar(r, 3)] }),
  'rail, 3 bars, roll': (r) => chain({ links: [rail(Y, 300), ...turnAndPlanar(r, 3), roll(30)] }),
  'tilted rail': (r) => chain({ links: [rail([1, whole(r, -2, 2), whole(r, 1, 3)], 300), ...turnAndPlanar(r, 3)] }),
  'long rail': (r) => chain({ links: [rail(Y, 4000), ...turnAndPlanar(r, 3)] }),
  'rail, rule': (r) =>
    chain({ links: [rail(Y, 300), ...turnAndPlanar(r, 3)], limitRules: [sumRule(2, 3), sumRule(3, 4)] }),
  'rail kind': preset('rail-arm'),
  'column, 3 bars': (r) => chain({ links: [rail(Z, 300), ...turnAndPlanar(r, 3)] }),
  'column, 2 bars': (r) => chain({ links: [rail(Z, 300), ...turnAndPlanar(r, 2)] }),
  'column on a turntable': (r) => {
    const [a, ...rest] = turnAndPlanar(r, 3);
    return chain({ links: [a, rail(a.axis, 200), ...rest] });
  },
  'column kind': preset('column-arm'),
  'swinging links on a column': (r) =>
    chain({
      links: [
        rail(Z, 400),
        { axis: Z, xyz: [40, 0, 60] },
        { axis: Z, xyz: [whole(r, 90, 170), 0, 0], min: -155, max: 150 },
        { axis: Z, xyz: [whole(r, 90, 150), 0, 0], min: -170, max: 170 },
      ],
      tip: [50, 0, 0],
      tipRpy: [0, 90, 0],
    }),
  'level swinging kind': preset('scara'),
  gantry: (r) =>
    chain({ links: [rail(X, 300), rail(Y, 250), { ...rail(flip(r, Z), 150), min: -75, max: 75 }, roll(0)] }),
  polar: () => chain({ links: [{ axis: Z, xyz: [0, 0, 60] }, { axis: Y, xyz: [0, 0, 40] }, rail(Z, 200)] }),
  'wrist in one point': (r) => chain({ links: spherical(r) }),
  'wrist in one point, over the turn': (r) => chain({ links: spherical(r, 0) }),
  'wrist in one point, shoulder beside': (r) => chain({ links: spherical(r, 15, whole(r, 5, 25)), tip: [15, 5, 60] }),
  'wrist apart': (r) =>
    chain({ links: spherical(r).map((link, i) => (i === 4 ? { ...link, xyz: [0, whole(r, 10, 30), 80] } : link)) }),
  'wrist in one point, rail': (r) => chain({ links: [rail(Y, 400), ...spherical(r)] }),
  'seven joints': (r) => {
    const [a, b, c, d, e, f] = spherical(r, 0);
    return chain({ links: [a, b, { axis: Z, xyz: [0, 0, 60], min: -160, max: 160 }, c, d, e, f] });
  },
  'sums between joints': (r) => chain({ links: turnAndPlanar(r, 3), limitRules: [sumRule(1, 2), sumRule(1, 2, 3)] }),
  'conditions between joints': (r) =>
    chain({
      links: turnAndPlanar(r, 3),
      limitRules: [
        { while: { joint: 'j1', above: 20 }, joint: 'j2', min: 0 },
        { while: { joint: 'j0', below: -30 }, joint: 'j1', max: 40 },
      ],
    }),
  'cable over two': (r) => chain({ links: turnAndPlanar(r, 3), ...cable(25, 1, 2) }),
  'cable over three': (r) => chain({ links: [...turnAndPlanar(r, 3), roll(20)], ...cable(40, 1, 2, 4) }),
  'rule at a wrist in one point': (r) => chain({ links: spherical(r), limitRules: [sumRule(3, 5), sumRule(1, 2)] }),
  'narrow, turn and 3 bars': (r) => chain({ links: narrow(r, turnAndPlanar(r, 3)) }),
  'narrow, rail': (r) => chain({ links: narrow(r, [rail(Y, 300), ...turnAndPlanar(r, 3)]) }),
  'narrow, six': (r) => chain({ links: narrow(r, spherical(r)) }),
  delta: () => deltaDoc(),
  neck: preset('neck'),
  'two arms': preset('twin-arms'),
  'four-axis kind': preset('servo-arm-4'),
  'five-axis kind': preset('servo-arm-5'),
};

export const kinds = ['free', 'tilt', 'direction', 'full'] as const;
export type Kind = (typeof kinds)[number];

/** The task of this kind that the first tool meets at a pose. */
export function taskMet(mechanism: Mechanism, q: Float64Array, kind: Kind): Task {
  const frame = forward(mechanism, q).tools.get(mechanism.tools[0].id)!;
  const position = positionOf(frame);
  switch (kind) {
    case 'free':
      return { kind, position };
    case 'tilt':
      return { kind, position, fromUp: vec3.angleBetween(axisOf(frame, 2), Z), up: Z };
    case 'direction':
      return { kind, position, direction: axisOf(frame, 2) };
    case 'full':
      return { kind, position, rotation: frame };
  }
}

/** An allowed pose: anywhere, or with joints at their limits, or near stretch and straight up; null where none was found. */
export function allowedPose(mechanism: Mechanism, random: Random): Float64Array | null {
  const place = random();
  const { lower, upper, m } = mechanism;
  for (let attempt = 0; attempt < 300; attempt++) {
    const q = Float64Array.from({ length: m }, (_, s) => {
      const low = Number.isFinite(lower[s]) ? lower[s] : -4;
      const high = Number.isFinite(upper[s]) ? upper[s] : 4;
      const share = random();
      const special = random();
      const near = Math.min(high, Math.max(low, (random() - 0.5) * 2e-3));
      if (place > 0.75 && special < 0.5) return share < 0.5 ? low : high;
      if (place > 0.5 && place <= 0.75 && special < 0.6) return share < 0.3 ? Math.min(high, Math.max(low, 0)) : near;
      return low + share * (high - low);
    });
    if (rulesExcess(mechanism, q) <= 0 && forward(mechanism, q).gap === 0) return q;
  }
  return null;
}

/** A seeded question: an arm of the family, a pose of it, the task it meets there, and where to start from. */
export interface Question {
  readonly mechanism: Mechanism;
  readonly pose: Float64Array;
  readonly kind: Kind;
  readonly task: Task;
  readonly near: Float64Array;
}

/** `mechanism`: ask of this arm instead of a new one. */
export function question(random: Random, mechanism: Mechanism): Question | null {
  const pose = allowedPose(mechanism, random);
  if (!pose) return null;
  const kind = oneOf(random, kinds);
  const from = random();
  const near = from < 0.4 ? mechanism.home : from < 0.7 ? pose : (allowedPose(mechanism, random) ?? pose);
  return { mechanism, pose, kind, task: taskMet(mechanism, pose, kind), near };
}

/** The same target pushed away from the base until no length of the arm leads there. */
export function pushedOut({ mechanism, task }: Question, random: Random): Task {
  if (task.kind === 'aim') return task;
  const reach = outerReach(mechanism, mechanism.tools[0]) + 0.5 + 4.3;
  const way = vec3.unit([random() - 0.5, random() - 0.5, random() - 0.5]) ?? Z;
  return { ...task, position: vec3.add(positionOf(mechanism.base), vec3.scale(way, reach)) };
}

export const armOf = (family: string, random: Random): Mechanism => compiled(families[family](random));
