<script setup lang="ts">
import { IconDownload } from '@tabler/icons-vue';
import { useVirtualList } from '@vueuse/core';
import Button from 'primevue/button';
import Select from 'primevue/select';
import { computed, ref } from 'vue';
import { commandTable, MAX_ROWS } from '@cork-elbow/core/commands';
import { tableToCsv, type CsvOptions } from '@cork-elbow/core/formats';
import { drawRig, toSvg } from '@cork-elbow/core/drawing';
import { isSpin, ownSlot, pinWords, unitOf, type CommandMap } from '@cork-elbow/core/actuators';
import { formatNumber } from '@cork-elbow/core/units';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import { fileName, saveFile } from '../../shared/save-file';
import StationHead from '../../shared/StationHead.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { usePlan } from '../../workspace/usePlan';

const rigs = useRigStore();
const view = useViewStore();
const { routineId, routine, plan, motion, trace, show, pause } = usePlan();
const rate = ref(50);
const columns = ref<CsvOptions['columns']>('both');
const delimiter = ref<CsvOptions['delimiter']>(',');
useOverlay(() => ({ dimensions: false, trace: trace.value }));

const stops = computed(() => view.findings.filter((f) => f.severity === 'stop'));
/** Servos on a channel, and every motor of another kind: those have wires of their own. */
const wired = computed(() => rigs.motors.filter((map) => map.drive.kind !== 'servo' || map.channel !== null));
const table = computed(() => {
  const { mechanism } = rigs;
  if (
    !mechanism ||
    !plan.value ||
    !plan.value.durationS ||
    !motion.value ||
    motion.value.durationS * rate.value > MAX_ROWS
  )
    return null;
  return commandTable(mechanism, wired.value, motion.value, rate.value);
});
const rows = computed(() => (table.value ? Array.from(table.value.timeS, (_, i) => i) : []));
/** Row heights (px): pulses over angles, or one of the two. */
const rowHeight = computed(() => (columns.value === 'both' ? 38 : 24));
const { list, containerProps, wrapperProps } = useVirtualList(rows, {
  itemHeight: () => rowHeight.value,
  overscan: 12,
});
const slow = computed(() =>
  wired.value.flatMap(({ drive }) => ('updateHz' in drive && drive.updateHz < rate.value ? [drive] : [])),
);
const unit = (slot: number): string => rigs.mechanism!.units[rigs.mechanism!.jointOfSlot[slot]];
/** Joint value, or speed, that the numbers of row i mean. */
function meant(map: CommandMap, i: number): string {
  const slot = ownSlot(map);
  const { slots, joints, spun } = table.value!;
  if (isSpin(map)) {
    const own = spun.find((s) => s.slot === slot);
    return own ? own.speeds[i].toFixed(1) : '';
  }
  const k = slots.indexOf(slot);
  return k < 0 ? '' : `${joints[k][i].toFixed(1)}${unit(slots[k]) === '°' ? '°' : ''}`;
}
/** What stands in a column: the number's unit, and that of what it means. */
function unitsOf(map: CommandMap): string {
  const own = unit(ownSlot(map));
  if (columns.value === 'commands') return unitOf(map);
  const meantUnit = isSpin(map) ? `${own}/s` : own;
  return columns.value === 'joints' ? meantUnit : `${unitOf(map)}, ${meantUnit}`;
}
/** Boards of the columns, each with how many of them: named once over its pins. */
const boards = computed(() =>
  wired.value.reduce<{ name: string; count: number }[]>((list, map) => {
    const name = pinWords(rigs.rig!, map)?.board ?? 'on no board';
    const last = list.at(-1);
    if (last?.name === name) last.count++;
    else list.push({ name, count: 1 });
    return list;
  }, []),
);
const pinOf = (map: CommandMap): string => {
  const words = pinWords(rigs.rig!, map);
  return words ? `pin ${words.pin}` : 'no pin';
};
function download(): void {
  if (!table.value || !rigs.mechanism) return;
  saveFile(
    fileName(rigs.id, `${routine.value?.id ?? 'routine'}-commands-${rate.value}hz`, 'csv'),
    'text/csv',
    tableToCsv(rigs.rig!, rigs.mechanism, table.value, { columns: columns.value, delimiter: delimiter.value }),
  );
}
function drawing(kind: 'side' | 'plan'): void {
  const { rig, mechanism } = rigs;
  if (rig && mechanism)
    saveFile(
      fileName(rigs.id, kind === 'side' ? 'side-view' : 'plan', 'svg'),
      'image/svg+xml',
      toSvg(drawRig({ rig, mechanism, q: view.q, kind, width: 1000, height: 760, trace: trace.value })),
    );
}
function at(row: number): void {
  pause();
  if (table.value) show(table.value.timeS[row]);
}
</script>

