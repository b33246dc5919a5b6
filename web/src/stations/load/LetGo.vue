<script setup lang="ts">
/** Motor by motor: hold or let go at rest. What letting go saves, and how far the arm sags. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { idleSaving, sagOf, type Sag } from '@cork-elbow/core/loads';
import { inUnit } from '@cork-elbow/core/mechanism';
import { formatNumber, toMm } from '@cork-elbow/core/units';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import { useSlots } from '../../shared/joints';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { useLoads } from './useLoads';

const rigs = useRigStore();
const view = useViewStore();
const slots = useSlots();
const { loading, along, tool } = useLoads();
/** s at rest, after which a motor is let go. */
const afterS = ref(3);
const q = computed(() => view.readQ);
const rows = computed(() => {
  const own = loading.value;
  if (!own || q.value.length !== own.mechanism.m) return [];
  const run = along.answer.value;
  return own.motors.flatMap((motor, k) => {
    const sag = sagOf(own, k, tool.value, q.value);
    if (!sag) return [];
    const [slot] = motor.slots;
    const isKnown = run?.amps.length === own.motors.length && !Number.isNaN(run.amps[k][0]);
    return [
      {
        ...{ id: motor.drive.id, slot, sag },
        runA: run && isKnown ? idleSaving(run.timeS, run.amps[k], run.still[k], afterS.value) : null,
      },
    ];
  });
});
type Row = (typeof rows.value)[number];
function words({ slot, sag }: Row): string {
  if (sag.stays) return 'stays: friction holds it';
  const { mechanism } = rigs;
  const unit = slots.value[slot]?.unit === 'mm' ? ' mm' : '°';
  const to = `${formatNumber(inUnit(mechanism!, slot, sag.q[slot]), 1)}${unit}`;
  return `${sag.atEnd ? 'drops to its end at' : 'hangs at'} ${to}${drop(sag)}`;
}
function drop({ dropM }: Sag): string {
  const mm = toMm(dropM);
  return Math.abs(mm) < 0.5 ? '' : `, tip ${formatNumber(Math.abs(mm), 0)} mm ${mm > 0 ? 'lower' : 'higher'}`;
}
</script>

<template>
  <details v-if="rows.length" class="let-go" data-let-go>
    <summary>Hold or let go at rest</summary>
    <div class="form">
      <label
        >let go after
        <NumberField
          :value="afterS"
          dimension="time"
          label="Time at rest after which it is let go"
          :min="0"
          :max="3600"
          :commit="(v: number) => void (afterS = v)"
      /></label>
    </div>
    <table class="plain">
      <thead>
        <tr>
          <th>joint</th>
          <th>without its motor</th>
          <th class="right">saves now</th>
          <th v-if="along.answer.value" class="right">in the routine</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.id" :data-sag="row.id" :data-stays="row.sag.stays">
          <td>
            <span class="who"><JointMark :index="row.slot" :size="20" /> {{ slots[row.slot]?.name }}</span>
          </td>
          <td :class="{ falls: !row.sag.stays }">{{ words(row) }}</td>
          <td class="num right">{{ row.sag.savesA === null ? '–' : `${formatNumber(row.sag.savesA, 2)} A` }}</td>
          <td v-if="along.answer.value" class="num right">
            {{ row.runA === null ? '–' : `${formatNumber(row.runA, 2)} A` }}
          </td>
          <td>
            <Button
              v-if="!row.sag.stays"
              size="small"
              variant="text"
              label="Show"
              :aria-label="`Show where ${slots[row.slot]?.name} comes to`"
              @click="view.setEdit(row.sag.q)"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <p class="small muted">
      Each motor by itself, the others hold. By friction that is known (Measure, Joints): what a gear holds back
      besides keeps it up longer. A joint without power can drop: hold the arm, keep fingers out. A routine lets go by
      a step of that name.
    </p>
  </details>
</template>

<style scoped>
.let-go {
  margin: 0.6rem 0;
}
.let-go td,
.let-go th {
  padding: 0.1rem 0.4rem;
}
.right {
  text-align: right;
  white-space: nowrap;
}
.who {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  white-space: nowrap;
}
.falls {
  color: var(--caution);
}
</style>
