<script setup lang="ts">
/** Grips, payloads, tools, spins, and motors with or without power. */
import { computed } from 'vue';
import type { StepOf } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import type { Said } from './useSteps';

const { step, put } = defineProps<{
  step: StepOf<'grip' | 'pick-up' | 'put-down' | 'swap-tool' | 'spin' | 'hold' | 'let-go'>;
  put: (label: string, key: string, value: unknown) => Said;
}>();
const rigs = useRigStore();
const named = (list: readonly { id: string; name?: string }[]) =>
  list.map(({ id, name }) => ({ label: name ?? id, value: id }));
const tools = computed(() => named(rigs.rig!.mechanism.tools));
const orNone = computed(() => [{ label: 'nothing', value: '' }, ...tools.value]);
const payloads = computed(() => named(rigs.rig!.payloads));
const holdOptions = computed(() => [
  { label: 'no change', value: '' },
  ...rigs.rig!.payloads.map((p) => ({ label: `holds ${p.name}`, value: p.id })),
  { label: 'lets go', value: '-' },
]);
const turning = computed(() => named(rigs.rig!.mechanism.joints.filter((j) => j.type === 'continuous')));
const inputs = computed(() => named(rigs.rig!.signals.filter((s) => s.way === 'in')));
const jawWay = computed(() =>
  step.kind !== 'grip'
    ? ''
    : typeof step.to === 'string'
      ? step.to
      : typeof step.to === 'number'
        ? 'value'
        : 'aroundMm' in step.to
          ? 'around'
          : 'opening',
);
/** The narrowest side of what the step holds from here on is what jaws close on. */
const narrowest = (): number => {
  const held = step.kind === 'grip' ? rigs.rig!.payloads.find((p) => p.id === step.payload) : null;
  return held ? Math.min(...held.sizeMm) : 10;
};
function setJaw(way: string): void {
  const to = {
    open: 'open',
    closed: 'closed',
    value: 0,
    opening: { openingMm: 10 },
    around: { aroundMm: narrowest() },
  }[way];
  put('Jaw', 'to', to);
}
const spinWay = computed(() =>
  step.kind !== 'spin' || step.until === 'stopped' ? 'stopped' : 'forS' in step.until ? 'time' : 'input',
);
function setSpin(way: unknown): void {
  const first = inputs.value[0]?.value ?? 'none';
  const until = { stopped: 'stopped', time: { forS: 2 }, input: { signal: first, is: true, atMostS: 10 } }[
    String(way)
  ];
  put('Spin', 'until', until);
}
const joints = computed(() => rigs.rig!.mechanism.joints.filter((j) => j.type !== 'fixed'));
function toggle(id: string): void {
  if (!('joints' in step)) return;
  const next = step.joints.includes(id) ? step.joints.filter((j) => j !== id) : [...step.joints, id];
  if (next.length) put('Joints', 'joints', next);
}
</script>

