<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import Button from 'primevue/button';
import Dialog from 'primevue/dialog';
import { useToast } from 'primevue/usetoast';
import { computed, onMounted, ref, watch } from 'vue';
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
import TopBar from './TopBar.vue';
import { useGo } from './useGo';
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
const showFindings = ref(false);
const showKeys = ref(false);

watch(
  () => rigId,
  (id) => void rigs.open(id),
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
// A live board: Esc is caught first and stops. Otherwise the usual keys, unless somebody is typing.
function key(event: KeyboardEvent): void {
  if (event.key === 'Escape' && run.isRunning) {
    event.preventDefault();
    event.stopImmediatePropagation();
    run.send({ type: 'stop' });
    return;
  }
  const typing =
    event.target instanceof HTMLElement &&
    /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName) &&
    (event.target as HTMLInputElement).type !== 'range';
  if (event.key.toLowerCase() === 'z' && (event.ctrlKey || event.metaKey) && !typing) {
    event.preventDefault();
    inFrame(event.shiftKey ? rigs.redo : view.undo);
  } else if (event.key.toLowerCase() === 'y' && (event.ctrlKey || event.metaKey) && !typing) {
    event.preventDefault();
    inFrame(rigs.redo);
  } else if (event.key === '?' && !typing) showKeys.value = true;
  else if (event.altKey && stations[Number(event.key) - 1]) {
    event.preventDefault();
    void router.push({ name: stations[Number(event.key) - 1].id, params: { rigId } });
  } else if (
    event.key === ' ' &&
    !typing &&
    !(event.target instanceof HTMLButtonElement) &&
    plan.plan.value &&
    view.poseSource !== 'live'
  ) {
    event.preventDefault();
    if (plan.isPlaying.value) plan.pause();
    else plan.play();
  }
}
useEventListener(window, 'keydown', key, { capture: true });
// Back at this window: what was saved elsewhere meanwhile is taken over.
useEventListener(window, 'focus', () => void rigs.takeOver());
useEventListener(document, 'visibilitychange', () => document.hidden || void rigs.takeOver());

const keys: [string, string][] = [
  ['Esc', 'Stop, while a board is moving'],
  ['Space', 'Play or pause the routine on the stage'],
  ['Ctrl Z, Ctrl Shift Z', 'Undo, redo'],
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
    :data-plan="plan.plan.value ? 'ready' : 'none'"
  >
    <TopBar :to-look="toLook" @findings="showFindings = true" @keys="showKeys = true" />
    <template v-if="rigs.rig && rigs.mechanism">
      <main class="desk">
        <StagePanel />
        <section class="station" :aria-label="stations.find((s) => s.id === route.name)?.name">
          <RouterView />
        </section>
        <nav class="tabs" aria-label="Stations">
          <RouterLink v-for="s in stations" :key="s.id" :to="{ name: s.id, params: { rigId } }" class="tab">
            {{ s.name
            }}<span v-if="counts[s.id]" class="count" :aria-label="`${counts[s.id]} to look at`">{{
              counts[s.id]
            }}</span>
          </RouterLink>
        </nav>
      </main>
      <JointStrip />
    </template>
    <div v-else class="closed">
      <template v-if="rigs.loadError">
        <h1>This rig could not be opened.</h1>
        <p>{{ rigs.loadError }}</p>
        <RouterLink to="/">Back to the shelf</RouterLink>
      </template>
      <p v-else class="muted">Opening …</p>
    </div>

    <div v-if="jobs.running.size" class="jobs" role="status">
      <div v-for="job in jobs.running.values()" :key="job.key" class="row">
        <span>{{ job.label }} {{ Math.round(job.progress * 100) }} %</span
        ><Button size="small" variant="text" label="Cancel" @click="job.cancel()" />
      </div>
    </div>

    <Dialog v-model:visible="showFindings" modal header="Preflight" :style="{ width: '44rem' }">
      <div class="stack">
        <p v-if="!view.findings.length" class="muted">
          Nothing to look at: every step is inside its limits and every motor has its channel and its two points.
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
  grid-template-rows: auto minmax(0, 1fr) auto;
  gap: 10px;
  height: 100vh;
  padding: 0 14px 12px;
}
.desk {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 508px 104px;
  min-height: 0;
  column-gap: 0;
}
.station {
  background: var(--paper);
  border-radius: 5px 0 0 5px;
  box-shadow: var(--shadow);
  padding: 0.9rem 1.1rem;
  overflow: auto;
  min-height: 0;
  margin-left: 12px;
  z-index: 1;
  scrollbar-width: thin;
  scrollbar-color: var(--lines) transparent;
}
.tabs {
  display: flex;
  flex-direction: column;
  gap: 3px;
  padding-top: 10px;
  margin-right: -14px;
}
.tab {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.3rem;
  padding: 0.45rem 0.7rem;
  margin-right: 9px;
  color: var(--ink-2);
  font-weight: 600;
  font-size: 0.9rem;
  text-decoration: none;
  background: color-mix(in srgb, var(--paper-2) 70%, var(--board));
  border-left: 1px solid var(--lines);
  border-radius: 0 6px 6px 0;
}
.tab:hover {
  color: var(--ink);
}
.tab.router-link-active {
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
.closed {
  display: grid;
  place-content: center;
  gap: 0.8rem;
  text-align: center;
}
.jobs {
  position: fixed;
  left: 50%;
  bottom: 140px;
  transform: translateX(-50%);
  background: var(--paper);
  border-radius: 5px;
  box-shadow: var(--shadow);
  padding: 0.4rem 0.8rem;
  z-index: 20;
}
@media (max-width: 1150px) {
  .desk {
    grid-template-columns: minmax(0, 1fr) 440px 92px;
  }
  .tab {
    padding-inline: 0.55rem;
    font-size: 0.85rem;
  }
}
@media (max-width: 900px) {
  .desk {
    grid-template-columns: minmax(0, 1fr) minmax(340px, 50vw) 84px;
  }
}
</style>
