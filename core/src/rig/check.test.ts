import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { deltaDoc } from '../kinematics/arms.testkit';
import { compile } from '../mechanism';
import { checkMechanism, checkRig, parseRig, RIG_VERSION, type Rig } from './index';

/** A document as loosely typed as what comes in from outside. */
type Loose = any;
const copyOf = (rig: Rig): Loose => structuredClone(rig);

/** One wrong thing in a sound document: the only fault found is that one, where it stands. */
const alone: readonly [name: string, rig: () => Rig, spoil: (doc: Loose) => void, code: string, path: string][] = [
  [
    'a tool id used twice',
    tileDipper,
    (d) => d.mechanism.tools.push(structuredClone(d.mechanism.tools[0])),
    'id-twice',
    'mechanism.tools[1].id',
  ],
  [
    'a code name used twice',
    tileDipper,
    (d) => {
      d.mechanism.joints[1].code = 'arm';
      d.mechanism.joints[2].code = 'arm';
    },
    'code-twice',
    'mechanism.joints[2].code',
  ],
  [
    'a code name that is another joint’s id',
    tileDipper,
    (d) => (d.mechanism.joints[3].code = 'shoulder'),
    'code-twice',
    'mechanism.joints[3].code',
  ],
  [
    'a tool on a joint that is not there',
    tileDipper,
    (d) => (d.mechanism.tools[0].parent = 'knee'),
    'id-unknown',
    'mechanism.tools[0].parent',
  ],
  [
    'a gripper moved by a joint that is not there',
    tileDipper,
    (d) => (d.mechanism.tools[0].grip.joint = 'thumb'),
    'id-unknown',
    'mechanism.tools[0].grip.joint',
  ],
  [
    'limits the wrong way round',
    tileDipper,
    (d) => (d.mechanism.joints[2].limits = { min: 40, max: 40 }),
    'limits-reversed',
    'mechanism.joints[2].limits',
  ],
  [
    'hard stops the wrong way round',
    tileDipper,
    (d) => (d.mechanism.joints[2].physical = { min: 5, max: -5 }),
    'limits-reversed',
    'mechanism.joints[2].physical',
  ],
  [
    'an axis without length',
    tileDipper,
    (d) => (d.mechanism.joints[1].axis = [0, 0, 0]),
    'axis-zero',
    'mechanism.joints[1].axis',
  ],
  [
    'a parent that is not there',
    tileDipper,
    (d) => (d.mechanism.joints[0].parent = 'floor'),
    'id-unknown',
    'mechanism.joints[0].parent',
  ],
  [
    'a rule about a joint that is not there',
    kilnLoader,
    (d) => (d.mechanism.limitRules[0].while.joint = 'hip'),
    'id-unknown',
    'mechanism.limitRules[0].while.joint',
  ],
  [
    'a rule for a joint that is not there',
    kilnLoader,
    (d) => (d.mechanism.limitRules[0].joint = 'hip'),
    'id-unknown',
    'mechanism.limitRules[0].joint',
  ],
  [
    'a rule without a bound',
    kilnLoader,
    (d) => delete d.mechanism.limitRules[0].max,
    'rule-empty',
    'mechanism.limitRules[0]',
  ],
  [
    'a rule with bounds the wrong way round',
    kilnLoader,
    (d) => (d.mechanism.limitRules[0].min = 96),
    'limits-reversed',
    'mechanism.limitRules[0]',
  ],
  [
    'a cable round a joint that is not there',
    kilnLoader,
    (d) => (d.mechanism.cables[0].around[1].joint = 'neck'),
    'id-unknown',
    'mechanism.cables[0].around[1].joint',
  ],
  [
    'a cable round a slide',
    kilnLoader,
    (d) => (d.mechanism.cables[0].around[1].joint = 'rail'),
    'id-unknown',
    'mechanism.cables[0].around[1].joint',
  ],
  [
    'a pulse range the wrong way round',
    tileDipper,
    (d) => (d.drives[2].minUs = d.drives[2].maxUs),
    'pulse-reversed',
    'drives[2].minUs',
  ],
  [
    'a transmission of a joint that is not there',
    tileDipper,
    (d) => (d.transmissions[1].joints[0] = 'knee'),
    'id-unknown',
    'transmissions[1].joints[0]',
  ],
  [
    'a transmission of a motor that is not there',
    tileDipper,
    (d) => (d.transmissions[1].drives[0] = 'm-knee'),
    'id-unknown',
    'transmissions[1].drives[0]',
  ],
  [
    'a joint in two transmissions',
    tileDipper,
    (d) => (d.transmissions[1].joints[0] = 'turn'),
    'tied-twice',
    'transmissions[1].joints[0]',
  ],
  [
    'a motor in two transmissions',
    tileDipper,
    (d) => (d.transmissions[1].drives[0] = 'm-turn'),
    'tied-twice',
    'transmissions[1].drives[0]',
  ],
  [
    'a wire of a motor that is not there',
    tileDipper,
    (d) => (d.wiring[0].drive = 'm-knee'),
    'id-unknown',
    'wiring[0].drive',
  ],
  [
    'a wire to a board that is not there',
    tileDipper,
    (d) => (d.wiring[0].board = 'spare'),
    'id-unknown',
    'wiring[0].board',
  ],
  [
    'a wire on a supply that is not there',
    tileDipper,
    (d) => (d.wiring[0].rail = 'mains'),
    'id-unknown',
    'wiring[0].rail',
  ],
  [
    'a joint homed twice',
    kilnLoader,
    (d) => d.homing.axes.push({ ...d.homing.axes[0] }),
    'id-twice',
    'homing.axes[7].id',
  ],
  [
    'an output on a board that is not there',
    kilnLoader,
    (d) => (d.signals[7].board = 'spare'),
    'id-unknown',
    'signals[7].board',
  ],
  [
    'a sensor on a board that is not there',
    kilnLoader,
    (d) => (d.sensors[0].board = 'spare'),
    'id-unknown',
    'sensors[0].board',
  ],
  ['a board on the bus of none', tileDipper, (d) => (d.boards[0].host = 'spare'), 'id-unknown', 'boards[0].host'],
  ['a pin of a board twice', tileDipper, (d) => (d.boards[0].pins[3].pin = 2), 'id-twice', 'boards[0].pins[3].id'],
  [
    'a supply from a board that is not there',
    tileDipper,
    (d) => (d.rails[0].board = 'spare'),
    'id-unknown',
    'rails[0].board',
  ],
  [
    'a calibration of a motor that is not there',
    tileDipper,
    (d) => (d.builds[0].calibrations[0].drive = 'm-knee'),
    'id-unknown',
    'builds[0].calibrations[0].drive',
  ],
  [
    'a calibration at one angle only',
    tileDipper,
    (d) => d.builds[0].calibrations[0].points.forEach((p: Loose) => (p.at = 10)),
    'points-equal',
    'builds[0].calibrations[0].points',
  ],
  [
    'a calibration at one pulse only',
    tileDipper,
    (d) => d.builds[0].calibrations[0].points.forEach((p: Loose) => (p.us = 1500)),
    'points-equal',
    'builds[0].calibrations[0].points',
  ],
  [
    'a frame on a joint that is not there',
    kilnLoader,
    (d) => (d.frames[1].fixedTo = { joint: 'hip' }),
    'id-unknown',
    'frames[1].fixedTo.joint',
  ],
  [
    'a pose of a joint that is not there',
    tileDipper,
    (d) => (d.poses[2].joints.knee = 4),
    'value-unknown-joint',
    'poses[2].joints',
  ],
  ['two poses of one id', tileDipper, (d) => (d.poses[1].id = d.poses[0].id), 'id-twice', 'poses[1].id'],
  [
    'two steps of one id',
    tileDipper,
    (d) => (d.routines[0].steps[1].id = d.routines[0].steps[0].id),
    'id-twice',
    'routines[0].steps[1].id',
  ],
];

