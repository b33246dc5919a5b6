<script setup lang="ts">
/**
 * What can go wrong with a simulated board, on demand: a motor held fast, a horn that slips, sensors that scatter, a board that begins anew,
 * a line that is cut.
 */
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import type { Trouble } from '@cork-elbow/core/contract';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';

const rigs = useRigStore();
const run = useRunStore();
const motors = computed(() =>
  rigs.motors.filter(({ channel }) => channel !== null).map(({ drive }) => ({ label: drive.name, value: drive.id })),
);
const chosen = ref<string | null>(null);
const motor = computed(
  () => motors.value.find(({ value }) => value === chosen.value)?.value ?? motors.value[0]?.value,
);
const byDeg = ref(10);
/** Motors that are held fast, since the board was connected. */
const fast = ref<readonly string[]>([]);
/** Whether sensors scatter. */
const isNoisy = ref(false);
const isFast = computed(() => motor.value !== undefined && fast.value.includes(motor.value));
watch(
  () => run.isLive,
  () => {
    fast.value = [];
    isNoisy.value = false;
  },
);
function make(kind: Trouble, drive: string | null = null, by = 0): void {
  run.send({ type: 'trouble', kind, drive, by });
  if (drive !== null && kind === 'jam') fast.value = [...fast.value, drive];
  if (kind === 'noise' || kind === 'quiet') isNoisy.value = kind === 'noise';
  if (kind === 'free') fast.value = fast.value.filter((id) => id !== drive);
}
</script>

<template>
  <details v-if="run.isSimulated && motors.length" class="trouble">
    <summary>
      Let something go wrong<span class="muted small"> · on the simulated board, to see what it does</span>
    </summary>
    <div class="row">
      <ChoiceField
        label=""
        name="Motor that goes wrong"
        :options="motors"
        :value="motor ?? null"
        @change="chosen = String($event)"
      />
      <Button
        size="small"
        severity="secondary"
        :label="isFast ? 'Let it free' : 'Hold it fast'"
        @click="make(isFast ? 'free' : 'jam', motor!)"
      />
      <span class="by"
        ><NumberField
          label="Its horn slips by, ° of its shaft"
          prefix="slips by"
          dimension="angle"
          :value="byDeg"
          :min="-180"
          :max="180"
          :step="1"
          :commit="(by) => void (byDeg = by)"
      /></span>
      <Button size="small" severity="secondary" label="Slip" @click="make('slip', motor!, byDeg)" />
    </div>
    <div class="row">
      <Button size="small" severity="secondary" label="Board begins anew" @click="make('reset')" />
      <Button size="small" severity="secondary" label="Cut its line" @click="make('cut')" />
      <Button
        v-if="rigs.rig!.sensors.length"
        size="small"
        severity="secondary"
        :label="isNoisy ? 'Sensors are quiet' : 'Sensors scatter'"
        @click="make(isNoisy ? 'quiet' : 'noise')"
      />
      <span class="muted small">As a supply that dips does, and a plug that comes out.</span>
    </div>
  </details>
</template>

<style scoped>
.trouble {
  margin-top: 0.6rem;
}
summary {
  cursor: pointer;
  font-weight: 600;
}
/* No wider than its number wants. */
.by {
  flex: 0 0 9rem;
}
summary span {
  font-weight: 400;
}
.row {
  align-items: center;
  margin-top: 0.35rem;
  flex-wrap: wrap;
}
</style>
