<script setup lang="ts">
/** The reach map: a slice or a shell, coloured by how well it is reached, against a pinned earlier state. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { mapLevels, reachMapSheet, type MapField } from '@cork-elbow/core/drawing';
import { compareMaps, mapBounds, reachMapToCsv, type MapDirection, type MapPlane } from '@cork-elbow/core/reach';
import { formatNumber, toM, toMm, toRad } from '@cork-elbow/core/units';
import { fileName } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import TermHint from '../../shared/TermHint.vue';
import NumberField from '../../shared/NumberField.vue';
import { saveBlob, saveFile, savePng } from '../../shared/save-file';
import { useJob } from '../../shared/useJob';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import HoldStill from './HoldStill.vue';
import { useReach } from './useReach';
import { areaText, volumeText } from './words';

const rigs = useRigStore();
const view = useViewStore();
const { tool, held, direction: asked, aim, fromUp } = useReach();

const SAMPLES = 200_000;
const plane = ref<MapPlane>(view.stage === 'plan' ? 'plan' : view.stage === '3d' ? 'shell' : 'side');
const heightMm = ref(0);
type Pointing = 'free' | 'down' | 'level' | 'outward' | 'asked';
const direction = ref<Pointing>('free');
const field = ref<MapField>('margin');

const planes: { id: MapPlane; name: string; view: 'side' | 'plan' | '3d' }[] = [
  { id: 'side', name: 'side slice', view: 'side' },
  { id: 'plan', name: 'level slice', view: 'plan' },
  { id: 'shell', name: 'in space', view: '3d' },
];
function setPlane(id: MapPlane): void {
  plane.value = id;
  view.stage = planes.find((p) => p.id === id)!.view;
}
const fields = [
  { value: 'margin', label: 'limit margin' },
  { value: 'postures', label: 'number of postures' },
  { value: 'manipulability', label: 'ease of motion' },
  { value: 'torque', label: 'torque left' },
];
/** What the tool holds, where it is told what torque is left. */
const EMPTY_HAND = '';
const holds = ref(EMPTY_HAND);
const loads = computed(() => [
  { value: EMPTY_HAND, label: 'nothing' },
  ...(rigs.rig?.payloads ?? []).map(({ id, name }) => ({ value: id, label: name })),
]);
const NOTHING = { massG: 0, comMm: [0, 0, 0] as [number, number, number], inertiaKgM2: null };
const holding = computed(() =>
  field.value === 'torque' ? (rigs.rig?.payloads.find(({ id }) => id === holds.value) ?? NOTHING) : null,
);
const directions = computed(() => [
  { value: 'free', label: 'any way' },
  { value: 'down', label: 'straight down' },
  { value: 'level', label: 'level' },
  { value: 'outward', label: 'level, outward' },
  // What the target demands, where it demands a direction.
  ...(asked.value
    ? [{ value: 'asked', label: `as on Target (${asked.value.map((v) => formatNumber(v, 2)).join(', ')})` }]
    : aim.value === 'tilt'
      ? [{ value: 'asked', label: `as on Target (${formatNumber(fromUp.value, 1)}° from up)` }]
      : []),
]);
const wished = computed((): MapDirection => {
  if (direction.value === 'down') return [0, 0, -1];
  if (direction.value === 'level') return { fromUp: toRad(90) };
  if (direction.value === 'outward') return 'outward';
  if (direction.value !== 'asked') return null;
  return asked.value ?? (aim.value === 'tilt' ? { fromUp: toRad(fromUp.value) } : null);
});
/** Values (SI) of the joints that are held, as they stand. */
const stands = computed((): Record<string, number> =>
  Object.fromEntries(
    [...held.value].flatMap((id) => {
      const slot = rigs.mechanism?.slotOf.get(id);
      return slot === undefined ? [] : [[id, view.editQ[slot]]];
    }),
  ),
);
const question = computed(() => JSON.stringify([plane.value, heightMm.value, wished.value, stands.value]));

/** Heights worth a look: the ground, the tops of what stands around, the work spots. */
const heights = computed(() => {
  const list = new Map<number, string>([[0, 'ground']]);
  for (const o of rigs.rig?.obstacles ?? [])
    if (o.kind === 'box') list.set(Math.round(o.xyzMm[2] + o.sizeMm[2]), o.name);
  for (const s of rigs.rig?.spots ?? []) if (!list.has(s.xyzMm[2])) list.set(s.xyzMm[2], s.name);
  return [...list].map(([value, name]) => ({ value, label: `${name}, ${formatNumber(value, 0)} mm` }));
});

// ── Making it ─────────────────────────────────────────────────────────────────────────────────────────────────────

