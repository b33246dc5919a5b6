<script setup lang="ts">
/** Waits, inputs and outputs, loops, branches, calls: what a step that does not move asks for. */
import { computed } from 'vue';
import type { Step } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import { useRigStore } from '../../stores/rig';
import { useSteps, type Said } from './useSteps';

const { step, put } = defineProps<{ step: Step; put: (label: string, key: string, value: unknown) => Said }>();
const rigs = useRigStore();
const { routine, steps } = useSteps();

const signals = (way: 'in' | 'out') =>
  rigs.rig!.signals.filter((s) => s.way === way).map((s) => ({ label: s.name, value: s.id }));
const onOff = [
  { label: 'on', value: true },
  { label: 'off', value: false },
];
const markers = computed(() =>
  [...new Set(steps.value.flatMap((s) => (s.kind === 'marker' ? [s.name] : [])))].map((name) => ({
    label: name,
    value: name,
  })),
);
const routines = computed(() =>
  rigs.rig!.routines.filter((r) => r.id !== routine.value?.id).map((r) => ({ label: r.name, value: r.id })),
);
const otherwise = computed(() =>
  step.kind !== 'wait-input'
    ? ''
    : typeof step.otherwise === 'string'
      ? step.otherwise
      : `jump ${step.otherwise.jump}`,
);
const ends = computed(() => [
  { label: 'stop', value: 'stop' },
  { label: 'go on', value: 'go-on' },
  ...markers.value.map(({ value }) => ({ label: `jump to ${value}`, value: `jump ${value}` })),
]);
const setOtherwise = (value: unknown): Said => {
  const text = String(value);
  return put('Otherwise', 'otherwise', text.startsWith('jump ') ? { jump: text.slice(5) } : text);
};
/** What an if looks at: one of the inputs, or a counter. */
const looksAt = computed(() => (step.kind === 'if' ? ('signal' in step.when ? step.when.signal : '#') : ''));
const setLook = (value: unknown): Said =>
  put('Condition', 'when', value === '#' ? { counter: 'count', is: 'below', value: 3 } : { signal: value, is: true });
</script>

<template>
  <NumberField
    v-if="step.kind === 'wait'"
    prefix="for"
    :value="step.durationS"
    dimension="time"
    label="Time to wait"
    :min="0"
    :max="3600"
    :step="0.1"
    :commit="(v: number) => put('Wait', 'durationS', v)"
  />
  <template v-if="step.kind === 'wait-input'">
    <ChoiceField
      label="until"
      name="Input"
      :options="signals('in')"
      :value="step.signal"
      placeholder="no input yet"
      @change="put('Input', 'signal', $event)"
    />
    <ChoiceField label="is" name="Input is" :options="onOff" :value="step.is" @change="put('Input', 'is', $event)" />
    <NumberField
      prefix="at most"
      :value="step.timeoutS ?? 0"
      dimension="time"
      label="Longest wait, 0 for ever"
      :min="0"
      :max="86400"
      :commit="(v: number) => put('Longest wait', 'timeoutS', v || null)"
    />
    <ChoiceField label="then" name="When the time is up" :options="ends" :value="otherwise" @change="setOtherwise" />
  </template>
  <template v-if="step.kind === 'output'">
    <ChoiceField
      label="what"
      name="Output"
      :options="signals('out')"
      :value="step.signal"
      placeholder="no output yet"
      @change="put('Output', 'signal', $event)"
    />
    <ChoiceField
      label="to"
      name="Output to"
      :options="onOff"
      :value="step.on"
      @change="put('Output', 'on', $event)"
    />
    <span class="muted small">its polarity is seen to by the wiring</span>
  </template>
  <template v-if="step.kind === 'if'">
    <ChoiceField
      label="if"
      name="Looks at"
      :options="[...signals('in'), { label: 'a counter', value: '#' }]"
      :value="looksAt"
      placeholder="no input yet"
      @change="setLook"
    />
    <ChoiceField
      v-if="'signal' in step.when"
      label="is"
      name="Input is"
      :options="onOff"
      :value="step.when.is"
      @change="put('Condition', 'when', { ...step.when, is: $event })"
    />
    <template v-else>
      <TextField
        :value="step.when.counter"
        label="Counter"
        :commit="(v: string) => put('Condition', 'when', { ...step.when, counter: v })"
      />
      <ChoiceField
        label="is"
        name="Counter is"
        :options="['below', 'equal', 'above'].map((v) => ({ label: v, value: v }))"
        :value="step.when.is"
        @change="put('Condition', 'when', { ...step.when, is: $event })"
      />
      <NumberField
        :value="step.when.value"
        dimension="ratio"
        label="Counter compared with"
        :commit="(v: number) => put('Condition', 'when', { ...step.when, value: v })"
      />
    </template>
  </template>
  <template v-if="step.kind === 'repeat'">
    <label class="tick"
      ><input
        type="checkbox"
        :checked="step.times === null"
        @change="put('Times', 'times', step.times === null ? 2 : null)"
      />
      for ever</label
    >
    <NumberField
      v-if="step.times !== null"
      prefix="times"
      :value="step.times"
      dimension="count"
      label="Times"
      :min="1"
      :max="100000"
      :commit="(v: number) => put('Times', 'times', Math.round(v))"
    />
  </template>
  <TextField
    v-if="step.kind === 'marker' || step.kind === 'group'"
    :value="step.name"
    label="Name"
    :commit="(v: string) => put('Name', 'name', v)"
  />
  <ChoiceField
    v-if="step.kind === 'jump'"
    label="to"
    name="Marker"
    :options="markers"
    :value="step.to"
    placeholder="no such marker"
    @change="put('Marker', 'to', $event)"
  />
  <ChoiceField
    v-if="step.kind === 'call' || step.kind === 'alongside'"
    label="routine"
    :options="routines"
    :value="step.routine"
    placeholder="no such routine"
    @change="put('Routine', 'routine', $event)"
  />
  <template v-if="step.kind === 'counter'">
    <TextField :value="step.counter" label="Counter" :commit="(v: string) => put('Counter', 'counter', v)" />
    <ChoiceField
      label="is"
      name="Counter change"
      :options="[
        { label: 'set to', value: 'set' },
        { label: 'counted by', value: 'add' },
      ]"
      :value="'set' in step.change ? 'set' : 'add'"
      @change="put('Counter', 'change', $event === 'set' ? { set: 0 } : { add: 1 })"
    />
    <NumberField
      :value="'set' in step.change ? step.change.set : step.change.add"
      dimension="ratio"
      label="Counter value"
      :commit="
        (v: number) =>
          put('Counter', 'change', step.kind === 'counter' && 'set' in step.change ? { set: v } : { add: v })
      "
    />
  </template>
  <NumberField
    v-if="step.kind === 'speed'"
    prefix="of all"
    :value="step.share * 100"
    dimension="share"
    :decimals="0"
    label="Share of every pace from here on"
    :min="1"
    :max="100"
    :step="5"
    :commit="(v: number) => put('Speed', 'share', v / 100)"
  />
</template>
