<script setup lang="ts">
/** A ratio from what can be counted: teeth of gears and pulleys stage by stage, or pitch and starts of a screw, teeth and pitch of a belt. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';

const { unit, reduction } = defineProps<{ unit: '°' | 'mm'; reduction: number }>();
const emit = defineEmits<{ take: [reduction: number] }>();

interface Stage {
  kind: 'gears' | 'belt' | 'box';
  motor: number;
  joint: number;
}
const stages = ref<Stage[]>([{ kind: 'belt', motor: 20, joint: 60 }]);
/** What makes a slide go: a screw, or a belt round a pulley. */
const way = ref<'screw' | 'belt'>('screw');
const pitch = ref(2);
const starts = ref(4);
const teeth = ref(20);

const product = computed(() => stages.value.reduce((total, s) => (total * s.joint) / s.motor, 1));
/** Outer gears turn the other way each time they mesh; belts and boxes do not. */
const sense = computed(() => (stages.value.filter((s) => s.kind === 'gears').length % 2 ? -1 : 1));
const perTurn = computed(() => pitch.value * (way.value === 'screw' ? starts.value : teeth.value));
const result = computed(() =>
  unit === 'mm' ? (360 / perTurn.value) * (reduction < 0 ? -1 : 1) : product.value * sense.value,
);
const kinds = [
  { value: 'belt', label: 'belt or chain' },
  { value: 'gears', label: 'gears' },
  { value: 'box', label: 'gearbox' },
];
const isSame = computed(() => Math.abs(result.value - reduction) < 1e-6 * Math.abs(reduction));
</script>

<template>
  <details>
    <summary>{{ unit === 'mm' ? 'From screw or belt' : 'From counted teeth' }}</summary>
    <template v-if="unit === '°'">
      <div v-for="(stage, k) in stages" :key="k" class="stage">
        <ChoiceField
          label=""
          :name="`Kind of stage ${k + 1}`"
          :options="kinds"
          :value="stage.kind"
          @change="stage.kind = $event as Stage['kind']"
        />
        <NumberField
          :prefix="stage.kind === 'box' ? 'turns in' : 'motor side'"
          :value="stage.motor"
          dimension="count"
          :decimals="stage.kind === 'box' ? 2 : 0"
          :label="`Motor side of stage ${k + 1}`"
          :min="0.01"
          :commit="(v: number) => void (stage.motor = v)"
        />
        <NumberField
          :prefix="stage.kind === 'box' ? 'per turns out' : 'joint side'"
          :value="stage.joint"
          dimension="count"
          :decimals="stage.kind === 'box' ? 2 : 0"
          :label="`Joint side of stage ${k + 1}`"
          :min="0.01"
          :commit="(v: number) => void (stage.joint = v)"
        />
        <Button
          size="small"
          variant="text"
          severity="secondary"
          label="×"
          :aria-label="`Delete stage ${k + 1}`"
          :disabled="stages.length === 1"
          @click="stages.splice(k, 1)"
        />
      </div>
      <p class="small muted">
        A gearbox of 5.18 : 1 is 5.18 on the joint side over 1 on the motor side; gears turn the joint the other way.
      </p>
      <Button
        size="small"
        variant="text"
        label="Another stage"
        :disabled="stages.length >= 4"
        @click="stages.push({ kind: 'gears', motor: 15, joint: 45 })"
      />
    </template>
    <div v-else class="stage">
      <ChoiceField
        label=""
        name="What moves the slide"
        :options="[
          { value: 'screw', label: 'a lead screw' },
          { value: 'belt', label: 'a belt on a pulley' },
        ]"
        :value="way"
        @change="way = $event as 'screw'"
      />
      <NumberField
        prefix="pitch"
        :value="pitch"
        dimension="length"
        :decimals="2"
        label="Pitch"
        :min="0.01"
        :commit="(v: number) => void (pitch = v)"
      />
      <NumberField
        v-if="way === 'screw'"
        prefix="starts"
        :value="starts"
        dimension="count"
        label="Starts of the screw"
        :min="1"
        :commit="(v: number) => void (starts = Math.round(v))"
      />
      <NumberField
        v-else
        prefix="teeth"
        :value="teeth"
        dimension="count"
        label="Teeth of the pulley"
        :min="3"
        :commit="(v: number) => void (teeth = Math.round(v))"
      />
    </div>
    <div class="row">
      <b class="num" role="status">{{
        unit === 'mm'
          ? `${formatNumber(perTurn, 3)} mm a turn`
          : `${formatNumber(result, 4)} turns of the motor to one of the joint`
      }}</b>
      <Button size="small" label="Apply" :disabled="isSame" @click="emit('take', result)" />
    </div>
  </details>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-columns: 1.2fr 1fr 1fr auto;
  gap: 0.4rem;
  margin: 0.3rem 0;
  align-items: center;
}
</style>
