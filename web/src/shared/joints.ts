/** What the pages need to know of each independent joint, in the order of the slots. */
import { computed } from 'vue';
import { isMoving, jointName, type MovingJoint } from '@cork-elbow/core/rig';
import { useRigStore } from '../stores/rig';

export interface SlotInfo {
  readonly slot: number;
  readonly id: string;
  readonly name: string;
  readonly unit: '°' | 'mm';
  readonly joint: MovingJoint;
  readonly isJaw: boolean;
}

export function useSlots() {
  const rigs = useRigStore();
  return computed<SlotInfo[]>(() => {
    const { rig, mechanism } = rigs;
    if (!rig || !mechanism) return [];
    return mechanism.slotIds.map((id, slot) => {
      const joint = rig.mechanism.joints.find((j) => j.id === id);
      if (!joint || !isMoving(joint)) throw new Error(`slot ${id} is no moving joint`);
      return {
        slot,
        id,
        name: jointName(joint),
        unit: joint.type === 'prismatic' ? 'mm' : '°',
        joint,
        isJaw: joint.role === 'jaw',
      };
    });
  });
}
