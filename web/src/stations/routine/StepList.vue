<script setup lang="ts">
/** The steps, one a line: chosen, moved, folded and edited by keys or by dragging. */
import { IconChevronDown, IconChevronRight, IconGripVertical } from '@tabler/icons-vue';
import { useVirtualList } from '@vueuse/core';
import { computed, nextTick, shallowRef, watch } from 'vue';
import { VueDraggable } from 'vue-draggable-plus';
import { describeStep, stepNames } from '@cork-elbow/core/routine';
import type { Pace, Step } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { usePlan } from '../../workspace/usePlan';
import { useSteps } from './useSteps';

const rigs = useRigStore();
const view = useViewStore();
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
/** Brings a row into view, and gives it once it is there. */
async function reveal(id: string): Promise<HTMLElement | null> {
  await nextTick();
  if (!rowOf(id)) {
    const at = rows.value.findIndex((row) => row.step.id === id);
    if (at < 0) return null;
    scrollTo(at);
    await nextTick();
  }
  rowOf(id)?.scrollIntoView({ block: 'nearest' });
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
const isPlaying = (id: string): boolean => current.value === id;
const timeText = (id: string): string => {
  const time = times.value.get(id);
  return time && time.s > 0 ? `${formatNumber(time.s, 2)} s` : '';
};
function paceText(pace: Pace): string {
  if ('durationS' in pace) return `in ${formatNumber(pace.durationS, 2)} s`;
  return 'mmPerS' in pace ? `${formatNumber(pace.mmPerS, 1)} mm/s` : `${formatNumber(pace.speedShare * 100, 0)} %`;
}

function click(event: MouseEvent, { step }: Row): void {
  steps.select(step.id, event.shiftKey ? 'range' : event.ctrlKey || event.metaKey ? 'also' : 'alone');
}
const focus = (id: string): void => void reveal(id).then((row) => row?.focus());

function key(event: KeyboardEvent, row: Row): void {
  if (event.target !== event.currentTarget) return;
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
  <div class="steps" v-bind="containerProps">
    <VueDraggable
      tag="ol"
      aria-label="Steps"
      :style="wrapperProps.style"
      :model-value="shown.map((row) => row.step)"
      handle=".grip"
      :animation="120"
      :disabled="search !== ''"
      @start="held = shown"
      @end="held = null"
      @update:model-value="reorder($event as Step[])"
    >
      <li
        v-for="(row, k) in shown"
        :key="row.step.id"
        :style="{ height: `${ROW}px` }"
        :aria-setsize="rows.length"
        :aria-posinset="from + k + 1"
        class="step"
        tabindex="0"
        :data-step="row.step.id"
        :data-kind="row.step.kind"
        :aria-current="isPlaying(row.step.id) ? 'step' : undefined"
        :class="{
          chosen: chosen.has(row.step.id),
          playing: view.poseSource !== 'edit' && isPlaying(row.step.id),
          off: !row.counts,
          order: !('pace' in row.step) && row.step.kind !== 'wait' && row.step.kind !== 'note',
        }"
        @click="click($event, row)"
        @keydown="key($event, row)"
      >
        <span class="grip" aria-hidden="true"><IconGripVertical :size="14" /></span>
        <span class="num no" :class="marks.get(row.step.id)">{{ row.index + 1 }}</span>
        <span class="what" :style="{ paddingLeft: `${row.depth * 0.9}rem` }"
          ><span v-if="chosen.has(row.step.id)" class="sr">chosen: </span
          ><button
            v-if="row.opens"
            class="fold"
            :aria-label="row.isFolded ? 'Unfold' : 'Fold'"
            tabindex="-1"
            @click.stop="steps.fold(row.step.id)"
          >
            <IconChevronRight v-if="row.isFolded" :size="14" /><IconChevronDown v-else :size="14" /></button
          ><b>{{ stepNames[row.step.kind] }}</b> {{ describeStep(rigs.rig!, row.step) }}
          <span v-if="row.isFolded" class="muted small">… {{ row.inside }} inside</span>
          <span v-if="row.step.note && row.step.kind !== 'note'" class="muted small">{{ row.step.note }}</span></span
        >
        <span class="muted small pace">{{ 'pace' in row.step ? paceText(row.step.pace) : '' }}</span>
        <span class="num small time"
          ><span v-if="(times.get(row.step.id)?.n ?? 0) > 1 && timeText(row.step.id)" class="muted"
            >{{ times.get(row.step.id)!.n }}× </span
          >{{ timeText(row.step.id) }}</span
        >
      </li>
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
.step {
  display: grid;
  grid-template-columns: 1rem 1.7rem minmax(0, 1fr) auto 4.4rem;
  gap: 0.35rem;
  align-items: center;
  padding: 0 0.4rem 0 0.1rem;
  border-bottom: 1px solid var(--lines);
  cursor: pointer;
  font-size: 0.9rem;
}
.step:last-child {
  border-bottom: 0;
}
.step.chosen {
  background: var(--pine-wash);
}
.step.order b {
  color: var(--cork);
}
.step.playing {
  box-shadow: inset 4px 0 0 var(--cork);
}
.step.off,
.step.off b {
  color: var(--ink-3);
  text-decoration: line-through;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.fold {
  border: 0;
  background: none;
  padding: 0;
  margin-right: 0.1rem;
  vertical-align: -2px;
  cursor: pointer;
  color: var(--ink-2);
}
.no,
.grip {
  color: var(--ink-3);
}
.no {
  text-align: right;
  font-size: 0.8rem;
  border-radius: 3px;
}
.no.stop {
  color: var(--on-alarm);
  background: var(--alarm);
  text-align: center;
}
.no.look {
  color: var(--caution);
  background: var(--caution-wash);
  text-align: center;
}
.time {
  text-align: right;
  white-space: nowrap;
}
.grip {
  cursor: grab;
  display: grid;
}
</style>