describe('a document with one thing wrong', () => {
  it.each(alone)('%s is said there, and nothing else', (_, make, spoil, code, path) => {
    const doc = copyOf(make());
    spoil(doc);
    const parsed = parseRig(doc);
    expect(parsed.ok ? [] : parsed.faults.map((f) => [f.code, f.path])).toEqual([[code, path]]);
  });

  it('of a follower: itself, a loop of two, a fixed source, one that is not there', () => {
    const follower = (joints: Loose[]): string[] =>
      checkMechanism({ ...copyOf(tileDipper()).mechanism, joints, tools: [], limitRules: [] } as Loose)
        .map((f) => `${f.code} ${f.path}`)
        .sort();
    const joint = (id: string, more: object = {}): Loose => ({
      ...{ id, type: 'revolute', parent: null, axis: [0, 0, 1], home: 0 },
      ...{ origin: { xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] } },
      ...more,
    });
    const after = (...ids: string[]): object => ({ follows: ids.map((id) => ({ joint: id, factor: 1 })) });
    expect(follower([joint('a', after('a'))])).toEqual(['follow-loop mechanism.joints[0].follows']);
    expect(follower([joint('a', after('b')), joint('b', after('a'))])).toEqual([
      'follow-loop mechanism.joints[0].follows',
      'follow-loop mechanism.joints[1].follows',
    ]);
    expect(follower([joint('a', after('b', 'nobody')), joint('b', { type: 'fixed' })])).toEqual([
      'id-unknown mechanism.joints[0].follows[0].joint',
      'id-unknown mechanism.joints[0].follows[1].joint',
    ]);
    // A follower of a follower is no loop.
    expect(follower([joint('a'), joint('b', after('a')), joint('c', after('b', 'a'))])).toEqual([]);
  });

  it('of a delta: its platform’s own name is kept, tools hang on it', () => {
    const doc: Loose = structuredClone(deltaDoc());
    expect(checkMechanism(doc)).toEqual([]);
    doc.joints[1].id = 'platform';
    expect(checkMechanism(doc).map((f) => `${f.code} ${f.path}`)).toEqual(['id-reserved mechanism.joints[1].id']);
    const tree = copyOf(tileDipper());
    tree.mechanism.tools[0].parent = 'platform';
    expect(checkRig(tree).map((f) => f.path)).toEqual(['mechanism.tools[0].parent']);
  });

  it('of too many joints says that alone, without looking at each', () => {
    const doc = copyOf(tileDipper());
    const [first] = doc.mechanism.joints;
    doc.mechanism.joints = Array.from({ length: 129 }, () => ({ ...first }));
    expect(checkMechanism(doc.mechanism).map((f) => f.code)).toEqual(['too-many-joints']);
  });

  it('of wheels: ids stand once, joints that are named are there', () => {
    const doc = copyOf(tileDipper());
    const wheel = { id: 'front', xyzMm: [80, 0, 0], radiusMm: 30, axis: [0, 1, 0], kind: 'fixed', joint: null };
    doc.mechanism.base.wheels = [wheel, { ...wheel, joint: 'axle' }];
    expect(
      checkMechanism(doc.mechanism)
        .map((f) => `${f.code} ${f.path}`)
        .sort(),
    ).toEqual(['id-twice mechanism.base.wheels[1].id', 'id-unknown mechanism.base.wheels[1].joint']);
  });
});

