<script setup lang="ts">
/** The wiring as a drawing: looked at here, printed, or saved. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { sheetToSvg } from '@cork-elbow/core/drawing';
import { wiringSheets } from '@cork-elbow/core/exports';
import { fileName } from '@cork-elbow/core/rig';
import PrintButton from '../../../shared/PrintButton.vue';
import { saveFile } from '../../../shared/save-file';
import { useWiring } from './useWiring';

const { rig, rigs } = useWiring();
/** As long as the wiring is: on the screen, and as a file. */
const sheet = computed(() => sheetToSvg(wiringSheets(rig.value)[0]));
</script>

<template>
  <div class="row wrap">
    <PrintButton label="Print" :title="`${rig.name}: wiring`" :sheets="(room) => wiringSheets(rig, room)" />
    <Button
      size="small"
      severity="secondary"
      label="Save as SVG"
      @click="saveFile(fileName(rigs.id, 'wiring', 'svg'), 'image/svg+xml', sheet)"
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
