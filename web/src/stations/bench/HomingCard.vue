<script setup lang="ts">
/** The arm finds its places, as its homing is planned: begun here, watched axis by axis, with what each stood off. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { Channels } from '@cork-elbow/core/commands';
import { homingReady, runPace } from '@cork-elbow/core/routine';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import JointMark from '../../shared/JointMark.vue';
import { behindFigure, useSlots } from '../../shared/joints';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';

const rigs = useRigStore();
const run = useRunStore();
const slots = useSlots();

const isHoming = computed(() => run.status.mode === 'homing');
/** Why it cannot be done as it is planned; empty where it can. */
const why = computed(() => {
  const { rig, mechanism, build } = rigs;
  if (!rig || !mechanism || !build) return '';
  const ready = homingReady(rig, new Channels(rig, mechanism, build), build, run.ownLines);
  return 'code' in ready ? ready.message : '';
});
const mayHome = computed(
  () =>
    !why.value &&
    run.mayDrive &&
    run.isFree &&
    ['normal', 'by-hand'].includes(run.status.mode) &&
    !run.isRunning &&
    rigs.saveState === 'saved',
);
const acts = {
  waits: 'waits',
  seek: 'seeks',
  'back off': 'backs off',
  'seek slowly': 'seeks slowly',
  found: 'found',
} as const;
const rows = computed(() =>
  run.status.found.map((row) => ({ ...row, slot: slots.value.find(({ id }) => id === row.joint) })),
);
const words = computed(() => {
  if (isHoming.value)
    return 'Joints find their places, with nothing looking out for what is in the way. Esc stops it at once, and disarms.';
  if (run.status.homed) return 'Every axis has found its place since the motors came on.';
  const share = formatNumber(runPace(rigs.rig!, false).share * 100, 0);
  return `The joints are taken to be where the arm rests. Until it has homed, runs keep to ${share} % of their speed.`;
});
</script>

<template>
  <div class="homing" :data-homed="run.status.homed">
    <div class="row">
      <span class="grow small" :class="{ muted: !isHoming }">{{ words }}</span>
      <Button
        size="small"
        :severity="run.status.homed ? 'secondary' : undefined"
        :label="run.status.homed ? 'Home again' : 'Home the joints'"
        data-moves
        :loading="isHoming"
        :disabled="!mayHome"
        @click="run.send({ type: 'home' })"
      />
    </div>
    <p v-if="why" class="small" role="status">{{ why }}</p>
    <table v-if="rows.length" class="plain">
      <thead>
        <tr>
          <th>Joint</th>
          <th>Now</th>
          <th class="num">Stood off by</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ joint, act, off, slot } in rows" :key="joint" :data-axis="joint" :data-act="act">
          <td class="joint"><JointMark v-if="slot" :index="slot.slot" :size="18" /> {{ slot?.name ?? joint }}</td>
          <td :class="{ muted: act === 'waits' }">{{ acts[act] }}</td>
          <td class="num">{{ off === null ? '–' : `${formatFixed(off, 2)}${slot ? behindFigure(slot) : ''}` }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.homing {
  border-top: 1px solid var(--lines-2, var(--lines));
  padding-top: 0.5rem;
  display: grid;
  gap: 0.4rem;
}
.num {
  text-align: right;
}
.joint {
  display: flex;
  align-items: center;
  gap: 0.4rem;
}
</style>
