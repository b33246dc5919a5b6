<script setup lang="ts">
/** The boards: their kind, figures and pins, all of them editable. */
import Button from 'primevue/button';
import Checkbox from 'primevue/checkbox';
import { computed, ref } from 'vue';
import { boardKind, boardKinds, loopBudget, newBoard, stepRates, takenPins } from '@cork-elbow/core/wiring';
import { driveMaps } from '@cork-elbow/core/actuators';
import { takeOut, abilities, bootStates, type Ability, type Board, type Pin } from '@cork-elbow/core/rig';
import { formatNumber, type Dimension } from '@cork-elbow/core/units';
import ChoiceField from '../../../shared/ChoiceField.vue';
import TermHint from '../../../shared/TermHint.vue';
import NumberField from '../../../shared/NumberField.vue';
import TextField from '../../../shared/TextField.vue';
import { NONE, orNull, useWiring } from './useWiring';

const { rigs, rig, change, newId, findings } = useWiring();
const chosen = ref<string | null>(null);
const board = computed(() => rig.value.boards.find((b) => b.id === chosen.value) ?? rig.value.boards[0]);
const pin = ref<number | null>(null);
const shownPin = computed(() => board.value?.pins.find((p) => p.pin === pin.value));

function add(kind: unknown): void {
  change('Another board', (draft) => {
    const id = newId('board', draft.boards);
    const made = newBoard(kind as Board['kind'], id);
    if (made.kind === 'pwm-driver') {
      made.host = draft.boards.find((b) => b.pins.some((p) => p.can.includes('bus')))?.id ?? null;
      const taken = new Set(draft.boards.filter((b) => b.host === made.host).map((b) => b.address));
      while (taken.has(made.address)) made.address = made.address! + 1;
    }
    draft.boards.push(made);
    chosen.value = id;
  });
}
function remove(): void {
  const { id, name } = board.value;
  change(`Delete ${name}`, (draft) => takeOut(draft, 'board', id));
}
const onBoard = (label: string, edit: (board: Board) => void): string | void =>
  change(`${label} of ${board.value.name}`, (draft) => edit(draft.boards.find((b) => b.id === board.value.id)!));
const onPin = (label: string, edit: (pin: Pin) => void): string | void =>
  onBoard(label, (b) => edit(b.pins.find((p) => p.pin === pin.value)!));
function toggle(ability: Ability): void {
  onPin('Pin', (p) => (p.can = p.can.includes(ability) ? p.can.filter((a) => a !== ability) : [...p.can, ability]));
}
const taken = computed(() => (board.value ? takenPins(rig.value, board.value.id) : new Set<number>()));
const wrong = computed(
  () =>
    new Set(
      findings.value
        .filter((f) => f.data.board === board.value?.name)
        .map((f) => String(f.data.pin ?? f.data.channel)),
    ),
);
const budget = computed(() => {
  const { mechanism, build } = rigs;
  if (!board.value || !mechanism || !build) return null;
  const maps = driveMaps(rig.value, mechanism, build);
  const rates = stepRates(mechanism, board.value, maps).reduce((sum, r) => sum + r.perS, 0);
  return { ...loopBudget(rig.value, mechanism, board.value, maps), rates };
});
const abilityWords: Record<Ability, string> = {
  pulse: 'servo pulses',
  'soft-pulse': 'pulses by software',
  step: 'steps',
  output: 'output',
  pwm: 'duty',
  input: 'input',
  analog: 'voltage in',
  serial: 'bus servos',
  bus: 'two-wire bus',
};
const bootWords = { off: 'stays off', low: 'low', high: 'high', floats: 'floats', pulses: 'pulses' } as const;
type LoopKey = keyof Board['loop'];
const loopFields: readonly (readonly [LoopKey, string, string])[] = [
  ['everyMs', 'due every', 'ms'],
  ['mathsUs', 'maths a joint', 'µs'],
  ['analogUs', 'voltage read', 'µs'],
  ['busUs', 'bus read', 'µs'],
  ['stepUs', 'a step', 'µs'],
];
type FigureKey = 'logicV' | 'regulatorA' | 'stepsPerS' | 'jitterUs';
const figures: readonly (readonly [FigureKey, string, Dimension, number])[] = [
  ['logicV', 'signal volts', 'ratio', 1],
  ['regulatorA', 'regulator A', 'ratio', 1],
  ['stepsPerS', 'steps/s', 'count', 0],
  ['jitterUs', 'jitter', 'pulse', 0],
];
</script>

