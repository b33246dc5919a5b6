<script setup lang="ts">
/**
 * The one field for quantities: takes sums and units, keeps a draft of its own and commits on Enter or on leaving when
 * what was typed is valid; arrow keys step. A refusal shows one sentence and loses nothing.
 */
import { useResizeObserver } from '@vueuse/core';
import { computed, nextTick, ref, useId, useTemplateRef, watch } from 'vue';
import { dimensions, formatNumber, parseQuantity, type Dimension } from '@cork-elbow/core/units';
import { withOwner } from './fields-of';
import { letterWidth } from './letter-width';

const {
  value,
  dimension,
  label,
  min = -Infinity,
  max = Infinity,
  step = 1,
  decimals,
  prefix = '',
  disabled = false,
  skipped = false,
  unset = null,
  commit,
} = defineProps<{
  value: number;
  dimension: Dimension;
  /** For screen readers; `prefix` is what is seen. */
  label: string;
  prefix?: string;
  min?: number;
  max?: number;
  step?: number;
  decimals?: number;
  disabled?: boolean;
  /** Tab goes past it: a field of a row that is not chosen. */
  skipped?: boolean;
  /** Nobody has entered it: `value` is what is usual, or nothing at all is known. */
  unset?: 'usual' | 'unknown' | null;
  /** Takes the value; a sentence refuses it. */
  commit: (value: number) => string | void;
}>();

const digits = computed(() => decimals ?? dimensions[dimension].decimals);
const shown = computed(() => (unset === 'unknown' ? '' : formatNumber(value, digits.value)));
/** An address is read in either way of writing it. */
const unitText = computed(() =>
  dimension === 'address' ? `0x${Math.round(value).toString(16)}` : dimensions[dimension].unit,
);
/**
 * A number that is cut reads as another one: where there is no room for all of it the words go above it, then it is written smaller,
 * then its unit goes.
 */
const box = useTemplateRef('box');
const input = useTemplateRef('input');
const fit = ref(0);
const FITS = ['', 'stacked', 'stacked small', 'stacked smallest'];
/** How many characters have room, by fit; looked at once for a width, since looking costs a layout. Letters are of one width. */
let room: number[] = [];
let round = 0;
async function measure(): Promise<void> {
  const own = ++round;
  for (let at = 0; at < FITS.length; at++) {
    if (room[at] === undefined) {
      fit.value = at;
      await nextTick();
      const field = input.value;
      if (!field?.clientWidth || own !== round) return;
      room[at] = (field.clientWidth + 1) / letterWidth(field);
    }
    fit.value = at;
    if (shown.value.length <= room[at]) return;
  }
}
let width = 0;
// Comes once as it is first seen, and whenever its room changes.
useResizeObserver(box, ([{ contentRect }]) => {
  // Its own steps change the height, never the width.
  if (Math.abs(contentRect.width - width) < 0.5) return;
  width = contentRect.width;
  room = [];
  void measure();
});
const draft = ref<string | null>(null);
const message = ref('');
const id = useId();
watch(
  () => value,
  () => {
    if (draft.value !== null && !message.value) draft.value = null;
  },
);

withOwner(cancel);
watch(() => shown.value.length, measure, { flush: 'post' });

function check(text: string): { ok: true; value: number } | { ok: false; message: string } {
  const parsed = parseQuantity(text, dimension);
  if (!parsed.ok) return parsed;
  const unit = dimensions[dimension].unit;
  const say = (v: number): string =>
    `${formatNumber(v, digits.value)}${unit.startsWith('°') ? '' : ' '}${unit}`.trim();
  if (parsed.value < min || parsed.value > max) {
    const range =
      Number.isFinite(min) && Number.isFinite(max)
        ? `${say(min)} to ${say(max)}`
        : Number.isFinite(min)
          ? `at least ${say(min)}`
          : `at most ${say(max)}`;
    return { ok: false, message: `${label} is ${say(parsed.value)}; ${range} is allowed.` };
  }
  return parsed;
}

