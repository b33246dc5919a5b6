<script setup lang="ts">
/** Motors that are warm, or held fast: how much of the warmth they may have, and in how long they are too warm. */
import { computed } from 'vue';
import { formatNumber } from '@cork-elbow/core/units';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';

/** From this share on a motor is worth a line. */
const SHOWN = 0.3;

const rigs = useRigStore();
const run = useRunStore();
const warm = computed(() =>
  Object.entries((run.isLive && run.telemetry?.heat) || {})
    .filter(([, { share, stalledS }]) => share >= SHOWN || stalledS > 0)
    .sort(([, a], [, b]) => b.share - a.share)
    .map(([id, { share, stalledS, leftS }]) => ({
      ...{ id, share, isHot: share >= 1 },
      name: rigs.rig?.drives.find((drive) => drive.id === id)?.name ?? id,
      words: [
        stalledS > 0 ? `held fast for ${formatNumber(stalledS, 0)} s` : '',
        share >= 1 ? 'too warm' : leftS !== null ? `too warm in ${formatNumber(leftS, 0)} s` : '',
      ]
        .filter(Boolean)
        .join(', '),
    })),
);
</script>

<template>
  <div v-if="warm.length" class="heat" role="group" aria-label="Warmth of motors">
    <p class="muted small">Warmth, reckoned by the motors’ figures from where they are sent and read back:</p>
    <ul>
      <li v-for="{ id, name, share, isHot, words } in warm" :key="id" :data-heat="id" :class="{ hot: isHot }">
        <span class="name">{{ name }}</span>
        <meter
          :value="Math.min(share, 1)"
          max="1"
          low="0.8"
          high="0.8"
          optimum="0"
          :aria-label="`Warmth of ${name}`"
        />
        <span class="num small">{{ formatNumber(100 * share, 0) }} %</span>
        <span class="small">{{ words }}</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.heat {
  margin: 0.4rem 0;
}
p {
  margin: 0;
}
ul {
  list-style: none;
  margin: 0.2rem 0 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(5rem, 8.5rem) minmax(3rem, 1fr) 3rem auto;
  gap: 0.6rem;
  align-items: center;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
meter {
  width: 100%;
  height: 0.9rem;
}
.hot {
  color: var(--alarm);
  font-weight: 600;
}
</style>
