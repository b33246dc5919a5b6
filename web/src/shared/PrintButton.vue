<script setup lang="ts">
/** A button that prints sheets alone, at their true size, on the paper that is in the printer; what does not fit goes on several pages. */
import { useLocalStorage } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, nextTick, ref } from 'vue';
import { EDGE, pagesOf, papers, tilingOf, type PaperId, type Sheet } from '@cork-elbow/core/drawing';
import ChoiceField from './ChoiceField.vue';

const { label, title, sheets } = defineProps<{
  label: string;
  /** What stands on pages that belong together. */
  title: string;
  /** The sheets, where a page has room for so much height (mm). */
  sheets: (roomMm: number) => readonly Sheet[];
}>();
const paper = useLocalStorage<PaperId>('cork-elbow:paper', 'a4');
const chosen = computed<PaperId>(() => (paper.value in papers ? paper.value : 'a4'));
const options = (Object.keys(papers) as PaperId[]).map((value) => ({ value, label: papers[value].name }));
const all = computed(() => sheets(papers[chosen.value].heightMm - 2 * EDGE));
const pages = computed(() => all.value.flatMap((sheet) => pagesOf(sheet, chosen.value, title)));
/** How a sheet is held; all of one print are held alike. */
const held = computed(() => tilingOf(all.value[0], chosen.value));
const says = computed(() => {
  const { columns, rows } = held.value;
  if (columns * rows > 1)
    return `It is larger than the paper: printed over ${columns} × ${rows} pages, to be cut along the corner marks and laid edge to edge.`;
  return pages.value.length > 1 ? `On ${pages.value.length} pages.` : '';
});
const isPrinting = ref(false);
async function print(): Promise<void> {
  isPrinting.value = true;
  await nextTick();
  window.print();
  isPrinting.value = false;
}
const pageRule = computed(() => `@page { size: ${held.value.widthMm}mm ${held.value.heightMm}mm; margin: 0; }`);
</script>

<template>
  <span class="print-line">
    <Button size="small" :label @click="print" />
    <ChoiceField label="" name="Paper" :options :value="chosen" class="paper" @change="paper = $event as PaperId" />
    <span v-if="says" class="small muted" role="note" :data-pages="pages.length">{{ says }}</span>
  </span>
  <!-- The core makes these SVGs from numbers and escaped names. -->
  <Teleport to="body"
    ><div v-if="isPrinting" class="print-sheet">
      <component :is="'style'">{{ pageRule }}</component>
      <!-- eslint-disable-next-line vue/no-v-html -->
      <div v-for="(page, k) in pages" :key="k" class="print-page" v-html="page" /></div
  ></Teleport>
</template>

<style>
.print-line {
  display: inline-flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.4rem;
}
.print-line .paper {
  width: 5.4rem;
}
.print-sheet {
  position: absolute;
  left: 0;
  top: 0;
  background: #fff;
}
.print-page {
  break-after: page;
  break-inside: avoid;
}
.print-page:last-child {
  break-after: auto;
}
.print-page > svg {
  display: block;
}
@media print {
  body:has(> .print-sheet) > *:not(.print-sheet) {
    display: none !important;
  }
  body:has(> .print-sheet) {
    background: #fff;
    margin: 0;
  }
}
</style>