describe('what names something', () => {
  /** Places whose text is the id of a thing in the document, by what they are called. */
  const NAMES = new Set(['joint', 'parent', 'drive', 'board', 'rail', 'host', 'sensor']);
  type Path = (string | number)[];
  const places = (value: unknown, path: Path = []): Path[] => {
    if (typeof value === 'string') return NAMES.has(String(path.at(-1))) ? [path] : [];
    if (typeof value !== 'object' || value === null) return [];
    return Object.entries(value).flatMap(([k, v]) => places(v, [...path, Array.isArray(value) ? Number(k) : k]));
  };
  // What steps, readings and plans name may be gone: that is a finding with a place, not a broken document.
  const MAY_BE_GONE = ['routines', 'builds', 'homing', 'powerUp', 'sensors', 'spots'];
  const all = demoRigs().flatMap(({ rig }) =>
    places(rig)
      .filter((path) => !MAY_BE_GONE.includes(String(path[0])))
      .map((path) => ({ rig, path })),
  );
  it('is found missing wherever in the mechanism, the motors and the wiring it stands', () => {
    expect(all.length).toBeGreaterThan(100);
    fc.assert(
      fc.property(fc.constantFrom(...all), ({ rig, path }) => {
        const doc = copyOf(rig);
        let at = doc;
        for (const part of path.slice(0, -1)) at = at[part];
        at[path.at(-1)!] = 'no-such-thing';
        const parsed = parseRig(doc);
        expect([path.join('.'), parsed.ok]).toEqual([path.join('.'), false]);
        if (!parsed.ok) expect(parsed.faults.map((f) => f.code)).toContain('id-unknown');
      }),
      { numRuns: 300 },
    );
  });
});

describe('versions', () => {
  it('are whole numbers that are known; all else is refused at once', () => {
    for (const version of [
      -1e16,
      -1,
      0,
      0.5,
      1.5,
      Number.NaN,
      -Infinity,
      Infinity,
      1e308,
      '6',
      null,
      undefined,
      {},
    ]) {
      const parsed = parseRig({ ...copyOf(tileDipper()), version });
      expect([version, parsed.ok]).toEqual([version, false]);
      if (!parsed.ok) {
        expect(parsed.faults).toHaveLength(1);
        expect(parsed.faults[0].path).toBe('version');
        expect(parsed.faults[0].message).toMatch(/\.$/);
      }
    }
    expect(parseRig({ ...copyOf(tileDipper()), version: RIG_VERSION }).ok).toBe(true);
  });
  it('that are newer than this program say so, with what is known here', () => {
    const parsed = parseRig({ ...copyOf(tileDipper()), version: RIG_VERSION + 1 });
    expect(parsed.ok ? '' : parsed.faults[0].message).toContain(String(RIG_VERSION + 1));
  });
});

describe('every demo rig', () => {
  it('opens, compiles, and comes back the same', () => {
    for (const { rig } of demoRigs()) {
      const parsed = parseRig(JSON.parse(JSON.stringify(rig)));
      expect(parsed).toEqual({ ok: true, value: rig });
      expect(compile(rig.mechanism).ok).toBe(true);
    }
  });
});
