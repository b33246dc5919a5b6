<script setup lang="ts">
/** A big measured turn or way against what was asked: steps per degree, counts per mm, printed gears that turn short. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { turnScale } from '@cork-elbow/core/actuators';
import { entryOf } from '@cork-elbow/core/rig';
import { formatNumber, type Dimension } from '@cork-elbow/core/units';
import NumberField from '../../../shared/NumberField.vue';
import { today } from '../../../shared/today';
import { useRigStore } from '../../../stores/rig';
import { useMotor } from '../useMotor';
import { useOneMotor } from '../useOneMotor';

const rigs = useRigStore();
const { row, onBuild } = useMotor();
const problem = ref('');
const live = useOneMotor();
const drive = computed(() => row.value!.drive!);
const turn = computed(() => entryOf(rigs.build!.turns, drive.value.id));
const unit = computed(() => (row.value!.info.unit === 'mm' ? 'mm' : '°'));
const dimension = computed((): Dimension => (unit.value === 'mm' ? 'length' : 'angle'));
/** What is typed before both numbers are there: a long way shows the ratio best. */
const asked = ref<number | null>(null);
const wish = computed(() => asked.value ?? turn.value?.asked ?? (unit.value === 'mm' ? 200 : 90));
function measured(moved: number): string | void {
  if (moved === 0) return `It moved: type how far, in ${unit.value}; 0 says nothing about the ratio.`;
  if (Math.sign(moved) !== Math.sign(wish.value))
    return 'It went the other way: change the sense of turning of the motor, then measure again.';
  return onBuild(`Measured turn of ${drive.value.name}`, (build) => {
    build.turns[drive.value.id] = { asked: wish.value, moved, takenOn: today() };
  });
}
function setAsked(v: number): string | void {
  if (v === 0) return 'Ask for a way that is not 0; the longer, the better.';
  asked.value = v;
}
function forget(): void {
  problem.value =
    onBuild(`Forget the turn of ${drive.value.name}`, (build) => void delete build.turns[drive.value.id]) ?? '';
}
const scale = computed(() => turnScale(rigs.build!, drive.value.id));
const perUnit = computed(() => {
  const map = row.value!.driveMap;
  const tie = row.value!.transmission;
  return map && tie?.kind === 'ratio' ? Math.abs(map.native.perDeg * tie.reduction) : null;
});
/** Sends it the way asked for, by the figures that it has. */
function sendWay(): void {
  const map = row.value!.driveMap;
  const tie = row.value!.transmission;
  if (!map || tie?.kind !== 'ratio' || live.value.value === null) return;
  asked.value = wish.value;
  live.send(live.value.value + wish.value * map.native.perDeg * tie.reduction);
}
const nominal = computed(() => (perUnit.value === null ? null : perUnit.value / scale.value));
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <ol class="small">
    <li>Bring the joint to a mark, always from the same side.</li>
    <li>Send it a long way by the figures it has, and measure how far it really went.</li>
    <li>Type both; everything sent from then on is scaled by it.</li>
  </ol>
  <div class="form">
    <NumberField prefix="asked for" :value="wish" :dimension :decimals="2" label="Way asked for" :commit="setAsked" />
    <Button
      v-if="live.isOn.value && perUnit !== null"
      size="small"
      data-moves
      :label="`Send it ${formatNumber(wish, 2)}${unit === 'mm' ? ' mm' : '°'}`"
      @click="sendWay"
    />
    <NumberField
      prefix="it went"
      :value="turn?.moved ?? wish"
      :dimension
      :decimals="2"
      label="Way it went"
      :commit="measured"
    />
    <Button v-if="turn" size="small" variant="text" severity="secondary" label="Forget it" @click="forget" />
  </div>
  <p v-if="perUnit !== null" class="small" role="status" :data-scale="scale.toFixed(5)">
    <b class="num"
      >{{ formatNumber(perUnit, 3) }} {{ row!.driveMap!.native.unit }} per {{ unit === 'mm' ? 'mm' : 'degree' }}</b
    >
    <template v-if="turn">
      instead of {{ formatNumber(nominal!, 3) }} by the figures: {{ formatNumber((scale - 1) * 100, 2) }} % more,
      measured on {{ turn.takenOn || 'an unknown day' }}.</template
    ><template v-else> by the figures of motor and transmission; nothing measured yet.</template>
  </p>
</template>

<style scoped>
ol {
  margin: 0.3rem 0;
  padding-left: 1.2rem;
}
</style>
