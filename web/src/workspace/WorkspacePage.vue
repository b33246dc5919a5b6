<script setup lang="ts">
import { useElementSize, useEventListener, useLocalStorage, useTitle } from '@vueuse/core';
import Button from 'primevue/button';
import Dialog from 'primevue/dialog';
import { useToast } from 'primevue/usetoast';
import { computed, nextTick, onMounted, ref, useTemplateRef, watch } from 'vue';
import { RouterLink, RouterView, useRoute, useRouter } from 'vue-router';
import type { Finding } from '@cork-elbow/core/findings';
import FindingRow from '../shared/FindingRow.vue';
import { stationList as stations } from '../shared/stations';
import JointStrip from '../joint-strip/JointStrip.vue';
import StagePanel from '../stage/StagePanel.vue';
import { useJobsStore } from '../stores/jobs';
import { useRigStore } from '../stores/rig';
import { useRunStore } from '../stores/run';
import { useViewStore } from '../stores/view';
import DeleteNote from './DeleteNote.vue';
import PaneDivider from './PaneDivider.vue';
import TopBar from './TopBar.vue';
import { useFrame } from './useFrame';
import { useGo } from './useGo';
import { createLoadNow } from './useLoadNow';
import { createPlan } from './usePlan';

const { rigId } = defineProps<{ rigId: string }>();
const rigs = useRigStore();
const view = useViewStore();
const run = useRunStore();
const jobs = useJobsStore();
const route = useRoute();
const router = useRouter();
const toast = useToast();
const plan = createPlan();
createLoadNow(plan);
const showFindings = ref(false);
const showKeys = ref(false);

// ── The frame ────────────────────────────────────────────────────────────────────────────────────────────────────
const frame = useFrame();
/** Where the bar between stage and panel stands: the panel's width in rem; the stage's share in smaller windows. */
const panelRem = useLocalStorage('cork-elbow:panel-rem', 31.75);
const stageShare = useLocalStorage('cork-elbow:stage-share', 46);
const stageHeight = useLocalStorage('cork-elbow:stage-height', 38);
const desk = useTemplateRef('desk');
const { width: deskWidth, height: deskHeight } = useElementSize(desk);
const rem = parseFloat(getComputedStyle(document.documentElement).fontSize) || 16;
/** The stage keeps at least as much as it needs for a drawing with its dimensions. */
const panelMost = computed(() => Math.max(27.5, Math.min(40, deskWidth.value / rem - 23)));
const panes = computed(() => ({
  wide: {
    gridTemplateColumns: `minmax(0, 1fr) auto ${Math.min(panelMost.value, Math.max(27.5, panelRem.value))}rem`,
  },
  medium: { gridTemplateColumns: `minmax(0, ${stageShare.value}fr) auto minmax(0, ${100 - stageShare.value}fr)` },
  tall: { gridTemplateRows: `minmax(0, ${stageHeight.value}fr) auto minmax(0, ${100 - stageHeight.value}fr)` },
  narrow: {},
}));
/** With room for one of the two: which. */
const onStage = ref(false);
const stationName = computed(() => stations.find((s) => s.id === route.name)?.name ?? '');
useTitle(() => [stationName.value, rigs.rig?.name, 'Cork Elbow'].filter(Boolean).join(' · '));

watch(
  () => rigId,
  (id) => void rigs.open(id).then(() => nextTick(() => document.activeElement === document.body && toStation())),
  { immediate: true },
);
onMounted(run.open);

// While the board drives the arm the plan's clock follows the run, so that what is carried is drawn in place.
watch(
  () => run.telemetry?.runS,
  (t) => {
    if (t !== undefined && view.poseSource === 'live' && run.status.routineId === plan.routine.value?.id)
      plan.time.value = t;
  },
);
watch(
  () => run.refusal,
  (refusal) => {
    toast.removeAllGroups();
    if (refusal) toast.add({ severity: 'error', summary: refusal.message, detail: refusal.remedy, life: 9000 });
  },
);

const counts = computed(() => {
  const map: Record<string, number> = {};
  for (const { severity, place } of view.findings)
    if (severity !== 'note') map[place.station] = (map[place.station] ?? 0) + 1;
  return map;
});
const toLook = computed(() => view.findings.filter((f) => f.severity !== 'note').length);

const goTo = useGo(plan);
function go(finding: Finding): void {
  showFindings.value = false;
  void goTo(finding);
}

/** What keys asked for since the last picture: a key that is held down repeats faster than a large rig is drawn. */
const asked: (() => void)[] = [];
function inFrame(act: () => void): void {
  if (asked.push(act) > 1) return;
  requestAnimationFrame(() => {
    for (const each of asked.splice(0)) each();
  });
}
/** What Space presses, ticks or opens by itself. */
const takesSpace = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  target.closest('button, summary, input[type=checkbox], input[type=radio], [role=combobox], [role=menuitem]') !==
    null;
