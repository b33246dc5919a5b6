<script setup lang="ts">
/** The wiring as a drawing: looked at here, printed, or saved. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { wiringSheet } from '@cork-elbow/core/formats';
import PrintButton from '../../../shared/PrintButton.vue';
import { saveFile } from '../../../shared/save-file';
import { useWiring } from './useWiring';

const { rig } = useWiring();
const sheet = computed(() => wiringSheet(rig.value));
</script>

<template>
  <div class="row wrap">
    <PrintButton label="Print" :svg="sheet" />
    <Button
      size="small"
      severity="secondary"
      label="Save as SVG"
      @click="saveFile('wiring.svg', 'image/svg+xml', sheet)"
    />
    <span class="muted small">Every used pin, what hangs on it, the wire’s colour and the supply.</span>
  </div>
  <!-- The core makes this SVG from the rig, every text escaped. -->
  <!-- eslint-disable-next-line vue/no-v-html -->
  <div class="sheet" role="img" aria-label="Wiring sheet" v-html="sheet" />
</template>

<style scoped>
.sheet {
  margin-top: 0.5rem;
  border: 1px solid var(--lines);
  border-radius: 3px;
  overflow: hidden;
}
.sheet :deep(svg) {
  display: block;
  width: 100%;
  height: auto;
}
</style>
