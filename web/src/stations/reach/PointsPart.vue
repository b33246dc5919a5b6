<script setup lang="ts">
/** Many points at once: typed, pasted, from a file, or laid along a line, an arc or a circle. */
import { useSessionStorage } from '@vueuse/core';
import Button from 'primevue/button';
import Textarea from 'primevue/textarea';
import { computed, ref, useTemplateRef } from 'vue';
import { parsePoints } from '@cork-elbow/core/imports';
import { vec3, type Vec3 } from '@cork-elbow/core/linear';
import { arcPoints, linePoints, pointResultsToCsv } from '@cork-elbow/core/reach';
import { formatNumber, toM, toMm, toRad } from '@cork-elbow/core/units';
import { fileName } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import TripleField from '../../shared/TripleField.vue';
import { saveFile } from '../../shared/save-file';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import PointResults from './PointResults.vue';
import { usePoints } from './usePoints';

const rigs = useRigStore();
const { results, isRunning, run, summary, trace } = usePoints();

const text = useSessionStorage(`cork-elbow:points:${rigs.id}`, '');
const problems = ref<readonly string[]>([]);
const direction = ref<'free' | 'down' | 'level'>('free');
const speed = ref(50);
const directions = [
  { value: 'free', label: 'any way' },
  { value: 'down', label: 'straight down' },
  { value: 'level', label: 'level' },
];
const given = computed((): Vec3 | null => (direction.value === 'down' ? [0, 0, -1] : null));

function check(): void {
  const parsed = parsePoints(text.value, given.value);
  problems.value = parsed.problems;
  const level = direction.value === 'level' ? { fromUp: toRad(90) } : {};
  const points = parsed.points.map((point) => ({ ...point, ...level }));
  if (points.length) void run(points, toM(speed.value));
  else results.value = null;
}
function fromSpots(): void {
  const rows = (rigs.rig?.spots ?? []).map((s) =>
    [...s.xyzMm, ...(s.direction ?? ['', '', '']), s.name.replaceAll(',', ' ')].join(', '),
  );
  if (rows.length) text.value = ['x, y, z, dx, dy, dz, name', ...rows].join('\n');
  check();
}
const input = useTemplateRef<HTMLInputElement>('input');
async function read(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0];
  if (!file) return;
  if (file.size > 2_000_000) problems.value = [`${file.name} is larger than the 2 MB that a table may have.`];
  else {
    text.value = await file.text();
    check();
  }
  input.value!.value = '';
}

// ── Along a line, an arc, a circle ────────────────────────────────────────────────────────────────────────────────
const shapes = [
  { value: 'line', label: 'straight line' },
  { value: 'arc', label: 'arc' },
  { value: 'circle', label: 'circle' },
];
const shape = ref<'line' | 'arc' | 'circle'>('line');
const step = ref(5);
const first = rigs.rig?.spots[0]?.xyzMm ?? [150, 0, 50];
const places = ref<[number, number, number][]>([
  [...first] as [number, number, number],
  [first[0], first[1] + 40, first[2] + 20],
  [first[0], first[1] + 80, first[2]],
]);
const labels = computed(() =>
  shape.value === 'line'
    ? ['From', 'To']
    : shape.value === 'arc'
      ? ['From', 'Through', 'To']
      : ['One point', 'Second', 'Third'],
);
function setPlace(k: number, axis: number, v: number): void {
  places.value[k] = places.value[k].map((old, i) => (i === axis ? v : old)) as [number, number, number];
}
function lay(): void {
  const [a, b, c] = places.value.map((p) => p.map(toM) as unknown as Vec3);
  const points =
    shape.value === 'line'
      ? linePoints(a, b, toM(step.value))
      : arcPoints(a, b, c, toM(step.value), shape.value === 'circle');
  if (!points) {
    problems.value = ['The three points lie on one line: an arc needs a point off it.'];
    return;
  }
  if (vec3.distance(a, b) === 0) {
    problems.value = ['The first two points are the same: they must lie apart.'];
    return;
  }
  text.value = points.map((p) => p.map((v) => Math.round(toMm(v) * 1000) / 1000).join(', ')).join('\n');
  check();
}
function save(): void {
  if (results.value && rigs.mechanism)
    saveFile(fileName(rigs.id, 'points', 'csv'), 'text/csv', pointResultsToCsv(rigs.mechanism, results.value));
}
useOverlay(() => ({ layers: { trace: trace.value }, dimensions: false }));
</script>

