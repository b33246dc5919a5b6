<script setup lang="ts">
/** Folds the arm away or brings it out, from every page: on an armed board for real, else on the stage. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { carriedAt } from '@cork-elbow/core/routine';
import type { Routine } from '@cork-elbow/core/rig';
import { useRigStore } from '../stores/rig';
import { useRunStore } from '../stores/run';
import { useViewStore } from '../stores/view';
import { usePlan } from './usePlan';

const rigs = useRigStore();
const run = useRunStore();
const view = useViewStore();
const { plan, time, playRoutine } = usePlan();
const routines = computed(() =>
  (['park', 'unpark'] as const).flatMap((role) => rigs.rig?.routines.find((r) => r.role === role) ?? []),
);
/** What the arm holds at the moment on show; nothing while it stands in a pose of the person's own. */
const held = computed(() => {
  if (!plan.value || view.poseSource === 'edit') return null;
  const [payload] = carriedAt(plan.value, time.value).values();
  return payload === undefined ? null : (rigs.rig!.payloads.find((p) => p.id === payload)?.name ?? 'something');
});
const isArmed = computed(
  () => run.isLive && run.status.armed && run.status.mode === 'normal' && rigs.saveState === 'saved',
);
function go({ id }: Routine): void {
  if (!isArmed.value) playRoutine(id);
  else
    run.send({
      type: 'run',
      rigId: rigs.id!,
      revision: rigs.revision,
      buildId: rigs.build!.id,
      routineId: id,
    });
}
const title = (r: Routine): string =>
  held.value && r.role === 'park'
    ? `It holds ${held.value}: put it down first`
    : isArmed.value
      ? `${r.name}, on the board: the arm will move`
      : `${r.name}, on the stage`;
</script>

<template>
  <Button
    v-for="r in routines"
    :key="r.id"
    size="small"
    :severity="isArmed ? 'danger' : 'secondary'"
    variant="outlined"
    :label="r.role === 'park' ? 'Park' : 'Unpark'"
    :title="title(r)"
    :disabled="run.isRunning || (held !== null && r.role === 'park')"
    @click="go(r)"
  />
</template>
