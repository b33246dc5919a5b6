<script setup lang="ts">
import { IconArchive, IconMoon, IconPlus, IconRestore, IconSun, IconUpload } from '@tabler/icons-vue';
import { useTitle } from '@vueuse/core';
import Button from 'primevue/button';
import { useConfirm } from 'primevue/useconfirm';
import { useToast } from 'primevue/usetoast';
import { onMounted, reactive, ref, shallowRef, useTemplateRef } from 'vue';
import { useRouter } from 'vue-router';
import type { RigSummary } from '@cork-elbow/core/contract';
import type { Drawing } from '@cork-elbow/core/drawing';
import { api, restore } from '../api';
import { saveFile } from '../shared/save-file';
import { useThemeStore } from '../stores/theme';
import NetworkCard from './NetworkCard.vue';
import RigCard from './RigCard.vue';
import UnreadableCard from './UnreadableCard.vue';

const router = useRouter();
useTitle('Cork Elbow');

const toast = useToast();
/** One at a time: the last one is what counts. */
const say = (severity: 'success' | 'error', summary: string): void => {
  toast.removeAllGroups();
  toast.add({ severity, summary, life: severity === 'error' ? 9000 : 6000 });
};
const confirm = useConfirm();
const look = useThemeStore();
const rigs = shallowRef<RigSummary[] | null>(null);
const drawings = reactive(new Map<string, Drawing>());
const error = ref('');
/** Bytes of a backup, as the server takes them. */
const MOST_BACKUP = 512 * 2 ** 20;
const file = useTemplateRef('file');
const backup = useTemplateRef('backup');

/** What draws arms and reads their files comes after the shelf itself is seen. */
const tools = () => import('./tools');
async function load(): Promise<void> {
  try {
    rigs.value = await api.rigs();
    error.value = '';
    await Promise.all(rigs.value.filter(({ unreadable }) => !unreadable).map(({ id }) => sketch(id)));
  } catch (e) {
    error.value = (e as Error).message;
  }
}
async function sketch(id: string): Promise<void> {
  let rig;
  try {
    ({ rig } = await api.rig(id));
  } catch {
    // It was found as it was opened that it cannot be: the shelf says so from now on.
    rigs.value = await api.rigs();
    return;
  }
  const drawing = (await tools()).sketch(rig);
  if (drawing) drawings.set(id, drawing);
}
onMounted(load);

const fail = (e: unknown): void => say('error', (e as Error).message);
async function add(rig: unknown): Promise<void> {
  try {
    const { id } = await api.create(rig);
    await router.push(`/rigs/${id}`);
  } catch (e) {
    fail(e);
  }
}
async function open(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement;
  const chosen = input.files?.[0];
  input.value = '';
  if (!chosen) return;
  const read = await (await tools()).readRigFile(chosen);
  if ('problem' in read) return fail(new Error(read.problem));
  await add(read.rig);
}
async function copy(id: string): Promise<void> {
  try {
    const { rig } = await api.rig(id);
    await api.create({ ...rig, name: `${rig.name}, copy`.slice(0, 80) });
    await load();
  } catch (e) {
    fail(e);
  }
}
async function download(id: string): Promise<void> {
  const { rig } = await api.rig(id);
  const { fileName } = await tools();
  saveFile(fileName(id, '', 'rig.json'), 'application/json', JSON.stringify(rig, null, 2));
}
async function goBack({ id, name }: RigSummary): Promise<void> {
  try {
    await api.goBack(id);
    say('success', `What “${name}” was before its last change is back.`);
  } catch (e) {
    fail(e);
  }
  await load();
}
function putBack(event: Event): void {
  const input = event.target as HTMLInputElement;
  const chosen = input.files?.[0];
  input.value = '';
  if (!chosen) return;
  if (chosen.size > MOST_BACKUP)
    return fail(new Error(`“${chosen.name}” is larger than the ${MOST_BACKUP / 2 ** 20} MB that a backup may have.`));
  confirm.require({
    header: 'Put this backup back?',
    message: `“${chosen.name}” takes the place of the whole shelf, with all measurements and run logs. What is here now is kept as a copy in the data folder.`,
    acceptLabel: 'Put it back',
    rejectLabel: 'Leave the shelf as it is',
    acceptProps: { severity: 'danger' },
    rejectProps: { severity: 'secondary' },
    accept: async () => {
      try {
        const { rigs: count } = await restore(chosen);
        drawings.clear();
        await load();
        say('success', `The shelf is back, with ${count} rigs.`);
      } catch (e) {
        fail(e);
      }
    },
  });
}
function remove({ id, name }: RigSummary): void {
  confirm.require({
    header: 'Take it off the shelf?',
    message: `“${name}” and its run log will be gone. Download it first if you may want it back.`,
    acceptLabel: 'Take it off',
    rejectLabel: 'Keep it',
    acceptProps: { severity: 'danger' },
    rejectProps: { severity: 'secondary' },
    accept: () => void api.remove(id).then(load).catch(fail),
  });
}
</script>

