<script setup lang="ts">
/** Torque against what the motors have: at the pose, at the worst pose, along a routine; and how much more could be held. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { markDash } from '@cork-elbow/core/drawing';
import type { Heaviest } from '@cork-elbow/core/loads';
import type { Respect } from '@cork-elbow/core/rig';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import ChartKey from '../../shared/ChartKey.vue';
import ChoiceField from '../../shared/ChoiceField.vue';
import LineChart, { type Series } from '../../shared/LineChart.vue';
import { useSlots } from '../../shared/joints';
import { TIGHT } from '../../shared/share-words';
import { useEdit } from '../../shared/useEdit';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { useGo } from '../../workspace/useGo';
import { usePlan } from '../../workspace/usePlan';
import GripNote from './GripNote.vue';
import LoadQuestion from './LoadQuestion.vue';
import LoadTable from './LoadTable.vue';
import ShaftList from './ShaftList.vue';
import { massWords, torqueWords } from './words';
import { thinned } from './thinned';
import { sayAt, useLoads, type LoadRow } from './useLoads';
import { useRows } from './useRows';

const rigs = useRigStore();
const view = useViewStore();
const slots = useSlots();
const plan = usePlan();
const { time, motion, routine } = plan;
const edit = useEdit();
const go = useGo(plan);
const { scope, torqueUnit, loading, heaviestNow, worst, along, hasMass, isMaking, isStopped, again, showAt } =
  useLoads();
const names = computed(() => slots.value.map(({ name }) => name));

// ── Row by row ────────────────────────────────────────────────────────────────────────────────────────────────────

const rows = useRows(() => scope.value);
/** Shows where a motor takes most. */
function pick(row: LoadRow): void {
  const k = loading.value?.motors.findIndex(({ drive }) => drive.id === row.key) ?? -1;
  if (scope.value === 'anywhere') {
    const q = k >= 0 ? worst.answer.value?.motors[k].q : worst.answer.value?.joints[row.slots[0]]?.q;
    if (q) view.setEdit(q);
  } else if (scope.value === 'routine' && k >= 0) showAt(along.answer.value!.worst[k].timeS);
}
const hardest = computed(() =>
  rows.value.reduce<LoadRow | null>((most, row) => ((row.share ?? -1) > (most?.share ?? -1) ? row : most), null),
);
const verdict = computed(() => {
  const row = hardest.value;
  // Nothing is promised of an arm that weighs nothing as far as is known.
  if (!hasMass.value || !rows.value.length || !row || row.share === null) return null;
  const missing = row.has === null ? '' : torqueWords(row.need - row.has, row.unit, torqueUnit.value);
  if (row.share > 1)
    return {
      state: 'over',
      words: Number.isFinite(row.need) ? `${row.name} lacks ${missing}.` : `${row.name} cannot go there.`,
    };
  const left = `${formatNumber(100 * (1 - row.share), 0)} % left`;
  if (unknown.value.length || motorless.value.length)
    return { state: 'tight', words: `As far as is known it lifts it, with ${left} at ${row.name}.` };
  return row.share > TIGHT
    ? { state: 'tight', words: `It lifts it, with ${left} at ${row.name}.` }
    : { state: 'good', words: `It lifts it: ${left} at ${row.name}, the hardest.` };
});
const unknown = computed(() => rows.value.filter(({ hasMotor, share }) => hasMotor && share === null));
const motorless = computed(() => rows.value.filter(({ hasMotor, need }) => !hasMotor && need > 1e-6));

// ── How much more ─────────────────────────────────────────────────────────────────────────────────────────────────

const heaviest = computed((): { readonly own: Heaviest; readonly q: Float64Array | null } | null => {
  if (scope.value === 'pose') return heaviestNow.value ? { own: heaviestNow.value, q: null } : null;
  const found = scope.value === 'anywhere' ? worst.answer.value?.heaviest : null;
  return found ? { own: found.value, q: found.q } : null;
});
const givesWay = computed(() => {
  const by = heaviest.value?.own.by;
  if (!by) return '';
  return by.kind === 'base'
    ? 'then the base tips'
    : heaviest.value!.own.kg > 0
      ? `then ${rows.value[by.index]?.name ?? 'a motor'} gives way`
      : `${rows.value[by.index]?.name ?? 'A motor'} is too weak with nothing in its hand`;
});

// ── Along the routine ─────────────────────────────────────────────────────────────────────────────────────────────

