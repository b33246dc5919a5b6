<script setup lang="ts">
/** A circle, a square or a line to draw: checked along its length, and printed at its true size to lay under the pen. */
import { useDebounceFn } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { figureSheet, sheetToSvg } from '@cork-elbow/core/drawing';
import { figurePoints, planeAxes, type Figure, type FigurePlane } from '@cork-elbow/core/reach';
import { vec3, type Vec3 } from '@cork-elbow/core/linear';
import { accuracyAt, Loading, type Accuracy } from '@cork-elbow/core/loads';
import { formatNumber, toM } from '@cork-elbow/core/units';
import { fileName } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import TripleField from '../../shared/TripleField.vue';
import PrintButton from '../../shared/PrintButton.vue';
import { saveFile } from '../../shared/save-file';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import PointResults from './PointResults.vue';
import { usePoints } from './usePoints';
import { useReach } from './useReach';

const rigs = useRigStore();
const { worldTarget, tool } = useReach();
const { results, isRunning, run, summary } = usePoints();

const shape = ref<Figure['shape']>('circle');
const plane = ref<FigurePlane>('level');
const sizeMm = ref(40);
const centre = ref<[number, number, number]>(
  worldTarget.value.map((v) => Math.round(v * 1000)) as [number, number, number],
);
const stepMm = ref(2);
const speed = ref(30);
const pen = ref<'free' | 'square'>('free');

const shapes = [
  { value: 'circle', label: 'circle' },
  { value: 'square', label: 'square' },
  { value: 'line', label: 'line' },
];
const planes = [
  { value: 'level', label: 'lying level' },
  { value: 'facing', label: 'upright, facing the arm' },
  { value: 'along', label: 'upright, along forward' },
];
const pens = [
  { value: 'free', label: 'any way' },
  { value: 'square', label: 'square to the paper' },
];
const sizeWord = computed(() => ({ circle: 'diameter', square: 'edge', line: 'length' })[shape.value]);
const spots = computed(() => [...(rigs.rig?.spots ?? []).map((s) => ({ value: s.id, label: s.name }))]);
function toSpot(id: unknown): void {
  const spot = rigs.rig?.spots.find((s) => s.id === id);
  if (spot) centre.value = [...spot.xyzMm];
}
const figure = computed((): Figure => ({
  shape: shape.value,
  plane: plane.value,
  centre: centre.value.map(toM) as unknown as Vec3,
  size: toM(sizeMm.value),
}));
const later = useDebounceFn(() => {
  const { normal } = planeAxes(figure.value.plane);
  const direction = pen.value === 'square' ? vec3.scale(normal, -1) : null;
  const points = figurePoints(figure.value, toM(stepMm.value)).map((position, k) => ({
    name: `${k + 1}`,
    position,
    direction,
  }));
  void run(points, toM(speed.value));
}, 150);
watch([figure, stepMm, speed, pen, () => rigs.mechanism], () => void later(), { immediate: true });

const verdict = computed(() => {
  const { all, reached, touching, tooFast, changes } = summary.value;
  if (!all) return '';
  if (reached < all) return `${all - reached} of ${all} points are out of reach.`;
  if (touching) return `At ${touching} of ${all} points the arm stands in something.`;
  if (changes) return 'The arm would have to change its posture on the way.';
  if (tooFast) return 'It can be drawn, but slower: a joint cannot keep up.';
  return 'It can be drawn in one go.';
});
/** How far the drawn line may be off: the worst of its points. */
const band = computed(() => {
  const { hardware, mechanism, build } = rigs;
  const own = tool.value;
  if (!hardware || !mechanism || !build || !own) return null;
  const loading = new Loading(hardware, mechanism);
  const all = (results.value ?? []).flatMap(({ solution }) =>
    solution ? [accuracyAt(hardware, mechanism, build, own, solution.q, loading)] : [],
  );
  const most = (of: (a: Accuracy) => number): number => all.reduce((found, a) => Math.max(found, of(a)), 0);
  return all.some(({ parts }) => parts.length) ? { rss: most((a) => a.rss), worst: most((a) => a.worst) } : null;
});
const isGood = computed(() => summary.value.reached === summary.value.all && !summary.value.touching);
const slower = computed(() => (summary.value.worst > 1 ? speed.value / summary.value.worst : null));