// A live board: Esc is caught first and stops. Otherwise the usual keys, unless somebody is typing.
function key(event: KeyboardEvent): void {
  if (event.key === 'Escape' && (run.isRunning || run.isLed)) {
    event.preventDefault();
    event.stopImmediatePropagation();
    run.stop();
    return;
  }
  const typing =
    event.target instanceof HTMLElement &&
    /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName) &&
    !/^(range|checkbox|radio)$/.test((event.target as HTMLInputElement).type);
  // A field in which nothing has been typed has nothing of its own to take back.
  const drafting = typing && (event.target as HTMLElement).dataset.draft !== 'false';
  if (event.key.toLowerCase() === 'z' && (event.ctrlKey || event.metaKey) && !drafting) {
    event.preventDefault();
    inFrame(event.shiftKey ? rigs.redo : view.undo);
  } else if (event.key.toLowerCase() === 'y' && (event.ctrlKey || event.metaKey) && !drafting) {
    event.preventDefault();
    inFrame(rigs.redo);
  } else if (event.key === '?' && !typing) showKeys.value = true;
  else if (event.altKey && stations[Number(event.key) - 1]) {
    event.preventDefault();
    onStage.value = false;
    void router.push({ name: stations[Number(event.key) - 1].id, params: { rigId } }).then(() => nextTick(toStation));
  } else if (
    event.key === ' ' &&
    !typing &&
    !takesSpace(event.target) &&
    (view.overlay.onPlay || plan.plan.value) &&
    view.poseSource !== 'live'
  ) {
    event.preventDefault();
    if (view.overlay.onPlay) view.overlay.onPlay();
    else if (plan.isPlaying.value) plan.pause();
    else plan.play();
  }
}
useEventListener(window, 'keydown', key, { capture: true });
// Back at this window: what was saved elsewhere meanwhile is taken over.
useEventListener(window, 'focus', () => void rigs.takeOver());
useEventListener(document, 'visibilitychange', () => document.hidden || void rigs.takeOver());

/** Past head and stations, to what the station asks. */
function toStation(): void {
  document.querySelector<HTMLElement>('#station h1')?.focus();
}
const keys: [string, string][] = [
  ['Esc', 'Stop, while a board is moving'],
  ['Space', 'Play or pause the routine on the stage; a recording on the Bench'],
  ['Ctrl Z, Ctrl Shift Z', 'Undo, redo'],
  ['Tab, then ↑ ↓', 'Go from list to list; arrow keys, Home and End go inside one'],
  ['← → on a divider', 'Make the station wider or narrower; Enter puts it back'],
  [`Alt 1 … Alt ${stations.length}`, 'Go to a station'],
  ['↑ ↓ in a number', 'Step by one; with Shift by ten, with Alt by a tenth'],
  ['↑ ↓ ← →, Page ↑ ↓', 'On the Reach page: step the target forward, back, left, right, up, down'],
  ['↑ ↓, with Shift', 'On the Routine page: walk through the steps, choose several'],
  ['Ctrl C, X, V, A', 'Copy, cut, paste, choose all the steps; also into another routine'],
  ['Alt ↑ ↓, S, Delete', 'Move, skip, delete the chosen steps'],
  ['← →, Enter', 'Fold and unfold a step that holds others; go to its fields'],
  ['[ and ]', 'On the Reach page: tilt the tool down or up'],
  ['?', 'This list'],
];
</script>