<template>
  <div class="row wrap">
    <span v-rove.across="'button'" class="choice" role="group" aria-label="Boards"
      ><button v-for="b in rig.boards" :key="b.id" :aria-pressed="b.id === board?.id" @click="chosen = b.id">
        {{ b.name }}
      </button></span
    >
    <ChoiceField
      class="add"
      label=""
      name="Add a board"
      placeholder="add a board"
      :options="boardKinds.map((k) => ({ value: k.id, label: k.words }))"
      :value="null"
      @change="add"
    />
  </div>
  <p v-if="!board" class="muted small">
    No board yet. Add the one that makes the pulses or steps; its pins and what they can do come with it.
  </p>
  <template v-else>
    <p class="muted small">{{ boardKind(board.kind).words }}. {{ boardKind(board.kind).use }}</p>
    <div class="form">
      <label
        >called
        <TextField
          :value="board.name"
          label="Name of the board"
          :commit="(v: string) => onBoard('Name', (b) => (b.name = v))"
      /></label>
      <ChoiceField
        label="speaks through"
        name="Host board"
        :options="[
          { value: NONE, label: 'itself' },
          ...rig.boards
            .filter((b) => b.id !== board.id && b.host === null)
            .map((b) => ({ value: b.id, label: b.name })),
        ]"
        :value="board.host ?? NONE"
        @change="onBoard('Host', (b) => (b.host = orNull($event)))"
      />
      <NumberField
        v-if="board.host !== null || board.kind === 'pwm-driver'"
        prefix="address"
        :value="board.address ?? 0"
        dimension="address"
        label="Bus address of the board"
        :min="0"
        :max="127"
        :commit="(v: number) => onBoard('Address', (b) => (b.address = Math.round(v)))"
      />
      <NumberField
        v-for="[key, words, dimension, decimals] in figures"
        :key="key"
        :prefix="words"
        :value="board[key]"
        :dimension
        :decimals
        :label="words"
        :min="key === 'logicV' ? 0.1 : 0"
        :commit="(v: number) => onBoard(words, (b) => (b[key] = v))"
      />
      <TermHint class="group" term="jitter" />
    </div>
    <div class="row wrap small">
      <NumberField
        class="rate"
        prefix="pulses/s at most"
        :value="board.pulses.mostHz"
        dimension="count"
        label="Servo pulses a second at most"
        :min="1"
        :commit="(v: number) => onBoard('Pulse rate', (b) => (b.pulses.mostHz = v))"
      />
      <label class="row able"
        ><Checkbox
          :model-value="board.pulses.oneRate"
          binary
          @update:model-value="onBoard('Pulse rate', (b) => (b.pulses.oneRate = Boolean($event)))"
        />
        one rate for all its channels</label
      >
    </div>
    <div class="rule"><h3>Pins</h3></div>
    <ul class="pins" aria-label="Pins">
      <li v-for="p in board.pins" :key="p.pin">
        <button
          :aria-pressed="p.pin === pin"
          :class="{ taken: taken.has(p.pin), kept: p.reserved, wrong: wrong.has(p.label), boot: p.boot === 'pulses' }"
          :title="p.can.map((a) => abilityWords[a]).join(', ') + (p.reserved ? `; kept for ${p.reserved}` : '')"
          @click="pin = pin === p.pin ? null : p.pin"
        >
          {{ p.label }}
        </button>
      </li>
    </ul>
    <p class="muted small key">
      <span class="taken">in use</span> <span class="kept">kept</span> <span class="boot">pulses at start</span>
    </p>
    <div v-if="shownPin" class="pin">
      <div class="form">
        <label
          >printed
          <TextField
            :value="shownPin.label"
            label="Label of the pin"
            :commit="(v: string) => onPin('Label', (p) => (p.label = v))"
        /></label>
        <ChoiceField
          label="at power-on it"
          name="Pin at power-on"
          :options="bootStates.map((s) => ({ value: s, label: bootWords[s] }))"
          :value="shownPin.boot"
          @change="onPin('Start', (p) => (p.boot = $event as Pin['boot']))"
        />
        <label
          >kept for
          <TextField
            :value="shownPin.reserved"
            label="What the pin is kept for"
            placeholder="nothing"
            :commit="(v: string) => onPin('Kept', (p) => (p.reserved = v))"
        /></label>
      </div>
      <div class="row wrap">
        <label v-for="a in abilities" :key="a" class="row small able"
          ><Checkbox :model-value="shownPin.can.includes(a)" binary @update:model-value="toggle(a)" />
          {{ abilityWords[a] }}</label
        >
      </div>
    </div>
    <div class="rule"><h3>One round of its program</h3></div>
    <div class="form">
      <NumberField
        v-for="[key, words, unit] in loopFields"
        :key
        :prefix="`${words}, ${unit}`"
        :value="board.loop[key]"
        dimension="count"
        :label="`${words}, ${unit}`"
        :min="key === 'everyMs' ? 1 : 0"
        :commit="(v: number) => onBoard('Round', (b) => (b.loop[key] = v))"
      />
    </div>
    <p v-if="budget" class="small" role="status" data-budget>
      Sensors {{ formatNumber(budget.readsMs, 1) }} ms, maths {{ formatNumber(budget.mathsMs, 1) }} ms, steps
      {{ formatNumber(budget.stepsMs, 1) }} ms:
      <b class="num">{{ formatNumber(budget.usedMs, 1) }} of {{ formatNumber(board.loop.everyMs, 1) }} ms</b>.
      <template v-if="budget.rates">
        All axes at top speed:
        <b class="num">{{ formatNumber(budget.rates, 0) }} of {{ formatNumber(board.stepsPerS, 0) }}</b> steps a
        second.</template
      >
    </p>
    <Button size="small" variant="text" severity="danger" :label="`Delete ${board.name}`" @click="remove" />
  </template>
</template>

<style scoped>
.add {
  width: 12rem;
}
.rate {
  width: 13rem;
}
.pins {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem;
  margin: 0.3rem 0;
  padding: 0;
}
.pins button,
.key span {
  border: 1px solid var(--lines);
  background: var(--paper);
  border-radius: 3px;
  padding: 0.1rem 0.35rem;
  font-size: 0.8rem;
  color: inherit;
}
.pins button {
  cursor: pointer;
}
.pins button[aria-pressed='true'] {
  outline: 2px solid var(--pine);
}
.key {
  display: flex;
  gap: 0.4rem;
}
.taken,
.pins .taken {
  background: var(--pine-wash);
  font-weight: 600;
}
.kept,
.pins .kept {
  border-style: dashed;
  color: var(--ink-2);
}
.boot,
.pins .boot {
  border-color: var(--caution);
}
.pins .wrong {
  background: var(--alarm-wash);
  border-color: var(--alarm);
}
.pin {
  background: var(--paper-2);
  border-radius: 4px;
  padding: 0.2rem 0.6rem 0.6rem;
}
.able {
  gap: 0.3rem;
}
h3 {
  font-size: 0.95rem;
  margin: 0;
}
</style>
