<script setup lang="ts">
/** What the lifts of one motor say of its torque, or of the masses that it bears: either may be corrected by them. */
import Button from 'primevue/button';
import { computed } from 'vue';
import {
  correctedBy,
  massBounds,
  stallBounds,
  stallOf,
  strengthened,
  type LoadedMotor,
  type Loading,
} from '@cork-elbow/core/loads';
import type { Lift } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { sayAt, useLoads } from './useLoads';
import { torqueWords } from './words';

const { row, lifts, kilogram } = defineProps<{
  row: { readonly motor: LoadedMotor; readonly k: number };
  /** The arm without a mass and with one kilogram at the tool's point. */
  kilogram: Loading;
  lifts: readonly Lift[];
}>();
const rigs = useRigStore();
const edit = useEdit();
const { empty, torqueUnit } = useLoads();
const said = (nm: number): string =>
  torqueWords(sayAt(row.motor, nm), row.motor.units[0] === 'mm' ? 'N' : 'N·m', torqueUnit.value);
const stall = computed(() => stallOf(row.motor)!);
const bounds = computed(() => stallBounds(lifts));
const corrected = computed(() => correctedBy(stall.value, bounds.value));
const masses = computed(() => (empty.value ? correctedBy(1, massBounds(empty.value, kilogram, row.k, lifts)) : null));
/** Less than this share off is no correction. */
const SAME = 0.01;
const times = computed(() => (corrected.value === null ? 1 : corrected.value / stall.value));
const agrees = computed(() => Math.abs(times.value - 1) < SAME);
const words = computed(() => {
  if (corrected.value === null)
    return 'These lifts contradict each other: a load stalled that is lighter than one it lifted.';
  const { least, most } = bounds.value;
  const between =
    most === Infinity
      ? `at least ${said(least)}`
      : least === 0
        ? `at most ${said(most)}`
        : `between ${said(least)} and ${said(most)}`;
  return agrees.value
    ? `These lifts agree with its figures: it stalls at ${said(stall.value)}, and they say ${between}.`
    : `By these lifts it stalls ${between}, and not at ${said(stall.value)}.`;
});
const correctTorque = (): string | void =>
  edit('Torque by lift trials', (draft) => {
    const k = draft.drives.findIndex(({ id }) => id === row.motor.drive.id);
    draft.drives[k] = strengthened(draft.drives[k], times.value);
  });
/** Joints that hang on the motor's, itself among them. */
function beyond(): Set<string> {
  const { mechanism } = rigs;
  const [slot] = row.motor.slots;
  const ids = new Set(mechanism ? [mechanism.slotIds[slot]] : []);
  const joints = rigs.rig!.mechanism.joints;
  for (let before = 0; before < ids.size;) {
    before = ids.size;
    for (const joint of joints) if ('parent' in joint && joint.parent && ids.has(joint.parent)) ids.add(joint.id);
  }
  return ids;
}
const rounded = (g: number): number => Math.round(10 * g) / 10;
const correctMasses = (): string | void =>
  edit('Masses by lift trials', (draft) => {
    const own = beyond();
    for (const joint of draft.mechanism.joints)
      if (own.has(joint.id) && joint.link) joint.link.massG = rounded(joint.link.massG * masses.value!);
    for (const tool of draft.mechanism.tools)
      if (tool.parent && own.has(tool.parent)) tool.massG = rounded(tool.massG * masses.value!);
  });
</script>

<template>
  <section data-verdict :data-factor="times">
    <h2 class="more">What they say</h2>
    <p :class="corrected === null || !agrees ? 'differs' : ''">{{ words }}</p>
    <div v-if="corrected !== null && !agrees" class="row wrap">
      <Button
        size="small"
        severity="secondary"
        :label="`Multiply its torque by ${formatNumber(times, 2)}`"
        @click="correctTorque"
      />
      <Button
        v-if="masses !== null && masses > 0 && Math.abs(masses - 1) > SAME && rigs.rig!.mechanism.family === 'tree'"
        size="small"
        variant="text"
        :label="`Or the masses beyond it by ${formatNumber(masses, 2)}`"
        @click="correctMasses"
      />
    </div>
  </section>
</template>

<style scoped>
.more {
  margin: 0.9rem 0 0.2rem;
}
.differs {
  color: var(--caution);
}
</style>
