<script setup lang="ts">
/** A new arm: choose its kind, measure what the letters say, make it. */
import { IconArrowLeft, IconPrinter } from '@tabler/icons-vue';
import { useSessionStorage, useTitle } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, reactive, ref, watch } from 'vue';
import { RouterLink, useRouter } from 'vue-router';
import { faultSentence, MAX_JOINTS, RIG_VERSION } from '@cork-elbow/core/rig';
import {
  letterOfMeasure,
  presetGroups,
  presets,
  rigFromPreset,
  usualMeasures,
  type PresetGroup,
} from '@cork-elbow/core/presets';
import { api } from '../api';
import DrawingSvg from '../shared/DrawingSvg.vue';
import NumberField from '../shared/NumberField.vue';
import TextField from '../shared/TextField.vue';
import { guideDrawings, thumbnail } from './guide';

const { preset: presetId } = defineProps<{ preset?: string }>();
const router = useRouter();

const groups = (Object.keys(presetGroups) as PresetGroup[]).map((id) => ({
  id,
  name: presetGroups[id],
  presets: presets.filter((p) => p.group === id).map((p) => ({ preset: p, drawing: thumbnail(p) })),
}));
const chosen = computed(() => presets.find((p) => p.id === presetId) ?? null);
useTitle(() => `${chosen.value?.name ?? 'New arm'} · Cork Elbow`);
const name = ref('');
const measures = reactive<Record<string, number>>({});
/** What was typed so far, kind by kind: there again after a look at the sheet, another kind, or a reload. */
const typed = useSessionStorage<Record<string, { name: string; measures: Record<string, number> }>>(
  'cork-elbow:new-arm',
  {},
);
watch(
  chosen,
  (preset) => {
    for (const key of Object.keys(measures)) delete measures[key];
    if (!preset) return;
    const before = typed.value[preset.id];
    Object.assign(measures, usualMeasures(preset), before?.measures);
    name.value = before?.name ?? `My ${preset.name.charAt(0).toLowerCase()}${preset.name.slice(1)}`.slice(0, 80);
  },
  { immediate: true },
);
watch([name, measures], () => {
  if (chosen.value) typed.value[chosen.value.id] = { name: name.value, measures: { ...measures } };
});
const guide = computed(
  () => chosen.value && guideDrawings(chosen.value, measures, (_view, i) => ({ width: 560, height: i ? 320 : 400 })),
);
const drawings = computed(() => (guide.value?.ok ? guide.value.drawings : []));
const problem = ref('');
const busy = ref(false);
async function make(): Promise<void> {
  const preset = chosen.value;
  if (!preset || busy.value) return;
  const made = rigFromPreset(preset, name.value, measures);
  if (!made.ok) return void (problem.value = faultSentence(null, made.faults[0]));
  busy.value = true;
  try {
    const { id } = await api.create(made.value);
    delete typed.value[preset.id];
    await router.push(`/rigs/${id}`);
  } catch (error) {
    problem.value = (error as Error).message;
  } finally {
    busy.value = false;
  }
}
/** A rig without joints, for those who come with a table or begin from nothing. */
async function empty(part: 'table' | 'joints'): Promise<void> {
  try {
    const { id } = await api.create({
      format: 'cork-elbow-rig',
      version: RIG_VERSION,
      name: part === 'table' ? 'Arm from a table' : 'My arm',
      mechanism: {
        joints: [],
        base: {
          feet: [
            [70, 60],
            [-70, 60],
            [-70, -60],
            [70, -60],
          ],
        },
      },
      routines: [{ id: 'first', name: 'First routine', steps: [] }],
    });
    await router.push(`/rigs/${id}/measure?part=${part}`);
  } catch (error) {
    problem.value = (error as Error).message;
  }
}
const sheet = computed(() => ({
  path: `/new/${chosen.value?.id}/sheet`,
  query: Object.fromEntries([...Object.entries(measures).map(([k, v]) => [k, String(v)]), ['name', name.value]]),
}));
</script>