<template>
  <div
    class="workspace"
    :data-rig="rigs.rig ? 'open' : 'closed'"
    :data-save="rigs.saveState"
    :data-plan="!plan.plan.value ? 'none' : plan.isCurrent.value ? 'ready' : 'planning'"
    :data-frame="frame"
  >
    <a class="skip" href="#station" @click.prevent="toStation">Skip to the station</a>
    <TopBar class="bar-top" :frame :to-look="toLook" @findings="showFindings = true" @keys="showKeys = true" />
    <template v-if="rigs.rig && rigs.mechanism">
      <nav class="tabs" aria-label="Stations">
        <button v-if="frame === 'narrow'" class="tab switch" :aria-pressed="onStage" @click="onStage = !onStage">
          Stage
        </button>
        <RouterLink
          v-for="s in stations"
          :key="s.id"
          :to="{ name: s.id, params: { rigId } }"
          class="tab"
          :class="{ away: frame === 'narrow' && onStage }"
          @click="onStage = false"
        >
          {{ s.name
          }}<span v-if="counts[s.id]" class="count" :aria-label="`, ${counts[s.id]} to look at`">{{
            counts[s.id]
          }}</span>
        </RouterLink>
      </nav>
      <main ref="desk" class="desk" :style="panes[frame]">
        <StagePanel v-if="frame !== 'narrow' || onStage" />
        <PaneDivider
          v-if="frame === 'wide'"
          v-model="panelRem"
          class="pane-bar"
          upright
          :min="27.5"
          :max="panelMost"
          :usual="31.75"
          :step="1"
          :per-pixel="-1 / rem"
          label="Width of the station"
          :value-text="`${Math.round(panelRem * rem)} pixels`"
        />
        <PaneDivider
          v-else-if="frame === 'medium'"
          v-model="stageShare"
          class="pane-bar"
          upright
          :min="34"
          :max="54"
          :usual="46"
          :step="1"
          :per-pixel="100 / Math.max(1, deskWidth)"
          label="Width of the stage"
          :value-text="`${Math.round(stageShare)} per cent`"
        />
        <PaneDivider
          v-else-if="frame === 'tall'"
          v-model="stageHeight"
          class="pane-bar"
          :upright="false"
          :min="22"
          :max="62"
          :usual="38"
          :step="1"
          :per-pixel="100 / Math.max(1, deskHeight)"
          label="Height of the stage"
          :value-text="`${Math.round(stageHeight)} per cent`"
        />
        <section v-show="frame !== 'narrow' || !onStage" id="station" class="station" :aria-label="stationName">
          <RouterView />
        </section>
        <DeleteNote class="note" />
        <div v-if="jobs.running.size" class="jobs" role="status">
          <div v-for="job in jobs.running.values()" :key="job.key" class="row">
            <span>{{ job.label }} {{ Math.round(job.progress * 100) }} %</span
            ><Button size="small" variant="text" label="Cancel" @click="job.cancel()" />
          </div>
        </div>
      </main>
      <JointStrip :frame />
    </template>
    <div v-else class="closed">
      <template v-if="rigs.loadError">
        <h1>This rig could not be opened.</h1>
        <p>{{ rigs.loadError }}</p>
        <RouterLink to="/">Back to the shelf</RouterLink>
      </template>
      <p v-else class="muted">Opening …</p>
    </div>

    <Dialog v-model:visible="showFindings" modal header="Checks" :style="{ width: '44rem' }">
      <div class="stack">
        <p v-if="!view.findings.length" class="muted">
          Nothing to look at: every step is inside its limits and every motor has its pin and its two points.
        </p>
        <FindingRow v-for="(finding, i) in view.findings" :key="i" :finding @go="go" />
      </div>
    </Dialog>
    <Dialog v-model:visible="showKeys" modal header="Keys">
      <table class="plain">
        <tbody>
          <tr v-for="[k, what] in keys" :key="k">
            <td class="num">{{ k }}</td>
            <td>{{ what }}</td>
          </tr>
        </tbody>
      </table>
    </Dialog>
    <Dialog :visible="rigs.saveState === 'conflict'" modal :closable="false" header="Changed in two places">
      <div class="stack">
        <p>
          {{ rigs.saveMessage || 'This rig was also changed elsewhere.' }} Only one of the two can stay; the one you
          leave can be brought back by undo.
        </p>
        <div v-if="rigs.clash?.places.length" data-clash>
          <p class="muted small">They differ in</p>
          <ul class="small">
            <li v-for="place in rigs.clash.places" :key="place">{{ place }}</li>
            <li v-if="rigs.clash.more" class="muted">and {{ rigs.clash.more }} more places</li>
          </ul>
        </div>
        <div class="row">
          <Button label="Keep what is on this screen" @click="rigs.settle('mine')" /><Button
            severity="secondary"
            label="Take the other one"
            @click="rigs.settle('theirs')"
          />
        </div>
      </div>
    </Dialog>
  </div>
</template>

