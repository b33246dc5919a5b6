import { describe, expect, it } from 'vitest';
import { asTree, type Rig } from '@cork-elbow/core/rig';
import { presetById, rigFromPreset } from '@cork-elbow/core/presets';
import { edit, History } from './history';

const made = rigFromPreset(presetById('servo-arm-4'), 'My arm');
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
    rig = history.undo(rig, 'design')!.rig;
    rig = history.undo(rig, 'design')!.rig;
    expect(rig).toEqual(start);
    expect(history.undo(rig, 'design')).toBeNull();
    rig = history.redo(rig, 'design')!.rig;
    rig = history.redo(rig, 'design')!.rig;
    expect(rig).toEqual(far);
  });
  it('leaves measured facts alone when a design edit before them is taken back', () => {
    const history = new History();
    let rig = commit(
      history,
      start,
      'longer',
      'design',
      (d) => void (asTree(d.mechanism).joints[2].origin.xyzMm[2] = 150),
    );
    rig = commit(history, rig, 'trim', 'build', (d) => void (d.builds[0].trims['m-turn'] = 12));
    rig = history.undo(rig, 'design')!.rig;
    expect(rig.mechanism).toEqual(start.mechanism);
    expect(rig.builds[0].trims['m-turn']).toBe(12);
    expect(history.top('build')?.label).toBe('trim');
  });
  it('says whether the document was let in before: not after a step from under others, nor of what was kept', () => {
    const history = new History();
    let rig = commit(history, start, 'a', 'design', (d) => void (d.name = 'A'));
    rig = commit(history, rig, 'trim', 'build', (d) => void (d.builds[0].trims['m-turn'] = 12));
    const both = rig;
    for (const scope of ['build', 'design'] as const) {
      const back = history.undo(rig, scope)!;
      expect(back.isKnown).toBe(true);
      rig = back.rig;
    }
    const kept = history.keep();
    rig = history.redo(rig, 'design')!.rig;
    rig = history.redo(rig, 'build')!.rig;
    expect(rig).toEqual(both);
    // The design as it was with what was measured since: nobody has looked at that.
    const under = history.undo(rig, 'design')!;
    expect(under.isKnown).toBe(false);
    expect(history.undo(under.rig, 'build')!.isKnown).toBe(false);
    history.restore(kept);
    expect(history.redo(start, 'design')!.isKnown).toBe(false);
    history.clear();
    commit(history, start, 'a', 'design', (d) => void (d.name = 'A'));
    expect(history.undo(start, 'design')!.isKnown).toBe(true);
  });
  it('a new edit ends what could be redone', () => {
    const history = new History();
    let rig = commit(history, start, 'a', 'design', (d) => void (d.name = 'A'));
    rig = history.undo(rig, 'design')!.rig;
    commit(history, rig, 'b', 'design', (d) => void (d.name = 'B'));
    expect(history.topUndone('design')).toBeUndefined();
  });
  it('an edit that changes nothing is none, and documents are frozen', () => {
    expect(edit(start, 'same', 'design', (d) => void (d.name = start.name))).toBeNull();
    const { rig } = edit(start, 'x', 'design', (d) => void (d.name = 'X'))!;
    expect(Object.isFrozen(rig)).toBe(true);
  });
});
