<script setup lang="ts">
/** How the base rocks, from a test with a watch: the planner gets the pause that it takes. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { rockingBy, rockingSettles } from '@cork-elbow/core/routine';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';

const rigs = useRigStore();
const edit = useEdit();
const IN_S = 5;
const swings = ref(0);
const calmS = ref(0);
const found = computed(() => rockingBy(swings.value, IN_S, calmS.value));
const known = computed(() => rigs.rig?.motion.rocking ?? null);
const rounded = (v: number): number => Math.round(v * 1e4) / 1e4;
function take(): void {
  const { hz, damping } = found.value!;
  edit('Rocking', (draft) => void (draft.motion.rocking = { hz: rounded(hz), damping: rounded(damping) }));
}
</script>

<template>
  <details class="rocking">
    <summary>How it rocks after a stop</summary>
    <p class="small muted">
      With the arm stretched out and everything off, hands clear of it, nudge the base once: count its swings in five
      seconds, and take the time until it is calm.
    </p>
    <div class="form">
      <NumberField
        prefix="swings in 5 s"
        :value="swings"
        dimension="count"
        label="Swings in five seconds"
        :min="0"
        :max="500"
        :commit="(v: number) => void (swings = v)"
      />
      <NumberField
        prefix="calm after"
        :value="calmS"
        dimension="time"
        label="Calm after"
        :min="0"
        :max="600"
        :commit="(v: number) => void (calmS = v)"
      />
      <Button size="small" severity="secondary" label="Use it" :disabled="!found" @click="take" />
    </div>
    <p v-if="found" class="small" data-rocking>
      <b class="num">{{ formatNumber(found.hz, 2) }} Hz</b>, damping
      <b class="num">{{ formatNumber(100 * found.damping, 1) }} %</b>: calm again
      {{ formatNumber(rockingSettles(found), 1) }} s after a sharp stop.
    </p>
    <p v-else-if="swings > 0 && calmS > 0" class="small">It is calm before it has swung once: nothing to wait for.</p>
    <p v-if="known" class="small muted">
      Kept now: {{ formatNumber(known.hz, 2) }} Hz, {{ formatNumber(100 * known.damping, 1) }} %; checks look at
      pauses by it (Routine, Smoothing).
    </p>
  </details>
</template>

<style scoped>
.rocking {
  margin: 0.7rem 0;
}
</style>
