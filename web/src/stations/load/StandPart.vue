<script setup lang="ts">
/** Whether it stays on its feet, by how much, and what would give it more. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { apply, type Vec3 } from '@cork-elbow/core/linear';
import { ballastFor, spreadFor, type Press } from '@cork-elbow/core/loads';
import { freeId } from '@cork-elbow/core/rig';
import { formatFixed, formatNumber, toM, toMm } from '@cork-elbow/core/units';
import LineChart, { type Series } from '../../shared/LineChart.vue';
import NumberField from '../../shared/NumberField.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { useGo } from '../../workspace/useGo';
import { usePlan } from '../../workspace/usePlan';
import LoadQuestion from './LoadQuestion.vue';
import { thinned } from './thinned';
import { useLoads } from './useLoads';
import DrivingBox from './DrivingBox.vue';
import RockingTest from './RockingTest.vue';
import { massWords } from './words';

const rigs = useRigStore();
const view = useViewStore();
const edit = useEdit();
const plan = usePlan();
const { time, motion } = plan;
const go = useGo(plan);
const { scope, loading, now, worst, along, isMaking, isStopped, again, showAt } = useLoads();
/** Margin (mm) that is wanted. */
const wantedMm = ref(15);
const support = computed(() => loading.value?.support ?? null);
const stands = computed(() => support.value?.stands ?? false);

/** All places where the ground presses that count for the question. */
const presses = computed((): readonly (Press | null)[] =>
  scope.value === 'pose'
    ? now.value
      ? [now.value.pressed]
      : []
    : scope.value === 'anywhere'
      ? (worst.answer.value?.edges.map(({ value }) => value) ?? [])
      : (along.answer.value?.presses ?? []),
);
const margin = computed((): number | null => {
  if (scope.value === 'pose') return now.value?.margin ?? null;
  return (scope.value === 'anywhere' ? worst.answer.value?.tip?.value : along.answer.value?.tipWorst?.margin) ?? null;
});
function showWorst(): void {
  if (scope.value === 'anywhere' && worst.answer.value?.tip) view.setEdit(worst.answer.value.tip.q);
  else if (scope.value === 'routine' && along.answer.value?.tipWorst) showAt(along.answer.value.tipWorst.timeS);
}
/** What it stands on, in a word. */
const onWhat = computed(() => (base.value?.feet.length || !base.value?.wheels?.length ? 'feet' : 'wheels'));
const verdict = computed(() => {
  if (margin.value === null) return null;
  if (margin.value === -Infinity) return { state: 'over', words: 'The base is pulled off the ground.' };
  const mm = toMm(margin.value);
  const whole = `${formatNumber(Math.abs(mm), Math.abs(mm) < 10 ? 1 : 0)} mm`;
  if (mm < 0) return { state: 'over', words: `It tips: its load is ${whole} outside its ${onWhat.value}.` };
  return mm < wantedMm.value
    ? { state: 'tight', words: `It stands, with ${whole} left of the ${formatNumber(wantedMm.value, 0)} mm wanted.` }
    : { state: 'good', words: `It stands: its load stays ${whole} inside its ${onWhat.value}.` };
});

// ── What would help ───────────────────────────────────────────────────────────────────────────────────────────────

const base = computed(() => rigs.rig?.mechanism.base ?? null);
/** Ballast goes where it helps whichever way the arm leans: the middle of what the feet span. */
const middle = computed((): [number, number] => {
  const corners = support.value?.corners ?? [];
  return [0, 1].map((axis) => corners.reduce((sum, corner) => sum + corner[axis], 0) / (corners.length || 1)) as [
    number,
    number,
  ];
});
const needsHelp = computed(() => margin.value !== null && margin.value < toM(wantedMm.value) - 1e-6);
const ballast = computed(() =>
  support.value && needsHelp.value
    ? ballastFor(support.value, presses.value, toM(wantedMm.value), middle.value)
    : null,
);
const spread = computed(() =>
  support.value && needsHelp.value ? spreadFor(support.value, presses.value, toM(wantedMm.value)) : null,
);
const up = (value: number, to: number): number => Math.ceil(value / to - 1e-9) * to;
function putBallast(): void {
  const massG = up((ballast.value ?? 0) * 1000, 10);
  const [x, y] = middle.value.map(toMm);
  edit('Ballast on the base', (draft) => {
    const weights = (draft.mechanism.weights ??= []);
    weights.push({
      id: freeId(
        'ballast',
        weights.map(({ id }) => id),
      ),
      name: 'Ballast',
      joint: null,
      xyzMm: [Math.round(x * 10) / 10, Math.round(y * 10) / 10, 0],
      massG,
    });
  });
}
function spreadFeet(): void {
  edit('Feet further out', (draft) => {
    draft.mechanism.base.feet = draft.mechanism.base.feet.map(([x, y]) => [
      up(Math.abs(x) * spread.value!, 1) * Math.sign(x),
      up(Math.abs(y) * spread.value!, 1) * Math.sign(y),
    ]);
  });
}
const ballastNow = computed(() => rigs.rig?.mechanism.weights?.filter(({ joint }) => joint === null) ?? []);
function dropBallast(id: string): void {
  edit('Delete ballast', (draft) => {
    draft.mechanism.weights = draft.mechanism.weights?.filter((weight) => weight.id !== id);
  });
}
const radius = computed(() => Math.max(0, ...(base.value?.feet ?? []).map(([x, y]) => Math.hypot(x, y))));

// ── On the stage ──────────────────────────────────────────────────────────────────────────────────────────────────

