<script setup lang="ts">
/** Folds the arm away or brings it out, from every page: on an armed board for real, else on the stage. */
import { IconEye } from '@tabler/icons-vue';
import Button from 'primevue/button';
import Dialog from 'primevue/dialog';
import { computed, shallowRef, watch } from 'vue';
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
  if (!plan.value || ['edit', 'replay'].includes(view.poseSource)) return null;
  const [payload] = carriedAt(plan.value, time.value).values();
  return payload === undefined ? null : (rigs.rig!.payloads.find((p) => p.id === payload)?.name ?? 'something');
});
const isArmed = computed(
  () =>
    run.isLive &&
    run.mayDrive &&
    run.status.armed &&
    run.isFree &&
    ['normal', 'by-hand'].includes(run.status.mode) &&
    rigs.saveState === 'saved',
);
/** What was asked for while the board is armed; it moves the arm once it has been confirmed. */
const asked = shallowRef<Routine | null>(null);
const go = (routine: Routine): void => (isArmed.value ? void (asked.value = routine) : playRoutine(routine.id));
function move(): void {
  const routine = asked.value;
  asked.value = null;
  if (!routine || !isArmed.value) return;
  run.send({
    type: 'run',
    rigId: rigs.id!,
    revision: rigs.revision,
    buildId: rigs.build!.id,
    routineId: routine.id,
  });
}
// What was asked of an armed board is not carried over to the next arming.
watch(isArmed, (armed) => armed || (asked.value = null));
const nameOf = ({ role }: Routine): string => (role === 'park' ? 'Park' : 'Unpark');
const title = (r: Routine): string =>
  held.value && r.role === 'park'
    ? `It holds ${held.value}: put it down first`
    : isArmed.value
      ? `${r.name}, on the board: the arm will move`
      : `${r.name}, on the stage`;
</script>

<template>
  <Button
    v-for="r in run.isRunning ? [] : routines"
    :key="r.id"
    size="small"
    :severity="isArmed ? 'danger' : 'secondary'"
    :variant="isArmed ? undefined : 'outlined'"
    :label="isArmed ? `${nameOf(r)}…` : nameOf(r)"
    :aria-label="isArmed ? `${nameOf(r)}: moves the arm` : `${nameOf(r)}: shown on the stage`"
    :title="title(r)"
    :disabled="held !== null && r.role === 'park'"
    @click="go(r)"
    ><template v-if="!isArmed" #icon><IconEye :size="15" /></template
  ></Button>
  <Dialog
    :visible="asked !== null"
    modal
    :header="asked ? `${nameOf(asked)}: the arm will move` : ''"
    :style="{ width: '27rem' }"
    @update:visible="asked = null"
  >
    <p>
      “{{ asked?.name }}” runs on the {{ run.status.board || 'board' }} now. Fingers, hair and cables out of the way,
      the cut-off switch of the motor supply within reach.
    </p>
    <div class="row end">
      <Button severity="secondary" label="Leave it" autofocus @click="asked = null" />
      <Button severity="danger" data-moves :label="asked ? `${nameOf(asked)} the arm` : ''" @click="move" />
    </div>
  </Dialog>
</template>

<style scoped>
.end {
  justify-content: flex-end;
  margin-top: 0.8rem;
}
</style>
