import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { admit } from '../admit';
import { anyRoutine } from '../routine/routine.testkit';
import {
  forgetJoint,
  listOf,
  parseRig,
  removeDrives,
  removeJoint,
  rename,
  takeOut,
  usesIn,
  usesOf,
  type Kind,
  type Rig,
  type Step,
} from './index';

const kinds: readonly Kind[] = [
  ...(['joint', 'drive', 'board', 'rail', 'signal', 'sensor', 'tool', 'spot', 'payload', 'pose', 'routine'] as const),
];
const rigs = demoRigs().map(({ rig }) => rig);
/** A demo rig with a routine of any steps, so that every kind of step names something. */
const anyRig = fc
  .constantFrom(...rigs)
  .chain((rig) => anyRoutine(rig, 8).map((routine): Rig => ({ ...rig, routines: [...rig.routines, routine] })));
const thing = anyRig.chain((rig) =>
  fc.constantFrom(...kinds.flatMap((kind) => listOf(rig, kind).map(({ id }) => ({ rig, kind, id })))),
);
const copyOf = (rig: Rig): Rig => JSON.parse(JSON.stringify(rig)) as Rig;
const opens = (rig: Rig): string => {
  const parsed = parseRig(rig);
  return parsed.ok ? 'opens' : parsed.faults[0].message;
};

describe('what names what', () => {
  it('is all in the table: no id of a thing stands anywhere else in a document', () => {
    // Words of people and ids of things that nothing names.
    const OWN = new Set([
      'id',
      'name',
      'code',
      'note',
      'model',
      'label',
      'colour',
      'counter',
      'to',
      'kind',
      'firmware',
      'role',
    ]);
    for (const rig of rigs) {
      const named = new Set([...usesIn(rig)].map(({ path }) => JSON.stringify(path)));
      const ids = new Set(kinds.flatMap((kind) => listOf(rig, kind).map(({ id }) => id)));
      const look = (value: unknown, path: (string | number)[]): void => {
        const key = path[path.length - 1];
        if (typeof value === 'string') {
          if (ids.has(value) && !OWN.has(String(key)))
            expect([value, named.has(JSON.stringify(path))]).toEqual([value, true]);
          return;
        }
        if (typeof value !== 'object' || value === null) return;
        for (const [k, v] of Object.entries(value)) {
          const next = [...path, Array.isArray(value) ? Number(k) : k];
          // Keys of the document itself may be called like a thing.
          const isRecord =
            !Array.isArray(value) && ['joints', 'trims', 'turns', 'confirmed', 'at', 'waits'].includes(String(key));
          if (isRecord && ids.has(k)) expect([path, k, named.has(JSON.stringify(next))]).toEqual([path, k, true]);
          look(v, next);
        }
      };
      look(rig, []);
      expect(named.size).toBeGreaterThan(20);
    }
  });
  it('of every use leads to the thing’s own id', () => {
    fc.assert(
      fc.property(thing, ({ rig, kind, id }) => {
        for (const { path, id: named } of usesOf(rig, kind, id)) {
          expect(named).toBe(id);
          const value = path.reduce<unknown>((v, key) => (v as Record<string, unknown>)[key], rig);
          expect(value === id || path[path.length - 1] === id).toBe(true);
        }
      }),
    );
  });
});

describe('a thing with another id', () => {
  it('is the same thing: the document opens, nothing names the old id, all that did names the new one', () => {
    fc.assert(
      fc.property(thing, ({ rig, kind, id }) => {
        const draft = copyOf(rig);
        const before = usesOf(draft, kind, id)
          .map((use) => use.path.length)
          .sort();
        rename(draft, kind, id, 'quite-another');
        expect(usesOf(draft, kind, id)).toEqual([]);
        expect(
          usesOf(draft, kind, 'quite-another')
            .map((use) => use.path.length)
            .sort(),
        ).toEqual(before);
        expect(opens(draft)).toBe(opens(rig));
        rename(draft, kind, 'quite-another', id);
        expect(draft).toEqual(copyOf(rig));
      }),
    );
  });
  it('keeps its place in what is kept by ids', () => {
    const draft = copyOf(tileDipper());
    const order = Object.keys(draft.poses[0].joints);
    rename(draft, 'joint', 'elbow', 'ellbogen');
    expect(Object.keys(draft.poses[0].joints)).toEqual(order.map((key) => (key === 'elbow' ? 'ellbogen' : key)));
  });
});

