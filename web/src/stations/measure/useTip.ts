import { computed } from 'vue';
import { forward } from '@cork-elbow/core/kinematics';
import { positionOf } from '@cork-elbow/core/linear';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';

export const toThousandth = (v: number): number => Math.round(v * 1000) / 1000;

/** Where the first mounted tool's point stands now (mm, world), or null without a tool. */
export function useTip() {
  const rigs = useRigStore();
  const view = useViewStore();
  return computed<[number, number, number] | null>(() => {
    const { mechanism } = rigs;
    const tool = mechanism?.tools.find((t) => t.mounted);
    if (!mechanism || !tool) return null;
    const frame = forward(mechanism, view.q).tools.get(tool.id)!;
    return positionOf(frame).map((v) => toThousandth(v * 1000)) as [number, number, number];
  });
}
