import { createPinia, setActivePinia } from 'pinia';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { nextTick, watch } from 'vue';
import { asTree } from '@cork-elbow/core/rig';
import { presetById, rigFromPreset } from '@cork-elbow/core/presets';
import { useRigStore } from './rig';
import { useViewStore } from './view';

const made = rigFromPreset(presetById('servo-arm-4'), 'My arm');
if (!made.ok) throw new Error(made.faults[0].message);

async function openRig() {
  vi.stubGlobal(
    'fetch',
    async () =>
      new Response(
        JSON.stringify({ id: 'arm', revision: 1, updatedAt: '2026-01-01T00:00:00.000Z', rig: made.ok && made.value }),
      ),
  );
  const rigs = useRigStore();
  const view = useViewStore();
  await rigs.open('arm');
  return { rigs, view, m: rigs.mechanism! };
}

describe('the pose on show', () => {
  beforeEach(() => {
    localStorage.clear();
    setActivePinia(createPinia());
  });

  it('is told at once where a person moves it, and while a motion runs no faster than it can be read, in the end as it is', async () => {
    vi.useFakeTimers();
    try {
      const { view, m } = await openRig();
      const at = (v: number): Float64Array => m.home.map((q) => q + v);
      view.setEdit(at(0.01));
      expect(view.readQ).toEqual(at(0.01));
      view.setEdit(at(0.02));
      expect(view.readQ).toEqual(at(0.02));
      await vi.advanceTimersByTimeAsync(500);
      let changes = 0;
      watch(
        () => view.readQ,
        () => changes++,
        { flush: 'sync' },
      );
      for (let k = 0; k < 60; k++) {
        view.setPlayed(at(0.001 * k));
        await vi.advanceTimersByTimeAsync(16);
      }
      expect(changes).toBeGreaterThan(5);
      expect(changes).toBeLessThan(20);
      await vi.advanceTimersByTimeAsync(200);
      expect(view.readQ).toEqual(at(0.001 * 59));
      // One step alone, long after the last: nothing comes after it that would bring it along.
      await vi.advanceTimersByTimeAsync(1000);
      view.setPlayed(at(0.3), 'replay');
      await vi.advanceTimersByTimeAsync(200);
      expect(view.readQ).toEqual(at(0.3));
    } finally {
      vi.useRealTimers();
    }
  });
  it('begins at home and stays inside the limits, however it is dragged', async () => {
    const { view, m } = await openRig();
    expect(view.q).toEqual(m.home);
    view.setJoint(1, 99);
    expect(view.q[1]).toBe(m.upper[1]);
  });
  it('is the same one as long as the board says that it stands', async () => {
    const { view, m } = await openRig();
    const at = m.home.map((v) => v + 0.1);
    view.setLive(at.slice());
    let changes = 0;
    watch(
      () => view.q,
      () => changes++,
      { flush: 'sync' },
    );
    for (let k = 0; k < 5; k++) view.setLive(at.slice());
    expect(changes).toBe(0);
    at[1] += 1e-6;
    view.setLive(at.slice());
    expect([changes, view.q]).toEqual([1, at]);
  });
  it('is the person’s, then the preview’s, and the board’s above both', async () => {
    const { view, m } = await openRig();
    const preview = m.home.map((v) => v + 0.1);
    const live = m.home.map((v) => v + 0.2);
    view.setPlayed(preview);
    expect(view.poseSource).toBe('preview');
    view.setLive(live);
    view.setPlayed(preview);
    view.setEdit(preview);
    expect(view.poseSource).toBe('live');
    expect(view.q).toEqual(live);
  });
  it('stays where the board left the arm when the board goes', async () => {
    const { view, m } = await openRig();
    const live = m.home.map((v) => v + 0.2);
    view.setLive(live);
    view.setLive(null);
    expect(view.poseSource).toBe('edit');
    expect(view.q).toEqual(live);
  });
  it('follows the joints by name when one is taken out, and comes inside narrower limits', async () => {
    const { rigs, view, m } = await openRig();
    view.setJoint(m.slotOf.get('wrist')!, 0.7);
    view.setJoint(m.slotOf.get('elbow')!, 2);
    rigs.commit('out', (d) => {
      const tree = asTree(d.mechanism);
      tree.joints = tree.joints.filter((j) => j.id !== 'shoulder');
      for (const j of tree.joints) if (j.parent === 'shoulder') j.parent = 'turn';
      d.transmissions = d.transmissions.filter((t) => t.joints[0] !== 'shoulder');
    });
    rigs.commit('narrow', (d) => {
      const elbow = d.mechanism.joints.find((j) => j.id === 'elbow')!;
      if (elbow.type === 'revolute') elbow.limits = { ...elbow.limits, max: 90 };
    });
    const now = rigs.mechanism!;
    expect(view.q[now.slotOf.get('wrist')!]).toBeCloseTo(0.7, 9);
    expect(view.q[now.slotOf.get('elbow')!]).toBeCloseTo(Math.PI / 2, 9);
  });
});