describe('a thing that is taken out', () => {
  const away = (draft: Rig, kind: Kind, id: string): void => {
    if (kind === 'joint') removeJoint(draft, id);
    else if (kind === 'drive') removeDrives(draft, [id]);
    else takeOut(draft, kind, id);
  };
  it('leaves a document that opens and compiles, in which only steps and tools still name it', () => {
    fc.assert(
      fc.property(thing, ({ rig, kind, id }) => {
        const draft = copyOf(rig);
        fc.pre(kind !== 'joint' || draft.mechanism.family === 'tree');
        away(draft, kind, id);
        expect([kind, id, opens(draft)]).toEqual([kind, id, 'opens']);
        expect(admit(draft).ok).toBe(admit(rig).ok);
        for (const { path, reference } of usesOf(draft, kind, id)) {
          expect(reference.gone).toBe('keep');
          expect(path[0] === 'routines' ? path[2] : path[1]).toBe(path[0] === 'routines' ? 'steps' : 'tools');
        }
        expect(listOf(draft, kind).some((item) => item.id === id)).toBe(false);
      }),
    );
  });
  it('takes nothing with it that does not name it', () => {
    fc.assert(
      fc.property(thing, ({ rig, kind, id }) => {
        fc.pre(!['joint', 'drive'].includes(kind));
        const draft = copyOf(rig);
        away(draft, kind, id);
        for (const other of kinds) {
          const left = listOf(draft, other).map((item) => item.id);
          const was = listOf(rig, other).map((item) => item.id);
          const named = new Set(usesOf(rig, kind, id).map(({ path }) => JSON.stringify(path.slice(0, 2))));
          const expected = was.filter((own, k) => {
            if (other === kind && own === id) return false;
            return !(kind === 'sensor' && named.has(JSON.stringify([`${other}s`, k])));
          });
          expect([kind, other, left]).toEqual([kind, other, expected]);
        }
      }),
    );
  });
  it('of a joint takes its values out of steps, and the steps that were about it alone', () => {
    const draft = copyOf(kilnLoader());
    const step = (more: object, k: number): Step => ({ id: `x${k}`, enabled: true, note: '', ...more }) as Step;
    draft.routines[0].steps = [
      step({ kind: 'joint-move', target: { joints: { elbow: 10, turn: 5 } }, pace: { speedShare: 0.5 } }, 0),
      step({ kind: 'hold', joints: ['elbow', 'turn'] }, 1),
      step({ kind: 'let-go', joints: ['elbow'] }, 2),
      step({ kind: 'spin', joint: 'elbow', speed: 5, until: 'stopped' }, 3),
      step(
        {
          kind: 'path',
          through: [{ shift: { joints: { elbow: 4 } } }, { joints: { rail: 1 } }],
          pace: { speedShare: 1 },
        },
        4,
      ),
    ];
    expect(opens(draft)).toBe('opens');
    removeJoint(draft, 'elbow');
    expect(draft.routines[0].steps).toMatchObject([
      { id: 'x0', target: { joints: { turn: 5 } } },
      { id: 'x1', joints: ['turn'] },
      { id: 'x4', through: [{ shift: { joints: {} } }, { joints: { rail: 1 } }] },
    ]);
    expect(opens(draft)).toBe('opens');
    expect(usesOf(draft, 'joint', 'elbow')).toEqual([]);
  });
  it('of a joint hangs what it carried on its parent, and frees what followed it alone', () => {
    const draft = copyOf(tileDipper());
    const tree = draft.mechanism;
    if (tree.family !== 'tree') throw new Error('no tree');
    tree.joints.push({
      ...{ id: 'rod', type: 'revolute', parent: 'shoulder', axis: [0, 1, 0], home: 0, offset: 3, coupling: 'bars' },
      ...{ origin: { xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] }, follows: [{ joint: 'elbow', factor: -1 }] },
    });
    removeJoint(draft, 'elbow');
    const rod = tree.joints.find((j) => j.id === 'rod')!;
    expect(rod).not.toHaveProperty('follows');
    expect(rod).not.toHaveProperty('offset');
    expect(tree.joints.find((j) => j.id === 'wrist')!.parent).toBe('shoulder');
    expect(draft.drives.map((d) => d.id)).not.toContain('m-elbow');
    expect(opens(draft)).toBe('opens');
    // Taking out what is not there changes nothing.
    const before = copyOf(draft);
    removeJoint(draft, 'elbow');
    forgetJoint(draft, 'elbow');
    expect(draft).toEqual(before);
  });
});
