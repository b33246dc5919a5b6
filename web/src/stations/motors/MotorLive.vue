<script setup lang="ts">
/** Sends values to the chosen motor alone: switched on after a look, nudged, read back, off. */
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { RouterLink } from 'vue-router';
import { isSpin } from '@cork-elbow/core/actuators';
import { linesCannot } from '@cork-elbow/core/contract';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';
import { useOneMotor } from './useOneMotor';

const rigs = useRigStore();
const run = useRunStore();
const { drive, map, isOn, mayMove, range, read, value, start, on, send, off } = useOneMotor();
const isClear = ref(false);
watch(isOn, (now) => now && (isClear.value = false));
/** Where it is to begin, as somebody has chosen it; null: where it is. */
const begin = ref<number | null>(null);
watch(
  () => drive.value?.id,
  () => (begin.value = null),
);
const from = computed(() => begin.value ?? start.value);
const steps = computed(() => (range.value?.unit === 'steps' ? [-1000, -100, -1, 1, 100, 1000] : [-10, -1, 1, 10]));
const say = (v: number): string => `${formatNumber(v, 0)} ${range.value!.unit}`;
const other = computed(() => rigs.rig!.drives.find((d) => d.id === run.status.motor)?.name ?? 'Another motor');
/** Why nothing can be sent. */
const hint = computed(() => {
  if (!map.value || map.value.channel === null) return 'Its motor is on no pin of a board yet.';
  if (!run.isLive) return null;
  if (!run.mayDrive) return run.whyNotDrive;
  const { line } = map.value;
  if (line && run.ownLines.get(line)?.single === false)
    return linesCannot(rigs.rig!, line, 'speak of one motor alone').message;
  if (run.isRunning) return 'A run is going on.';
  if (run.status.mode === 'one-motor' && !isOn.value && run.status.motor !== drive.value?.id)
    return `${other.value} is switched on alone; switch it off first.`;
  if (run.status.armed && !isOn.value && run.status.mode !== 'one-motor')
    return 'The whole arm is armed; disarm it, and this motor can be switched on alone.';
  return '';
});
const home = computed(() =>
  map.value && isSpin(map.value)
    ? { label: 'Stop', value: map.value.stopUs }
    : map.value?.drive.kind === 'servo'
      ? { label: 'Centre', value: map.value.drive.centreUs }
      : null,
);
</script>

<template>
  <div v-if="drive" class="live" :class="{ on: isOn }" role="group" :aria-label="`Send to ${drive.name}`">
    <p v-if="hint === null" class="small">
      <RouterLink :to="{ name: 'bench', params: { rigId: rigs.id! } }">Connect a board on the Bench</RouterLink>, and
      values are sent from here, to this motor alone.
    </p>
    <div v-else-if="hint" class="row">
      <span class="small grow">{{ hint }}</span>
      <Button
        v-if="run.status.armed && run.mayDrive && !run.isRunning"
        size="small"
        severity="secondary"
        label="Disarm"
        @click="off"
      />
    </div>
    <template v-else-if="range && !isOn">
      <label class="check small"
        ><input v-model="isClear" type="checkbox" /> It may jump as it comes on, and goes as far as the motor lets it:
        horn off or joint free, fingers out, the cut-off switch within reach.</label
      >
      <div class="row">
        <NumberField
          class="value"
          prefix="begins at"
          :label="`Begins at, ${range.unit}`"
          :dimension="range.unit === 'µs' ? 'pulse' : 'count'"
          :decimals="0"
          :value="from"
          :min="range.low"
          :max="range.high"
          :commit="(v) => void (begin = Math.round(v))"
        />
        <Button
          severity="danger"
          data-moves
          :label="`Switch ${drive.name} on alone`"
          :disabled="!isClear"
          @click="on(from)"
        />
      </div>
    </template>
    <template v-else-if="range">
      <div class="row">
        <span class="badge">On alone</span>
        <NumberField
          class="value"
          prefix="send"
          :label="`Send, ${range.unit}`"
          :dimension="range.unit === 'µs' ? 'pulse' : 'count'"
          :decimals="0"
          :value="value ?? from"
          :min="range.low"
          :max="range.high"
          :disabled="!mayMove"
          :commit="send"
        />
        <span class="row nudges" role="group" aria-label="A little further">
          <Button
            v-for="by in steps"
            :key="by"
            size="small"
            severity="secondary"
            class="num"
            :label="`${by > 0 ? '+' : '−'}${formatNumber(Math.abs(by), 0)}`"
            :disabled="!mayMove"
            @click="send((value ?? from) + by)"
          />
          <Button
            v-if="home"
            size="small"
            severity="secondary"
            :label="home.label"
            :title="say(home.value)"
            :disabled="!mayMove"
            @click="send(home.value)"
          />
        </span>
        <span v-if="read !== null" class="small num" role="status">reads {{ say(read) }}</span>
        <Button size="small" severity="secondary" label="Off" :disabled="!run.mayDrive" @click="off" />
      </div>
      <p class="muted small">
        {{ say(range.low) }} to {{ say(range.high) }}; goes there at
        {{ formatNumber(rigs.rig!.powerUp.maxDegPerS, 0) }} °/s of its shaft. Its joint’s limits do not count.
      </p>
    </template>
  </div>
</template>

<style scoped>
.live {
  display: grid;
  gap: 0.4rem;
  padding: 0.5rem 0.65rem;
  border-radius: 5px;
  background: var(--paper-2);
  margin-bottom: 0.6rem;
}
.live.on {
  box-shadow: inset 0 0 0 2px var(--alarm);
}
.live p {
  margin: 0;
}
.row {
  flex-wrap: wrap;
  gap: 0.4rem;
}
.value {
  flex: 0 1 11rem;
}
.nudges {
  gap: 0.25rem;
}
.badge {
  background: var(--alarm);
  color: var(--on-alarm);
  font-weight: 700;
  border-radius: 4px;
  padding: 0.2rem 0.6rem;
}
.check {
  display: flex;
  gap: 0.5rem;
  align-items: start;
}
.check input {
  margin-top: 0.2rem;
}
</style>