<template>
  <div class="shelf">
    <header>
      <svg viewBox="0 0 32 32" width="38" height="38" aria-hidden="true">
        <path d="M7 28V11q0-4 4-4h17" fill="none" stroke="var(--cork)" stroke-width="8" />
        <circle cx="9.5" cy="9.5" r="2.6" fill="var(--board)" />
      </svg>
      <div class="grow">
        <h1>Cork Elbow</h1>
        <p class="muted">A bench book for robot arms built at home: measure, reach, plan, rehearse, run.</p>
      </div>
      <Button severity="secondary" label="Open a rig file" @click="file?.click()"
        ><template #icon><IconUpload :size="18" /></template
      ></Button>
      <Button as="router-link" to="/new" label="New arm"
        ><template #icon><IconPlus :size="18" /></template
      ></Button>
      <Button
        variant="text"
        severity="secondary"
        :aria-label="look.theme === 'dark' ? 'Light theme' : 'Dark theme'"
        @click="look.theme = look.theme === 'dark' ? 'light' : 'dark'"
        ><IconSun v-if="look.theme === 'dark'" :size="19" /><IconMoon v-else :size="19"
      /></Button>
      <input ref="file" type="file" accept=".json,application/json" aria-label="Rig file" hidden @change="open" />
    </header>
    <main>
      <p v-if="error" class="error" role="alert">
        {{ error }} <Button size="small" variant="text" label="Try again" @click="load" />
      </p>
      <p v-else-if="rigs && !rigs.length" class="empty">
        The shelf is empty. Take a ruler, measure from pivot to pivot, and press <b>New arm</b>.
      </p>
      <ul v-if="rigs" class="cards">
        <template v-for="rig in rigs" :key="rig.id">
          <UnreadableCard v-if="rig.unreadable" :rig="rig" @back="goBack(rig)" @remove="remove(rig)" />
          <RigCard
            v-else
            :rig="rig"
            :drawing="drawings.get(rig.id)"
            @copy="copy(rig.id)"
            @download="download(rig.id)"
            @remove="remove(rig)"
          />
        </template>
      </ul>
      <footer v-if="rigs" class="row muted small">
        <span class="grow">All rigs, their measurements and run logs, as one file:</span>
        <Button
          as="a"
          href="/api/backup"
          download
          size="small"
          variant="text"
          severity="secondary"
          label="Download a backup"
          ><template #icon><IconArchive :size="17" /></template
        ></Button>
        <Button size="small" variant="text" severity="secondary" label="Put a backup back" @click="backup?.click()"
          ><template #icon><IconRestore :size="17" /></template
        ></Button>
        <input ref="backup" type="file" accept=".sqlite" aria-label="Backup file" hidden @change="putBack" />
      </footer>
      <NetworkCard />
    </main>
  </div>
</template>

<style scoped>
.shelf {
  max-width: 72rem;
  margin: 0 auto;
  padding: 2rem 1.5rem;
}
header {
  display: flex;
  align-items: center;
  gap: 0.8rem;
  margin-bottom: 1.6rem;
}
.cards {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(17.5rem, 1fr));
  gap: 1.2rem;
}
:deep(.card) {
  background: var(--paper);
  border-radius: 6px;
  box-shadow: var(--shadow);
  display: flex;
  flex-direction: column;
  position: relative;
}
:deep(.card)::before {
  content: '';
  position: absolute;
  top: -6px;
  left: 50%;
  width: 13px;
  height: 13px;
  margin-left: -6px;
  border-radius: 50%;
  background: var(--cork);
  box-shadow: 0 2px 3px rgb(0 0 0 / 0.25);
  z-index: 1;
}
footer {
  margin-top: 1.6rem;
  justify-content: flex-end;
  align-items: center;
}
.empty,
.error {
  background: var(--paper);
  padding: 2rem;
  border-radius: 6px;
  text-align: center;
}
.error {
  color: var(--alarm);
}
</style>
