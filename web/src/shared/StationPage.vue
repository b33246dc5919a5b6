<script setup lang="ts" generic="Id extends string">
/**
 * What every station is made of: the question it answers with what can be begun there, its parts, what is asked and shown (the only piece
 * that scrolls), and what stays in sight below it.
 */
import type { StationId } from '@cork-elbow/core/findings';
import StationParts from './StationParts.vue';
import { questionOf, type Part } from './stations';

const part = defineModel<Id>();
const { station, parts = [] } = defineProps<{
  station: StationId;
  parts?: readonly Part<Id>[];
}>();
const slots = defineSlots<{
  default(): unknown;
  /** Buttons beside the question. */
  actions?(): unknown;
  /** Above the parts: what all of them are about. */
  about?(): unknown;
  foot?(): unknown;
}>();
</script>

<template>
  <header class="station-head">
    <div class="question">
      <h1 tabindex="-1">{{ questionOf(station) }}</h1>
      <slot name="actions" />
    </div>
    <slot name="about" />
    <StationParts v-if="parts.length" v-model="part" :parts label="Parts of the station" />
  </header>
  <div class="station-body"><slot /></div>
  <footer v-if="slots.foot" class="station-foot"><slot name="foot" /></footer>
</template>

<style scoped>
.station-head {
  padding: 0.8rem 1.1rem 0;
  flex: none;
}
.question {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 0.3rem 0.75rem;
  margin-bottom: 0.55rem;
}
h1 {
  flex: 1 1 auto;
}
/* Where the focus has come to, not something to press. */
h1:focus-visible {
  outline: none;
  box-shadow:
    -0.4rem 0 0 var(--paper),
    -0.6rem 0 0 var(--pine);
}
.station-body {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 0.6rem 0.5rem 0.9rem 1.1rem;
  position: relative;
  scrollbar-width: thin;
  /* A bar that comes and goes changes the room of what made it come. */
  scrollbar-gutter: stable;
  scrollbar-color: var(--lines) transparent;
}
.station-foot {
  flex: none;
  border-top: 1px solid var(--lines);
  padding: 0.4rem 1.1rem 0.5rem;
}
@container station (max-width: 30rem) {
  .station-head {
    padding-inline: 0.8rem;
  }
  .station-foot {
    padding-inline: 0.8rem;
  }
  .station-body {
    padding-inline: 0.8rem 0.2rem;
  }
  h1 {
    font-size: 1.35rem;
  }
}
</style>
