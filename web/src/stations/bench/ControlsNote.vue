<script setup lang="ts">
import { format } from 'date-fns';
import Button from 'primevue/button';
import { useConfirm } from 'primevue/useconfirm';
import { computed } from 'vue';
import { useRunStore } from '../../stores/run';

/** Another page has the controls: which one, whether it is still there, and the way to take them. */
const run = useRunStore();
const confirm = useConfirm();
const who = computed(() => {
  const { control, alone } = run.status;
  if (!control) return '';
  const opened = format(new Date(control.openedAt), 'HH:mm');
  return alone
    ? `The page that has the controls (opened at ${opened}) is gone.`
    : `Another page, opened at ${opened}, has the controls.`;
});
const take = (): void => {
  // Where it is gone nobody is cut short.
  if (run.status.alone) return run.takeControls();
  confirm.require({
    header: 'Take the controls?',
    message: 'Whoever sits at the other page can then only watch, pause and stop. Make sure they know.',
    acceptLabel: 'Take them',
    rejectLabel: 'Leave them there',
    rejectProps: { severity: 'secondary' },
    accept: () => run.takeControls(),
  });
};
</script>

<template>
  <p v-if="run.right === 'watch'" class="small" data-controls="watching">
    <b>{{ run.whyNotDrive }}</b> What it may do is decided on the computer that the arm hangs on, on its shelf.
  </p>
  <div v-else class="row" data-controls="elsewhere">
    <span class="grow small"
      ><b>{{ who }}</b> Pause and stop work here all the same.</span
    >
    <Button size="small" label="Take the controls" @click="take" />
  </div>
</template>