<style scoped>
.workspace {
  display: grid;
  grid-template: auto minmax(0, 1fr) auto / minmax(0, 1fr) auto;
  grid-template-areas: 'head head' 'desk tabs' 'strip strip';
  gap: 0.6rem 0;
  height: 100%;
  padding: 0 0.875rem 0.75rem;
}
.bar-top {
  grid-area: head;
}
.desk {
  grid-area: desk;
  display: grid;
  grid: 'stage bar station' minmax(0, 1fr);
  min-height: 0;
  min-width: 0;
}
.tabs {
  grid-area: tabs;
}
.strip {
  grid-area: strip;
}
.station {
  background: var(--paper);
  border-radius: 5px 0 0 5px;
  box-shadow: var(--shadow);
  min-height: 0;
  min-width: 0;
  z-index: 1;
  position: relative;
  display: flex;
  flex-direction: column;
  overflow: hidden;
  container: station / inline-size;
}
.skip {
  position: absolute;
  left: 0.5rem;
  top: -4rem;
  z-index: 30;
  background: var(--pine);
  color: var(--on-pine);
  padding: 0.6rem 1rem;
  border-radius: 4px;
}
.skip:focus {
  top: 0.5rem;
}
.tabs {
  display: flex;
  flex-direction: column;
  gap: 3px;
  padding-top: 0.6rem;
  margin-right: -0.875rem;
  width: 6.5rem;
}
.tab {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.3rem;
  padding: 0.45rem 0.7rem;
  margin-right: 0.55rem;
  color: var(--ink-2);
  font-weight: 600;
  font-size: 0.9rem;
  text-decoration: none;
  background: color-mix(in srgb, var(--paper-2) 70%, var(--board));
  border: 0 solid var(--lines);
  border-left-width: 1px;
  border-radius: 0 6px 6px 0;
  white-space: nowrap;
}
.tab:hover {
  color: var(--ink);
}
.tab.router-link-active:not(.away),
.switch[aria-pressed='true'] {
  background: var(--paper);
  color: var(--ink);
  margin-right: 0;
  padding-block: 0.62rem;
  border-left-color: transparent;
}
.count {
  background: var(--cork);
  color: var(--paper);
  border-radius: 999px;
  min-width: 1.3rem;
  text-align: center;
  font-size: 0.74rem;
  line-height: 1.3rem;
  font-family: var(--mono);
}
/* Stations in a row: above stage and panel, or at the foot. */
[data-frame='medium'],
[data-frame='tall'],
[data-frame='narrow'] {
  grid-template-columns: minmax(0, 1fr);
  gap: 0.5rem;
  padding-inline: 0.625rem;
}
[data-frame='medium'] {
  grid-template-rows: auto auto minmax(0, 1fr) auto;
  grid-template-areas: 'head' 'tabs' 'desk' 'strip';
  row-gap: 0;
  padding-bottom: 0.5rem;
}
[data-frame='tall'],
[data-frame='narrow'] {
  grid-template-rows: auto minmax(0, 1fr) auto auto;
  grid-template-areas: 'head' 'desk' 'strip' 'tabs';
  padding-bottom: 0;
}
[data-frame='narrow'] {
  gap: 0.35rem;
  padding-inline: 0.35rem;
}
:not([data-frame='wide']) > .tabs {
  flex-direction: row;
  width: auto;
  margin: 0;
  padding: 0;
  overflow-x: auto;
  scrollbar-width: none;
}
:not([data-frame='wide']) > .tabs .tab {
  flex: 1 0 auto;
  justify-content: center;
  margin: 0;
  padding: 0.2rem 0.7rem;
  min-height: 2.5rem;
  border-radius: 6px 6px 0 0;
  border-width: 0;
}
[data-frame='medium'] > .tabs .tab {
  border-bottom: 3px solid transparent;
}
[data-frame='medium'] > .tabs .router-link-active {
  border-bottom-color: var(--cork);
}
[data-frame='tall'] > .tabs .tab,
[data-frame='narrow'] > .tabs .tab {
  min-height: 2.75rem;
  border-radius: 0;
}
[data-frame='tall'] > .desk {
  grid-template-areas: 'stage' 'bar' 'station';
  grid-template-columns: minmax(0, 1fr);
}
[data-frame='narrow'] > .desk {
  grid: 'stage' minmax(0, 1fr) 'jobs' auto / minmax(0, 1fr);
}
.desk > .stage {
  grid-area: stage;
}
.pane-bar {
  grid-area: bar;
}
.desk > .station {
  grid-area: station;
}
[data-frame='narrow'] > .desk > .station {
  grid-area: stage;
}
:not([data-frame='wide']) > .desk > .station {
  border-radius: 5px;
}
.closed {
  display: grid;
  place-content: center;
  gap: 0.8rem;
  text-align: center;
}
.jobs {
  grid-area: stage;
  align-self: end;
  justify-self: start;
  margin: 0 0 2.4rem 0.6rem;
  background: var(--paper);
  border: 1px solid var(--lines);
  border-radius: 5px;
  box-shadow: var(--shadow);
  padding: 0.2rem 0.8rem;
  z-index: 3;
}
.note {
  grid-area: stage;
  align-self: end;
  justify-self: center;
  margin-bottom: 2.4rem;
  z-index: 4;
}
/* Beside a station that fills the window they get a line of their own. */
[data-frame='narrow'] .note,
[data-frame='narrow'] .jobs {
  grid-area: jobs;
  margin: 0.3rem 0 0;
}
</style>