<template>
  <template v-if="step.kind === 'grip'">
    <ChoiceField
      v-if="tools.length > 1"
      label="tool"
      :options="tools"
      :value="step.tool"
      @change="put('Tool', 'tool', $event)"
    />
    <span v-rove.across="'button'" class="choice small" role="group" aria-label="Jaw"
      ><button
        v-for="to in ['open', 'closed', 'value', 'opening', 'around']"
        :key="to"
        :aria-pressed="jawWay === to"
        @click="setJaw(to)"
      >
        {{ to }}
      </button></span
    >
    <NumberField
      v-if="typeof step.to === 'number'"
      :value="step.to"
      dimension="ratio"
      label="Jaw value"
      :commit="(v: number) => put('Jaw', 'to', v)"
    />
    <NumberField
      v-if="typeof step.to === 'object' && 'openingMm' in step.to"
      :value="step.to.openingMm"
      dimension="length"
      label="Opening"
      :min="0"
      :commit="(v: number) => put('Jaw', 'to', { openingMm: v })"
    />
    <NumberField
      v-if="typeof step.to === 'object' && 'aroundMm' in step.to"
      :value="step.to.aroundMm"
      dimension="length"
      label="Width of what it closes on"
      :min="0.1"
      :commit="(v: number) => put('Jaw', 'to', { aroundMm: v })"
    />
    <NumberField
      prefix="stop at N"
      :value="step.stopAtN ?? 0"
      dimension="ratio"
      label="Stop at a force in newtons, 0 to go all the way"
      :min="0"
      :max="10000"
      :commit="(v: number) => put('Force', 'stopAtN', v || undefined)"
    />
    <ChoiceField
      label="then"
      name="Then"
      :options="holdOptions"
      :value="step.payload === undefined ? '' : (step.payload ?? '-')"
      @change="put('Payload', 'payload', $event === '' ? undefined : $event === '-' ? null : $event)"
    />
  </template>
  <template v-if="step.kind === 'pick-up' || step.kind === 'put-down'">
    <ChoiceField
      v-if="step.kind === 'pick-up'"
      label="payload"
      :options="payloads"
      :value="step.payload"
      placeholder="no payload yet"
      @change="put('Payload', 'payload', $event)"
    />
    <ChoiceField label="with" name="Tool" :options="tools" :value="step.tool" @change="put('Tool', 'tool', $event)" />
  </template>
  <template v-if="step.kind === 'swap-tool'">
    <ChoiceField
      label="off"
      name="Tool off"
      :options="orNone"
      :value="step.off ?? ''"
      @change="put('Tool', 'off', $event || null)"
    />
    <ChoiceField
      label="on"
      name="Tool on"
      :options="orNone"
      :value="step.on ?? ''"
      @change="put('Tool', 'on', $event || null)"
    />
  </template>
  <template v-if="step.kind === 'spin'">
    <ChoiceField
      label="joint"
      :options="turning"
      :value="step.joint"
      placeholder="none turns endlessly"
      @change="put('Joint', 'joint', $event)"
    />
    <NumberField
      prefix="at"
      :value="step.speed"
      dimension="angularSpeed"
      label="Speed of the spin"
      :commit="(v: number) => put('Speed', 'speed', v)"
    />
    <ChoiceField
      label="until"
      name="Spins until"
      :options="[
        { label: 'a time is over', value: 'time' },
        { label: 'an input', value: 'input' },
        { label: 'it is stopped', value: 'stopped' },
      ]"
      :value="spinWay"
      @change="setSpin"
    />
    <template v-if="typeof step.until === 'object'">
      <NumberField
        v-if="'forS' in step.until"
        prefix="for"
        :value="step.until.forS"
        dimension="time"
        label="Time of the spin"
        :min="0.01"
        :max="3600"
        :commit="(v: number) => put('Time', 'until', { forS: v })"
      />
      <template v-else>
        <ChoiceField
          label="input"
          :options="inputs"
          :value="step.until.signal"
          placeholder="no input yet"
          @change="put('Input', 'until', { ...(step.until as object), signal: $event })"
        />
        <NumberField
          prefix="at most"
          :value="step.until.atMostS"
          dimension="time"
          label="Longest spin"
          :min="0.01"
          :max="3600"
          :commit="(v: number) => put('Longest spin', 'until', { ...(step.until as object), atMostS: v })"
        />
      </template>
    </template>
  </template>
  <span v-if="step.kind === 'spin'" class="caution small">
    A turning axis does not stop at a touch: keep sleeves, hair and fingers away.
  </span>
  <template v-if="step.kind === 'hold' || step.kind === 'let-go'">
    <span v-rove.across="'button'" class="choice small" role="group" aria-label="Joints"
      ><button v-for="j in joints" :key="j.id" :aria-pressed="step.joints.includes(j.id)" @click="toggle(j.id)">
        {{ j.name ?? j.id }}
      </button></span
    >
    <span v-if="step.kind === 'let-go'" class="caution small">
      A joint without power can drop: hold the arm, and keep fingers out of it.
    </span>
  </template>
</template>

<style scoped>
.caution {
  color: var(--caution);
}
</style>
