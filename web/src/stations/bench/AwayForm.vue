<script setup lang="ts">
import { computed } from 'vue';
import { SILENT_S } from '@cork-elbow/core/contract';
import { fallingJoints } from '@cork-elbow/core/routine';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';

/** What is done when this page is gone: closed, frozen, asleep. */
const rigs = useRigStore();
const run = useRunStore();
const away = computed(() => run.away);
const runs = [
  { label: 'stands still', value: 'stand' },
  { label: 'goes on', value: 'finish' },
];
const stops = [
  { label: 'hold where it stands', value: 'hold' },
  { label: 'go off', value: 'off' },
];
/** What weight moves then. */
const falling = computed(() => {
  const { rig, mechanism } = rigs;
  if (!rig || !mechanism || (run.afterStop === 'hold' && away.value.silentOffS === null)) return '';
  return fallingJoints(rig, mechanism)
    .map((id) => mechanism.names[mechanism.index.get(id)!])
    .join(', ');
});
const silences = [
  { label: 'hold', value: 'hold' },
  { label: 'go off', value: 'off' },
];
const thens = [
  { label: 'hold', value: 'hold' },
  { label: 'lie down', value: 'rest' },
];
</script>

<template>
  <details>
    <summary class="small">
      If this page is gone for 3 s: a run {{ away.run === 'stand' ? 'slows to a stand' : 'goes on to its end' }}, the
      motors
      {{ away.then === 'hold' ? 'hold.' : `lie the arm down after ${formatNumber(away.afterS, 0)} s and go off.` }}
      {{ run.afterStop === 'off' ? 'After a stop they go off.' : '' }}
      {{ away.silentOffS === null ? '' : 'Boards that hear nothing switch them off.' }}
    </summary>
    <div class="fields">
      <ChoiceField
        label="A run"
        :options="runs"
        :value="away.run"
        @change="run.setAway({ run: $event as 'stand' | 'finish' })"
      />
      <ChoiceField
        label="Then the motors"
        :options="thens"
        :value="away.then"
        @change="run.setAway({ then: $event as 'hold' | 'rest' })"
      />
      <NumberField
        v-if="away.then === 'rest'"
        label="Lie down after"
        prefix="After"
        dimension="time"
        :value="away.afterS"
        :min="5"
        :max="86400"
        :step="30"
        :decimals="0"
        :commit="(afterS) => run.setAway({ afterS })"
      />
    </div>
    <ChoiceField
      label="After a stop the motors"
      :options="stops"
      :value="run.afterStop"
      @change="run.setAfterStop($event as 'hold' | 'off')"
    />
    <div class="fields">
      <ChoiceField
        label="If the computer falls silent, motors"
        :options="silences"
        :value="away.silentOffS === null ? 'hold' : 'off'"
        @change="run.setAway({ silentOffS: $event === 'off' ? 60 : null })"
      />
      <NumberField
        v-if="away.silentOffS !== null"
        label="Off after"
        prefix="After"
        dimension="time"
        :value="away.silentOffS"
        :min="0"
        :max="86400"
        :step="10"
        :decimals="0"
        :commit="(silentOffS) => run.setAway({ silentOffS })"
      />
    </div>
    <p class="muted small">
      A board that speaks the protocol and has heard nothing from this computer for {{ SILENT_S }} s holds where it
      stands and takes nothing more{{
        away.silentOffS === null
          ? '.'
          : `; ${formatNumber(away.silentOffS, 0)} s later its motors and outputs go off by themselves.`
      }}
    </p>
    <p v-if="falling" class="small falls" role="note">Without power they fall: {{ falling }}.</p>
    <p class="muted small">
      Lying down is the power-up plan backwards: one motor after the other goes gently to where the arm rests, and is
      switched off there. Nothing looks out for what is in the way.
    </p>
  </details>
</template>

<style scoped>
.falls {
  color: var(--caution);
  font-weight: 600;
}
summary {
  cursor: pointer;
}
.fields {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0.6rem;
  align-items: end;
  margin: 0.5rem 0;
}
p {
  margin: 0;
}
</style>
