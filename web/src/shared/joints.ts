/** What the pages need to know of each independent joint, in the order of the slots. */
import { computed } from 'vue';
import { isJaw, isMoving, jointName, type AnyJoint, type AnyMoving } from '@cork-elbow/core/rig';
import { useRigStore } from '../stores/rig';

export interface SlotInfo {
  readonly slot: number;
  readonly id: string;
  readonly name: string;
  readonly unit: '°' | 'mm';
  readonly joint: AnyMoving;
  readonly isJaw: boolean;
}

/** Spoken and written behind a figure of a joint. */
export const behindFigure = ({ unit }: Pick<SlotInfo, 'unit'>): string => (unit === '°' ? '°' : ' mm');

export function useSlots() {
  const rigs = useRigStore();
  return computed<SlotInfo[]>(() => {
    const { hardware: rig, mechanism } = rigs;
    if (!rig || !mechanism) return [];
    return mechanism.slotIds.map((id, slot) => {
      const joint = rig.mechanism.joints.find((j) => j.id === id) as AnyJoint | undefined;
      if (!joint || !isMoving(joint)) throw new Error(`slot ${id} is no moving joint`);
      return {
        slot,
        id,
        name: jointName(joint),
        unit: joint.type === 'prismatic' ? 'mm' : '°',
        joint,
        isJaw: isJaw(joint),
      };
    });
  });
}

/** The slot of a joint by its id, for its mark and colour; `other` where the rig of today no longer has it. */
export function useSlotOf(): (id: string, other: number) => number {
  const slots = useSlots();
  return (id, other) => slots.value.find((s) => s.id === id)?.slot ?? other;
}
