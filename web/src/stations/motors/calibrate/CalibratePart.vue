<script setup lang="ts">
/** Everything that is measured on a joint of this build, and its history. */
import { computed } from 'vue';
import { useRigStore } from '../../../stores/rig';
import { useMotor } from '../useMotor';
import MotorLive from '../MotorLive.vue';
import BacklashPart from './BacklashPart.vue';
import HistoryPart from './HistoryPart.vue';
import SensorPart from './SensorPart.vue';
import ServoPoints from './ServoPoints.vue';
import SpeedPart from './SpeedPart.vue';
import TurnPart from './TurnPart.vue';

const rigs = useRigStore();
const { row } = useMotor();
const kind = computed(() => row.value?.drive?.kind);
const sensors = computed(() => rigs.rig!.sensors.filter((s) => s.joint === row.value?.info.id));
/** Sensors on no joint belong to leaders; they are calibrated under the joint they lead. */
const leading = computed(() => {
  const led = rigs.rig!.leaders.filter((l) => l.joint === row.value?.info.id).map((l) => l.sensor);
  return rigs.rig!.sensors.filter((s) => led.includes(s.id) && s.joint === null);
});
</script>

<template>
  <MotorLive />
  <ServoPoints v-if="kind === 'servo'" />
  <SpeedPart v-else-if="kind === 'continuous-servo'" :key="row!.drive!.id" />
  <TurnPart v-else :key="row!.drive!.id" />
  <details :open="kind !== 'servo'">
    <summary>Backlash</summary>
    <BacklashPart :key="row!.info.id" />
  </details>
  <details v-if="sensors.length + leading.length" open>
    <summary>Sensors</summary>
    <SensorPart v-for="sensor in [...sensors, ...leading]" :key="sensor.id" :sensor />
  </details>
  <HistoryPart />
</template>

<style scoped>
summary {
  cursor: pointer;
  font-size: 0.9rem;
  color: var(--ink-2);
  padding: 0.2rem 0;
}
</style>
