<script setup lang="ts">
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { RouterLink, useRoute } from 'vue-router';
import { linedBoards } from '@cork-elbow/core/actuators';
import { contractFindings } from '@cork-elbow/core/contract';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';
import AwayForm from './AwayForm.vue';
import ControlsNote from './ControlsNote.vue';

/** The boards: connected, armed, and who has them. */
const rigs = useRigStore();
const run = useRunStore();
const route = useRoute();
const cleared = ref(false);

const status = computed(() => run.status);
const connected = computed(() => run.isLive);
const elsewhere = computed(() => status.value.link === 'connected' && status.value.rigId !== rigs.id);
/** What the board will stand in for. */
const wired = computed(() => {
  const on = rigs.motors.filter((m) => m.channel !== null).length;
  const boards = rigs.rig!.boards.map((b) => b.name).join(' and ');
  if (!boards) return '';
  return `${rigs.motors.length ? `${on} of ${rigs.motors.length} motors` : 'no motors yet'} on ${boards}; `;
});
/** Without a board there is nothing to connect to, simulated or not. */
const boardless = computed(() => !linedBoards(rigs.rig!).length);
const connect = (): void => {
  run.send({
    type: 'connect',
    rigId: rigs.id!,
    buildId: rigs.build!.id,
    timeScale: Number(route.query.timeScale ?? 1) || 1,
  });
  run.sayAway();
};
watch(
  () => status.value.armed,
  (armed) => armed && (cleared.value = false),
);
const modes = {
  normal: 'Armed',
  'bringing-up': 'Switching on',
  neutral: 'At neutral',
  'lying-down': 'Lying down',
} as const;
</script>

<template>
  <div class="card">
    <div class="row">
      <span class="grow"
        ><b>Simulated board</b>{{ ' '
        }}<span class="muted small">{{ wired }}speaks the same bytes as a real one</span></span
      >
      <Button
        v-if="!connected"
        label="Connect"
        :loading="status.link === 'connecting'"
        :disabled="!run.mayDrive || boardless"
        @click="connect"
      />
      <Button
        v-else
        severity="secondary"
        label="Disconnect"
        :disabled="run.isRunning || !run.mayDrive"
        @click="run.send({ type: 'disconnect' })"
      />
    </div>
    <p v-if="boardless" class="small" role="status">
      {{ contractFindings.say('board-none') }}
      <RouterLink :to="{ name: 'motors', params: { rigId: rigs.id! }, query: { part: 'boards' } }"
        >Add one under Motors, Boards &amp; wires</RouterLink
      >.
    </p>
    <ControlsNote v-if="!run.mayDrive" />
    <p v-if="elsewhere" class="notice">
      The board is connected for another rig{{ run.mayDrive ? '; connecting here takes it over' : '' }}.
    </p>
    <template v-if="connected && !status.armed && run.mayDrive">
      <label class="check"
        ><input v-model="cleared" type="checkbox" /> Fingers, hair and cables are out of the way, the cut-off switch
        of the motor supply is within reach.</label
      >
      <div class="row">
        <Button
          severity="danger"
          label="Arm the motors"
          data-moves
          :disabled="!cleared"
          @click="run.send({ type: 'arm', how: 'hold' })"
        /><span class="muted small">One after the other, held where they stand.</span>
      </div>
    </template>
    <div v-else-if="connected && status.armed" class="row">
      <span class="armed">{{ modes[status.mode] }}</span><span class="grow muted small"
        >Esc slows the run down and ends it. It is no emergency stop: that one cuts the supply.</span
      ><Button
        size="small"
        severity="secondary"
        label="Disarm"
        :disabled="!run.mayDrive"
        @click="run.send({ type: 'disarm' })"
      />
    </div>
    <AwayForm v-if="connected && run.mayDrive" />
    <p v-if="status.notice && !elsewhere" class="notice" role="alert">{{ status.notice }}</p>
  </div>
</template>

<style scoped>
.card {
  background: var(--paper-2);
  border-radius: 5px;
  padding: 0.6rem 0.75rem;
  display: grid;
  gap: 0.5rem;
}
.check {
  display: flex;
  gap: 0.5rem;
  align-items: start;
  font-size: 0.92rem;
}
.check input {
  margin-top: 0.25rem;
}
.armed {
  background: var(--alarm);
  color: var(--on-alarm);
  font-weight: 700;
  border-radius: 4px;
  padding: 0.2rem 0.7rem;
}
.notice {
  color: var(--caution);
  font-weight: 600;
  font-size: 0.92rem;
}
</style>
