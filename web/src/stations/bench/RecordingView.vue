<script setup lang="ts">
/** One recorded run: its name and facts, played on the stage beside what was commanded, its gaps and events, and as files. */
import { IconDownload, IconTrash } from '@tabler/icons-vue';
import { format } from 'date-fns';
import Button from 'primevue/button';
import { useConfirm } from 'primevue/useconfirm';
import { computed, ref, shallowRef, watch } from 'vue';
import type { RunEntry } from '@cork-elbow/core/contract';
import { toSlots } from '@cork-elbow/core/mechanism';
import { trackMotion } from '@cork-elbow/core/recording';
import { formatNumber } from '@cork-elbow/core/units';
import { benchApi } from '../../api-bench';
import ChoiceField from '../../shared/ChoiceField.vue';
import TextField from '../../shared/TextField.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import TimelineBar from '../../workspace/TimelineBar.vue';
import { usePlan } from '../../workspace/usePlan';
import { useTimeline } from '../../workspace/useTimeline';
import GapTable from './GapTable.vue';
import RecordingChart from './RecordingChart.vue';
import RecordingEvents from './RecordingEvents.vue';
import { ending } from './run-words';
import { useRecording } from './useRecording';

const { runId } = defineProps<{ runId: string }>();
const emit = defineEmits<{ changed: []; gone: [] }>();
const rigs = useRigStore();
const view = useViewStore();
const confirm = useConfirm();
const { recording, problem, isLoading, load } = useRecording(computed(() => runId));
const failure = ref('');

// ── On the stage ─────────────────────────────────────────────────────────────────────────────────────────────────────
const motion = computed(() =>
  recording.value && rigs.mechanism ? trackMotion(recording.value.track, rigs.mechanism) : null,
);
const timeline = useTimeline(motion, 'replay');
const { time, isPlaying } = timeline;
// What is carried is drawn where it was then, as far as the routine on show is the one that ran.
const { routine, time: planTime } = usePlan();
watch([time, recording], () => {
  if (!recording.value || view.poseSource !== 'replay') return;
  const { track, run } = recording.value;
  planTime.value = routine.value?.id === run.routineId ? track.planS(track.rowAt(time.value)) : 0;
});
const commanded = computed(() => {
  if (!recording.value || !rigs.mechanism || view.poseSource !== 'replay') return null;
  const { track } = recording.value;
  return toSlots(rigs.mechanism, track.pose(track.rowAt(time.value), 'commanded'));
});
useOverlay(() => ({
  layers: commanded.value ? { ghosts: [commanded.value] } : {},
  dimensions: false,
  ...(motion.value ? { onPlay: () => (isPlaying.value ? timeline.pause() : timeline.play()) } : {}),
}));

// ── Beside another one ───────────────────────────────────────────────────────────────────────────────────────────────
const otherId = ref<string | null>(null);
const other = useRecording(otherId);
const candidates = shallowRef<readonly RunEntry[]>([]);
/** Most runs to choose from. */
const NEWEST = 200;
watch(
  () => recording.value?.run.routineId,
  async (routine) => {
    if (!routine) return;
    try {
      const { runs } = await benchApi.runs(rigs.id!, { routine, count: NEWEST });
      candidates.value = runs.filter(({ id, isRecorded, outcome }) => id !== runId && isRecorded && outcome !== null);
    } catch (error) {
      failure.value = (error as Error).message;
    }
  },
);
const moment = (at: string): string => format(new Date(at), 'd MMM HH:mm:ss');
const others = computed(() => [
  { label: 'no other run', value: '' },
  ...candidates.value.map((run) => ({
    label: `${run.name || moment(run.startedAt)}, ${ending(run)}`,
    value: run.id,
  })),
]);

