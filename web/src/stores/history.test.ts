import { describe, expect, it } from 'vitest';
import { parseRig, type Rig } from '@cork-elbow/core/rig';
import { rulerArm, usual } from '../shelf/ruler-arm';
import { edit, History } from './history';

const made = rulerArm(usual);
if (!made.ok) throw new Error(made.faults[0].message);
const start = made.value;
const commit = (
  history: History,
  rig: Rig,
  label: string,
  scope: 'design' | 'build',
  recipe: (draft: Rig) => void,
): Rig => {
  const changed = edit(rig, label, scope, recipe)!;
  history.push(changed.edit);
  return changed.rig;
};

describe('undo by patches', () => {
  it('goes back to the very same document and forward again', () => {
    const history = new History();
    let rig = start;
    rig = commit(history, rig, 'a', 'design', (d) => void (d.name = 'A'));
    rig = commit(history, rig, 'b', 'design', (d) => void d.mechanism.joints.pop());
    const far = rig;
    rig = history.undo(rig, 'design')!;
    rig = history.undo(rig, 'design')!;
    expect(rig).toEqual(start);
    expect(history.undo(rig, 'design')).toBeNull();
    rig = history.redo(rig, 'design')!;
    rig = history.redo(rig, 'design')!;
    expect(rig).toEqual(far);
  });
  it('leaves measured facts alone when a design edit before them is taken back', () => {
    const history = new History();
    let rig = commit(history, start, 'longer', 'design', (d) => void (d.mechanism.joints[2].origin.xyzMm[2] = 150));
    rig = commit(history, rig, 'trim', 'build', (d) => void (d.builds[0].trims['m-turn'] = 12));
    rig = history.undo(rig, 'design')!;
    expect(rig.mechanism).toEqual(start.mechanism);
    expect(rig.builds[0].trims['m-turn']).toBe(12);
    expect(history.top('build')?.label).toBe('trim');
  });
  it('a new edit ends what could be redone', () => {
    const history = new History();
    let rig = commit(history, start, 'a', 'design', (d) => void (d.name = 'A'));
    rig = history.undo(rig, 'design')!;
    commit(history, rig, 'b', 'design', (d) => void (d.name = 'B'));
    expect(history.topUndone('design')).toBeUndefined();
  });
  it('an edit that changes nothing is none, and documents are frozen', () => {
    expect(edit(start, 'same', 'design', (d) => void (d.name = start.name))).toBeNull();
    const { rig } = edit(start, 'x', 'design', (d) => void (d.name = 'X'))!;
    expect(Object.isFrozen(rig)).toBe(true);
  });
});

describe('an arm from a ruler', () => {
  it.each([3, 4] as const)('of %d joints passes every check, with the lengths typed', (axes) => {
    const arm = rulerArm({ name: 'Arm', axes, shoulderHeight: 95, upperArm: 121.5, forearm: 99, hand: 70 });
    if (!arm.ok) throw new Error(arm.faults[0].message);
    expect(parseRig(JSON.parse(JSON.stringify(arm.value))).ok).toBe(true);
    expect(arm.value.mechanism.joints[2].origin.xyzMm[2]).toBe(121.5);
  });
  it('refuses a name that is empty', () => {
    expect(rulerArm({ ...usual, name: '' })).toMatchObject({
      ok: false,
      faults: [{ message: expect.stringMatching(/name must be text that is not empty/) }],
    });
  });
});
