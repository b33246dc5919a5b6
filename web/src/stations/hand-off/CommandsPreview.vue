<script setup lang="ts">
/** The rows of a routine's commands: what each motor is sent, and the joint value that it means. A row shows the arm at its time. */
import { useVirtualList } from '@vueuse/core';
import { computed } from 'vue';
import { isSpin, ownSlot, pinWords, unitOf, type CommandMap } from '@cork-elbow/core/actuators';
import { formOf } from '@cork-elbow/core/commands';
import { commandRows, type CommandOptions, type Source } from '@cork-elbow/core/exports';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import JointMark from '../../shared/JointMark.vue';

const { source, options } = defineProps<{ source: Source; options: CommandOptions }>();
const emit = defineEmits<{ at: [timeS: number] }>();
const made = computed(() => commandRows(source, options));
const table = computed(() => made.value?.table ?? null);
const columns = computed(() => options.columns);
const decimals = computed(() => (options.format === 'csv' ? options.decimals : 2));
/** What a motor is told in a row, as the file says it. */
const forms = computed(() => new Map(wired.value.map((map) => [map, formOf(map, options.form)])));
function told(map: CommandMap, k: number, i: number): string {
  const { of, isWhole } = forms.value.get(map)!;
  const value = of(table.value!.natives[k], i);
  return isWhole ? String(value) : value.toFixed(decimals.value);
}
/** What a whole number is of, or what it is instead. */
const words = { change: 'change', duty: '%', driver: 'of 4096', share: 'share' } as const;
const unitTold = (map: CommandMap): string =>
  options.form === 'whole' ||
  (options.form !== 'change' && forms.value.get(map)!.ending === formOf(map, 'whole').ending)
    ? unitOf(map)
    : words[options.form];
/** After which row which ones come again. */
const folds = computed(() => new Map(made.value?.folds?.map((each) => [each.last, each])));
const wired = computed(() => table.value?.maps ?? []);
const rows = computed(() => (table.value ? Array.from(table.value.timeS, (_, i) => i) : []));
/** Row heights (px): commands over what they mean, or one of the two. */
const rowHeight = computed(() => (columns.value === 'both' || folds.value.size ? 38 : 24));
const { list, containerProps, wrapperProps } = useVirtualList(rows, {
  itemHeight: () => rowHeight.value,
  overscan: 12,
});
const slow = computed(() =>
  wired.value.flatMap(({ drive }) =>
    'updateHz' in drive && options.rows === 'all' && drive.updateHz < options.rateHz ? [drive] : [],
  ),
);
/** Characters of the longest cell of a column. */
const longest = computed(() => {
  let most = 6;
  for (const [k, map] of wired.value.entries()) {
    const own = table.value!.natives[k];
    let [low, high] = [0, 0];
    for (let i = 1; i < own.length; i++) {
      if (own[i] < own[low]) low = i;
      if (own[i] > own[high]) high = i;
    }
    for (const i of [low, high]) {
      const said = told(map, k, i);
      const sent = columns.value === 'commands' ? `${said} ${unitTold(map)}` : columns.value === 'both' ? said : '';
      most = Math.max(most, sent.length, columns.value === 'commands' ? 0 : meant(map, i).length);
    }
  }
  return most;
});
const unit = (slot: number): string => source.mechanism.units[source.mechanism.jointOfSlot[slot]];
/** Joint value, or speed, that the numbers of row i mean. */
function meant(map: CommandMap, i: number): string {
  const slot = ownSlot(map);
  const { slots, joints, spun } = table.value!;
  if (isSpin(map)) {
    const own = spun.find((s) => s.slot === slot);
    return own ? formatFixed(own.speeds[i], 1) : '';
  }
  const k = slots.indexOf(slot);
  return k < 0 ? '' : `${formatFixed(joints[k][i], 1)}${unit(slots[k]) === '°' ? '°' : ''}`;
}
/** What stands in a column: the number's unit, and that of what it means. */
function unitsOf(map: CommandMap): string {
  const own = unit(ownSlot(map));
  if (columns.value === 'commands') return unitTold(map);
  const meantUnit = isSpin(map) ? `${own}/s` : own;
  return columns.value === 'joints' ? meantUnit : `${unitTold(map)}, ${meantUnit}`;
}
/** How a row begins, as the file says it. */
function begins(i: number): string {
  const { timeS } = table.value!;
  if (made.value!.folds) return `${i}: ${formatFixed(timeS[i] - (i ? timeS[i - 1] : 0), 2)} s`;
  return options.format === 'csv' && options.first === 'number' ? String(i) : `${formatFixed(timeS[i], 3)} s`;
}
/** Boards of the columns, each with how many of them: named once over its pins. */
const boards = computed(() =>
  wired.value.reduce<{ name: string; count: number }[]>((list, map) => {
    const name = pinWords(source.rig, map)?.board ?? 'on no board';
    const last = list.at(-1);
    if (last?.name === name) last.count++;
    else list.push({ name, count: 1 });
    return list;
  }, []),
);
const pinOf = (map: CommandMap): string => {
  const words = pinWords(source.rig, map);
  return words ? `pin ${words.pin}` : 'no pin';
};
</script>

