<script setup lang="ts" generic="Id extends string | undefined">
/** Parts to choose from as a row of buttons, the one on show pressed: boxed for the parts of a station, underlined for what is within one. */
import { vRove } from './rove';
import type { Part } from './stations';

const part = defineModel<Id>({ required: true });
const {
  parts,
  label = 'Part of the station',
  within = false,
} = defineProps<{
  parts: readonly Part<NonNullable<Id>>[];
  /** For screen readers. */
  label?: string;
  /** The second level, inside a part. */
  within?: boolean;
}>();
</script>

<template>
  <span
    v-rove.across="'button'"
    class="station-parts"
    :class="{ within, choice: !within }"
    role="group"
    :aria-label="label"
    ><button v-for="p in parts" :key="p.id" :aria-pressed="part === p.id" @click="part = p.id">
      {{ p.name }}
    </button></span
  >
</template>

<style scoped>
.station-parts {
  display: flex;
}
.station-parts button {
  flex: 1 1 auto;
  padding-inline: 0.4rem;
  white-space: nowrap;
}
.within {
  gap: 0 0.9rem;
  flex-wrap: wrap;
  border-bottom: 1px solid var(--lines);
  margin-bottom: 0.5rem;
}
.within button {
  flex: 0 0 auto;
  border: 0;
  border-bottom: 3px solid transparent;
  background: none;
  padding: 0.3rem 0.1rem 0.2rem;
  margin-bottom: -1px;
  color: var(--ink-2);
  cursor: pointer;
}
.within button[aria-pressed='true'] {
  border-bottom-color: var(--pine);
  color: var(--ink);
  font-weight: 600;
}
@container station (max-width: 32rem) {
  .choice {
    flex-wrap: wrap;
  }
  .choice button {
    padding-inline: 0.25rem;
    font-size: 0.9rem;
  }
}
</style>