<template>
  <StationHead station="hand-off" />
  <template v-if="table && routine">
    <div class="options">
      <label
        >Routine
        <Select
          :model-value="routine.id"
          :options="[...rigs.rig!.routines]"
          option-label="name"
          option-value="id"
          size="small"
          aria-label="Routine"
          @update:model-value="routineId = $event"
      /></label>
      <label
        >Rows a second
        <NumberField
          :value="rate"
          dimension="count"
          label="Rows a second"
          :min="1"
          :max="1000"
          :step="10"
          :commit="(v: number) => void (rate = v)"
      /></label>
      <label
        >Columns
        <Select
          v-model="columns"
          :options="[
            { l: 'commands and joints', v: 'both' },
            { l: 'commands', v: 'commands' },
            { l: 'joints', v: 'joints' },
          ]"
          option-label="l"
          option-value="v"
          size="small"
          aria-label="Columns"
      /></label>
      <label
        >Between columns
        <Select
          v-model="delimiter"
          :options="[
            { l: 'comma', v: ',' },
            { l: 'semicolon (decimal comma)', v: ';' },
            { l: 'tab', v: '\t' },
          ]"
          option-label="l"
          option-value="v"
          size="small"
          aria-label="Between columns"
      /></label>
    </div>
    <p v-if="stops.length" class="stopped" role="alert">
      {{ stops[0].message }} The table leaves this step out; mend it before you use it.
    </p>
    <p v-if="slow.length" class="muted small">
      {{ slow[0].name }} takes a new command only {{ formatNumber(slow[0].updateHz, 0) }} times a second; more rows do
      not make it smoother.
    </p>
    <div class="sheet" role="table" :aria-label="`${rows.length} rows of commands`">
      <div class="line boards" role="row" :style="{ '--n': wired.length }">
        <span></span>
        <span
          v-for="(b, k) in boards"
          :key="k"
          class="board"
          :style="{ gridColumn: `span ${b.count}` }"
          role="columnheader"
          >{{ b.name }}</span
        >
      </div>
      <div class="line head" role="row" :style="{ '--n': wired.length }">
        <span role="columnheader">time</span>
        <span v-for="map in wired" :key="map.drive.id" role="columnheader"
          ><JointMark :index="ownSlot(map)" :size="20" /> {{ pinOf(map) }} <i>{{ unitsOf(map) }}</i></span
        >
      </div>
      <div v-bind="containerProps" class="rows" tabindex="0" role="rowgroup" aria-label="Rows">
        <div v-bind="wrapperProps" role="presentation">
          <div
            v-for="{ data: i } in list"
            :key="i"
            class="line num"
            role="row"
            :style="{ '--n': wired.length, height: `${rowHeight}px` }"
            @click="at(i)"
          >
            <span role="cell">{{ table.timeS[i].toFixed(3) }} s</span>
            <span v-for="(map, k) in wired" :key="map.drive.id" role="cell"
              ><template v-if="columns !== 'joints'"
                >{{ table.natives[k][i] }} <i v-if="columns === 'commands'">{{ unitOf(map) }}</i></template
              >
              <b v-if="columns !== 'commands'">{{ meant(map, i) }}</b></span
            >
          </div>
        </div>
      </div>
    </div>
    <div class="row foot">
      <span class="grow muted small"
        ><b class="num">{{ rows.length }}</b> rows, <b class="num">{{ formatNumber(table.timeS.at(-1)!, 2) }} s</b>,
        whole numbers, never outside a limit</span
      >
      <Button
        size="small"
        severity="secondary"
        label="Side view"
        aria-label="Download the side view"
        @click="drawing('side')"
      />
      <Button
        size="small"
        severity="secondary"
        label="Plan"
        aria-label="Download the plan"
        @click="drawing('plan')"
      />
      <Button label="Download CSV" @click="download"
        ><template #icon><IconDownload :size="17" /></template
      ></Button>
    </div>
  </template>
  <p v-else-if="motion && motion.durationS * rate > MAX_ROWS" class="stopped">
    At {{ rate }} rows a second this routine makes more than {{ MAX_ROWS }} rows.
    <Button size="small" label="50 a second" @click="rate = 50" />
  </p>
  <p v-else class="muted">
    Nothing to hand off yet: write a routine with at least one move, and give its joints motors on pins.
  </p>
</template>

<style scoped>
.options {
  display: grid;
  grid-template-columns: 1.4fr 1fr;
  gap: 0.5rem;
  margin-bottom: 0.6rem;
}
.options label {
  display: grid;
  gap: 0.15rem;
  font-size: 0.82rem;
  color: var(--ink-2);
  min-width: 0;
}
.sheet {
  border: 1px solid var(--lines);
  border-radius: 4px;
  overflow: hidden;
}
.rows {
  height: calc(100vh - 536px);
  min-height: 180px;
}
.line {
  display: grid;
  grid-template-columns: 4.9rem repeat(var(--n), minmax(0, 1fr));
  align-items: center;
  padding: 0 0.4rem;
  font-size: 0.8rem;
  border-bottom: 1px solid var(--grid);
}
.line span {
  text-align: right;
}
.line span {
  min-width: 0;
}
.line b {
  font-weight: 500;
  color: var(--ink-2);
  display: block;
  line-height: 1.15;
}
.rows .line span {
  line-height: 1.25;
}
.line i {
  color: var(--ink-3);
  font-style: normal;
}
.rows .line {
  cursor: pointer;
}
.rows .line:hover {
  background: var(--pine-wash);
}
.head i {
  display: block;
  white-space: nowrap;
}
.head {
  background: var(--paper-2);
  padding-block: 0.3rem;
  font-size: 0.84rem;
}
.boards {
  background: var(--paper-2);
  padding-top: 0.3rem;
  border-bottom: 0;
}
.line .board {
  text-align: center;
  color: var(--ink-2);
  font-size: 0.78rem;
  line-height: 1.2;
  border-bottom: 1px solid var(--lines);
  margin-inline: 0.15rem;
}
.foot {
  margin-top: 0.6rem;
}
.stopped {
  background: var(--alarm-wash);
  border-left: 4px solid var(--alarm);
  padding: 0.4rem 0.6rem;
  border-radius: 3px;
  margin-bottom: 0.5rem;
}
</style>
