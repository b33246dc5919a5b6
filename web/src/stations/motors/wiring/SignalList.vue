<script setup lang="ts">
/** Plain inputs and outputs, named by what they say or do; which level means on, and what holds the line meanwhile. */
import Button from 'primevue/button';
import { bestPin, bootLevel, freePins, signalJobs } from '@cork-elbow/core/wiring';
import { takeOut, type Board, type Rig, type Signal } from '@cork-elbow/core/rig';
import ChoiceField from '../../../shared/ChoiceField.vue';
import TextField from '../../../shared/TextField.vue';
import { NONE, orNull, useWiring } from './useWiring';

const { rig, change, newId, boards, boardOf, pinsFor } = useWiring();
const onSignal = (signal: Signal, label: string, edit: (signal: Signal) => void): string | void =>
  change(`${label} of ${signal.name}`, (draft) => edit(draft.signals.find((s) => s.id === signal.id)!));
const pinFor = (draft: Rig, board: Board, way: Signal['way']): number | null =>
  bestPin(draft, board, signalJobs({ way }))?.pin ?? null;
/** On the first board that has a free pin for it. */
function add(way: Signal['way']): void {
  change(way === 'in' ? 'Another input' : 'Another output', (draft) => {
    const board = draft.boards.find((b) => freePins(draft, b, signalJobs({ way })).length);
    draft.signals.push({
      id: newId(way === 'in' ? 'input' : 'output', draft.signals),
      name: way === 'in' ? 'Switch' : 'Output',
      way,
      board: board?.id ?? null,
      channel: board ? pinFor(draft, board, way) : null,
      activeLow: null,
      pull: 'none',
      note: '',
    });
  });
}
const remove = (signal: Signal): void =>
  void change(`Delete ${signal.name}`, (draft) => takeOut(draft, 'signal', signal.id));
function setBoard(signal: Signal, value: unknown): void {
  change(`Board of ${signal.name}`, (draft) => {
    const own = draft.signals.find((s) => s.id === signal.id)!;
    const board = draft.boards.find((b) => b.id === orNull(value));
    own.board = own.channel = null;
    if (board) Object.assign(own, { board: board.id, channel: pinFor(draft, board, own.way) });
  });
}
/** What an output does until the program runs. */
function before(signal: Signal): string {
  if (signal.way === 'in' || signal.activeLow === null || signal.channel === null) return '';
  const level = bootLevel(
    boardOf(signal.board)?.pins.find((p) => p.pin === signal.channel),
    signal.pull,
  );
  if (level === null) return 'may be on before the program runs';
  return (level === 'low') === signal.activeLow ? 'is on before the program runs' : 'is off before the program runs';
}
const levels = [
  { value: NONE, label: 'unknown' },
  { value: 'high', label: 'high' },
  { value: 'low', label: 'low' },
];
const pulls = [
  { value: 'none', label: 'nothing' },
  { value: 'up', label: 'pull-up' },
  { value: 'down', label: 'pull-down' },
];
</script>

<template>
  <p v-if="!rig.signals.length" class="muted small">
    No inputs or outputs yet. Add home switches, buttons, a relay or a lamp; routines then wait for them and set them
    by name.
  </p>
  <section v-for="signal in rig.signals" :key="signal.id" class="signal" :aria-label="signal.name">
    <div class="row">
      <span class="way">{{ signal.way === 'in' ? 'in' : 'out' }}</span>
      <TextField
        class="grow"
        :value="signal.name"
        :label="signal.way === 'in' ? 'Name of the input' : 'What the output does'"
        :commit="(v: string) => onSignal(signal, 'Name', (s) => (s.name = v))"
      />
      <span class="small muted" :data-before="signal.id">{{ before(signal) }}</span>
      <Button
        size="small"
        variant="text"
        severity="danger"
        label="×"
        :aria-label="`Delete ${signal.name}`"
        @click="remove(signal)"
      />
    </div>
    <div class="cells compact">
      <ChoiceField
        label="board"
        :name="`Board of ${signal.name}`"
        :options="boards"
        :value="signal.board ?? NONE"
        @change="setBoard(signal, $event)"
      />
      <ChoiceField
        label="pin"
        :name="`Pin of ${signal.name}`"
        :options="pinsFor(boardOf(signal.board), [signal.way === 'in' ? 'input' : 'output'], signal.channel)"
        :value="signal.channel === null ? null : String(signal.channel)"
        placeholder="–"
        @change="onSignal(signal, 'Pin', (s) => (s.channel = Number($event)))"
      />
      <ChoiceField
        label="on when"
        :name="`Level of ${signal.name}`"
        :options="levels"
        :value="signal.activeLow === null ? NONE : signal.activeLow ? 'low' : 'high'"
        @change="onSignal(signal, 'Level', (s) => (s.activeLow = $event === NONE ? null : $event === 'low'))"
      />
      <ChoiceField
        label="held by"
        :name="`Resistor of ${signal.name}`"
        :options="pulls"
        :value="signal.pull"
        @change="onSignal(signal, 'Resistor', (s) => (s.pull = $event as Signal['pull']))"
      />
    </div>
    <label v-if="signal.way === 'in'" class="check small"
      ><input
        type="checkbox"
        :checked="signal.stops ?? false"
        @change="onSignal(signal, 'Stop', (s) => (s.stops = ($event.target as HTMLInputElement).checked))"
      />
      freezes the arm while it is on<template v-if="signal.stops"
        >. Wire it so that a broken wire is on too. It is no emergency stop: that one cuts the supply.</template
      ></label
    >
  </section>
  <div class="row">
    <Button size="small" severity="secondary" label="Add an input" @click="add('in')" />
    <Button size="small" severity="secondary" label="Add an output" @click="add('out')" />
  </div>
</template>

<style scoped>
.check {
  display: flex;
  gap: 0.4rem;
  align-items: start;
  margin-top: 0.3rem;
}
.check input {
  margin-top: 0.15rem;
}
.signal {
  border-bottom: 1px solid var(--lines);
  padding: 0.4rem 0;
  margin-bottom: 0.3rem;
}
.way {
  font-size: 0.78rem;
  border: 1px solid var(--lines);
  border-radius: 3px;
  padding: 0 0.3rem;
  min-width: 1.9rem;
  text-align: center;
}
.cells {
  display: grid;
  grid-template-columns: 1.4fr 1.2fr 1.1fr 1fr;
  gap: 0.4rem;
  margin-top: 0.25rem;
}
</style>
