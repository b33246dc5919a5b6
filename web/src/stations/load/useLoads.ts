/**
 * The question of the Load station: what the arm holds, and where it is looked at: as it stands, anywhere in its limits, or along the routine
 * on show. The pose is reckoned here; the other two in the worker.
 */
import { useLocalStorage, useSessionStorage } from '@vueuse/core';
import { computed, inject, provide, ref, watch, type InjectionKey, type Ref } from 'vue';
import { useRoute } from 'vue-router';
import type { PartOf } from '@cork-elbow/core/findings';
import { aKilogram, heaviestAt, heldBy, Loading, type Ask, type LoadedMotor } from '@cork-elbow/core/loads';
import { useJob } from '../../shared/useJob';
import { useRigStore } from '../../stores/rig';
import { useHolding, useLoadNow } from '../../workspace/useLoadNow';
import { usePlan } from '../../workspace/usePlan';
import type { TorqueUnit } from './words';

export type Scope = 'pose' | 'anywhere' | 'routine';
/** What is held: nothing, a payload of the document by its id, or so many grams at the tool's point. */
export const NOTHING = '';
export const GRAMS = '#grams';
const SAMPLES = 60_000;
const EMPTY = { massG: 0, comMm: [0, 0, 0] as [number, number, number], inertiaKgM2: null };

/** Parts in which it is chosen where the arm is looked at. */
const asksScope = (part: PartOf<'load'>): boolean => part === 'lift' || part === 'stand';

export type Loads = ReturnType<typeof createLoads>;
const key: InjectionKey<Loads> = Symbol('loads');

