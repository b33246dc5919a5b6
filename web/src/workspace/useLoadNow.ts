/**
 * What the pose on show asks of the motors, with what the tool holds: what the played routine has in hand, or what the Load station asks
 * about while it is open.
 */
import { computed, inject, onScopeDispose, provide, shallowRef, watchEffect, type InjectionKey } from 'vue';
import { heldBy, Loading, shareOf, type Held } from '@cork-elbow/core/loads';
import { carriedAt } from '@cork-elbow/core/routine';
import { useRigStore } from '../stores/rig';
import { useViewStore } from '../stores/view';
import type { Holding } from '../workers/jobs/worst';
import type { PlanContext } from './usePlan';

export type LoadNow = ReturnType<typeof createLoadNow>;
const key: InjectionKey<LoadNow> = Symbol('load now');

export function createLoadNow({ plan, time }: Pick<PlanContext, 'plan' | 'time'>) {
  const rigs = useRigStore();
  const view = useViewStore();
  const asked = shallowRef<Holding | null>(null);
  /** What the played routine has in hand, as a text: it changes seldom, time does at every picture. */
  const carried = computed(() =>
    view.poseSource === 'preview' && plan.value ? JSON.stringify([...carriedAt(plan.value, time.value)]) : null,
  );
  const holding = computed((): readonly Holding[] => {
    if (carried.value === null) return asked.value ? [asked.value] : [];
    return (JSON.parse(carried.value) as [string, string][]).flatMap(([toolId, id]) => {
      const payload = rigs.hardware?.payloads.find((p) => p.id === id);
      return payload ? [{ toolId, payload }] : [];
    });
  });
  const loading = computed(() => {
    const { hardware, mechanism } = rigs;
    if (!hardware || !mechanism) return null;
    const held = holding.value.flatMap(({ toolId, payload }): Held[] => {
      const tool = mechanism.tools.find(({ id }) => id === toolId);
      return tool && payload.massG > 0 ? [heldBy(tool, payload)] : [];
    });
    return new Loading(hardware, mechanism, held);
  });
  /** Holding the pose on show. */
  const now = computed(() => {
    const q = view.readQ;
    if (!loading.value || q.length !== loading.value.mechanism.m) return null;
    const asks = loading.value.rest(q);
    const { support, dynamics, torques } = loading.value;
    const pressed = support.stands ? support.restPress(dynamics.wholeMass, dynamics.borne) : null;
    return { asks, pressed, margin: loading.value.restMargin(), torques: torques.slice(), q };
  });
  /** Per slot: how much of its torque that takes of its motor; null where none is known. Of several motors the one that it takes most of. */
  const shares = computed((): (number | null)[] => {
    const own = loading.value;
    if (!own || !now.value || own.motors.length !== now.value.asks.length) return [];
    const found = new Array<number | null>(own.mechanism.m).fill(null);
    own.motors.forEach(({ slots }, k) => {
      const share = shareOf(now.value!.asks[k]);
      if (share !== null) for (const slot of slots) found[slot] = Math.max(found[slot] ?? 0, share);
    });
    return found;
  });

  /** A played routine decides what is held, whatever is asked. */
  const isCarried = computed(() => carried.value !== null);
  const heldKg = computed(() => holding.value.reduce((sum, { payload }) => sum + payload.massG / 1000, 0));

  const context = { loading, now, shares, asked, isCarried, heldKg };
  provide(key, context);
  return context;
}

export function useLoadNow(): LoadNow {
  const context = inject(key);
  if (!context) throw new Error('useLoadNow outside the workspace');
  return context;
}

/** Has the arm hold something while a page is open. */
export function useHolding(make: () => Holding | null): void {
  const { asked } = useLoadNow();
  watchEffect(() => (asked.value = make()));
  onScopeDispose(() => (asked.value = null));
}