/** The state of this rig that maps are held against; it outlives a walk to another station. */
const pinned = computed(() => (view.pinned?.rigId === rigs.id ? view.pinned : null));
const making = useJob('map', {
  request: () =>
    tool.value && {
      toolId: tool.value.id,
      request: {
        plane: plane.value,
        height: toM(heightMm.value),
        direction: wished.value,
        held: stands.value,
        samples: SAMPLES,
        seed: 1,
        cell: 0,
      },
      pinned: pinned.value,
      holding: holding.value,
    },
  when: () =>
    [
      question.value,
      rigs.mechanism,
      tool.value?.id,
      pinned.value,
      holding.value && [holding.value, rigs.hardware],
    ] as const,
  after: 200,
});
const { answer: made, isBusy: isMaking, isCancelled } = making;
const before = computed(() => made.value?.earlier ?? null);
function pin(): void {
  const { rig, build } = rigs;
  if (!rig) return;
  const at = new Date().toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
  view.pinned = { rigId: rigs.id!, doc: rig.mechanism, mounting: build?.mounting, at };
}

const map = computed(() => made.value?.map ?? null);
const change = computed(() => (map.value && before.value ? compareMaps(before.value, map.value) : null));
const bounds = computed(() => {
  const b = map.value && map.value.request.plane !== 'shell' ? mapBounds(map.value) : null;
  if (!b || !map.value) return null;
  const mm = (v: number): string => `${formatNumber(toMm(v), 0)} mm`;
  if (map.value.request.plane === 'plan')
    return [
      { name: 'farthest from the turn', value: mm(b.out) },
      { name: 'nearest to it', value: mm(b.in) },
    ];
  return [
    { name: 'farthest out', value: mm(b.out) },
    { name: 'highest', value: mm(b.high) },
    { name: 'lowest', value: mm(b.low) },
    { name: 'on the ground, in front', value: b.ground ? `${mm(b.ground[0])} to ${mm(b.ground[1])}` : 'nothing' },
  ];
});
const extent = (v: number): string => (map.value?.request.plane === 'shell' ? volumeText(v) : areaText(v));
/** A map that was made before torque was asked for has none yet. */
const shownField = computed((): MapField =>
  field.value === 'torque' && !map.value?.torqueLeft ? 'margin' : field.value,
);
const levels = computed(() => mapLevels(shownField.value));
useOverlay(() => ({
  layers: {
    map: map.value && {
      map: map.value,
      field: shownField.value,
      before: before.value,
    },
    shell: made.value?.shell ?? null,
  },
  dimensions: false,
}));

// ── Taking it along ───────────────────────────────────────────────────────────────────────────────────────────────

const nameOf = (ending: string): string => fileName(rigs.id, `reach-map-${plane.value}`, ending);
function sheet(): ReturnType<typeof reachMapSheet> | null {
  const { rig, mechanism } = rigs;
  if (!rig || !mechanism || !map.value) return null;
  return reachMapSheet({
    rig,
    mechanism,
    q: view.q,
    width: 1100,
    height: 800,
    map: { map: map.value, field: shownField.value, before: before.value },
  });
}
function saveCsv(): void {
  if (map.value) saveFile(nameOf('csv'), 'text/csv', reachMapToCsv(map.value));
}
function saveSvg(): void {
  const made = sheet();
  if (made) saveFile(nameOf('svg'), 'image/svg+xml', made.svg);
}
async function savePicture(): Promise<void> {
  if (plane.value === 'shell') {
    const blob = await view.picture?.();
    return blob ? saveBlob(nameOf('png'), blob) : undefined;
  }
  const made = sheet();
  if (made) await savePng(nameOf('png'), made.svg, made.width, made.height);
}
</script>

