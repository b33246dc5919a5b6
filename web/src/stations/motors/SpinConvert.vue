<script setup lang="ts">
/** A motor that is sent speeds: speed of joint and shaft, and its pulse in every way people write it, live both ways. */
import { computed, ref, watch } from 'vue';
import { held, jointSpeedMeant, pulseAtSpeed, speedAtPulse, TICKS, type SpinMap } from '@cork-elbow/core/actuators';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import PulseFields from './PulseFields.vue';
import { inUnit } from '@cork-elbow/core/mechanism';

const { map, name, unit } = defineProps<{ map: SpinMap; name: string; unit: '°' | 'mm' }>();
const rigs = useRigStore();
const view = useViewStore();
const us = ref(map.stopUs);
const said = ref('');
watch(
  () => map.drive.id,
  () => {
    us.value = map.stopUs;
    said.value = '';
  },
);
/** Inside what is sent, whatever the motor's map is now. */
const pulse = computed(() => held(map, us.value));
const jointSpeed = computed(() => jointSpeedMeant(map, rigs.mechanism!, view.q, pulse.value));
/** Joint speed for one °/s of the shaft. */
const perShaft = computed(() => {
  const at = map.slots.map((s) => inUnit(rigs.mechanism!, s, view.q[s]));
  return map.coupling.rates(at)?.[0]?.[map.index] ?? null;
});
const speedUnit = computed(() => (unit === 'mm' ? ' mm/s' : '°/s'));
const dimension = computed(() => (unit === 'mm' ? 'speed' : 'angularSpeed'));

function setPulse(wish: number): void {
  const whole = Math.round(wish);
  us.value = held(map, whole);
  said.value =
    us.value === whole ? '' : `${formatNumber(wish, 0)} µs is not sent; it is held at ${us.value} µs, its fastest.`;
}
function setShaft(degPerS: number): void {
  us.value = pulseAtSpeed(map, degPerS);
  const got = speedAtPulse(map, us.value);
  const end = us.value === map.low || us.value === map.high;
  said.value =
    end && Math.abs(got) < Math.abs(degPerS) - 0.5
      ? `The shaft makes at most ${formatNumber(Math.abs(got), 0)}°/s that way round; it is held there.`
      : '';
}
const setJoint = (v: number): string | void =>
  perShaft.value ? setShaft(v / perShaft.value) : 'The transmission stands at a dead point.';
const onePulse = computed(() => {
  const a = jointSpeedMeant(map, rigs.mechanism!, view.q, pulse.value);
  const b = jointSpeedMeant(map, rigs.mechanism!, view.q, pulse.value + 1);
  return a === null || b === null ? null : Math.abs(b - a);
});
</script>

<template>
  <div class="form">
    <label v-if="jointSpeed !== null"
      >joint <NumberField :value="jointSpeed" :dimension :decimals="1" label="Joint speed" :commit="setJoint"
    /></label>
    <label
      >shaft of the motor
      <NumberField
        :value="speedAtPulse(map, pulse)"
        dimension="angularSpeed"
        :decimals="1"
        label="Shaft speed"
        :commit="setShaft"
    /></label>
    <label
      >pulse <NumberField :value="pulse" dimension="pulse" :decimals="0" label="Native value" :commit="setPulse"
    /></label>
    <PulseFields :drive="map.drive" :us="pulse" :commit="setPulse" />
  </div>
  <p v-if="said" class="held-at" role="status" data-held>{{ said }}</p>
  <p class="muted small">
    It stands at <b class="num">{{ map.stopUs }} µs</b
    >{{ map.calibrated ? '' : ', by its figures; find the pulse at which it really stands under “Calibrate”'
    }}<template v-if="onePulse !== null"
      >. Here one µs is worth <b class="num">{{ formatNumber(onePulse, 2) }}{{ speedUnit }}</b> of {{ name }}, one of
      {{ TICKS }} driver counts
      <b class="num">{{ formatNumber(onePulse * (1e6 / map.drive.updateHz / TICKS), 2) }}{{ speedUnit }}</b></template
    >. Sent are whole pulses from <b class="num">{{ map.low }}</b> to <b class="num">{{ map.high }}</b> µs, what motor
    and joint both allow.
  </p>
</template>
