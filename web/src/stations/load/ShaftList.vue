<script setup lang="ts">
/** Joint by joint: what bends its shaft, against what that may bear; a second bearing, and how far its link hangs over. */
import Checkbox from 'primevue/checkbox';
import { computed } from 'vue';
import { shaftLoads } from '@cork-elbow/core/loads';
import { formatNumber } from '@cork-elbow/core/units';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useLoads } from './useLoads';

const rigs = useRigStore();
const edit = useEdit();
const { loading, now } = useLoads();
const rows = computed(() => {
  const { hardware, mechanism } = rigs;
  if (!hardware || !mechanism || !loading.value || !now.value) return [];
  return shaftLoads(hardware, loading.value, now.value.q).map((load) => {
    const joint = hardware.mechanism.joints.find(({ id }) => id === load.id);
    const bearing = joint && 'bearing' in joint ? joint.bearing : undefined;
    const isOver = load.ratedNm !== null && load.worstNm > load.ratedNm && !load.second;
    return {
      ...{ load, bearing, isOver },
      slot: mechanism.slotOf.get(load.id),
      name: mechanism.names[load.joint],
    };
  });
});
const set = (id: string, name: string, change: { second?: boolean; overhangMm?: number; ratedNm?: number }) =>
  edit(`Bearing of ${name}`, (draft) => {
    const joint = draft.mechanism.joints.find((j) => j.id === id);
    if (!joint || joint.type === 'fixed') return;
    const bearing = { second: false, overhangMm: 0, ...joint.bearing, ...change };
    if (!bearing.ratedNm) delete bearing.ratedNm;
    if (bearing.second || bearing.overhangMm || bearing.ratedNm) joint.bearing = bearing;
    else delete joint.bearing;
  });
</script>

<template>
  <details v-if="rows.length" class="shafts" :open="rows.some(({ isOver }) => isOver)" data-shafts>
    <summary>Shafts and bearings</summary>
    <table class="plain">
      <thead>
        <tr>
          <th>joint</th>
          <th title="A bearing on the other side of the link">second</th>
          <th>overhang</th>
          <th>shaft bears</th>
          <th class="right">bends now</th>
          <th class="right">at worst</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ load, bearing, isOver, slot, name } in rows" :key="load.id" :data-shaft="load.id">
          <td>
            <span class="who"><JointMark v-if="slot !== undefined" :index="slot" :size="20" /> {{ name }}</span>
          </td>
          <td>
            <Checkbox
              :model-value="load.second"
              binary
              :aria-label="`${name} has a second bearing`"
              @update:model-value="set(load.id, name, { second: Boolean($event) })"
            />
          </td>
          <td>
            <NumberField
              :value="bearing?.overhangMm ?? 0"
              :unset="bearing?.overhangMm ? null : 'unknown'"
              dimension="length"
              :decimals="0"
              :label="`Overhang of ${name}`"
              :min="0"
              :max="5000"
              :commit="(v: number) => set(load.id, name, { overhangMm: v })"
            />
          </td>
          <td>
            <NumberField
              :value="bearing?.ratedNm ?? 0"
              :unset="bearing?.ratedNm ? null : 'unknown'"
              dimension="torque"
              :label="`Bending that the shaft of ${name} bears`"
              :min="0"
              :max="10000"
              :commit="(v: number) => set(load.id, name, { ratedNm: v })"
            />
          </td>
          <td class="num right">{{ formatNumber(load.nowNm, 3) }}</td>
          <td class="num right" :class="{ over: isOver }" :data-over="isOver">
            {{ formatNumber(load.worstNm, 3) }}
          </td>
        </tr>
      </tbody>
    </table>
    <p class="small muted">
      N·m across the axis, at rest, by the weight of all beyond. The overhang is from the bearing to the middle of the
      link, along the axis. With a second bearing both bear it together; a servo’s own shaft without one wears its
      gears.
    </p>
  </details>
</template>

<style scoped>
.shafts {
  margin: 0.6rem 0;
}
td,
th {
  padding: 0.1rem 0.25rem;
}
.right {
  text-align: right;
}
.who {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  white-space: nowrap;
}
.over {
  color: var(--alarm);
  font-weight: 600;
}
</style>
