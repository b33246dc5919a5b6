<script setup lang="ts">
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { RouterLink, useRoute } from 'vue-router';
import { isLost } from '@cork-elbow/core/bring-up';
import { contractFindings } from '@cork-elbow/core/contract';
import { cautionsOf } from '@cork-elbow/core/routine';
import { useSlots } from '../../shared/joints';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';
import AwayForm from './AwayForm.vue';
import ControlsNote from './ControlsNote.vue';
import HomingCard from './HomingCard.vue';
import LinkForm from './LinkForm.vue';
import { linkWords } from './link-words';
import { useLinks } from './useLinks';

/** The boards: connected, armed, and who has them. */
const rigs = useRigStore();
const run = useRunStore();
const slots = useSlots();
const route = useRoute();
const cleared = ref(false);

const status = computed(() => run.status);
const connected = computed(() => run.isLive);
const elsewhere = computed(() => status.value.link === 'connected' && status.value.rigId !== rigs.id);
const { boards, links, isReal, trouble, choose } = useLinks();
const wired = computed(() => {
  const on = rigs.motors.filter((m) => m.channel !== null).length;
  return rigs.motors.length ? `${on} of ${rigs.motors.length} motors wired` : 'no motors yet';
});
/** Without a board there is nothing to connect to, simulated or not. */
const boardless = computed(() => !boards.value.length);
const title = computed(() => {
  if (isReal.value) return boards.value.length > 1 ? 'Boards' : 'Board';
  return boards.value.length > 1 ? 'Simulated boards' : 'Simulated board';
});
const connect = (): void => {
  run.send({
    type: 'connect',
    rigId: rigs.id!,
    buildId: rigs.build!.id,
    timeScale: Number(route.query.timeScale ?? 1) || 1,
    links: links.value,
  });
  run.sayAway();
};
watch(
  () => status.value.armed,
  (armed) => armed && (cleared.value = false),
);
const cautions = computed(() => (rigs.mechanism ? cautionsOf(rigs.rig!, rigs.mechanism) : []));
const mayLie = computed(
  () => run.mayDrive && !status.value.latched && ['normal', 'by-hand'].includes(status.value.mode) && !run.isRunning,
);
/** Joints that are off while the others hold. */
const limp = computed(() =>
  slots.value
    .filter(({ id }) => status.value.limp.includes(id))
    .map(({ name }) => name)
    .join(', '),
);
/** What is not known of boards with firmware of their own. */
const own = computed(() =>
  status.value.ownLines.map(({ board, confirms, single }) => {
    const name = boards.value.find(({ id }) => id === board)?.name ?? board;
    const known = confirms ? `answers its lines` : `answers nothing: unconfirmed`;
    const all = single ? '' : ' Its lines name no motor: all of them come on together.';
    return { board, confirms, words: `${name} ${known}. Where its motors are is what they were sent.${all}` };
  }),
);
/** Boards whose firmware was made for a rig. */
const made = computed(() =>
  status.value.madeFor.map(({ board, revision, agrees }) => {
    const name = boards.value.find(({ id }) => id === board)?.name ?? board;
    const words = agrees
      ? `${name}: its firmware was made for revision ${revision}, and its motors are as in the rig by now.`
      : `${name}: its firmware was made for revision ${revision}; pins, limits or calibration of its motors are others by now. What is sent from here goes by the rig; what the board does on its own does not.`;
    return { board, agrees, words };
  }),
);
/** Motors of which nothing is known of what they draw. */
const currentless = computed(
  () => rigs.motors.filter(({ channel, drive }) => channel !== null && !drive.stallA && !drive.movingA).length,
);
const modes = {
  normal: 'Armed',
  'bringing-up': 'Switching on',
  neutral: 'At neutral',
  'lying-down': 'Lying down',
  'by-hand': 'Led by hand',
  'one-motor': 'One motor on',
  homing: 'Homing',
} as const;
</script>

