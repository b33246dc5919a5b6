<script setup lang="ts">
/** The bar between two panes: dragged, moved by arrow keys (Shift: further), back to where it was by a double click or Enter. */
import { ref } from 'vue';

const size = defineModel<number>({ required: true });
const {
  upright,
  min,
  max,
  usual,
  step,
  perPixel,
  label,
  valueText = '',
} = defineProps<{
  /** The bar stands between a left and a right pane; else it lies between an upper and a lower one. */
  upright: boolean;
  min: number;
  max: number;
  usual: number;
  step: number;
  /** How much the size grows while the pointer goes right or down by one pixel; below zero where the sized pane is after the bar. */
  perPixel: number;
  label: string;
  valueText?: string;
}>();
const held = ref<{ readonly at: number; readonly size: number } | null>(null);
const place = (event: PointerEvent): number => (upright ? event.clientX : event.clientY);
const set = (to: number): void => void (size.value = Math.min(max, Math.max(min, Math.round(to * 100) / 100)));

function press(event: PointerEvent): void {
  if (event.button !== 0) return;
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  held.value = { at: place(event), size: Math.min(max, Math.max(min, size.value)) };
}
function move(event: PointerEvent): void {
  if (held.value) set(held.value.size + (place(event) - held.value.at) * perPixel);
}
function key(event: KeyboardEvent): void {
  const [less, more] = upright ? ['ArrowLeft', 'ArrowRight'] : ['ArrowUp', 'ArrowDown'];
  const by = step * (event.shiftKey ? 4 : 1) * Math.sign(perPixel);
  const now = Math.min(max, Math.max(min, size.value));
  if (event.key === less) set(now - by);
  else if (event.key === more) set(now + by);
  else if (event.key === 'Home') set(min);
  else if (event.key === 'End') set(max);
  else if (event.key === 'Enter') set(usual);
  else return;
  event.preventDefault();
}
</script>

<template>
  <div
    class="divider"
    :class="{ upright, held }"
    role="separator"
    tabindex="0"
    :aria-orientation="upright ? 'vertical' : 'horizontal'"
    :aria-label="label"
    :aria-valuemin="Math.round(min)"
    :aria-valuemax="Math.round(max)"
    :aria-valuenow="Math.round(Math.min(max, Math.max(min, size)))"
    :aria-valuetext="valueText || undefined"
    title="Drag, or use the arrow keys; a double click puts it back"
    @pointerdown="press"
    @pointermove="move"
    @pointerup="held = null"
    @pointercancel="held = null"
    @dblclick="set(usual)"
    @keydown="key"
  >
    <i aria-hidden="true" />
  </div>
</template>

<style scoped>
.divider {
  display: grid;
  place-content: center;
  cursor: row-resize;
  touch-action: none;
  height: 0.75rem;
  border-radius: 4px;
}
.divider.upright {
  cursor: col-resize;
  height: auto;
  width: 0.75rem;
}
.divider i {
  width: 2.4rem;
  height: 4px;
  border-radius: 2px;
  background: var(--ink-3);
  opacity: 0.45;
}
.upright i {
  width: 4px;
  height: 2.4rem;
}
.divider:hover i,
.divider:focus-visible i,
.held i {
  background: var(--pine);
  opacity: 1;
}
@media (pointer: coarse) {
  .divider {
    height: 1.25rem;
  }
  .divider.upright {
    width: 1.25rem;
  }
}
</style>
