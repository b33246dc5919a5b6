/** The rows of the load table: every motor where it is asked for most, then the joints that no motor moves. */
import { computed, type ComputedRef } from 'vue';
import { shareOf, unmoved } from '@cork-elbow/core/loads';
import { useSlots } from '../../shared/joints';
import { motorRow, useLoads, type LoadRow, type Scope } from './useLoads';

export function useRows(of: () => Scope): ComputedRef<LoadRow[]> {
  const slots = useSlots();
  const { loading, now, worst, along } = useLoads();
  const names = computed(() => slots.value.map(({ name }) => name));
  const asks = computed(() => {
    if (of() === 'pose') return now.value?.asks;
    return of() === 'anywhere'
      ? worst.answer.value?.motors.map(({ value }) => value)
      : along.answer.value?.worst.map(({ ask }) => ask);
  });
  /** What a joint bears without a motor. */
  function borne(slot: number): number {
    if (of() === 'pose') return Math.abs(now.value?.torques[slot] ?? 0);
    if (of() === 'anywhere') return Math.abs(worst.answer.value?.joints[slot]?.value ?? 0);
    return along.answer.value?.torques[slot]?.reduce((most, nm) => Math.max(most, Math.abs(nm)), 0) ?? 0;
  }
  return computed(() => {
    const own = loading.value;
    if (!own || !asks.value || asks.value.length !== own.motors.length) return [];
    return [
      ...own.motors.map((motor, k) => motorRow(motor, asks.value![k], shareOf(asks.value![k]), names.value)),
      ...unmoved(own.mechanism, own.motors).map((slot): LoadRow => ({
        key: slots.value[slot]?.id ?? `${slot}`,
        ...{ slots: [slot], name: names.value[slot], need: borne(slot), has: null, share: null, hasMotor: false },
        unit: slots.value[slot]?.unit === 'mm' ? 'N' : 'N·m',
        atShaft: false,
      })),
    ];
  });
}