<template>
  <template v-if="table">
    <p v-if="slow.length" class="muted small">
      {{ slow[0].name }} takes a new command only {{ formatNumber(slow[0].updateHz, 0) }} times a second; more rows do
      not make it smoother.
    </p>
    <div
      class="sheet wide-table grows"
      role="table"
      :aria-label="`${rows.length} rows of commands`"
      :style="{ '--n': wired.length, '--cell': `${longest * 0.5 + 0.7}rem` }"
    >
      <div class="line boards" role="row">
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
      <div class="line head" role="row">
        <span role="columnheader">{{ made!.folds ? 'takes' : options.first === 'number' ? 'row' : 'time' }}</span>
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
            :style="{ height: `${rowHeight}px` }"
            @click="made!.folds || emit('at', table.timeS[i])"
          >
            <span role="cell"
              >{{ begins(i) }}
              <i v-if="folds.has(i)" class="fold">from {{ folds.get(i)!.first }}, {{ folds.get(i)!.times }}×</i></span
            >
            <span v-for="(map, k) in wired" :key="map.drive.id" role="cell"
              ><template v-if="columns !== 'joints'"
                >{{ told(map, k, i) }} <i v-if="columns === 'commands'">{{ unitTold(map) }}</i></template
              >
              <b v-if="columns !== 'commands'">{{ meant(map, i) }}</b></span
            >
          </div>
        </div>
      </div>
    </div>
    <p class="muted small count">
      <b class="num">{{ rows.length }}</b> rows, <b class="num">{{ formatNumber(table.timeS.at(-1)!, 2) }} s</b>,
      {{ options.form === 'whole' ? 'whole numbers, ' : '' }}never outside a limit
    </p>
  </template>
</template>

<style scoped>
.sheet {
  flex: 1 1 14rem;
  min-height: 14rem;
  display: flex;
  flex-direction: column;
  border: 1px solid var(--lines);
  border-radius: 4px;
  overflow-x: auto;
}
.sheet > .line {
  flex: none;
}
/* Every column has room for its figures; what does not fit is scrolled to, the times stay. */
.line,
.rows {
  min-width: calc(5.7rem + var(--n) * max(4.3rem, var(--cell)));
}
.rows {
  flex: 1;
  min-height: 9.5rem;
}
.line {
  display: grid;
  grid-template-columns: 4.9rem repeat(var(--n), minmax(0, 1fr));
  column-gap: 0.5rem;
  align-items: center;
  padding: 0 0.4rem 0 0;
  font-size: 0.8rem;
  border-bottom: 1px solid var(--grid);
}
.line > :first-child {
  position: sticky;
  left: 0;
  z-index: 1;
  align-self: stretch;
  display: grid;
  align-items: center;
  justify-content: end;
  background: var(--paper);
}
.head > :first-child,
.boards > :first-child {
  background: var(--paper-2);
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
.line .fold {
  display: block;
  font-size: 0.72rem;
  white-space: nowrap;
}
.line i {
  color: var(--ink-3);
  font-style: normal;
}
.rows .line {
  cursor: pointer;
}
.rows .line:hover,
.rows .line:hover > :first-child {
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
.count {
  margin-top: 0.4rem;
}
</style>
