<script setup lang="ts">
/** A button that prints one SVG alone, at the size it states. */
import Button from 'primevue/button';
import { nextTick, ref } from 'vue';

const { label, svg } = defineProps<{ label: string; svg: string }>();
const isPrinting = ref(false);
async function print(): Promise<void> {
  isPrinting.value = true;
  await nextTick();
  window.print();
  isPrinting.value = false;
}
</script>

<template>
  <Button size="small" :label @click="print" />
  <!-- The core makes this SVG from numbers and escaped names. -->
  <!-- eslint-disable-next-line vue/no-v-html -->
  <Teleport to="body"><div v-if="isPrinting" class="print-sheet" v-html="svg" /></Teleport>
</template>

<style>
.print-sheet {
  position: absolute;
  left: 0;
  top: 0;
  background: #fff;
}
@media print {
  body:has(> .print-sheet) > *:not(.print-sheet) {
    display: none !important;
  }
  body:has(> .print-sheet) {
    background: #fff;
  }
}
</style>