describe('what is shown and chosen', () => {
  beforeEach(() => {
    localStorage.clear();
    setActivePinia(createPinia());
    vi.unstubAllGlobals();
  });
  const dark = (matches: boolean): void =>
    void vi.stubGlobal('matchMedia', (query: string) => ({ matches: matches && query.includes('dark') }));

  it('begins in the theme of the computer, in the side view, with nothing chosen', async () => {
    for (const [matches, theme] of [
      [true, 'dark'],
      [false, 'light'],
    ] as const) {
      dark(matches);
      setActivePinia(createPinia());
      const view = useViewStore();
      expect(view).toMatchObject({ theme, stage: 'side', selected: null, limb: null, pinned: null, picture: null });
      expect(view.findings).toEqual([]);
      expect(view.poseSource).toBe('edit');
      expect(document.documentElement.dataset.theme).toBe(theme);
      localStorage.clear();
    }
    vi.stubGlobal('matchMedia', undefined);
    setActivePinia(createPinia());
    expect(useViewStore().theme).toBe('light');
  });
  it('comes back as it was left: theme and view are remembered', async () => {
    dark(false);
    const view = useViewStore();
    view.theme = 'dark';
    view.stage = 'plan';
    await nextTick();
    expect(document.documentElement.dataset.theme).toBe('dark');
    setActivePinia(createPinia());
    expect(useViewStore()).toMatchObject({ theme: 'dark', stage: 'plan' });
  });
  it('works where nothing can be remembered', async () => {
    const broken = (): never => {
      throw new DOMException('no', 'SecurityError');
    };
    const [get, set] = [vi.spyOn(Storage.prototype, 'getItem'), vi.spyOn(Storage.prototype, 'setItem')];
    get.mockImplementation(broken);
    set.mockImplementation(broken);
    setActivePinia(createPinia());
    const view = useViewStore();
    view.theme = 'dark';
    await nextTick();
    expect(view).toMatchObject({ theme: 'dark', stage: 'side' });
    get.mockRestore();
    set.mockRestore();
  });
  it('forgets a joint or a limb that is gone, and only then', async () => {
    const { rigs, view } = await openRig();
    const [tool] = rigs.rig!.mechanism.tools;
    view.selected = 'elbow';
    view.limb = tool.id;
    rigs.commit('longer', (d) => void (asTree(d.mechanism).joints[2].origin.xyzMm[2] += 5));
    expect([view.selected, view.limb]).toEqual(['elbow', tool.id]);
    rigs.commit('no tool', (d) => void (d.mechanism.tools = []));
    expect([view.selected, view.limb]).toEqual(['elbow', null]);
    view.selected = 'wrist';
    rigs.commit('no wrist', (d) => {
      const tree = asTree(d.mechanism);
      tree.joints = tree.joints.filter((j) => j.id !== 'wrist' && j.parent !== 'wrist');
      d.transmissions = d.transmissions.filter((t) => tree.joints.some((j) => j.id === t.joints[0]));
    });
    expect(view.selected).toBeNull();
  });
  it('an edit of the arm brings the person’s own pose back over a preview, but not over the board', async () => {
    const { rigs, view, m } = await openRig();
    view.setPlayed(m.home.map((v) => v + 0.1));
    rigs.commit('longer', (d) => void (asTree(d.mechanism).joints[2].origin.xyzMm[2] += 5));
    expect(view.poseSource).toBe('edit');
    view.setLive(m.home.map((v) => v + 0.2));
    rigs.commit('longer', (d) => void (asTree(d.mechanism).joints[2].origin.xyzMm[2] += 5));
    expect(view.poseSource).toBe('live');
  });
  it('a pose of another number of joints is not shown', async () => {
    const { view, m } = await openRig();
    view.setPlayed(new Float64Array(m.m + 1));
    expect(view.poseSource).toBe('preview');
    expect(view.q).toEqual(view.editQ);
  });
  it('a joint is moved from what is on show, which becomes the person’s own', async () => {
    const { view, m } = await openRig();
    const preview = m.home.map((v, s) => (s === 2 ? v + 0.3 : v));
    view.setPlayed(preview);
    view.setJoint(0, 0.2);
    expect(view.poseSource).toBe('edit');
    expect(view.q[0]).toBeCloseTo(0.2, 12);
    expect(view.q[2]).toBeCloseTo(preview[2], 12);
    // What was played is not changed by it.
    expect(preview[0]).toBe(m.home[0]);
  });
  it('moves no joint while nothing is open', () => {
    const view = useViewStore();
    expect(() => view.setJoint(0, 1)).not.toThrow();
    expect(view.q).toHaveLength(0);
  });
  it('the board’s going changes nothing where it was not on show', async () => {
    const { view, m } = await openRig();
    const preview = m.home.map((v) => v + 0.1);
    view.setPlayed(preview);
    view.setLive(null);
    expect(view.poseSource).toBe('preview');
    expect(view.q).toEqual(preview);
  });
});

describe('undo of a step that changed no document', () => {
  beforeEach(() => {
    localStorage.clear();
    setActivePinia(createPinia());
  });
  it('comes before that of the document, once, and is forgotten with the next edit', async () => {
    const { rigs, view } = await openRig();
    rigs.commit('name', (d) => void (d.name = 'Other'));
    await nextTick();
    expect(view.undoLabel).toBe('name');
    const back = vi.fn();
    view.aside = { label: 'Another target', back };
    expect(view.undoLabel).toBe('Another target');
    view.undo();
    expect(back).toHaveBeenCalledTimes(1);
    expect(rigs.rig!.name).toBe('Other');
    view.undo();
    expect(back).toHaveBeenCalledTimes(1);
    expect(rigs.rig!.name).toBe('My arm');
    view.aside = { label: 'Another target', back };
    rigs.commit('name', (d) => void (d.name = 'Third'));
    await nextTick();
    expect(view.aside).toBeNull();
    expect(view.undoLabel).toBe('name');
  });
});