// ── What is kept of it ───────────────────────────────────────────────────────────────────────────────────────────────
async function rename(name: string): Promise<void> {
  try {
    const run = await benchApi.nameRun(rigs.id!, runId, name);
    if (recording.value) recording.value = { ...recording.value, run };
    failure.value = '';
    emit('changed');
  } catch (error) {
    failure.value = (error as Error).message;
  }
}
function remove(): void {
  const { run } = recording.value!;
  confirm.require({
    header: 'Delete this run?',
    message: `“${run.name || run.routineName}” of ${moment(run.startedAt)} and its recording will be gone.`,
    acceptLabel: 'Delete',
    rejectLabel: 'Keep it',
    acceptProps: { severity: 'danger' },
    rejectProps: { severity: 'secondary' },
    accept: () =>
      void benchApi.deleteRun(rigs.id!, runId).then(
        () => emit('gone'),
        (error: Error) => void (failure.value = error.message),
      ),
  });
}
const facts = computed(() => {
  if (!recording.value) return [];
  const { run, head, rows } = recording.value;
  const build = rigs.rig!.builds.find(({ id }) => id === run.buildId)?.name ?? run.buildId;
  const boards = head.boards.map(({ name, protocol }) => `${name} (protocol ${protocol})`).join(', ');
  return [
    `${run.routineName}, ${moment(run.startedAt)}, ${ending(run)}`,
    `${build}, revision ${run.revision} of the rig, on ${boards}, Cork Elbow ${head.program}`,
    `${formatNumber(rows, 0)} rows, one each ${formatNumber(head.sampleMs, 0)} ms`,
  ];
});
/** What is drawn is the rig of today. */
const isOther = computed(() => recording.value !== null && recording.value.run.revision !== rigs.revision);
</script>

<template>
  <div class="rule"><h2>Recording</h2></div>
  <p v-if="problem" class="small" role="alert">{{ problem }} <button class="link" @click="load">Try again</button></p>
  <p v-else-if="isLoading" class="muted small" role="status">Fetching the recording …</p>
  <template v-if="recording">
    <div class="row head">
      <TextField
        class="grow"
        :value="recording.run.name"
        label="Name of the run"
        placeholder="give it a name, and it is kept"
        :commit="(name) => void rename(name)"
      />
      <Button
        v-for="kind in ['csv', 'json'] as const"
        :key="kind"
        as="a"
        size="small"
        severity="secondary"
        :label="kind.toUpperCase()"
        :href="benchApi.fileOf(rigs.id!, runId, kind)"
        :aria-label="`Save as ${kind.toUpperCase()}`"
        download
        ><template #icon><IconDownload :size="15" /></template
      ></Button>
      <Button size="small" severity="secondary" variant="text" aria-label="Delete this run" @click="remove"
        ><IconTrash :size="16"
      /></Button>
    </div>
    <p v-if="failure" class="small" role="alert">{{ failure }}</p>
    <p v-for="fact in facts" :key="fact" class="muted small fact">{{ fact }}</p>
    <p v-if="isOther" class="small note" role="note">
      The rig has been changed since (it is at revision {{ rigs.revision }} now): the stage draws it as it is today.
    </p>
    <p v-if="view.poseSource === 'live'" class="small note" role="note">
      The stage shows the arm that is armed now; the recording is played on the chart alone.
    </p>
    <TimelineBar class="bar" :timeline :duration="recording.track.durationS" />
    <div class="row beside small">
      <span class="muted">Beside</span>
      <ChoiceField
        label=""
        name="Run to compare with"
        :options="others"
        :value="otherId ?? ''"
        @change="otherId = String($event) || null"
      />
      <span v-if="other.problem.value" role="alert">{{ other.problem.value }}</span>
      <span v-else-if="other.isLoading.value" class="muted" role="status">Fetching …</span>
    </div>
    <RecordingChart
      :track="recording.track"
      :other="other.recording.value?.track ?? null"
      :time="() => time"
      @pick="timeline.show"
    />
    <GapTable :track="recording.track" :other="other.recording.value?.track ?? null" @pick="timeline.show" />
    <RecordingEvents :events="recording.events" :head="recording.head" :time @pick="timeline.show" />
  </template>
</template>

<style scoped>
.head {
  align-items: center;
  margin-top: 0.4rem;
}
.fact {
  margin: 0.1rem 0;
}
.note {
  margin: 0.25rem 0;
}
.bar {
  margin: 0.4rem 0;
}
.beside {
  align-items: center;
}
</style>
