<script setup lang="ts">
/** How warm motors become when the routine goes on and on. */
import { computed } from 'vue';
import { heatModel, warmthOf } from '@cork-elbow/core/actuators';
import { formatNumber } from '@cork-elbow/core/units';
import { shareState } from '../../shared/share-words';
import { useLoads } from './useLoads';

const { along, loading } = useLoads();
const motors = computed(() => {
  const found = along.answer.value;
  const own = loading.value?.motors;
  if (!found || !own || found.amps.length !== own.length) return [];
  return own
    .flatMap(({ drive }, k) => {
      const model = heatModel(drive);
      if (!model || Number.isNaN(found.amps[k][0])) return [];
      return [{ id: drive.id, name: drive.name, ...warmthOf(model, found.timeS, found.amps[k]) }];
    })
    .sort((a, b) => b.share - a.share);
});
const minutes = (s: number): string => (s < 90 ? `${formatNumber(s, 0)} s` : `${formatNumber(s / 60, 0)} min`);
</script>

<template>
  <section v-if="motors.length">
    <h2 class="more">Warmth, again and again</h2>
    <ul aria-label="Warmth of motors">
      <li v-for="m in motors" :key="m.id" :data-warmth="m.id" :class="shareState(m.share)">
        <span>{{ m.name }}</span>
        <span class="bar"
          ><span class="fill" :style="{ width: `${Math.min(100, 80 * m.share)}%` }" /><span class="full"
        /></span>
        <b class="num">{{ formatNumber(100 * m.share, 0) }} %</b>
        <span v-if="m.share > 1" class="says small">too warm in {{ minutes(m.leftS) }}</span>
      </li>
    </ul>
    <p class="small muted">
      Of the warmth that it may have for ever, reckoned by I²t from its currents and the torque that it may hold.
    </p>
  </section>
</template>

<style scoped>
.more {
  margin: 0.9rem 0 0.2rem;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(7rem, 11rem) minmax(4rem, 1fr) 3.4rem;
  align-items: center;
  gap: 0.1rem 0.6rem;
  min-height: 1.6rem;
}
b {
  text-align: right;
}
.says {
  grid-column: 2 / span 2;
}
.bar {
  position: relative;
  height: 0.7rem;
  background: var(--paper-2);
  border: 1px solid var(--lines);
  border-radius: 2px;
  overflow: hidden;
}
.fill {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--good);
}
.full {
  position: absolute;
  left: 80%;
  top: 0;
  bottom: 0;
  border-left: 2px solid var(--ink);
}
.tight .fill {
  background: var(--caution);
}
.tight b {
  color: var(--caution);
}
.over .fill {
  background: repeating-linear-gradient(-45deg, var(--alarm) 0 5px, var(--paper) 5px 7px);
}
.over b,
.over .says {
  color: var(--alarm);
}
</style>