export function createLoads(part: Readonly<Ref<PartOf<'load'>>>) {
  const rigs = useRigStore();
  const { routine, tried, plan, pause, show } = usePlan();

  const scope = useSessionStorage<Scope>('cork-elbow:load-scope', 'pose');
  // What a finding sends here is about a routine.
  const route = useRoute();
  watch(
    () => route.query.part,
    (part) => part && (scope.value = 'routine'),
    { immediate: true },
  );
  const torqueUnit = useLocalStorage<TorqueUnit>('cork-elbow:torque-unit', 'N·m');
  const holds = ref(NOTHING);
  const grams = ref(100);
  const tools = computed(() => rigs.mechanism?.tools.filter((tool) => tool.mounted) ?? []);
  const toolId = ref<string | null>(null);
  const tool = computed(() => tools.value.find(({ id }) => id === toolId.value) ?? tools.value[0] ?? null);
  watch(
    () => [rigs.id, rigs.rig?.payloads] as const,
    ([id, payloads], before) => {
      const isThere = holds.value === GRAMS || payloads?.some((p) => p.id === holds.value);
      if (id !== before?.[0] || !isThere) holds.value = payloads?.[0]?.id ?? NOTHING;
    },
    { immediate: true },
  );
  const payload = computed(() =>
    holds.value === GRAMS
      ? { ...EMPTY, massG: grams.value }
      : (rigs.rig?.payloads.find((p) => p.id === holds.value) ?? EMPTY),
  );
  /** The place of what is held, whether or not anything is. */
  const where = computed(() => tool.value && heldBy(tool.value, payload.value));

  // ── As it stands ────────────────────────────────────────────────────────────────────────────────────────────────

  const { loading, now, isCarried, heldKg } = useLoadNow();
  useHolding(() =>
    tool.value && scope.value !== 'routine' ? { toolId: tool.value.id, payload: payload.value } : null,
  );
  const kilogram = computed(() => {
    const { hardware, mechanism } = rigs;
    return hardware && mechanism && where.value ? aKilogram(hardware, mechanism, where.value) : null;
  });
  const empty = computed(() => (rigs.hardware && rigs.mechanism ? new Loading(rigs.hardware, rigs.mechanism) : null));
  /** With nothing else in its hand. */
  const heaviestNow = computed(() =>
    empty.value && kilogram.value && now.value ? heaviestAt(empty.value, kilogram.value, now.value.q) : null,
  );
  /** Of an arm of which no mass is known nothing can be promised. */
  const hasMass = computed(() => rigs.mechanism?.bodies.some(({ mass }) => mass > 0) ?? false);

  // ── Anywhere, and along the routine ─────────────────────────────────────────────────────────────────────────────

  /** Supplies and heat are asked about the routine, other motors and springs about the worst pose, whatever was chosen elsewhere. */
  const needsRoutine = computed(
    () => part.value === 'supply' || part.value === 'heat' || (asksScope(part.value) && scope.value === 'routine'),
  );
  const needsAnywhere = computed(
    () =>
      part.value === 'swap' ||
      part.value === 'balance' ||
      part.value === 'trials' ||
      (asksScope(part.value) && scope.value === 'anywhere'),
  );
  const worst = useJob('worst', {
    request: () =>
      needsAnywhere.value
        ? {
            samples: SAMPLES,
            ...(part.value === 'swap' ? { accelerating: 'all' as const } : {}),
            holding: tool.value && { toolId: tool.value.id, payload: payload.value },
          }
        : null,
    when: () =>
      [needsAnywhere.value, part.value === 'swap', rigs.hardware, rigs.build, tool.value?.id, payload.value] as const,
    after: 150,
  });
  const along = useJob('along', {
    request: () =>
      needsRoutine.value && routine.value
        ? { routineId: routine.value.id, inputs: tried.value[routine.value.id] ?? {} }
        : null,
    when: () => [needsRoutine.value, plan.value, rigs.hardware] as const,
    after: 100,
  });

  /** What the scope asks the worker; null as the arm stands. */
  const asked = computed(() => (scope.value === 'pose' ? null : scope.value === 'anywhere' ? worst : along));
  const isMaking = computed(() => asked.value?.isBusy.value ?? false);
  const isStopped = computed(() => asked.value?.isCancelled.value ?? false);
  const again = (): void => void asked.value?.again();
  /** Shows a moment of the routine. */
  function showAt(t: number): void {
    pause();
    show(t);
  }

  const context = {
    ...{ scope, torqueUnit, holds, grams, tools, tool, toolId, payload, where },
    ...{ loading, now, isCarried, heldKg, heaviestNow, hasMass, empty, worst, along },
    ...{ isMaking, isStopped, again, showAt },
  };
  provide(key, context);
  return context;
}

export function useLoads(): Loads {
  const context = inject(key);
  if (!context) throw new Error('useLoads outside the Load station');
  return context;
}

/** One motor of the table, or a joint that has none. Torque at the joint where the motor is its alone, else at the shaft. */
export interface LoadRow {
  readonly key: string;
  readonly slots: readonly number[];
  readonly name: string;
  readonly unit: 'N·m' | 'N';
  readonly atShaft: boolean;
  readonly need: number;
  /** Null where it is not known, or there is no motor. */
  readonly has: number | null;
  readonly share: number | null;
  readonly hasMotor: boolean;
}
/** What a motor's figures are multiplied with to be said at its joint. */
const atJoint = ({ perJoint }: LoadedMotor): number => (perJoint ? 1 / Math.abs(perJoint) : 1);

export function motorRow(motor: LoadedMotor, ask: Ask, share: number | null, names: readonly string[]): LoadRow {
  const { drive, slots, units, perJoint } = motor;
  const times = atJoint(motor);
  return {
    ...{ key: drive.id, slots, share },
    name: perJoint === null ? drive.name : names[slots[0]],
    unit: perJoint !== null && units[0] === 'mm' ? 'N' : 'N·m',
    atShaft: perJoint === null,
    need: ask.needNm * times,
    has: ask.usableNm === null ? null : ask.usableNm * times,
    hasMotor: true,
  };
}
/** N·m at a motor's shaft as the row says it. */
export const sayAt = (motor: LoadedMotor, nm: number): number => nm * atJoint(motor);
