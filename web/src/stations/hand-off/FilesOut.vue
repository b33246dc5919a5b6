<script setup lang="ts">
/** Files out: what to write, its options, what it will be, and the file. Made of the core's catalogue of exports. */
import { IconDownload } from '@tabler/icons-vue';
import { useSessionStorage } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, defineAsyncComponent, ref } from 'vue';
import { exportList, optionFields, optionsOf, type CommandOptions, type Source } from '@cork-elbow/core/exports';
import ChoiceField from '../../shared/ChoiceField.vue';
import FindingRow from '../../shared/FindingRow.vue';
import { saveFile, saveZip } from '../../shared/save-file';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { useGo } from '../../workspace/useGo';
import { usePlan } from '../../workspace/usePlan';
import CommandsPreview from './CommandsPreview.vue';
import OptionForm from './OptionForm.vue';

const SourceText = defineAsyncComponent(() => import('../../shared/SourceText.vue'));
const { foot } = defineProps<{ foot: HTMLElement | null }>();
const rigs = useRigStore();
const view = useViewStore();
const context = usePlan();
const { routineId, routine, plan, motion, trace, show, pause } = context;
const go = useGo(context);
useOverlay(() => ({ layers: { trace: trace.value }, dimensions: false }));

const chosenId = useSessionStorage('cork-elbow:export', exportList[0].id);
const made = computed(() => exportList.find(({ id }) => id === chosenId.value) ?? exportList[0]);
const fields = computed(() => optionFields(made.value.options));
/** Options as they were chosen, by export; what is not one any more is left out. */
const kept = useSessionStorage<Record<string, Record<string, unknown>>>('cork-elbow:export-options', {});
const options = computed(() => optionsOf(made.value.options, kept.value[made.value.id] ?? {}));
const set = (key: string, value: unknown): void =>
  void (kept.value = { ...kept.value, [made.value.id]: { ...options.value, [key]: value } });

