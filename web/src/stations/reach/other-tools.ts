/** What the arm's other tools do while one is placed: anything, keep their place, or keep it against this tool. */
import { computed, ref, shallowRef, type ComputedRef } from 'vue';
import { forward, type Task } from '@cork-elbow/core/kinematics';
import { identity, inverse, mul, positionOf } from '@cork-elbow/core/linear';
import type { CompiledTool } from '@cork-elbow/core/mechanism';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import type { PlainAsk } from '../../workers/jobs/inverse';

export type OthersWay = 'free' | 'stay' | 'along';

export function createOtherTools(tool: ComputedRef<CompiledTool | null>) {
  const rigs = useRigStore();
  const view = useViewStore();
  const othersWay = ref<OthersWay>('free');
  const others = computed(
    () => rigs.mechanism?.tools.filter((t) => t.mounted && t.id !== tool.value?.id && t.slots.length > 0) ?? [],
  );
  /** What they keep to: where they are when they are told to. */
  const kept = shallowRef<readonly PlainAsk[]>([]);

  /** Takes down where the others are, in the joints and frames of the arm as it is now. */
  function keepOthers(way: OthersWay = othersWay.value): void {
    const { mechanism } = rigs;
    const own = tool.value;
    othersWay.value = way;
    kept.value = [];
    if (way === 'free' || !mechanism || !own) return;
    const { tools } = forward(mechanism, view.editQ);
    const carrier = way === 'along' ? tools.get(own.id)! : identity();
    kept.value = others.value.map((t) => {
      const frame = mul(inverse(carrier), tools.get(t.id)!);
      // As much of its pose as its joints can answer for.
      const position = positionOf(frame);
      const task: Task =
        t.slots.length >= 6 ? { kind: 'full', position, rotation: frame } : { kind: 'free', position };
      return { toolId: t.id, task, ...(way === 'along' ? { on: { joint: own.parent, local: own.local } } : {}) };
    });
  }
  return { others, othersWay, kept, keepOthers };
}
