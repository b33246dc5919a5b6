<script setup lang="ts">
/** A part of a whole as a bar, with a mark where what may be used is used up; more than that is hatched. */
const {
  part,
  state = 'good',
  mark = null,
} = defineProps<{
  /** Of the bar's length, 0 to 1. */
  part: number;
  state?: 'good' | 'tight' | 'over' | 'unknown' | 'plain';
  mark?: number | null;
}>();
const percent = (share: number): string => `${100 * Math.min(1, Math.max(0, share))}%`;
</script>

<template>
  <span class="bar" :class="state"
    ><span class="fill" :style="{ width: percent(part) }" /><span
      v-if="mark !== null"
      class="full"
      :style="{ left: percent(mark) }"
  /></span>
</template>

<style scoped>
.bar {
  position: relative;
  display: block;
  height: 0.7rem;
  background: var(--paper-2);
  border: 1px solid var(--lines);
  border-radius: 2px;
  overflow: hidden;
}
.fill {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--good);
}
.full {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 2px solid var(--ink);
  margin-left: -2px;
}
.plain .fill {
  background: var(--pine);
}
.unknown .fill {
  background: var(--ink-3);
}
.tight .fill {
  background: var(--caution);
}
.over .fill {
  background: repeating-linear-gradient(-45deg, var(--alarm) 0 5px, var(--paper) 5px 7px);
}
</style>
