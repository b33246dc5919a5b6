<script setup lang="ts">
/** The same routine as plain sentences, one a step; what is not understood is said with its line and column. */
import { useDebounceFn } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue';
import type { Fault } from '@cork-elbow/core/findings';
import { formatRoutine, parseRoutine } from '@cork-elbow/core/routine';
import { useRigStore } from '../../stores/rig';
import { useSteps } from './useSteps';

const rigs = useRigStore();
const steps = useSteps();
const { routine } = steps;
const area = useTemplateRef('area');
const numbers = useTemplateRef('numbers');
const text = computed(() => (rigs.rig && routine.value ? formatRoutine(rigs.rig, routine.value) : ''));
const draft = ref<string | null>(null);
const faults = ref<readonly Fault[]>([]);
watch(
  () => routine.value?.id,
  () => {
    draft.value = null;
    faults.value = [];
  },
);
const lines = computed(() => (draft.value ?? text.value).split('\n').length);
const wrong = computed(() => new Set(faults.value.map((f) => Number(/\d+/.exec(f.path)![0]))));

/** Takes what is typed as soon as all of it is understood. */
function take(): boolean {
  if (draft.value === null || !routine.value) return true;
  const parsed = parseRoutine(rigs.rig!, draft.value, routine.value.steps);
  faults.value = parsed.ok ? [] : parsed.faults;
  if (!parsed.ok) return false;
  steps.commit('Edit the text', (r) => (r.steps = parsed.steps));
  return true;
}
const soon = useDebounceFn(take, 500);
function typed(event: Event): void {
  draft.value = (event.target as HTMLTextAreaElement).value;
  void soon();
}
function left(): void {
  if (take()) draft.value = null;
}
function drop(): void {
  draft.value = null;
  faults.value = [];
}
/** Puts the cursor where a fault is. */
function goTo({ path }: Fault): void {
  const [line, column] = [...path.matchAll(/\d+/g)].map(Number);
  const all = (draft.value ?? text.value).split('\n');
  const at = all.slice(0, line - 1).reduce((sum, l) => sum + l.length + 1, 0) + column - 1;
  void nextTick(() => {
    area.value?.focus();
    area.value?.setSelectionRange(at, at);
  });
}
</script>

<template>
  <div class="text" :class="{ wrong: faults.length }">
    <pre ref="numbers" class="numbers num" aria-hidden="true"><span
      v-for="n in lines"
      :key="n"
      :class="{ bad: wrong.has(n) }"
    >{{ n }}
</span></pre>
    <textarea
      ref="area"
      class="num"
      wrap="off"
      spellcheck="false"
      aria-label="The routine as sentences"
      :value="draft ?? text"
      @input="typed"
      @blur="left"
      @scroll="numbers!.scrollTop = area!.scrollTop"
    />
  </div>
  <div v-if="faults.length" class="stack faults" role="alert">
    <button v-for="(f, k) in faults.slice(0, 3)" :key="k" class="fault" @click="goTo(f)">{{ f.message }}</button>
    <span class="row"
      ><span class="muted small grow"
        >{{ faults.length > 3 ? `${faults.length - 3} more. ` : '' }}The routine stays as it was until every line is
        understood.</span
      ><Button size="small" variant="text" label="Drop what I typed" @click="drop"
    /></span>
  </div>
  <p v-else class="muted small hint">
    One step a line; names stand in quotes. The words are those of the list: write a step there once to see them.
  </p>
</template>

<style scoped>
.text {
  display: grid;
  grid-template-columns: auto 1fr;
  border: 1px solid var(--lines);
  border-radius: 4px;
  flex: 1;
  min-height: 12rem;
  max-height: calc(100vh - 430px);
  overflow: hidden;
  background: var(--paper);
}
.text.wrong {
  border-color: var(--alarm);
}
.numbers {
  margin: 0;
  padding: 0.5rem 0.4rem 0.5rem 0.5rem;
  font-size: 0.82rem;
  line-height: 1.5;
  text-align: right;
  color: var(--ink-3);
  background: var(--paper-2);
  overflow: hidden;
}
.bad {
  color: var(--on-alarm);
  background: var(--alarm);
  border-radius: 2px;
}
textarea {
  border: 0;
  resize: none;
  padding: 0.5rem;
  font-size: 0.82rem;
  line-height: 1.5;
  background: none;
  color: inherit;
  outline-offset: -2px;
}
.faults {
  gap: 0.2rem;
  margin-top: 0.3rem;
}
.fault {
  text-align: left;
  border: 0;
  border-left: 4px solid var(--alarm);
  background: var(--alarm-wash);
  border-radius: 3px;
  padding: 0.25rem 0.5rem;
  font-size: 0.88rem;
  cursor: pointer;
}
.hint {
  margin-top: 0.3rem;
}
</style>
