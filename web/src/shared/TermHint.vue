<script setup lang="ts">
/** A term of the trade where it first stands, in one line. */
import { terms, type Term } from './terms';

const { term } = defineProps<{ term: Term }>();
</script>

<template>
  <p class="muted small hint">
    <dfn>{{ terms[term][0] }}</dfn>: {{ terms[term][1] }}
  </p>
</template>

<style scoped>
.hint {
  margin: 0.15rem 0;
}
dfn {
  font-style: normal;
  font-weight: 600;
}
</style>
