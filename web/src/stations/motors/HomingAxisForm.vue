<script setup lang="ts">
/** How one axis finds its place: by what, at which end, how fast, and where others wait meanwhile. */
import Button from 'primevue/button';
import Checkbox from 'primevue/checkbox';
import { computed } from 'vue';
import type { HomingAxis } from '@cork-elbow/core/rig';
import type { Dimension } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useSlots, type SlotInfo } from '../../shared/joints';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { NONE, orNull } from './wiring/useWiring';
import { inUnit } from '@cork-elbow/core/mechanism';

const { axis, info, isFirst, bys, edit } = defineProps<{
  axis: HomingAxis;
  info: SlotInfo;
  isFirst: boolean;
  bys: readonly { readonly value: HomingAxis['by']; readonly label: string }[];
  edit: (label: string, change: (axis: HomingAxis) => void) => string | void;
}>();
const rigs = useRigStore();
const view = useViewStore();
const slots = useSlots();
const inputs = computed(() => [
  { value: NONE, label: 'no input chosen' },
  ...rigs.rig!.signals.filter((s) => s.way === 'in').map((s) => ({ value: s.id, label: s.name })),
]);
const signal = computed(() => rigs.rig!.signals.find((s) => s.id === axis.signal));
/** Whether it is moved to find its place. */
const moves = computed(() => axis.by === 'switch' || axis.by === 'end-stop');
const dimension = computed((): Dimension => (info.unit === 'mm' ? 'length' : 'angle'));
const speedDimension = computed((): Dimension => (info.unit === 'mm' ? 'speed' : 'angularSpeed'));
function setWait(joint: string, value: number | null): string | void {
  return edit('Where another waits', (a) => {
    if (value === null) delete a.waits[joint];
    else a.waits[joint] = value;
  });
}
/** Another joint waits where it stands now. */
function waitHere(joint: string): void {
  const slot = rigs.mechanism!.slotOf.get(joint)!;
  setWait(joint, Math.round(inUnit(rigs.mechanism!, slot, view.editQ[slot]) * 10) / 10);
}
</script>

<template>
  <div class="axis">
    <div class="rule">
      <h2>{{ info.name }}</h2>
    </div>
    <div class="form">
      <ChoiceField
        label="finds itself by"
        name="Way of homing"
        :options="bys"
        :value="axis.by"
        @change="edit('Way', (a) => (a.by = $event as HomingAxis['by']))"
      />
      <ChoiceField
        v-if="moves"
        label="seeks"
        name="End it seeks"
        :options="[
          { value: 'min', label: 'the lower end' },
          { value: 'max', label: 'the upper end' },
        ]"
        :value="axis.end"
        @change="edit('End', (a) => (a.end = $event as 'min'))"
      />
      <ChoiceField
        v-if="axis.by === 'switch'"
        label="switch on input"
        name="Input of the switch"
        :options="inputs"
        :value="axis.signal ?? NONE"
        @change="edit('Input', (a) => (a.signal = orNull($event)))"
      />
      <ChoiceField
        v-if="axis.by === 'switch'"
        label="kind of switch"
        name="Kind of switch"
        :options="[
          { value: 'mechanical', label: 'mechanical' },
          { value: 'optical', label: 'optical' },
          { value: 'magnetic', label: 'magnetic' },
        ]"
        :value="axis.switchKind"
        @change="edit('Kind of switch', (a) => (a.switchKind = $event as 'optical'))"
      />
      <NumberField
        v-if="moves"
        prefix="fast"
        :value="axis.fast"
        :dimension="speedDimension"
        :decimals="1"
        label="Fast speed"
        :min="0.01"
        :commit="(v: number) => edit('Fast speed', (a) => (a.fast = v))"
      />
      <NumberField
        v-if="moves"
        prefix="slow"
        :value="axis.slow"
        :dimension="speedDimension"
        :decimals="1"
        label="Slow speed"
        :min="0.01"
        :commit="(v: number) => edit('Slow speed', (a) => (a.slow = v))"
      />
      <NumberField
        v-if="moves"
        prefix="backs off"
        :value="axis.backOff"
        :dimension="dimension"
        :decimals="1"
        label="Back-off"
        :min="0"
        :commit="(v: number) => edit('Back-off', (a) => (a.backOff = v))"
      />
      <NumberField
        v-if="axis.by !== 'sensor'"
        prefix="is then at"
        :value="axis.at"
        :dimension="dimension"
        :decimals="2"
        label="Value at the trip point"
        :commit="(v: number) => edit('Offset to zero', (a) => (a.at = v))"
      />
      <NumberField
        v-if="moves"
        prefix="spread ±"
        :value="axis.spread"
        :dimension="dimension"
        :decimals="2"
        label="Repeatability"
        :min="0"
        :commit="(v: number) => edit('Repeatability', (a) => (a.spread = v))"
      />
    </div>
    <p v-if="axis.by === 'sensor'" class="muted small">
      It does not move for it: where it is, is what the sensor on the joint reads, by its zero and sense on this build
      (under Joint by joint, Calibrate).
    </p>
    <p v-if="axis.by === 'switch' && signal" class="muted small">
      {{ signal.name }}
      {{
        signal.activeLow === null ? 'has no polarity yet' : signal.activeLow ? 'is on when low' : 'is on when high'
      }}.
    </p>
    <label v-if="!isFirst" class="row small"
      ><Checkbox
        :model-value="axis.together"
        binary
        @update:model-value="edit('Together', (a) => (a.together = Boolean($event)))"
      />
      runs together with the axis before it</label
    >
    <div class="waits">
      <span class="small muted">meanwhile</span>
      <span v-for="(value, joint) in axis.waits" :key="joint" class="row wait">
        <NumberField
          :prefix="`${slots.find((s) => s.id === joint)?.name ?? joint} waits at`"
          :value
          :dimension="slots.find((s) => s.id === joint)?.unit === 'mm' ? 'length' : 'angle'"
          :decimals="1"
          :label="`Where ${joint} waits`"
          :commit="(v: number) => setWait(joint, v)"
        />
        <Button
          size="small"
          variant="text"
          severity="secondary"
          label="×"
          :aria-label="`${joint} waits nowhere`"
          @click="setWait(joint, null)"
        />
      </span>
      <ChoiceField
        label=""
        name="Another joint that waits"
        placeholder="a joint waits"
        :options="
          slots
            .filter((s) => s.id !== axis.joint && !(s.id in axis.waits))
            .map((s) => ({ value: s.id, label: s.name }))
        "
        :value="null"
        @change="waitHere(String($event))"
      />
    </div>
  </div>
</template>

<style scoped>
.waits {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
  margin-top: 0.3rem;
}
.wait {
  gap: 0.1rem;
}
label.row {
  gap: 0.35rem;
}
</style>
