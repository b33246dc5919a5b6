import { createPinia, setActivePinia } from 'pinia';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { asTree } from '@cork-elbow/core/rig';
import { presetById, rigFromPreset } from '@cork-elbow/core/mechanism/presets';
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

  it('begins at home and stays inside the limits, however it is dragged', async () => {
    const { view, m } = await openRig();
    expect(view.q).toEqual(m.home);
    view.setJoint(1, 99);
    expect(view.q[1]).toBe(m.upper[1]);
  });
  it('is the person’s, then the preview’s, and the board’s above both', async () => {
    const { view, m } = await openRig();
    const preview = m.home.map((v) => v + 0.1);
    const live = m.home.map((v) => v + 0.2);
    view.setPreview(preview);
    expect(view.poseSource).toBe('preview');
    view.setLive(live);
    view.setPreview(preview);
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