<template>
  <div class="card">
    <div class="row">
      <span class="grow"
        ><b>{{ title }}</b
        >{{ ' '
        }}<span v-if="!boardless" class="muted small"
          >{{ wired }}{{ isReal ? '' : '; it speaks the same bytes as a real one' }}</span
        ></span
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
    <div v-for="board in boards" :key="board.id" class="line">
      <span class="name">{{ board.name }}</span>
      <span v-if="connected" class="muted small">{{ linkWords(links[board.id]) }}</span>
      <LinkForm
        v-else
        :board-id="board.id"
        :board="board.name"
        :link="links[board.id]"
        :counts="rigs.rig!.drives.some(isLost)"
        :currentless="currentless"
        :senses="rigs.rig!.sensors.some((sensor) => sensor.board !== null)"
        @change="choose(board.id, $event)"
      />
    </div>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <ControlsNote v-if="!run.mayDrive" />
    <p v-if="elsewhere" class="notice">
      The board is connected for another rig{{ run.mayDrive ? '; connecting here takes it over' : '' }}.
    </p>
    <template v-if="connected && !status.armed && run.mayDrive">
      <ul class="cautions small" aria-label="Before the motors come on">
        <li v-for="caution in cautions" :key="caution">{{ caution }}</li>
      </ul>
      <label class="check"
        ><input v-model="cleared" type="checkbox" /> I have looked: fingers, hair and cables are out of the way, the
        cut-off switch is within reach.</label
      >
      <div class="row">
        <Button
          severity="danger"
          label="Arm the motors"
          data-moves
          :disabled="!cleared || status.latched"
          @click="run.send({ type: 'arm', how: 'hold' })"
        /><span class="muted small">One after the other, held where they stand.</span>
      </div>
    </template>
    <div v-else-if="connected && status.armed" class="row">
      <span class="armed">{{ modes[status.mode] }}</span><span class="grow muted small"
        >Esc slows the run down and ends it. It is no emergency stop: that one cuts the supply.</span
      ><Button
        v-if="rigs.rig!.powerUp.rest !== null"
        size="small"
        severity="secondary"
        label="Lie down"
        title="Goes to where it rests by the power-up plan backwards; its motors go off there"
        data-moves
        :disabled="!mayLie"
        @click="run.send({ type: 'lie-down' })"
      /><Button
        size="small"
        severity="secondary"
        label="Disarm"
        :disabled="!run.mayDrive"
        @click="run.send({ type: 'disarm' })"
      />
    </div>
    <div v-if="connected && status.latched && !run.isRunning" class="row" role="status">
      <span class="grow small notice"
        >The arm was stopped. Look why, and at the arm; nothing moves before this is cleared.</span
      ><Button
        size="small"
        severity="secondary"
        label="Clear the stop"
        :disabled="!run.mayDrive"
        @click="run.send({ type: 'clear' })"
      />
    </div>
    <div v-if="connected && limp" class="row" role="status">
      <span class="grow small notice"
        >{{ limp }}: let go by a run. Held again, they stay where they are, as far as that is known.</span
      ><Button
        size="small"
        severity="danger"
        label="Hold again"
        data-moves
        :disabled="!mayLie"
        @click="run.send({ type: 'arm', how: 'hold' })"
      />
    </div>
    <p v-for="{ board, confirms, words } in own" :key="board" class="small" :class="confirms ? 'muted' : 'notice'">
      {{ words }}
    </p>
    <p
      v-for="{ board, agrees, words } in made"
      :key="board"
      class="small"
      :class="agrees ? 'muted' : 'notice'"
      :data-made="agrees"
    >
      {{ words }}
    </p>
    <HomingCard v-if="connected && status.armed && rigs.rig!.homing.axes.length" />
    <AwayForm v-if="connected && run.mayDrive" />
    <p v-if="status.notice && !elsewhere" class="notice" role="alert">{{ status.notice }}</p>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  gap: 0.2rem;
  border-top: 1px solid var(--lines-2, var(--lines));
  padding-top: 0.4rem;
}
.name {
  font-weight: 600;
  font-size: 0.92rem;
}
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
.cautions {
  margin: 0;
  padding-left: 1.1rem;
  display: grid;
  gap: 0.15rem;
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