function settle(): void {
  if (draft.value === null) return;
  if (draft.value.trim() === shown.value) return cancel();
  const checked = check(draft.value);
  const refused = checked.ok ? commit(checked.value) : checked.message;
  message.value = refused || '';
  if (!refused) draft.value = null;
}
function cancel(): void {
  draft.value = null;
  message.value = '';
}
function nudge(by: number): void {
  const base = draft.value === null ? value : check(draft.value);
  const from = typeof base === 'number' ? base : base.ok ? base.value : value;
  const next = Math.min(max, Math.max(min, Math.round((from + by) * 1e6) / 1e6));
  message.value = commit(next) || '';
  draft.value = null;
}
function key(event: KeyboardEvent): void {
  if (event.key === 'Enter') settle();
  else if (event.key === 'Escape' && draft.value !== null) {
    event.stopPropagation();
    cancel();
  } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
    event.preventDefault();
    nudge((event.key === 'ArrowUp' ? 1 : -1) * step * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1));
  }
}
</script>

<template>
  <span class="field" :class="{ bad: message, disabled }">
    <span ref="box" class="box" :class="[FITS[fit], { usual: unset === 'usual' }]">
      <span v-if="prefix" class="prefix" aria-hidden="true">{{ prefix }}</span>
      <input
        :id
        ref="input"
        class="num"
        inputmode="text"
        autocomplete="off"
        spellcheck="false"
        :aria-label="label"
        :aria-invalid="!!message"
        :aria-describedby="message ? `${id}-m ${id}-u` : `${id}-u`"
        :disabled
        :tabindex="skipped ? -1 : undefined"
        :data-draft="draft !== null"
        :value="draft ?? shown"
        :placeholder="unset === 'unknown' ? '–' : undefined"
        @focus="($event.target as HTMLInputElement).select()"
        @input="draft = ($event.target as HTMLInputElement).value"
        @keydown="key"
        @blur="settle"
      />
      <span :id="`${id}-u`" class="unit" aria-hidden="true">{{ unitText }}</span>
    </span>
    <span v-if="message" :id="`${id}-m`" class="message" role="alert">{{ message }}</span>
  </span>
</template>

<style scoped>
.field {
  display: inline-flex;
  flex-direction: column;
  min-width: 0;
  width: 100%;
}
.box {
  display: flex;
  align-items: baseline;
  gap: 0.22rem;
  border: 1px solid var(--lines);
  border-radius: 4px;
  background: var(--paper);
  padding: 0.24rem 0.42rem;
  min-width: 0;
}
.box:focus-within {
  border-color: var(--pine);
  box-shadow: 0 0 0 1px var(--pine);
}
.stacked {
  flex-wrap: wrap;
  row-gap: 0;
}
.stacked .prefix {
  flex: 1 0 100%;
  font-size: 0.72rem;
  line-height: 1.1;
}
.stacked input {
  flex: 1 1 0;
  width: 0;
}
.small input {
  font-size: 0.78rem;
  letter-spacing: -0.03em;
}
.smallest input {
  font-size: 0.66rem;
  letter-spacing: -0.05em;
}
.smallest .unit {
  display: none;
}
.bad .box {
  border-color: var(--alarm);
}
.disabled {
  opacity: 0.6;
}
.prefix {
  color: var(--ink-2);
  font-size: 0.8rem;
  white-space: nowrap;
}
input {
  border: 0;
  background: none;
  color: var(--ink);
  width: 100%;
  min-width: 2.2rem;
  text-align: right;
  font-size: 0.93rem;
  outline: none;
  padding: 0;
}
.usual input,
input::placeholder {
  color: var(--ink-3);
  opacity: 1;
}
.unit {
  color: var(--ink-2);
  font-size: 0.8rem;
  white-space: nowrap;
}
.message {
  color: var(--alarm);
  font-size: 0.82rem;
  margin-top: 0.2rem;
  line-height: 1.25;
}
</style>
