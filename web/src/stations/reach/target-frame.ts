/** The frame that a target is given in: the world, the base, a named frame, or the end of another limb. */
import { computed, ref, type ComputedRef } from 'vue';
import { carriedFrame, forward, namedFrames, type Carried } from '@cork-elbow/core/kinematics';
import { identity, mul } from '@cork-elbow/core/linear';
import { frameToSi, type CompiledTool } from '@cork-elbow/core/mechanism';
import { useRigStore } from '../../stores/rig';

export const WORLD = ':world';
export const BASE = ':base';
/** Prefix of frames that are the end of a limb: another tool's own frame. */
const END = 'end:';

/** `others`: tools beside the one in question whose ends can be given targets in. */
export function createTargetFrame(others: ComputedRef<readonly CompiledTool[]>) {
  const rigs = useRigStore();
  const frameId = ref(WORLD);

  const frames = computed(() => {
    const list = [
      { value: WORLD, label: 'world' },
      { value: BASE, label: 'base' },
      ...(rigs.rig?.frames ?? []).map((frame) => ({ value: frame.id, label: frame.name })),
    ];
    if (!rigs.mechanism?.delta)
      list.push(...others.value.map((t) => ({ value: END + t.id, label: `${t.name}, held in place` })));
    return list;
  });
  /** The chosen frame where it moves with a joint; null where it stands still. */
  const carried = computed((): Carried | null => {
    const { mechanism, rig } = rigs;
    if (!mechanism || !rig || mechanism.delta) return null;
    if (frameId.value.startsWith(END)) {
      const end = mechanism.tools.find((t) => END + t.id === frameId.value);
      return end ? { joint: end.parent, local: end.local } : null;
    }
    const frame = rig.frames.find((f) => f.id === frameId.value);
    if (!frame || typeof frame.fixedTo === 'string') return null;
    const joint = mechanism.index.get(frame.fixedTo.joint);
    if (joint === undefined) return null;
    return { joint, local: mul(mechanism.unalign.slice(12 * joint, 12 * joint + 12), frameToSi(frame)) };
  });
  /** World transform of the chosen frame, the arm standing at q. */
  function frameNow(q: Float64Array): Float64Array {
    const { mechanism, rig } = rigs;
    if (!mechanism || !rig || frameId.value === WORLD) return identity();
    if (frameId.value === BASE) return mechanism.base;
    if (carried.value) return carriedFrame(mechanism, carried.value, q);
    return namedFrames(mechanism, forward(mechanism, q), rig.frames).get(frameId.value) ?? identity();
  }
  return { frameId, frames, carried, frameNow };
}
