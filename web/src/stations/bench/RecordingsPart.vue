<script setup lang="ts">
/** What is kept of runs: the list, the one that is chosen, and for how long they are kept. */
import { useSessionStorage } from '@vueuse/core';
import { computed, onMounted, ref, watch } from 'vue';
import { USUAL_DAYS } from '@cork-elbow/core/contract';
import { isActive } from '@cork-elbow/core/contract';
import { benchApi } from '../../api-bench';
import ChoiceField from '../../shared/ChoiceField.vue';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';
import RecordingView from './RecordingView.vue';
import RunLog from './RunLog.vue';

const rigs = useRigStore();
const run = useRunStore();
const chosen = useSessionStorage<string | null>(`cork-elbow:run-of-${rigs.id}`, null);
/** Counts what has changed of the list. */
const changes = ref(0);
watch(
  () => run.status.run,
  // What is told of its end comes a moment before it is written.
  (state, before) => isActive(before) && !isActive(state) && setTimeout(() => changes.value++, 150),
);

const days = ref<number | null>(USUAL_DAYS);
const problem = ref('');
onMounted(async () => {
  try {
    ({ days: days.value } = await benchApi.kept());
  } catch (error) {
    problem.value = (error as Error).message;
  }
});
const terms = computed(() => [
  ...[...new Set([7, 30, 90, 365, ...(days.value === null ? [] : [days.value])])]
    .sort((a, b) => a - b)
    .map((value) => ({ value, label: `${value} days` })),
  { value: null, label: 'for good' },
]);
async function keep(value: number | null): Promise<void> {
  try {
    ({ days: days.value } = await benchApi.keep(value));
    problem.value = '';
    changes.value++;
  } catch (error) {
    problem.value = (error as Error).message;
  }
}
</script>

<template>
  <div class="recordings">
    <RunLog v-model="chosen" :ended="changes" />
    <div class="row kept small">
      <span class="grow muted">Recordings of runs that have no name are kept</span>
      <ChoiceField
        label=""
        name="How long recordings are kept"
        :options="terms"
        :value="days"
        @change="keep($event as number | null)"
      />
    </div>
    <p v-if="problem" class="small" role="alert">{{ problem }}</p>
    <RecordingView
      v-if="chosen"
      :key="chosen"
      :run-id="chosen"
      @changed="changes++"
      @gone="((chosen = null), changes++)"
    />
  </div>
</template>

<style scoped>
.kept {
  align-items: center;
  margin: 0.35rem 0;
}
</style>
