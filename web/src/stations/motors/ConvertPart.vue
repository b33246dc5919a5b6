<script setup lang="ts">
/** One value in every way people write it, live both ways, and what one unit of each is worth at the joint and at the tip. */
import { computed, ref, watch } from 'vue';
import { exactNative, fromNative, held, resolutionAt, shaftAt, TICKS } from '@cork-elbow/core/actuators';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { tipPerUnit } from './tip';
import PulseFields from './PulseFields.vue';
import SpinConvert from './SpinConvert.vue';
import { useMotor } from './useMotor';
import { fromUnit, inUnit } from '@cork-elbow/core/mechanism';

const rigs = useRigStore();
const view = useViewStore();
const { row } = useMotor();
const map = computed(() => row.value?.driveMap);
const unit = computed(() => (row.value!.info.unit === 'mm' ? ' mm' : '°'));

const shaft = computed(() => (map.value && rigs.mechanism ? shaftAt(map.value, rigs.mechanism, view.q) : null));
/** Exact native value, not yet a whole number. */
const exact = computed(() => (map.value && shaft.value !== null ? exactNative(map.value.native, shaft.value) : null));
const servo = computed(() => (map.value?.drive.kind === 'servo' ? map.value.drive : null));

/** The pose in which this motor's shaft stands at an angle; its fellows of the same transmission as they are. */
function setShaft(deg: number): string | void {
  const m = map.value!;
  const mechanism = rigs.mechanism!;
  const now = m.coupling.toDrives(m.slots.map((s) => inUnit(mechanism, s, view.q[s])));
  const joints = now && m.coupling.toJoints(now.map((v, k) => (k === m.index ? deg : v)));
  if (!joints) return 'The transmission cannot go there.';
  const next = view.q.slice();
  m.slots.forEach((s, k) => {
    next[s] = Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], fromUnit(mechanism, s, joints[k])));
  });
  const off = m.slots.findIndex((s, k) => Math.abs(next[s] - fromUnit(mechanism, s, joints[k])) > 1e-9);
  view.setEdit(next);
  said.value = off < 0 ? '' : heldAt(m.slots[off], joints[off]);
}
/** Why a value was not taken as it was typed: the joint ends before. */
const said = ref('');
watch(
  () => row.value?.info.id,
  () => (said.value = ''),
);
function heldAt(slot: number, wish: number): string {
  const mechanism = rigs.mechanism!;
  const k = mechanism.siPerUnit[slot];
  const limit = (wish * k < mechanism.lower[slot] ? mechanism.lower[slot] : mechanism.upper[slot]) / k;
  const u = mechanism.units[mechanism.jointOfSlot[slot]] === 'mm' ? ' mm' : '°';
  return `That would be ${formatNumber(wish, 1)}${u}; ${mechanism.names[mechanism.jointOfSlot[slot]]} is held at its limit, ${formatNumber(limit, 1)}${u}.`;
}
/** Where the motor's own range ends before the joint's: what is sent instead. */
const cut = computed(() => {
  const m = map.value;
  if (!m || exact.value === null) return '';
  const whole = Math.round(exact.value);
  const sent = held(m.native, whole);
  return sent === whole
    ? ''
    : `${whole} ${m.native.unit} is past what motor and joint both allow: ${sent} is sent, and the joint stays behind.`;
});
const setNative = (v: number): string | void => setShaft(fromNative(map.value!.native, v));
function setJoint(v: number): void {
  const { slot } = row.value!.info;
  const mechanism = rigs.mechanism!;
  const wish = fromUnit(mechanism, slot, v);
  view.setJoint(slot, wish);
  const past = Math.max(mechanism.lower[slot] - wish, wish - mechanism.upper[slot]);
  said.value = past > 1e-9 ? heldAt(slot, v) : '';
}

const atTip = computed(() => tipPerUnit(rigs.mechanism!, row.value!.info.slot, view.q));
const steps = computed(() => {
  const m = map.value;
  if (!m || !rigs.mechanism) return [];
  const own = m.slots.indexOf(row.value!.info.slot);
  const perNative = resolutionAt(m, rigs.mechanism, view.q)?.[own] ?? null;
  if (perNative === null) return [];
  const list = [
    {
      name: `one ${m.native.unit === 'µs' ? 'µs' : m.native.unit === 'steps' ? 'microstep' : 'count'}`,
      size: perNative,
    },
  ];
  if (servo.value) {
    list.push({
      name: `one of ${TICKS} driver counts at ${formatNumber(servo.value.updateHz, 0)} Hz`,
      size: perNative * (1e6 / servo.value.updateHz / TICKS),
    });
    list.push({
      name: `dead band, ${formatNumber(servo.value.deadBandUs, 0)} µs`,
      size: perNative * servo.value.deadBandUs,
    });
  }
  return list;
});
const unitWord = { µs: 'pulse', counts: 'count', steps: 'microsteps' } as const;
</script>

<template>
  <SpinConvert v-if="row?.spinMap" :map="row.spinMap" :name="row.info.name" :unit="row.info.unit" />
  <p v-else-if="!map || exact === null" class="muted small">
    The linkage cannot hold this joint where it stands, or it has no motor.
  </p>
  <template v-else>
    <div class="form">
      <label
        >joint
        <NumberField
          :value="row!.value"
          :dimension="row!.info.unit === 'mm' ? 'length' : 'angle'"
          :decimals="3"
          label="Joint value"
          :commit="setJoint"
      /></label>
      <label
        >shaft of the motor
        <NumberField :value="shaft!" dimension="angle" :decimals="3" label="Shaft angle" :commit="setShaft"
      /></label>
      <label
        >{{ unitWord[map.native.unit] }}
        <NumberField
          :value="exact"
          :dimension="map.native.unit === 'µs' ? 'pulse' : 'count'"
          :decimals="map.native.unit === 'µs' ? 2 : 1"
          label="Native value"
          :commit="setNative"
      /></label>
      <PulseFields v-if="servo" :drive="servo" :us="exact" :commit="setNative" />
    </div>
    <p v-if="said" class="held-at" role="status" data-held>{{ said }}</p>
    <p v-if="cut" class="held-at" role="status" data-cut>{{ cut }}</p>
    <table class="plain">
      <thead>
        <tr>
          <th>the smallest step</th>
          <th class="r">at the joint</th>
          <th class="r">at the tip, as it stands</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in steps" :key="s.name">
          <td>{{ s.name }}</td>
          <td class="r num">{{ formatNumber(s.size, 4) }}{{ unit }}</td>
          <td class="r num">{{ atTip === null ? '–' : `${formatNumber(s.size * atTip, 3)} mm` }}</td>
        </tr>
      </tbody>
    </table>
    <p class="muted small">
      Sent for the joint’s range are whole numbers from <b class="num">{{ map.native.low }}</b> to
      <b class="num">{{ map.native.high }}</b> {{ map.native.unit }}, what motor and joint both allow.
    </p>
  </template>
</template>
