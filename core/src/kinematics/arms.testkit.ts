/** Arms for tests: the demo's geometry in bare numbers, and seeded random ones. */
import fc from 'fast-check';
import { compile, type Mechanism } from '../mechanism';
import { mechanismSchema, type MechanismDoc, type TreeDoc } from '../rig';

type JointInput = {
  id: string;
  parent: string | null;
  xyz: number[];
  axis: number[];
  min: number;
  max: number;
  rpy?: number[];
};

/** Parses a mechanism that is a tree. */
export function tree(input: object): TreeDoc {
  const doc = mechanismSchema.parse(input);
  if (doc.family !== 'tree') throw new Error('not a tree');
  return doc;
}

/** A rotary delta of a hobby size; measures in mm. */
export const deltaDoc = (measures: object = {}): MechanismDoc =>
  mechanismSchema.parse({
    family: 'rotary-delta',
    base: { mounting: { xyzMm: [0, 0, 320] } },
    delta: { baseRadiusMm: 90, platformRadiusMm: 32, upperArmMm: 100, forearmMm: 220, ...measures },
    joints: ['a', 'b', 'c'].map((id) => ({ id, type: 'revolute', limits: { min: -40, max: 85 } })),
    tools: [{ id: 'pen', parent: 'platform', origin: { xyzMm: [0, 0, -40], rpyDeg: [180, 0, 0] } }],
  });

export function armDoc(joints: JointInput[], toolXyz = [0, 0, 88], toolRpy = [0, 0, 0]): TreeDoc {
  return tree({
    joints: joints.map(({ id, parent, xyz, rpy, axis, min, max }) => ({
      id,
      type: 'revolute',
      parent,
      axis,
      origin: { xyzMm: xyz, rpyDeg: rpy ?? [0, 0, 0] },
      limits: { min, max },
    })),
    tools: [{ id: 'tool', parent: joints.at(-1)?.id ?? null, origin: { xyzMm: toolXyz, rpyDeg: toolRpy } }],
  });
}

export const fourAxis = (lateral = 0): TreeDoc =>
  armDoc([
    { id: 'turn', parent: null, xyz: [0, 0, 62], axis: [0, 0, 1], min: -95, max: 95 },
    { id: 'shoulder', parent: 'turn', xyz: [0, lateral, 38], axis: [0, 1, 0], min: -40, max: 95 },
    { id: 'elbow', parent: 'shoulder', xyz: [0, 0, 140], axis: [0, 1, 0], min: -10, max: 135 },
    { id: 'wrist', parent: 'elbow', xyz: [0, 0, 128], axis: [0, 1, 0], min: -60, max: 110 },
  ]);

export const threeAxis = (): TreeDoc =>
  armDoc(
    [
      { id: 'turn', parent: null, xyz: [0, 0, 50], axis: [0, 0, 1], min: -170, max: 170 },
      { id: 'shoulder', parent: 'turn', xyz: [12, 0, 30], axis: [0, -1, 0], min: -120, max: 120 },
      { id: 'elbow', parent: 'shoulder', xyz: [0, 0, 100], axis: [0, 1, 0], min: -150, max: 150 },
    ],
    [0, 5, 90],
  );

export const sixAxis = (offset = 0): TreeDoc =>
  armDoc(
    [
      { id: 'j1', parent: null, xyz: [0, 0, 90], axis: [0, 0, 1], min: -170, max: 170 },
      { id: 'j2', parent: 'j1', xyz: [20, 0, 40], axis: [0, 1, 0], min: -100, max: 120 },
      { id: 'j3', parent: 'j2', xyz: [0, 0, 160], axis: [0, 1, 0], min: -130, max: 130 },
      { id: 'j4', parent: 'j3', xyz: [0, 0, 70], axis: [0, 0, 1], min: -175, max: 175 },
      { id: 'j5', parent: 'j4', xyz: [0, offset, 80], axis: [0, 1, 0], min: -115, max: 115 },
      { id: 'j6', parent: 'j5', xyz: [0, 0, offset], axis: [0, 0, 1], min: -175, max: 175 },
    ],
    [0, 0, 60],
  );

export function compiled(doc: MechanismDoc): Mechanism {
  const result = compile(doc);
  if (!result.ok) throw new Error(result.faults[0].message);
  return result.mechanism;
}

/** A pose inside the limits (shares 0..1 of each range), kept `margin` of the range away from them. */
export const poseOf = (mechanism: Mechanism, shares: readonly number[], margin = 0): Float64Array =>
  Float64Array.from({ length: mechanism.m }, (_, s) => {
    const f = margin + (1 - 2 * margin) * shares[s % shares.length];
    const low = Number.isFinite(mechanism.lower[s]) ? mechanism.lower[s] : -4;
    const high = Number.isFinite(mechanism.upper[s]) ? mechanism.upper[s] : 4;
    return low + f * (high - low);
  });

const coordinate = fc.integer({ min: -200, max: 200 });
const triple = fc.tuple(coordinate, coordinate, coordinate);
const turn = fc.tuple(
  fc.integer({ min: -180, max: 180 }),
  fc.integer({ min: -180, max: 180 }),
  fc.integer({ min: -180, max: 180 }),
);

/** Random trees of 1 to 12 joints of every type, followers among them. */
export const treeDoc: fc.Arbitrary<TreeDoc> = fc
  .array(
    fc.record({
      type: fc.constantFrom('revolute', 'prismatic', 'continuous', 'fixed'),
      parent: fc.nat(),
      xyz: triple,
      rpy: turn,
      axis: triple.filter((a) => Math.hypot(...a) > 1),
      follows: fc.option(fc.tuple(fc.nat(), fc.integer({ min: -3, max: 3 })), { freq: 5 }),
      offset: fc.integer({ min: -20, max: 20 }),
    }),
    { minLength: 1, maxLength: 12 },
  )
  .map((specs) => {
    const movers: number[] = [];
    const joints = specs.map((spec, i) => {
      const parent = i === 0 || spec.parent % (i + 1) === 0 ? null : `j${spec.parent % i}`;
      const base = { id: `j${i}`, parent, origin: { xyzMm: spec.xyz, rpyDeg: spec.rpy } };
      if (spec.type === 'fixed') return { ...base, type: 'fixed' };
      const source = spec.follows && movers.length ? movers[spec.follows[0] % movers.length] : null;
      movers.push(i);
      return {
        ...base,
        type: spec.type,
        axis: spec.axis,
        ...(source === null
          ? {}
          : { follows: [{ joint: `j${source}`, factor: spec.follows![1] || 0.5 }], offset: spec.offset }),
      };
    });
    return tree({
      joints,
      tools: [{ id: 'tool', parent: `j${specs.length - 1}`, origin: { xyzMm: [10, 20, 30] } }],
    });
  });
