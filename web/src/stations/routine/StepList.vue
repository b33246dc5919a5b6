<script setup lang="ts">
/** The steps, one a line: chosen, moved, folded and edited by keys or by dragging. */
import { useElementSize, useVirtualList, usePreferredReducedMotion } from '@vueuse/core';
import { computed, nextTick, ref, shallowRef, watch } from 'vue';
import { VueDraggable } from 'vue-draggable-plus';
import type { Step } from '@cork-elbow/core/rig';
import { useViewStore } from '../../stores/view';
import { usePlan } from '../../workspace/usePlan';
import StepRow from './StepRow.vue';
import { useSteps } from './useSteps';

const view = useViewStore();
/** Rows slide to their places unless the machine was asked for no motion. */
const motion = usePreferredReducedMotion();
const { step: playing, plan } = usePlan();
const steps = useSteps();
const { rows, chosen, search, looked } = steps;
type Row = (typeof rows.value)[number];

/** Height of a row (px), and how many are there beyond those in view, either way: dragging reaches as far. */
const ROW = 28;
const BEYOND = 50;
const { list, containerProps, wrapperProps, scrollTo } = useVirtualList(rows, { itemHeight: ROW, overscan: BEYOND });
/** The rows that are there, as they were when a drag began. */
const held = shallowRef<readonly Row[] | null>(null);
const from = computed(() => list.value[0]?.index ?? 0);
/** As the steps have them: what the list hands out are copies that the page watches. */
const shown = computed(() => held.value ?? rows.value.slice(from.value, from.value + list.value.length));
const rowOf = (id: string): HTMLElement | null => document.querySelector(`[data-step="${CSS.escape(id)}"]`);
/** How far the list is scrolled, and how much of it is seen (px), as they were told: asking costs a layout. */
const top = ref(0);
const { height } = useElementSize(containerProps.ref);
/** Brings a row into view, and gives it once it is there. */
async function reveal(id: string): Promise<HTMLElement | null> {
  await nextTick();
  const at = rows.value.findIndex((row) => row.step.id === id);
  if (at < 0) return null;
  const list = containerProps.ref.value;
  if (!rowOf(id)) {
    scrollTo(at);
    await nextTick();
  }
  // Whoever is in the list sees it; for others the page goes there too.
  if (!list?.contains(document.activeElement)) rowOf(id)?.scrollIntoView({ block: 'nearest' });
  else if (at * ROW < top.value) list.scrollTop = at * ROW;
  else if ((at + 1) * ROW > top.value + height.value) list.scrollTop = (at + 1) * ROW - height.value;
  return rowOf(id);
}
watch(looked, (now) => now && void reveal(now.id), { immediate: true });

/** Where findings of the steps stand. */
const marks = computed(() => {
  const map = new Map<string, string>();
  for (const { severity, place } of view.findings)
    if (
      place.step &&
      place.routine === steps.routine.value?.id &&
      severity !== 'note' &&
      map.get(place.step) !== 'stop'
    )
      map.set(place.step, severity);
  return map;
});
const times = computed(() => {
  const map = new Map<string, { s: number; n: number }>();
  for (const { stepId, routine, startS, endS } of plan.value?.steps ?? []) {
    if (routine !== steps.routine.value?.id) continue;
    const before = map.get(stepId) ?? { s: 0, n: 0 };
    map.set(stepId, { s: before.s + endS - startS, n: before.n + 1 });
  }
  return map;
});
/** The step under way; while a called routine is, the call that leads there. */
const current = computed(() => {
  const own = steps.routine.value?.id;
  const now = playing.value;
  if (!now || now.routine === own) return now?.stepId;
  return plan.value?.steps.findLast((s) => s.routine === own && s.startS <= now.startS + 1e-9)?.stepId;
});

function click(event: MouseEvent, id: string): void {
  steps.select(id, event.shiftKey ? 'range' : event.ctrlKey || event.metaKey ? 'also' : 'alone');
}
const focus = (id: string): void => void reveal(id).then((row) => row?.focus());

