<script setup lang="ts">
/** The way on for an arm that has just been made: a list that ticks itself, each a link; it can be put away. */
import { IconCheck, IconX } from '@tabler/icons-vue';
import { useLocalStorage } from '@vueuse/core';
import { computed, ref, watch } from 'vue';
import { RouterLink } from 'vue-router';
import { checkRig, wayOn } from '@cork-elbow/core/routine';
import { benchApi } from '../../api-bench';
import IconButton from '../../shared/IconButton.vue';
import { useRigStore } from '../../stores/rig';

const rigs = useRigStore();
/** By rig: shown from when something of it was found open until all is done or it is put away. */
const states = useLocalStorage<Record<string, 'begun' | 'away'>>('cork-elbow:way-on', {});
const runs = ref(0);
watch(
  () => rigs.id,
  (id) => {
    runs.value = 0;
    // Without an answer it stays open: nothing is ticked that is not known.
    if (id)
      benchApi.runs(id, { count: 1 }).then(
        ({ total }) => rigs.id === id && (runs.value = total),
        () => undefined,
      );
  },
  { immediate: true },
);
const steps = computed(() => {
  const { rig, mechanism, build } = rigs;
  return rig && mechanism && build ? wayOn(rig, mechanism, checkRig(rig, mechanism, build), runs.value) : [];
});
const next = computed(() => steps.value.find((s) => !s.isDone) ?? null);
watch(
  () => [rigs.id, next.value?.id] as const,
  ([id, open]) => {
    // A rehearsal alone is no beginning.
    if (id && open && open !== 'rehearsal' && !states.value[id]) states.value = { ...states.value, [id]: 'begun' };
  },
  { immediate: true },
);
const isShown = computed(() => rigs.id !== null && states.value[rigs.id] === 'begun' && next.value !== null);
const putAway = (): void => void (states.value = { ...states.value, [rigs.id!]: 'away' });
</script>

<template>
  <section v-if="isShown" class="way" aria-label="The way on">
    <ol>
      <li v-for="step in steps" :key="step.id" :class="{ done: step.isDone, next: step === next }">
        <RouterLink
          :to="{
            name: step.to.station,
            params: { rigId: rigs.id! },
            query: step.to.part ? { part: step.to.part } : {},
          }"
          ><IconCheck v-if="step.isDone" :size="14" aria-label="done" />{{ step.name }}</RouterLink
        >
      </li>
    </ol>
    <IconButton :icon="IconX" label="Put the way on away" title="Put away" @click="putAway" />
    <p class="small muted">Next: {{ next!.name.toLowerCase() }}, {{ next!.says }}.</p>
  </section>
</template>

<style scoped>
.way {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.1rem 0.5rem;
  background: var(--cork-wash);
  border-radius: 5px;
  padding: 0.3rem 0.4rem 0.4rem 0.7rem;
  margin-bottom: 0.6rem;
}
ol {
  display: flex;
  flex-wrap: wrap;
  gap: 0.1rem 0.9rem;
  list-style: none;
  margin: 0;
  padding: 0;
  align-items: center;
}
a {
  display: inline-flex;
  align-items: center;
  gap: 0.2rem;
  min-height: 1.75rem;
  color: var(--ink);
}
.done a {
  color: var(--ink-2);
  text-decoration: none;
}
.next a {
  font-weight: 700;
}
p {
  grid-column: 1 / -1;
}
@media (pointer: coarse) {
  a {
    min-height: 2.75rem;
    min-width: 2.75rem;
  }
}
</style>
