<script setup lang="ts">
/** By how much each joint was off what it was told, and how far two runs part, each in the joint's own unit. */
import { computed } from 'vue';
import { gapsOf, partings, type Gap, type Track } from '@cork-elbow/core/recording';
import { formatFixed } from '@cork-elbow/core/units';
import JointMark from '../../shared/JointMark.vue';
import { useSlotOf } from '../../shared/joints';

const { track, other } = defineProps<{ track: Track; other: Track | null }>();
const emit = defineEmits<{ pick: [atS: number] }>();
const slotOf = useSlotOf();
const rows = computed(() => {
  const gaps = new Map(gapsOf(track).map((gap) => [gap.joint, gap]));
  const apart = new Map(other ? partings(track, other).map((gap) => [gap.joint, gap]) : []);
  return track.head.joints.map(({ id, name, unit }, k) => ({
    ...{ id, name, unit, slot: slotOf(id, k) },
    gap: gaps.get(id),
    apart: apart.get(id),
  }));
});
const amount = (value: number, unit: '°' | 'mm'): string => `${formatFixed(value, 2)}${unit === 'mm' ? ' mm' : '°'}`;
const at = ({ atS }: Gap): string => `at ${formatFixed(atS, 1)} s`;
</script>

<template>
  <table class="gaps">
    <thead>
      <tr>
        <th>joint</th>
        <th class="r">widest gap</th>
        <th class="r">usual</th>
        <th v-if="other" class="r">runs part by</th>
        <th v-if="other" class="r">usual</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="{ id, name, unit, slot, gap, apart } in rows" :key="id">
        <td>
          <span class="name"><JointMark :index="slot" :size="18" />{{ name }}</span>
        </td>
        <td class="r num">
          <button v-if="gap" class="link" :title="`Go there: ${at(gap)}`" @click="emit('pick', gap.atS)">
            {{ amount(gap.worst, unit) }}</button><span v-else class="muted">not read back</span>
        </td>
        <td class="r num">{{ gap ? amount(gap.usual, unit) : '–' }}</td>
        <td v-if="other" class="r num">
          <button v-if="apart" class="link" :title="`Go there: ${at(apart)}`" @click="emit('pick', apart.atS)">
            {{ amount(apart.worst, unit) }}</button><span v-else class="muted">–</span>
        </td>
        <td v-if="other" class="r num">{{ apart ? amount(apart.usual, unit) : '–' }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.gaps {
  width: 100%;
  border-collapse: collapse;
  margin-top: 0.5rem;
  font-size: 0.9rem;
}
th {
  font-weight: 400;
  font-size: 0.82rem;
  color: var(--ink-2);
  text-align: left;
}
td,
th {
  padding: 0.15rem 0.3rem;
  border-bottom: 1px solid var(--lines);
}
.r {
  text-align: right;
}
.name {
  display: flex;
  gap: 0.35rem;
  align-items: center;
}
</style>
