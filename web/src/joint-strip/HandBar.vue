<script setup lang="ts">
/** Above the joints while the board is armed and nothing runs: whether they move the arm, and how fast. */
import Button from 'primevue/button';
import { computed } from 'vue';
import ChoiceField from '../shared/ChoiceField.vue';
import { useRigStore } from '../stores/rig';
import { useRunStore } from '../stores/run';

const rigs = useRigStore();
const run = useRunStore();
const isShown = computed(
  () =>
    run.isLive &&
    run.mayDrive &&
    run.status.armed &&
    !run.isRunning &&
    ['normal', 'by-hand'].includes(run.status.mode),
);
const mayBegin = computed(() => rigs.saveState === 'saved' && run.isFree);
const speeds = [1, 2, 5, 10, 20, 50].map((percent) => ({ label: `${percent} % of the speed`, value: percent / 100 }));
</script>

<template>
  <div v-if="isShown" class="hand-bar" :class="{ on: run.byHand }" role="group" aria-label="By hand">
    <Button
      size="small"
      :severity="run.byHand ? 'danger' : 'secondary'"
      :label="run.byHand ? 'By hand: on' : 'Move by hand'"
      :aria-pressed="run.byHand"
      data-moves
      :disabled="!run.byHand && !mayBegin"
      @click="run.setByHand(!run.byHand)"
    />
    <template v-if="run.byHand">
      <ChoiceField
        class="speed"
        label=""
        name="Speed by hand"
        :options="speeds"
        :value="run.handShare"
        @change="run.setHandShare(Number($event))"
      />
      <span class="small"
        >Sliders, figures with ↑ ↓ (Shift 10, Alt 0.1) and links dragged on the stage move the arm; steps under Reach
        move its tool straight. Nothing looks out for what is in the way.</span
      >
    </template>
    <span v-else class="muted small">The joints here then move the arm itself, gently. Esc stops it.</span>
  </div>
</template>

<style scoped>
.hand-bar {
  display: flex;
  align-items: center;
  gap: 0.6rem;
  min-width: 0;
  padding: 0.2rem 0.4rem;
  border-radius: 5px;
  background: var(--paper);
  box-shadow: var(--shadow);
}
.hand-bar.on {
  box-shadow: inset 0 0 0 2px var(--alarm);
}
.hand-bar :deep(.p-button) {
  flex: none;
}
.speed {
  flex: none;
  width: 11.5rem;
}
</style>