const sheet = computed(() => figureSheet(figure.value, rigs.rig?.name ?? ''));
useOverlay(() => ({
  layers: {
    trace: Float64Array.from(figurePoints(figure.value, toM(stepMm.value)).flatMap((p) => [...p])),
    target: { at: figure.value.centre },
  },
  onDrag: (p: Vec3) => {
    centre.value = p.map((v) => Math.round(v * 10000) / 10) as [number, number, number];
  },
  dimensions: false,
}));
</script>

<template>
  <div :data-drawing="isRunning ? 'running' : results ? (isGood ? 'fits' : 'short') : 'none'">
    <div class="form">
      <ChoiceField
        label="figure"
        name="Figure"
        :options="shapes"
        :value="shape"
        @change="shape = $event as 'circle'"
      />
      <label
        >{{ sizeWord }}
        <NumberField
          :value="sizeMm"
          dimension="length"
          :decimals="1"
          label="Size of the figure"
          :min="1"
          :max="2000"
          :commit="(v: number) => void (sizeMm = v)"
      /></label>
      <ChoiceField
        label="paper"
        name="How the paper lies"
        :options="planes"
        :value="plane"
        @change="plane = $event as FigurePlane"
      />
      <span class="group">middle</span>
      <TripleField
        label="Middle"
        :value="centre"
        :commit="
          (k: number, v: number) =>
            void (centre = centre.map((old, i) => (i === k ? v : old)) as [number, number, number])
        "
      />
      <ChoiceField
        v-if="spots.length"
        label="or at a spot"
        name="Middle at a spot"
        placeholder="choose"
        :options="spots"
        :value="null"
        @change="toSpot"
      />
      <ChoiceField
        label="tool points"
        name="Direction while drawing"
        :options="pens"
        :value="pen"
        @change="pen = $event as 'free'"
      />
      <label
        >speed
        <NumberField
          :value="speed"
          dimension="speed"
          label="Drawing speed"
          :min="0.1"
          :max="2000"
          :commit="(v: number) => void (speed = v)"
      /></label>
      <label
        >checked every
        <NumberField
          :value="stepMm"
          dimension="length"
          :decimals="1"
          label="Checked every"
          :min="0.2"
          :max="50"
          :commit="(v: number) => void (stepMm = v)"
      /></label>
    </div>
    <template v-if="results">
      <h2 role="status" class="verdict" :class="{ bad: !isGood }">{{ verdict }}</h2>
      <p class="small muted">
        {{ summary.all }} points; closest to a limit: {{ formatNumber(100 * summary.margin, 0) }} % of half the range;
        fastest joint at {{ formatNumber(100 * Math.min(99, summary.worst), 0) }} % of its top speed<template
          v-if="slower"
          >: {{ formatNumber(slower, 1) }} mm/s would do</template
        >.
      </p>
      <p v-if="band" class="small" :data-band="band.rss">
        The line comes within <b class="num">± {{ formatNumber(1000 * band.rss, 2) }} mm</b> as a rule, ±
        <span class="num">{{ formatNumber(1000 * band.worst, 2) }} mm</span> at worst, by steps, slack and what gives
        way (Load, Accuracy).
      </p>
      <PointResults :results :speed-mm-s="speed" />
    </template>
    <div class="row wrap take">
      <PrintButton
        label="Print at true size"
        :title="`${shape}, ${formatNumber(sizeMm, 1)} mm`"
        :sheets="() => [sheet]"
      />
      <Button
        size="small"
        severity="secondary"
        label="SVG"
        @click="
          saveFile(fileName(rigs.id, `drawing-test-${shape}-${sizeMm}mm`, 'svg'), 'image/svg+xml', sheetToSvg(sheet))
        "
      />
    </div>
    <p class="small muted">
      Lay the print where the paper lies, its cross on the middle, and let the arm draw over it.
    </p>
  </div>
</template>

<style scoped>
.verdict {
  margin: 0.5rem 0 0.2rem;
  color: var(--good);
}
.verdict.bad {
  color: var(--alarm);
}
.take {
  margin: 0.7rem 0 0.3rem;
}
</style>