const source = computed<Source | null>(() => {
  const { rig, mechanism, build, id, revision } = rigs;
  if (!rig || !mechanism || !build) return null;
  const planned =
    routine.value && plan.value?.routineId === routine.value.id && motion.value
      ? { routine: routine.value, plan: plan.value, motion: motion.value }
      : null;
  // What takes no pose is not made anew while the arm moves.
  const q = made.value.takes.includes('pose') ? view.q : mechanism.home;
  return { rig, mechanism, build, rigId: id, revision, q, planned };
});
const lacks = computed(() => (source.value ? made.value.lacks(source.value, options.value) : []));
const ofRoutine = computed(
  () =>
    made.value.takes.includes('routine') &&
    ['step-player', 'table-player', 'script'].includes(String(options.value.kind ?? 'script')),
);
const stops = computed(() =>
  made.value.id === 'commands' ? view.findings.filter((finding) => finding.severity === 'stop') : [],
);
/** Commands have a table of their own, unless they are a program’s. */
const isTable = computed(() => made.value.id === 'commands' && options.value.format !== 'h');
const files = computed(() =>
  source.value && !lacks.value.length && !isTable.value ? made.value.write(source.value, options.value) : [],
);
const notes = computed(() => (source.value ? made.value.notes(source.value, options.value) : []));
const MOST_SHOWN = 20_000;
const languages = { 'text/x-c++src': 'c', 'text/x-python': 'python' } as const;
const language = computed(
  () => languages[files.value[0]?.mediaType as keyof typeof languages] as 'c' | 'python' | undefined,
);
/** Of the files of a program one is read at a time. */
const readName = ref('');
const read = computed(() => files.value.find(({ name }) => name === readName.value) ?? files.value[0]);
const shown = computed(() =>
  language.value ? [] : files.value.map((file) => ({ ...file, head: file.text.slice(0, MOST_SHOWN) })),
);
const byteWords = (n: number): string => (n < 1000 ? `${n} bytes` : `${(n / 1000).toFixed(1)} kB`);
const bytes = computed(() => files.value.reduce((sum, { text }) => sum + new Blob([text]).size, 0));
/** Sheets that are higher than wide are read at the panel’s width, and scrolled. */
const tall = ref(new Set<string>());
function measure(name: string, { naturalWidth, naturalHeight }: HTMLImageElement): void {
  const next = new Set(tall.value);
  if (naturalHeight > naturalWidth) next.add(name);
  else next.delete(name);
  tall.value = next;
}
const picture = (text: string): string => `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
const ending = computed(() => {
  if (isTable.value) return String(options.value.format).toUpperCase();
  if (files.value.length > 1) return 'ZIP';
  const end = files.value[0]?.name.split('.').at(-1) ?? '';
  return end === 'h' ? 'header' : end.toUpperCase();
});
/** What a download brings: a folder by its name. */
const brings = computed(() => {
  const [first, ...more] = files.value;
  if (!first) return '';
  const names = more.length ? `${first.name.split('/')[0]}, ${files.value.length} files` : first.name;
  return `${names}, ${byteWords(bytes.value)}`;
});
function download(): void {
  if (!source.value) return;
  const written = made.value.write(source.value, options.value);
  if (written.length > 1) return void saveZip(`${written[0].name.split('/')[0]}.zip`, written);
  for (const { name, mediaType, text } of written) saveFile(name, mediaType, text);
}
function at(timeS: number): void {
  pause();
  show(timeS);
}
</script>

<template>
  <span v-rove.across="'button'" class="choice small kinds" role="group" aria-label="What to write"
    ><button v-for="e in exportList" :key="e.id" :aria-pressed="e.id === made.id" @click="chosenId = e.id">
      {{ e.name }}
    </button></span
  >
  <p class="muted small">{{ made.says }}</p>
  <OptionForm :fields :values="options" @change="set">
    <ChoiceField
      v-if="ofRoutine && rigs.rig!.routines.length"
      label="Routine"
      :options="rigs.rig!.routines.map((r) => ({ value: r.id, label: r.name }))"
      :value="routine?.id ?? ''"
      @change="routineId = String($event)"
    />
  </OptionForm>
  <FindingRow v-for="finding in lacks" :key="finding.code" :finding @go="go" />
  <p v-for="note in notes" :key="note" class="muted small">{{ note }}</p>
  <template v-if="source && !lacks.length">
    <p v-if="stops.length" class="stopped" role="alert">
      {{ stops[0].message }} A run is refused until this is mended; the table holds what could be planned all the
      same.
    </p>
    <CommandsPreview v-if="isTable" :source :options="options as CommandOptions" @at="at" />
    <template v-else-if="language && read">
      <span v-if="files.length > 1" v-rove.across="'button'" class="choice small" role="group" aria-label="File"
        ><button v-for="{ name } in files" :key="name" :aria-pressed="name === read.name" @click="readName = name">
          {{ name.split('/').at(-1) }}
        </button></span
      >
      <SourceText class="program grows" :text="read.text" :label="read.name" :language />
    </template>
    <template v-for="file in shown" v-else :key="file.name">
      <div
        v-if="file.mediaType === 'image/svg+xml'"
        class="frame grows"
        tabindex="0"
        role="region"
        :aria-label="file.name"
      >
        <img
          class="picture"
          :class="{ tall: tall.has(file.name) }"
          :src="picture(file.text)"
          :alt="`${made.name}: ${file.name}`"
          @load="measure(file.name, $event.target as HTMLImageElement)"
        />
      </div>
      <div
        v-else-if="file.mediaType === 'text/tab-separated-values'"
        class="cells wide-table grows"
        tabindex="0"
        role="region"
        :aria-label="file.name"
      >
        <table class="plain num">
          <tbody>
            <tr v-for="(line, k) in file.head.trimEnd().split('\n')" :key="k">
              <td v-for="(cell, c) in line.split('\t')" :key="c">{{ cell }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <pre v-else class="text num grows" tabindex="0" :aria-label="file.name">{{ file.head }}</pre>
    </template>
  </template>
  <Teleport v-if="foot" :to="foot">
    <p class="grow muted small">
      {{ lacks.length ? '' : brings }}
    </p>
    <Button :label="`Download ${ending}`.trim()" :disabled="lacks.length > 0" @click="download"
      ><template #icon><IconDownload :size="17" /></template
    ></Button>
  </Teleport>
</template>

<style scoped>
.frame {
  flex: 1 1 12rem;
  min-height: 12rem;
  overflow: auto;
  background: #fff;
  border: 1px solid var(--lines);
  border-radius: 4px;
  margin-top: 0.4rem;
}
.picture {
  display: block;
  width: 100%;
  max-height: 100%;
  object-fit: contain;
}
.picture.tall {
  max-height: none;
}
.cells {
  overflow: auto;
  flex: 0 1 auto;
  min-height: 8rem;
  border: 1px solid var(--lines);
  border-radius: 4px;
  font-size: 0.8rem;
}
.cells td {
  white-space: nowrap;
}
.text {
  flex: 0 1 auto;
  min-height: 8rem;
  overflow: auto;
  border: 1px solid var(--lines);
  border-radius: 4px;
  padding: 0.5rem;
  font-size: 0.8rem;
  margin: 0.4rem 0 0;
}
.program {
  flex: 1 1 14rem;
  margin-top: 0.4rem;
}
.stopped {
  background: var(--alarm-wash);
  border-left: 4px solid var(--alarm);
  padding: 0.4rem 0.6rem;
  border-radius: 3px;
  margin-bottom: 0.5rem;
}
</style>
