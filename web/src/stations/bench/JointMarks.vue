<script setup lang="ts">
/** Marks of joints in a row, the one that a chart shows pressed. */
import JointMark from '../../shared/JointMark.vue';

const chosen = defineModel<string | null>({ required: true });
const { joints } = defineProps<{
  joints: readonly { readonly id: string; readonly name: string; readonly slot: number }[];
}>();
</script>

<template>
  <div class="marks" role="group" aria-label="Joint on the chart">
    <button
      v-for="j in joints"
      :key="j.id"
      class="mark"
      :aria-label="`Show ${j.name}`"
      :aria-pressed="chosen === j.id"
      @click="chosen = j.id"
    >
      <JointMark :index="j.slot" :size="22" />
    </button>
  </div>
</template>

<style scoped>
.marks {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem;
}
.mark {
  border: 2px solid transparent;
  background: none;
  border-radius: 4px;
  padding: 0;
  cursor: pointer;
  display: grid;
  place-items: center;
}
.mark[aria-pressed='true'] {
  border-color: var(--pine);
}
</style>
