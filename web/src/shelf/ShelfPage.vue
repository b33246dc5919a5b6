<script setup lang="ts">
import { IconCopy, IconDownload, IconMoon, IconPlus, IconSun, IconTrash, IconUpload } from '@tabler/icons-vue';
import { formatDistanceToNow } from 'date-fns';
import Button from 'primevue/button';
import { useConfirm } from 'primevue/useconfirm';
import { useToast } from 'primevue/usetoast';
import { onMounted, reactive, ref, shallowRef, useTemplateRef } from 'vue';
import { RouterLink, useRouter } from 'vue-router';
import type { RigSummary } from '@cork-elbow/core/contract';
import { drawRig, type Drawing } from '@cork-elbow/core/drawing';
import { admit, standing } from '@cork-elbow/core/admit';
import { fileName, faultSentence } from '@cork-elbow/core/rig';
import { api } from '../api';
import { saveFile } from '../shared/save-file';
import DrawingSvg from '../shared/DrawingSvg.vue';
import { useThemeStore } from '../stores/theme';
import IconButton from '../shared/IconButton.vue';

const router = useRouter();
const toast = useToast();
const confirm = useConfirm();
const look = useThemeStore();
const rigs = shallowRef<RigSummary[] | null>(null);
const drawings = reactive(new Map<string, Drawing>());
const error = ref('');
const file = useTemplateRef('file');

async function load(): Promise<void> {
  try {
    rigs.value = await api.rigs();
    error.value = '';
    await Promise.all(rigs.value.map(({ id }) => sketch(id)));
  } catch (e) {
    error.value = (e as Error).message;
  }
}
async function sketch(id: string): Promise<void> {
  const { rig } = await api.rig(id);
  const stands = standing(rig);
  if (stands.ok)
    drawings.set(
      id,
      drawRig({
        rig,
        mechanism: stands.mechanism,
        q: stands.mechanism.home,
        kind: 'side',
        width: 320,
        height: 230,
        bare: true,
        fit: 'pose',
        spots: false,
      }),
    );
}
onMounted(load);

const fail = (e: unknown): void => toast.add({ severity: 'error', summary: (e as Error).message, life: 9000 });
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
  let content: unknown;
  try {
    content = JSON.parse(await chosen.text());
  } catch {
    return fail(new Error(`“${chosen.name}” is not a rig file: it holds no valid JSON.`));
  }
  const parsed = admit(content);
  if (!parsed.ok) return fail(new Error(`“${chosen.name}”: ${faultSentence(content, parsed.faults[0])}`));
  await add(parsed.rig);
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
  saveFile(fileName(id, '', 'rig.json'), 'application/json', JSON.stringify(rig, null, 2));
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
        <li v-for="rig in rigs" :key="rig.id" class="card">
          <RouterLink :to="`/rigs/${rig.id}`" class="open">
            <span class="sheet"><DrawingSvg v-if="drawings.get(rig.id)" :drawing="drawings.get(rig.id)!" /></span>
            <span class="name">{{ rig.name }}</span>
            <span class="muted small"
              >{{ rig.joints }} joints, {{ rig.routines }} {{ rig.routines === 1 ? 'routine' : 'routines' }}, changed
              {{ formatDistanceToNow(new Date(rig.updatedAt), { addSuffix: true }) }}</span
            >
          </RouterLink>
          <span class="row actions">
            <IconButton :icon="IconCopy" :label="`Copy ${rig.name}`" title="Copy" @click="copy(rig.id)" />
            <IconButton
              :icon="IconDownload"
              :label="`Download ${rig.name}`"
              title="Download as a file"
              @click="download(rig.id)"
            />
            <IconButton
              :icon="IconTrash"
              :label="`Take ${rig.name} off the shelf`"
              title="Take off the shelf"
              danger
              @click="remove(rig)"
            />
          </span>
        </li>
      </ul>
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
.card {
  background: var(--paper);
  border-radius: 6px;
  box-shadow: var(--shadow);
  display: flex;
  flex-direction: column;
  position: relative;
}
.card::before {
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
.open {
  display: flex;
  flex-direction: column;
  padding: 0.9rem 0.9rem 0.3rem;
  color: inherit;
  text-decoration: none;
  gap: 0.1rem;
}
.open:hover .name {
  color: var(--pine);
}
.sheet {
  aspect-ratio: 320 / 230;
  border-bottom: 1px solid var(--lines);
  margin-bottom: 0.6rem;
  overflow: hidden;
}
.name {
  font: 700 1.15rem var(--display);
}
.actions {
  padding: 0 0.5rem 0.5rem;
  gap: 0;
  justify-content: flex-end;
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