<template>
  <div class="map" :data-map="isMaking ? 'making' : map ? map.request.plane : 'none'" :data-extent="map?.extent">
    <div class="two">
      <span v-rove.across="'button'" class="choice" role="group" aria-label="Where to map"
        ><button v-for="p in planes" :key="p.id" :aria-pressed="plane === p.id" @click="setPlane(p.id)">
          {{ p.name }}
        </button></span
      >
    </div>
    <div class="form">
      <ChoiceField
        label="tool points"
        name="Direction demanded of the tool"
        :options="directions"
        :value="direction"
        @change="direction = $event as Pointing"
      />
      <ChoiceField
        label="coloured by"
        name="Colour of the map"
        :options="fields"
        :value="field"
        @change="field = $event as MapField"
      />
      <ChoiceField
        v-if="field === 'torque'"
        label="it holds"
        :options="loads"
        :value="holds"
        @change="holds = $event as string"
      />
      <TermHint v-if="field === 'manipulability'" class="group" term="easeOfMotion" />
      <label v-if="plane === 'plan'"
        >at height
        <NumberField
          :value="heightMm"
          dimension="length"
          :decimals="0"
          label="Height of the slice"
          :min="-3000"
          :max="5000"
          :commit="(v: number) => void (heightMm = v)"
      /></label>
      <ChoiceField
        v-if="plane === 'plan'"
        class="level-with"
        label="or level with"
        name="Slice level with"
        placeholder="choose"
        :options="heights"
        :value="heights.find((h) => h.value === heightMm)?.value ?? null"
        @change="heightMm = Number($event)"
      />
    </div>
    <HoldStill>
      <span class="small muted">{{ held.size ? 'as it stands' : 'none: all go over their whole range' }}</span>
    </HoldStill>
    <p v-if="isMaking" class="small muted">Mapping the reach …</p>
    <p v-else-if="isCancelled" class="row small muted">
      Stopped. <Button size="small" variant="text" label="Make the map" @click="making.again" />
    </p>

    <template v-if="map && !isMaking">
      <p class="sum" role="status">
        <b>{{ extent(map.extent) }}</b>
        <span class="muted small">
          {{ map.request.plane === 'shell' ? 'reached in space' : 'reached on this slice' }}, in cells of
          {{ formatNumber(map.grid.cell * 1000, 1) }} mm ({{
            map.method === 'sampled' ? `${map.done.toLocaleString()} poses` : `${map.done.toLocaleString()} solves`
          }})</span
        >
      </p>
      <p v-if="field === 'torque'" class="small muted">
        Left of the torque of the motor that bears most, standing there in the best posture; under 5 % may be too
        weak.
      </p>
      <p v-if="map.extent === 0" class="small muted">
        The tool reaches nothing here: take another height or leave its direction free.
      </p>
      <div v-if="map.request.plane !== 'shell'" class="legend" aria-label="Legend">
        <span v-for="(l, k) in levels" :key="k" class="small"
          ><svg width="22" height="14" aria-hidden="true">
            <rect :class="`map-${k}`" width="22" height="14" />
            <path v-if="k === 0" class="map-hatch" d="M0 14L14 0M8 14L22 0" /></svg
          >{{ l.words }}</span
        >
        <span v-if="change" class="small"
          ><svg width="14" height="14" aria-hidden="true"><path class="map-gained" d="M2 7h10M7 2v10" /></svg
          >gained</span
        >
        <span v-if="change" class="small"
          ><svg width="14" height="14" aria-hidden="true"><path class="map-lost" d="M2 2l10 10M12 2L2 12" /></svg
          >lost</span
        >
      </div>
      <dl v-if="bounds" class="bounds">
        <template v-for="b in bounds" :key="b.name"
          ><dt>{{ b.name }}</dt>
          <dd class="num">{{ b.value }}</dd></template
        >
      </dl>
      <p v-if="map.request.plane === 'shell'" class="small muted">
        The shell is drawn in the 3D view; its cells can be taken along as a table.
      </p>
    </template>

    <div class="rule">
      <h2>Against an earlier state</h2>
      <Button size="small" severity="secondary" :label="pinned ? 'Pin again' : 'Pin this state'" @click="pin" />
      <Button v-if="pinned" size="small" variant="text" label="Unpin" @click="view.pinned = null" />
    </div>
    <p v-if="!pinned" class="small muted">
      Pin the rig as it is, change a length or a limit, and see here what reach is gained and lost.
    </p>
    <p v-else-if="change" class="small" :data-gained="change.gainedExtent" :data-lost="change.lostExtent">
      Since {{ pinned.at }}: <b class="num good">+ {{ extent(change.gainedExtent) }}</b> gained,
      <b class="num bad">− {{ extent(change.lostExtent) }}</b> lost.
    </p>
    <div class="row wrap take">
      <Button size="small" severity="secondary" label="CSV" :disabled="!map" @click="saveCsv" />
      <Button size="small" severity="secondary" label="SVG" :disabled="!map || plane === 'shell'" @click="saveSvg" />
      <Button
        size="small"
        severity="secondary"
        label="PNG"
        :disabled="!map || (plane === 'shell' && !view.picture)"
        @click="savePicture"
      />
    </div>
  </div>
</template>

<style scoped>
.level-with {
  grid-column: span 2;
}
.choice {
  display: flex;
}
.choice button {
  flex: 1;
}
.sum {
  margin: 0.6rem 0 0.4rem;
}
.sum b {
  font-size: 1.35rem;
  margin-right: 0.4rem;
}
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 0.9rem;
  margin: 0.3rem 0 0.8rem;
}
.legend span {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
}
.bounds {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0.15rem 1rem;
  margin: 0 0 0.9rem;
  font-size: 0.9rem;
}
.bounds dt {
  color: var(--ink-2);
}
.bounds dd {
  margin: 0;
}
.good {
  color: var(--good);
}
.bad {
  color: var(--alarm);
}
.take {
  margin-top: 0.9rem;
}
</style>