<template>
  <div class="page">
    <header>
      <RouterLink class="back" :to="chosen ? '/new' : '/'"
        ><IconArrowLeft :size="20" aria-hidden="true" /> {{ chosen ? 'All kinds' : 'Shelf' }}</RouterLink
      >
      <h1>{{ chosen ? chosen.name : 'What kind of arm is it?' }}</h1>
    </header>

    <main v-if="chosen" class="measure">
      <section class="sheet" aria-label="Where to measure">
        <p class="muted">{{ chosen.says }}</p>
        <DrawingSvg v-for="(drawing, i) in drawings" :key="i" :drawing class="guide" />
        <p v-if="guide && !guide.ok" class="problem" role="alert">{{ guide.message }}</p>
      </section>
      <section class="form-side" aria-label="Measures">
        <label class="name"
          >Name
          <TextField
            :value="name"
            label="Name of the arm"
            :commit="(v: string) => (v ? void (name = v) : 'An arm needs a name.')"
        /></label>
        <ol>
          <li v-for="(m, i) in chosen.measures" :key="m.key">
            <i class="letter">{{ letterOfMeasure(i) }}</i>
            <span>{{ m.label }}</span>
            <NumberField
              :value="measures[m.key]"
              dimension="length"
              :decimals="1"
              :label="m.label"
              :min="m.min"
              :max="m.max"
              :commit="(v: number) => void (measures[m.key] = v)"
            />
          </li>
        </ol>
        <p class="muted small">
          From the middle of one pivot to the middle of the next, in mm; sums and inches (“4 1/2 in”) are fine. What
          you have not measured yet can stay as it is: everything can be changed later.
        </p>
        <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
        <div class="row">
          <Button label="Make it" :disabled="busy || !guide?.ok" @click="make" />
          <Button as="router-link" severity="secondary" label="Measuring sheet" :to="sheet"
            ><template #icon><IconPrinter :size="17" /></template
          ></Button>
        </div>
      </section>
    </main>

    <main v-else>
      <section v-for="group in groups" :key="group.id" :aria-label="group.name">
        <h2>{{ group.name }}</h2>
        <ul class="kinds">
          <li v-for="{ preset, drawing } in group.presets" :key="preset.id">
            <RouterLink :to="`/new/${preset.id}`" class="kind">
              <span class="thumb"><DrawingSvg v-if="drawing" :drawing /></span>
              <span class="title">{{ preset.name }}</span>
              <span class="muted small">{{ preset.says }}</span>
            </RouterLink>
          </li>
        </ul>
      </section>
      <section aria-label="Other ways">
        <h2>None of these</h2>
        <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
        <div class="row wrap">
          <Button severity="secondary" label="From a Denavit–Hartenberg table" @click="empty('table')" />
          <Button severity="secondary" label="Joint by joint" @click="empty('joints')" />
          <span class="muted small">Any tree of up to {{ MAX_JOINTS }} joints that turn or slide.</span>
        </div>
      </section>
    </main>
  </div>
</template>

<style scoped>
.page {
  max-width: 76rem;
  margin: 0 auto;
  padding: 1.6rem 1.5rem 3rem;
}
header {
  margin-bottom: 1.1rem;
}
.back {
  display: inline-flex;
  align-items: center;
  gap: 0.3rem;
  color: var(--ink-2);
  text-decoration: none;
  margin-bottom: 0.3rem;
  min-height: 1.75rem;
}
@media (pointer: coarse) {
  .back {
    min-height: 2.75rem;
    min-width: 2.75rem;
  }
}
.back:hover {
  color: var(--ink);
}
h2 {
  margin: 1.3rem 0 0.6rem;
}
.kinds {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(13.5rem, 1fr));
  gap: 0.9rem;
}
.kind {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: var(--paper);
  border-radius: 6px;
  box-shadow: var(--shadow);
  padding: 0.7rem 0.8rem 0.8rem;
  color: inherit;
  text-decoration: none;
  line-height: 1.25;
  gap: 0.2rem;
}
.kind:hover .title {
  color: var(--pine);
}
.thumb {
  aspect-ratio: 200 / 150;
  border-bottom: 1px solid var(--lines);
  overflow: hidden;
  margin-bottom: 0.35rem;
}
.title {
  font: 700 1.02rem var(--display);
}
.measure {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 27rem;
  gap: 1.2rem;
  align-items: start;
}
.sheet,
.form-side {
  background: var(--paper);
  border-radius: 6px;
  box-shadow: var(--shadow);
  padding: 1rem 1.1rem;
}
.guide {
  height: auto;
  margin-top: 0.5rem;
}
.guide + .guide {
  border-top: 1px solid var(--lines);
}
.name {
  display: grid;
  gap: 0.15rem;
  font-size: 0.88rem;
  color: var(--ink-2);
}
ol {
  list-style: none;
  margin: 0.9rem 0;
  padding: 0;
  display: grid;
  gap: 0.4rem;
}
li {
  min-width: 0;
}
ol li {
  display: grid;
  grid-template-columns: 1.6rem 1fr 8.2rem;
  align-items: center;
  gap: 0.5rem;
  line-height: 1.2;
}
.letter {
  font: 700 0.95rem var(--mono);
  color: var(--cork);
  border: 1.4px solid var(--cork);
  border-radius: 50%;
  width: 1.5rem;
  height: 1.5rem;
  display: grid;
  place-content: center;
}
.problem {
  color: var(--alarm);
  background: var(--alarm-wash);
  padding: 0.4rem 0.6rem;
  border-radius: 4px;
  margin: 0.5rem 0;
}
.row {
  margin-top: 0.8rem;
}
@media (max-width: 960px) {
  .measure {
    grid-template-columns: 1fr;
  }
}
</style>