<template>
  <div :data-points="isRunning ? 'running' : results ? 'done' : 'none'" :data-reached="summary.reached">
    <label class="paper"
      ><span class="small muted"
        >x, y, z in mm (forward, left, up); then a direction dx, dy, dz and a name if you like</span
      >
      <Textarea
        v-model="text"
        rows="5"
        class="num"
        aria-label="Points"
        placeholder="180, 0, 40&#10;180, 40, 40, 0, 0, -1, rim"
        @keydown.ctrl.enter="check"
    /></label>
    <ul v-if="problems.length" class="problems" role="alert">
      <li v-for="p in problems" :key="p">{{ p }}</li>
    </ul>
    <div class="row wrap bar-row">
      <Button size="small" label="Check the points" :disabled="!text.trim() || isRunning" @click="check" />
      <Button
        size="small"
        severity="secondary"
        label="Take the work spots"
        :disabled="!rigs.rig?.spots.length"
        @click="fromSpots"
      />
      <Button size="small" severity="secondary" label="From a file …" @click="input?.click()" />
      <input ref="input" type="file" accept=".csv,.txt,.tsv,text/csv,text/plain" hidden @change="read" />
    </div>
    <div class="form">
      <ChoiceField
        label="tool points"
        name="Direction at the points"
        :options="directions"
        :value="direction"
        @change="
          direction = $event as 'free' | 'down';
          text.trim() && check();
        "
      />
      <label
        >tool speed
        <NumberField
          :value="speed"
          dimension="speed"
          label="Tool speed"
          :min="0.1"
          :max="5000"
          :commit="
            (v: number) => {
              speed = v;
              if (text.trim()) check();
            }
          "
      /></label>
    </div>
    <details class="lay">
      <summary>Lay points along a line, an arc or a circle</summary>
      <div class="form">
        <ChoiceField
          label="shape"
          name="Shape of the way"
          :options="shapes"
          :value="shape"
          @change="shape = $event as 'line'"
        />
        <label
          >a point every
          <NumberField
            :value="step"
            dimension="length"
            label="Distance of points"
            :min="0.1"
            :max="500"
            :commit="(v: number) => void (step = v)"
        /></label>
        <template v-for="(label, k) in labels" :key="label">
          <span class="group">{{ label }}</span>
          <TripleField
            :label="label"
            :value="places[k]"
            :commit="(axis: number, v: number) => setPlace(k, axis, v)"
          />
        </template>
      </div>
      <Button size="small" severity="secondary" label="Lay the points" @click="lay" />
    </details>

    <p v-if="isRunning" class="small muted">Solving …</p>
    <template v-else-if="results">
      <div class="rule">
        <h2 role="status">
          {{ summary.reached }} of {{ summary.all }} reached<template v-if="summary.touching"
            >, {{ summary.touching }} of them touching something</template
          ><template v-if="summary.tooFast">, {{ summary.tooFast }} too fast for a joint</template
          ><template v-if="summary.changes"
            >, {{ summary.changes }} {{ summary.changes === 1 ? 'change' : 'changes' }} of posture</template
          >
        </h2>
        <Button size="small" variant="text" label="CSV" @click="save" />
      </div>
      <p class="small muted">
        Fastest joint at {{ formatNumber(100 * Math.min(summary.worst, 99), 0) }} % of its top speed with the tool at
        {{ formatNumber(speed, 0) }} mm/s. Click a row to see the arm there.
      </p>
      <PointResults :results :speed-mm-s="speed" />
    </template>
    <p v-else class="small muted">
      Type or paste a table, and every point is solved from the one before: posture, joints, or why not.
    </p>
  </div>
</template>

<style scoped>
.paper {
  display: grid;
  gap: 0.2rem;
}
.paper :deep(textarea) {
  width: 100%;
  font-size: 0.85rem;
}
.bar-row {
  margin: 0.5rem 0;
}
.problems {
  margin: 0.4rem 0;
  padding: 0.4rem 0.4rem 0.4rem 1.4rem;
  background: var(--alarm-wash);
  font-size: 0.88rem;
}
.lay {
  margin: 0.4rem 0 0.6rem;
}
.lay summary {
  cursor: pointer;
  font-size: 0.9rem;
  color: var(--ink-2);
}
</style>