const series = computed<Series[]>(() => {
  const found = along.answer.value;
  const own = loading.value;
  if (scope.value !== 'routine' || !found || !own || found.shares.length !== own.motors.length) return [];
  return own.motors.flatMap((motor, k): Series[] => {
    if (Number.isNaN(found.shares[k][0])) return [];
    const slot = motor.slots[Math.min(motor.index, motor.slots.length - 1)];
    const points = thinned(found.timeS, found.shares[k], (a, b) => a > b).map(({ x, y }) => ({
      x,
      y: 100 * Math.min(9.99, y),
    }));
    return [{ label: names.value[slot], colour: (slot % 8) + 1, slot, dash: markDash(slot), points }];
  });
});
const weak = computed(() =>
  (scope.value === 'routine' ? (along.answer.value?.weak ?? []) : []).map((stretch) => {
    const motor = loading.value!.motors[stretch.motor];
    const row = rows.value[stretch.motor];
    return {
      ...stretch,
      key: `${stretch.motor} ${stretch.fromS}`,
      words: `${row?.name ?? motor.drive.name} ${stretch.kind === 'over' ? 'is too weak' : 'gets down, not up'}`,
      lacks: torqueWords(sayAt(motor, stretch.missingNm), row?.unit ?? 'N·m', torqueUnit.value),
    };
  }),
);
const carries = computed(() => {
  const found = scope.value === 'routine' ? along.answer.value?.carries : null;
  if (!found) return null;
  const { kg, by, timeS } = found;
  return {
    ...{ kg, at: timeS },
    words: Number.isFinite(kg) ? massWords(kg) : 'no bound known',
    who: by === null ? 'Show' : by.kind === 'base' ? 'the base' : (rows.value[by.index]?.name ?? 'Show'),
  };
});
/** What is too much on the move alone, and is not looked after yet. */
const slows = computed((): { respect: Respect[]; words: string } | null => {
  const found = scope.value === 'routine' ? along.answer.value?.pace : null;
  if (!found) return null;
  const isShort = (share: number | undefined): boolean => share !== undefined && share > 0 && share < 1;
  const known = routine.value?.respect ?? [];
  const respect: Respect[] = [
    ...(isShort(found.motors?.share) && !known.includes('torque') ? (['torque'] as const) : []),
    ...(isShort(found.base?.share) && !known.includes('tip') ? (['tip'] as const) : []),
  ];
  const words = respect.map((what) => (what === 'torque' ? 'its motors hold' : 'its base stays on its feet'));
  return respect.length ? { respect, words: words.join(' and ') } : null;
});
function slowDown(): void {
  const { respect } = slows.value!;
  const { id } = routine.value!;
  edit('Slow moves down for loads', (draft) => {
    const own = draft.routines.find((r) => r.id === id);
    if (own) own.respect = [...(own.respect ?? []), ...respect];
  });
}
const pace = computed(() => {
  const found = scope.value === 'routine' ? along.answer.value?.pace : null;
  if (!found) return null;
  const times = (share: number): string => (share > 10 ? 'more than 10' : formatNumber(share, share < 2 ? 2 : 1));
  return {
    motors: found.motors && {
      words:
        found.motors.share === 0 ? 'none: at rest it is too much' : `${times(found.motors.share)} times this pace`,
      who: rows.value[found.motors.motor]?.name ?? '',
      at: found.motors.timeS,
    },
    base: found.base && {
      words: found.base.share === 0 ? 'none: at rest it tips' : `${times(found.base.share)} times this pace`,
      at: found.base.timeS,
    },
  };
});
useOverlay(() => ({ dimensions: false }));
</script>