function key(event: KeyboardEvent, id: string): void {
  const row = rows.value.find((r) => r.step.id === id);
  if (event.target !== event.currentTarget || !row) return;
  const { step } = row;
  const command = event.ctrlKey || event.metaKey;
  const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
  const at = rows.value.indexOf(row);
  const done = (act: () => void): void => {
    event.preventDefault();
    event.stopPropagation();
    act();
  };
  if (by && event.altKey)
    return done(() => {
      if (!chosen.value.has(step.id)) steps.select(step.id);
      steps.move(by);
      focus(step.id);
    });
  if (by || event.key === 'Home' || event.key === 'End')
    return done(() => {
      const next = rows.value[by ? at + by : event.key === 'Home' ? 0 : rows.value.length - 1];
      if (!next) return;
      steps.select(next.step.id, event.shiftKey ? 'range' : 'alone');
      focus(next.step.id);
    });
  /** What is done to the steps chosen is done to this one where it is not among them. */
  const own = (act: () => unknown) => (): unknown => {
    if (!chosen.value.has(step.id)) steps.select(step.id);
    return act();
  };
  const acts: Record<string, () => unknown> = {
    ...(command
      ? { a: steps.selectAll, c: own(steps.copy), x: own(steps.cut), v: own(steps.paste) }
      : { Delete: own(steps.remove), Backspace: own(steps.remove), s: own(steps.skip) }),
    ...(row.opens
      ? {
          ArrowLeft: () => row.isFolded || steps.fold(step.id),
          ArrowRight: () => row.isFolded && steps.fold(step.id),
        }
      : {}),
    Enter: own(() => document.querySelector<HTMLElement>('.detail button, .detail input')?.focus()),
  };
  const act = acts[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  if (act)
    done(() => {
      void Promise.resolve(act()).then(() => {
        if (event.key !== 'Enter' && steps.current.value) focus(steps.current.value);
      });
    });
}
/** A drag gives the order of what is seen; what is folded away stays behind its opener. */
function reorder(dragged: Step[]): void {
  const { partner } = steps.structure.value;
  const all = steps.steps.value;
  const row = new Map(rows.value.map((r) => [r.step.id, r]));
  const ids = rows.value.map(({ step }) => step);
  // Those that were not there stay before and behind those that were.
  const before = ids.indexOf(shown.value[0]?.step);
  steps.arrange(
    [...ids.slice(0, before), ...dragged, ...ids.slice(before + dragged.length)].flatMap((step) => {
      const found = row.get(step.id)!;
      if (!found.isFolded) return [step.id];
      return all.slice(found.index, partner[found.index] + 1).map((s) => s.id);
    }),
  );
}
</script>

<template>
  <div class="steps" v-bind="containerProps" @scroll.passive="top = ($event.target as HTMLElement).scrollTop">
    <VueDraggable
      tag="ol"
      aria-label="Steps"
      :style="wrapperProps.style"
      :model-value="shown.map((row) => row.step)"
      handle=".grip"
      :animation="motion === 'reduce' ? 0 : 120"
      :disabled="search !== ''"
      @start="held = shown"
      @end="held = null"
      @update:model-value="reorder($event as Step[])"
    >
      <StepRow
        v-for="(row, k) in shown"
        :key="row.step.id"
        :style="{ height: `${ROW}px` }"
        :step="row.step"
        :index="row.index"
        :at="from + k + 1"
        :of="rows.length"
        :depth="row.depth"
        :counts="row.counts"
        :opens="row.opens"
        :is-folded="row.isFolded"
        :inside="row.inside"
        :is-chosen="chosen.has(row.step.id)"
        :is-current="current === row.step.id"
        :is-played="view.poseSource !== 'edit' && current === row.step.id"
        :mark="marks.get(row.step.id)"
        :seconds="times.get(row.step.id)?.s ?? 0"
        :times="times.get(row.step.id)?.n ?? 0"
        @click="click"
        @keydown="key"
        @fold="steps.fold"
      />
    </VueDraggable>
  </div>
</template>

<style scoped>
.steps {
  overflow: auto;
  border: 1px solid var(--lines);
  border-radius: 4px;
  scrollbar-width: thin;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
</style>
