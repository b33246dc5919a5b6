<script setup lang="ts">
/** Outputs of boards: what hangs on them, against what a pin may give. */
import { computed } from 'vue';
import { pinLoads } from '@cork-elbow/core/loads';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';

const rigs = useRigStore();
const edit = useEdit();
const loads = computed(
  () => new Map((rigs.hardware ? pinLoads(rigs.hardware) : []).map((load) => [load.signal, load])),
);
const outputs = computed(() =>
  (rigs.rig?.signals ?? [])
    .filter(({ way }) => way === 'out')
    .map((signal) => ({
      ...signal,
      own: rigs.rig!.boards.find(({ id }) => id === signal.board) ?? null,
      load: loads.value.get(signal.id),
    })),
);
const boards = computed(() => (rigs.rig?.boards ?? []).filter(({ id }) => outputs.value.some((o) => o.board === id)));
const isOver = ({ load }: (typeof outputs.value)[number]): boolean =>
  load !== undefined && load.pinA !== null && load.drawsA > load.pinA;
const setPin = (id: string, amps: number): string | void =>
  edit('What a pin gives', (draft) => {
    const board = draft.boards.find((b) => b.id === id)!;
    if (amps > 0) board.pinA = amps;
    else delete board.pinA;
  });
const setDraws = (id: string, amps: number): string | void =>
  edit('What an output draws', (draft) => {
    const signal = draft.signals.find((s) => s.id === id)!;
    if (amps > 0) signal.drawsA = amps;
    else delete signal.drawsA;
  });
const mA = (amps: number): string => `${formatNumber(1000 * amps, 0)} mA`;
</script>

<template>
  <details v-if="outputs.length" class="pins" :open="outputs.some(isOver)">
    <summary>Pins of boards: what hangs on their outputs</summary>
    <div class="form">
      <label v-for="board in boards" :key="board.id"
        >a pin of {{ board.name }} gives
        <NumberField
          :value="board.pinA ?? 0"
          :unset="board.pinA ? null : 'unknown'"
          dimension="current"
          :decimals="3"
          :label="`What a pin of ${board.name} gives`"
          :min="0"
          :max="10"
          :commit="(v: number) => setPin(board.id, v)"
      /></label>
    </div>
    <table class="plain">
      <tbody>
        <tr v-for="output in outputs" :key="output.id" :data-pin="output.id">
          <td>{{ output.name }}</td>
          <td class="muted">{{ output.own?.name ?? 'on no board' }}</td>
          <td>
            <NumberField
              prefix="draws"
              :value="output.drawsA ?? 0"
              :unset="output.drawsA ? null : 'unknown'"
              dimension="current"
              :decimals="3"
              :label="`What ${output.name} draws`"
              :min="0"
              :max="10"
              :commit="(v: number) => setDraws(output.id, v)"
            />
          </td>
          <td :class="{ short: isOver(output) }">
            <template v-if="isOver(output)"
              >more than the {{ mA(output.load!.pinA!) }} of a pin: put a transistor or relay between</template
            ><template v-else-if="output.load && output.load.pinA !== null">its pin gives that</template>
          </td>
        </tr>
      </tbody>
    </table>
  </details>
</template>

<style scoped>
.pins {
  margin: 0.6rem 0;
}
.pins td {
  padding: 0.1rem 0.4rem;
}
.short {
  color: var(--alarm);
}
</style>
