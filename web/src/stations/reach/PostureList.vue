<script setup lang="ts">
/** Every posture that reaches the target: how far from a limit, how far away, how near to a singular pose, what it touches. */
import { computed } from 'vue';
import { dexterityAt, NEARLY_SINGULAR } from '@cork-elbow/core/kinematics';
import { formatNumber } from '@cork-elbow/core/units';
import TermHint from '../../shared/TermHint.vue';
import JointMark from '../../shared/JointMark.vue';
import { useRigStore } from '../../stores/rig';
import { useReach } from './useReach';
import { tightest, touchWords } from './words';

const rigs = useRigStore();
const { answer, chosen, take, tool, task } = useReach();
const rows = computed(() => {
  const { mechanism } = rigs;
  if (!mechanism || !tool.value) return [];
  const touches = answer.value?.touches ?? [];
  return (answer.value?.solutions ?? [])
    .filter((s) => s.q.length === mechanism.m)
    .map((s, k) => ({
      s,
      touch: touches[k],
      margin: tightest(mechanism, tool.value!.slots, s.q),
      evenness: dexterityAt(mechanism, tool.value!, task.value.kind, s.q).evenness,
    }));
});
</script>

<template>
  <div v-rove.across="'.posture'" class="postures">
    <button
      v-for="({ s, touch, margin, evenness }, k) in rows"
      :key="k"
      class="posture"
      :aria-pressed="chosen === k"
      @click="take(k)"
    >
      <b>{{ s.posture }}</b>
      <span class="muted small"
        >margin <span class="num">{{ margin.text }}</span>
        <template v-if="margin.slot >= 0"> at <JointMark :index="margin.slot" :size="19" /></template
      ></span>
      <span class="muted small"
        ><span class="num">{{ formatNumber(s.awayS, 2) }} s</span> away ·
        <span :class="{ singular: evenness < NEARLY_SINGULAR }"
          >evenness <span class="num">{{ formatNumber(100 * evenness, 0) }} %</span></span
        ></span
      >
      <span v-if="touch" class="small touching">{{ touchWords(touch) }}</span>
      <span v-if="s.singular || evenness < NEARLY_SINGULAR" class="small singular"
        >nearly singular: some ways cost huge joint speeds</span
      >
    </button>
  </div>
  <TermHint v-if="rows.some(({ s, evenness }) => s.singular || evenness < NEARLY_SINGULAR)" term="singular" />
</template>

<style scoped>
.postures {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 0.5rem;
  margin: 0.5rem 0;
}
.posture {
  display: grid;
  text-align: left;
  gap: 0.1rem;
  padding: 0.45rem 0.65rem;
  border: 1px solid var(--lines);
  background: var(--paper);
  border-radius: 4px;
  cursor: pointer;
  align-content: start;
}
.posture b::first-letter {
  text-transform: uppercase;
}
.posture[aria-pressed='true'] {
  border: 2px solid var(--pine);
  background: var(--pine-wash);
  padding: calc(0.45rem - 1px) calc(0.65rem - 1px);
}
.touching {
  color: var(--alarm);
}
.singular {
  color: var(--caution);
}
</style>
