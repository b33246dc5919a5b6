<script setup lang="ts">
/** Inputs and outputs by what they say and do: whether each is on, switched by hand, held where the board is simulated. */
import { computed, ref, watch } from 'vue';
import { signalPins } from '@cork-elbow/core/commands';
import { linesCannot } from '@cork-elbow/core/contract';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';

const rigs = useRigStore();
const run = useRunStore();
const pins = computed(() => signalPins(rigs.rig!));
const state = (id: string): boolean | null => (run.isLive ? (run.telemetry?.signals[id] ?? null) : null);
const outputs = computed(() => pins.value.filter(({ signal }) => signal.way === 'out'));
const inputs = computed(() => pins.value.filter(({ signal }) => signal.way === 'in'));
const maySwitch = computed(
  () =>
    run.isLive &&
    run.mayDrive &&
    run.status.armed &&
    !run.isRunning &&
    !['bringing-up', 'homing'].includes(run.status.mode),
);
/** Why the lines of a board switch no outputs; left out where they do. */
const unsaid = (line: string): string | undefined =>
  run.ownLines.get(line)?.switches === false ? linesCannot(rigs.rig!, line, 'switch outputs').message : undefined;
const mayHold = computed(() => run.isSimulated);
/** What the world was told to hold inputs at, since they were connected. */
const held = ref<Record<string, boolean | null>>({});
watch(
  () => run.isLive,
  () => (held.value = {}),
);
function hold(id: string, on: boolean | null): void {
  held.value = { ...held.value, [id]: on };
  run.send({ type: 'force', signal: id, on });
}
const ways = [
  { label: 'on', on: true },
  { label: 'off', on: false },
  { label: 'let go', on: null },
] as const;
const word = (id: string): string => ({ true: 'on', false: 'off', null: '–' })[`${state(id)}`]!;
</script>

<template>
  <details v-if="pins.length" class="signals">
    <summary>
      Inputs and outputs<span v-if="run.isLive" class="muted small">
        · {{ outputs.filter(({ signal }) => state(signal.id)).length }} of {{ outputs.length }} outputs on,
        {{ inputs.filter(({ signal }) => state(signal.id)).length }} of {{ inputs.length }} inputs</span
      >
    </summary>
    <p v-if="outputs.length && !maySwitch" class="muted small">
      {{
        run.isRunning
          ? 'The run switches them.'
          : 'Outputs are switched here while the arm is armed; they are off while it is not.'
      }}
    </p>
    <ul>
      <li v-for="{ signal, line } in outputs" :key="signal.id" :data-signal="signal.id">
        <span class="dot" :class="{ on: state(signal.id) }" aria-hidden="true" />
        <span class="name">{{ signal.name }}</span>
        <span class="num state" role="status">{{ word(signal.id) }}</span>
        <span class="choice small" role="group" :aria-label="`Switch ${signal.name}`">
          <button
            v-for="on in [true, false]"
            :key="`${on}`"
            data-moves
            :aria-pressed="state(signal.id) === on"
            :disabled="!maySwitch || unsaid(line) !== undefined"
            :title="unsaid(line)"
            @click="run.send({ type: 'switch', signal: signal.id, on })"
          >
            {{ on ? 'on' : 'off' }}
          </button>
        </span>
      </li>
      <li v-for="{ signal } in inputs" :key="signal.id" :data-signal="signal.id">
        <span class="dot" :class="{ on: state(signal.id) }" aria-hidden="true" />
        <span class="name">{{ signal.name }}</span>
        <span class="num state" role="status">{{ word(signal.id) }}</span>
        <span v-if="mayHold" class="choice small" role="group" :aria-label="`Hold ${signal.name}`">
          <button
            v-for="{ label, on } in ways"
            :key="label"
            :aria-pressed="(held[signal.id] ?? null) === on"
            @click="hold(signal.id, on)"
          >
            {{ label }}
          </button>
        </span>
      </li>
    </ul>
    <p v-if="inputs.length && mayHold" class="muted small">
      On a simulated board you are the world: an input is held on or off, or let go of. One without a resistor then
      floats, and changes at random.
    </p>
  </details>
</template>

<style scoped>
.signals {
  margin-top: 0.6rem;
}
summary {
  cursor: pointer;
  font-weight: 600;
}
summary span {
  font-weight: 400;
}
p {
  margin: 0.3rem 0;
}
ul {
  list-style: none;
  margin: 0.3rem 0;
  padding: 0;
  display: grid;
  gap: 0.2rem;
}
li {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) 2.4rem 9.5rem;
  gap: 0.5rem;
  align-items: center;
  min-height: 2rem;
}
.dot {
  width: 0.7rem;
  height: 0.7rem;
  border-radius: 50%;
  border: 2px solid var(--ink-3);
}
.dot.on {
  background: var(--pine);
  border-color: var(--pine);
}
.state {
  text-align: right;
}
.choice {
  display: flex;
}
.choice button {
  flex: 1;
  padding-inline: 0.3rem;
  white-space: nowrap;
}
</style>