const pressedNow = computed((): Vec3 | null => {
  const { mechanism } = rigs;
  if (!mechanism || !now.value?.pressed) return null;
  const { x, y } = now.value.pressed;
  return apply(mechanism.base, [x, y, 0]);
});
useOverlay(() => ({
  dimensions: false,
  layers: stands.value
    ? {
        standing: {
          corners: support.value!.corners.map(([x, y]) => apply(rigs.mechanism!.base, [x, y, 0])),
          at: pressedNow.value,
          isSafe: (now.value?.margin ?? -1) >= toM(wantedMm.value),
        },
      }
    : {},
}));
const series = computed<Series[]>(() => {
  const found = along.answer.value;
  if (scope.value !== 'routine' || !found?.tip) return [];
  const points = thinned(found.timeS, found.tip, (a, b) => a < b).map(({ x, y }) => ({
    x,
    y: Math.max(-999, toMm(y)),
  }));
  return [{ label: 'margin', colour: 2, points }];
});
const pace = computed(() => (scope.value === 'routine' ? (along.answer.value?.pace.base ?? null) : null));
</script>

<template>
  <div :data-stand="isMaking ? 'making' : (verdict?.state ?? 'none')">
    <LoadQuestion>
      <label
        >margin wanted
        <NumberField
          :value="wantedMm"
          dimension="length"
          label="Margin wanted"
          :decimals="0"
          :min="0"
          :max="2000"
          :commit="(v: number) => void (wantedMm = v)"
      /></label>
    </LoadQuestion>
    <p v-if="!stands" class="row wrap none">
      <span
        >Its base has no three feet that span an area, so nothing is said of tipping: screwed down it cannot, on legs
        or a stand it may.</span
      >
      <Button
        size="small"
        severity="secondary"
        label="Enter its feet"
        @click="go({ place: { station: 'measure', part: 'base' } })"
      />
    </p>
    <template v-else>
      <p v-if="isMaking && !verdict" class="small muted">Looking for where it is nearest to tipping …</p>
      <p v-if="isStopped" class="row small muted">
        Stopped. <Button size="small" variant="text" label="Look again" @click="again" />
      </p>
      <div v-if="verdict" class="row wrap">
        <h2 role="status" class="verdict" :class="verdict.state">{{ verdict.words }}</h2>
        <Button v-if="scope !== 'pose'" size="small" variant="text" label="Show where" @click="showWorst" />
      </div>
      <p v-if="base && base.massG === 0" class="row wrap small muted">
        Nothing is known of what the base weighs.
        <Button
          size="small"
          variant="text"
          label="Enter it"
          @click="go({ place: { station: 'measure', part: 'base' } })"
        />
      </p>
      <template v-if="needsHelp && presses.length">
        <h2 class="more">What would help</h2>
        <ul class="helps">
          <li v-if="ballast !== null" :data-ballast="ballast">
            <span
              ><b class="num">{{ massWords(up(ballast * 1000, 10) / 1000) }}</b> of ballast in the middle of its
              {{ onWhat }}</span
            >
            <Button size="small" severity="secondary" label="Put it on" @click="putBallast" />
          </li>
          <li v-else class="muted">No ballast in the middle of its {{ onWhat }} is enough: they are too near.</li>
          <li v-if="spread !== null && spread > 1 && base?.feet.length" :data-spread="spread">
            <span
              >feet <b class="num">{{ formatNumber(radius * (spread - 1), 0) }} mm</b> further out, at
              <span class="num">{{ formatNumber(radius * spread, 0) }} mm</span></span
            >
            <Button size="small" severity="secondary" label="Move them out" @click="spreadFeet" />
          </li>
        </ul>
      </template>
      <template v-if="ballastNow.length">
        <h2 class="more">On the base</h2>
        <ul class="helps">
          <li v-for="w in ballastNow" :key="w.id">
            <span
              >{{ w.name }}, <span class="num">{{ massWords(w.massG / 1000) }}</span></span
            >
            <Button size="small" variant="text" :label="`Delete ${w.name}`" @click="dropBallast(w.id)" />
          </li>
        </ul>
      </template>
      <template v-if="series.length">
        <h2 class="more">Margin over time</h2>
        <div class="over-time">
          <LineChart
            :series
            unit="mm"
            label="Margin before it tips over the routine"
            :max-x="motion?.durationS"
            :cursor="() => time"
            @pick="showAt"
          />
        </div>
      </template>
      <p v-if="pace" class="small">
        <template v-if="pace.share === 0">At rest already it tips at {{ formatFixed(pace.timeS, 1) }} s.</template>
        <template v-else
          >It would tip at <b class="num">{{ formatNumber(pace.share, pace.share < 2 ? 2 : 1) }}</b> times this pace,
          first at {{ formatFixed(pace.timeS, 1) }} s.</template
        >
        <Button size="small" variant="text" label="Show" @click="showAt(pace.timeS)" />
      </p>
      <DrivingBox v-if="base?.wheels?.length" />
      <RockingTest />
      <p class="small muted">
        On even ground, with feet that do not slip; a base on wheels stands on them. The cross on the drawing is where
        the ground presses now.
      </p>
    </template>
  </div>
</template>

<style scoped>
.none {
  margin: 0.6rem 0;
}
.more {
  margin: 0.9rem 0 0.2rem;
}
.helps {
  list-style: none;
  margin: 0;
  padding: 0;
}
.helps li {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.6rem;
  padding: 0.25rem 0;
  border-bottom: 1px solid var(--lines);
}
.over-time {
  height: 11rem;
}
</style>