<template>
  <div :data-lift="isMaking ? 'making' : (verdict?.state ?? 'none')">
    <LoadQuestion>
      <ChoiceField
        label="torque in"
        :options="[
          { value: 'N·m', label: 'N·m' },
          { value: 'kg·cm', label: 'kg·cm' },
        ]"
        :value="torqueUnit"
        @change="torqueUnit = $event as 'N·m'"
      />
    </LoadQuestion>
    <p v-if="!hasMass" class="row wrap small none">
      <span>No mass of this arm is known yet, so it bears nothing here but what it holds.</span>
      <Button
        size="small"
        severity="secondary"
        label="Enter what its links weigh"
        @click="go({ place: { station: 'measure', part: 'joints' } })"
      />
    </p>
    <p v-if="isMaking && !rows.length" class="small muted">Looking for what is hardest …</p>
    <p v-if="isStopped" class="row small muted">
      Stopped. <Button size="small" variant="text" label="Look again" @click="again" />
    </p>
    <p v-if="scope === 'routine' && !rigs.rig?.routines.length" class="row wrap small muted">
      There is no routine yet.
      <Button
        size="small"
        variant="text"
        label="Make one"
        @click="go({ place: { station: 'routine', part: 'steps' } })"
      />
    </p>
    <template v-if="rows.length">
      <h2 v-if="verdict" role="status" class="verdict" :class="verdict.state">{{ verdict.words }}</h2>
      <LoadTable :rows :is-picked="scope !== 'pose'" @pick="pick" />
      <p v-if="unknown.length" class="row wrap small muted">
        What {{ unknown.map(({ name }) => name).join(', ') }} can give is not known.
        <Button
          size="small"
          variant="text"
          label="Enter a torque"
          @click="go({ place: { station: 'motors', part: 'joints', joint: slots[unknown[0].slots[0]]?.id } })"
        />
      </p>
      <p v-if="motorless.length" class="small muted">
        {{ motorless.map(({ name }) => name).join(', ') }}: no motor holds what it bears.
      </p>
    </template>
    <template v-if="heaviest">
      <h2 class="more">What it could hold</h2>
      <dl class="facts">
        <div>
          <dt>{{ scope === 'pose' ? 'at most, as it stands' : 'at most, wherever it goes' }}</dt>
          <dd class="num big" :data-heaviest="heaviest.own.kg">
            {{ Number.isFinite(heaviest.own.kg) ? massWords(heaviest.own.kg) : 'no bound known' }}
          </dd>
        </div>
        <div v-if="givesWay">
          <dt>&nbsp;</dt>
          <dd>
            {{ givesWay }}
            <Button
              v-if="heaviest.q"
              size="small"
              variant="text"
              label="Show where"
              @click="view.setEdit(heaviest.q)"
            />
          </dd>
        </div>
      </dl>
    </template>
    <template v-if="scope === 'pose'"><GripNote /><ShaftList /></template>
    <template v-if="series.length">
      <h2 class="more">Torque over time</h2>
      <div class="over-time">
        <LineChart
          :series
          unit="%"
          label="Share of torque of each motor over the routine"
          :max-x="motion?.durationS"
          :cursor="() => time"
          @pick="showAt"
        />
      </div>
      <ChartKey :series />
    </template>
    <ul v-if="weak.length" class="weak" aria-label="Where it is too weak">
      <li v-for="w in weak" :key="w.key" :data-weak="w.kind" :class="w.kind">
        <b>{{ w.words }}</b>
        <span class="small muted"
          >{{ formatFixed(w.fromS, 1) }} to {{ formatFixed(w.toS, 1) }} s, {{ w.lacks }} missing</span
        >
        <Button size="small" variant="text" label="Show" @click="showAt(w.atS)" />
      </li>
    </ul>
    <dl v-if="pace && rows.length" class="facts paces">
      <div v-if="pace.motors">
        <dt>motors are strong enough up to</dt>
        <dd>
          <span class="num">{{ pace.motors.words }}</span>
          <Button size="small" variant="text" :label="pace.motors.who" @click="showAt(pace.motors.at)" />
        </dd>
      </div>
      <div v-if="carries">
        <dt>what it carries may weigh</dt>
        <dd>
          <span class="num" :data-carries="carries.kg">{{ carries.words }}</span>
          <Button size="small" variant="text" :label="carries.who" @click="showAt(carries.at)" />
        </dd>
      </div>
      <div v-if="pace.base">
        <dt>the base stays on its feet up to</dt>
        <dd>
          <span class="num">{{ pace.base.words }}</span>
          <Button size="small" variant="text" label="Show" @click="showAt(pace.base.at)" />
        </dd>
      </div>
    </dl>
    <p v-if="slows && routine" class="row wrap" data-slow-down>
      <span>The planner can slow its moves down so that {{ slows.words }}.</span>
      <Button size="small" severity="secondary" label="Slow it down" @click="slowDown" />
    </p>
    <p v-if="scope === 'anywhere' && rows.length" class="small muted">
      The hardest pose of each motor inside all limits and rules; what stands in the way is not looked at. Click a
      joint to see its pose.
    </p>
    <p class="small muted">Try a load low over the bench first, hands clear; nothing is to be under a raised load.</p>
  </div>
</template>

<style scoped>
.none {
  margin: 0.4rem 0;
}
.more {
  margin: 0.9rem 0 0.2rem;
}
.big {
  font-size: 1.35rem;
}
.over-time {
  height: 12rem;
}
.weak {
  list-style: none;
  margin: 0.6rem 0;
  padding: 0;
}
.weak li {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 0.2rem 0.6rem;
}
.over b {
  color: var(--alarm);
}
.down-only b {
  color: var(--caution);
}
.paces {
  margin: 0.6rem 0;
}
</style>
