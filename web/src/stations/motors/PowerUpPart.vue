<script setup lang="ts">
/** What each joint does when power comes, the way it sweeps, and a plan that brings them in one after the other. */
import { IconArrowDown, IconArrowUp } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { planPowerUp, powerUpMotion, type AtPower, type RailDraw } from '@cork-elbow/core/bring-up';
import { tipPath } from '@cork-elbow/core/kinematics';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import { useSlots } from '../../shared/joints';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';
import ContactList from './ContactList.vue';
import TimelineBar from '../../workspace/TimelineBar.vue';
import { useMotor } from './useMotor';
import { useSweep } from './useSweep';
import { useTimeline } from '../../workspace/useTimeline';
import { NONE, orNull } from './wiring/useWiring';

const rigs = useRigStore();
const run = useRunStore();
const slots = useSlots();
const { commit } = useMotor();
const planned = ref(true);
const problem = ref('');

const plan = computed(() => {
  const { rig, mechanism, build } = rigs;
  return rig && mechanism && build ? planPowerUp(rig, mechanism, build, planned.value) : null;
});
const other = computed(() => {
  const { rig, mechanism, build } = rigs;
  return rig && mechanism && build ? planPowerUp(rig, mechanism, build, !planned.value) : null;
});
const motion = computed(() => plan.value && powerUpMotion(plan.value));
const timeline = useTimeline(motion);
const { durationS: duration } = timeline;
const contacts = useSweep(() => ({ kind: 'power-up', planned: planned.value }));
const clear = computed(() => {
  const [own, others] = [duration.value, other.value?.durationS ?? 0];
  const [here, there] = planned.value ? [1, 2] : [2, 1];
  return `Nothing is touched on the way (${formatNumber(own, here)} s; ${planned.value ? 'bare' : 'by the plan'} it takes ${formatNumber(others, there)} s).`;
});
const LOOKS = 120;
useOverlay(() => ({
  layers: {
    trace: motion.value && rigs.mechanism ? tipPath(rigs.mechanism, motion.value, LOOKS) : null,
    hits: Float64Array.from((contacts.value ?? []).flatMap((c) => [...c.at])),
    ghosts: plan.value && [plan.value.rest],
  },
  dimensions: false,
}));

const rows = computed(() =>
  (plan.value?.starts ?? []).map((start, k) => {
    const info = slots.value[start.slots[0]];
    const unit = rigs.mechanism!.siPerUnit[start.slots[0]];
    return {
      k,
      start,
      info,
      drive: start.maps[0].drive,
      from: start.from[0] / unit,
      to: start.to[0] / unit,
    };
  }),
);
const words: Record<AtPower, string> = {
  neutral: 'to neutral',
  limp: 'stays limp',
  hold: 'holds',
  homes: 'homes later',
};
const ways = (Object.keys(words) as AtPower[]).map((value) => ({ value, label: words[value] }));
const edit = (label: string, recipe: Parameters<typeof commit>[1]): void => {
  problem.value = commit(label, recipe) ?? '';
};
function setWay(driveId: string, value: unknown): void {
  edit('What a motor does at power-up', (draft) => (draft.powerUp.at[driveId] = value as AtPower));
}
/** Earlier or later by one. */
function shift(k: number, by: 1 | -1): void {
  const order = rows.value.map((r) => r.drive.id);
  [order[k], order[k + by]] = [order[k + by], order[k]];
  edit('Order at power-up', (draft) => (draft.powerUp.order = order));
}
const poses = computed(() => [
  { value: NONE, label: 'the rest pose' },
  ...rigs.rig!.poses.map((p) => ({ value: p.id, label: p.name })),
]);
/** What a supply gives at most while the motors come on, and what that leaves out. */
function railWords({ name, plannedA, atOnceA, givesA, fuseA, unknown }: RailDraw): string {
  const gives = `it gives ${givesA ? `${formatNumber(givesA, 1)} A` : 'an unknown current'}${fuseA ? `, fuse ${formatNumber(fuseA, 1)} A` : ''}.`;
  const left = unknown.length ? ` The current of ${unknown.join(', ')} is not known.` : '';
  if (plannedA === 0 && unknown.length) return `${name}: ${gives}${left}`;
  const most = `${formatNumber(plannedA, 1)} A at most${planned.value ? `, ${formatNumber(atOnceA, 1)} A if all came at once` : ''}`;
  return `${name}: ${most}; ${gives}${left}`;
}
const over = (rail: { plannedA: number; givesA: number }): boolean => rail.givesA > 0 && rail.plannedA > rail.givesA;
const canSend = computed(() => run.isLive && run.mayDrive && !run.status.armed && !run.isRunning);
const isClear = ref(false);
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <p v-if="!rows.length" class="muted small">No motors yet. Give the joints their motors under “Joint by joint”.</p>
  <template v-else>
    <div class="form">
      <ChoiceField
        label="expected to rest in"
        name="Resting pose"
        :options="poses"
        :value="rigs.rig!.powerUp.rest ?? NONE"
        @change="edit('Resting pose', (d) => (d.powerUp.rest = orNull($event)))"
      />
      <NumberField
        prefix="apart, ms"
        :value="rigs.rig!.powerUp.gapMs"
        dimension="count"
        label="Time between two motors, ms"
        :min="0"
        :max="60000"
        :commit="(v: number) => commit('Time apart', (d) => (d.powerUp.gapMs = v))"
      />
      <NumberField
        prefix="at most"
        :value="rigs.rig!.powerUp.maxDegPerS"
        dimension="angularSpeed"
        :decimals="0"
        label="Speed of the joints at power-up"
        :min="0.1"
        :max="1000"
        :commit="(v: number) => commit('Speed at power-up', (d) => (d.powerUp.maxDegPerS = v))"
      />
    </div>
    <span v-rove.across="'button'" class="choice" role="group" aria-label="Kind of power-up"
      ><button :aria-pressed="planned" @click="planned = true">By the plan</button
      ><button :aria-pressed="!planned" @click="planned = false">Bare, all at once</button></span
    >
    <table class="plain">
      <thead>
        <tr>
          <th></th>
          <th>joint</th>
          <th>with power</th>
          <th class="r">on at</th>
          <th class="r">goes</th>
          <th class="r">takes</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.drive.id" :data-drive="r.drive.id">
          <td><JointMark :index="r.info.slot" :size="20" /></td>
          <td>{{ r.info.name }}</td>
          <td class="way compact">
            <ChoiceField
              label=""
              :name="`${r.info.name} at power-up`"
              :options="ways"
              :value="r.start.does"
              @change="setWay(r.drive.id, $event)"
            />
          </td>
          <td class="r num nowrap">{{ formatNumber(r.start.atS, 1) }} s</td>
          <td class="r num nowrap">
            <template v-if="r.start.seconds"
              >{{ formatNumber(r.from, 0) }} → {{ formatNumber(r.to, 0) }}{{ r.info.unit }}</template
            ><template v-else>stays</template>
          </td>
          <td class="r num nowrap">
            {{ r.start.seconds ? `${formatNumber(r.start.seconds, planned ? 1 : 2)} s` : '–' }}
          </td>
          <td class="r nowrap">
            <Button
              size="small"
              variant="text"
              severity="secondary"
              :aria-label="`${r.info.name} earlier`"
              :disabled="!planned || r.k === 0"
              @click="shift(r.k, -1)"
              ><IconArrowUp :size="15" /></Button
            ><Button
              size="small"
              variant="text"
              severity="secondary"
              :aria-label="`${r.info.name} later`"
              :disabled="!planned || r.k === rows.length - 1"
              @click="shift(r.k, 1)"
              ><IconArrowDown :size="15"
            /></Button>
          </td>
        </tr>
      </tbody>
    </table>
    <TimelineBar :timeline :duration />
    <div class="stack tight">
      <ContactList :contacts :clear @look="timeline.show" />
      <p v-for="rail in plan!.rails" :key="rail.railId" class="small" :class="over(rail) ? 'bad' : 'muted'">
        {{ railWords(rail) }}
      </p>
    </div>
    <div class="card">
      <label class="row small"
        ><input v-model="isClear" type="checkbox" /> Fingers and cables are clear, the cut-off switch of the motor
        supply is within reach.</label
      >
      <div class="row">
        <Button
          size="small"
          severity="danger"
          label="Arm and power up by the plan"
          :disabled="!canSend || !isClear"
          data-moves
          @click="run.send({ type: 'arm', how: 'power-up' })"
        />
        <span class="muted small">{{
          !run.isLive
            ? 'Connect a board on the Bench page first.'
            : !run.mayDrive
              ? run.whyNotDrive
              : run.status.armed
                ? run.status.mode === 'bringing-up'
                  ? 'The motors are being switched on.'
                  : 'The board is armed.'
                : 'The board does just this, motor by motor.'
        }}</span>
      </div>
    </div>
  </template>
</template>

<style scoped>
table.plain .num {
  font-size: 0.88rem;
}
.problem,
.bad {
  color: var(--alarm);
}
.way {
  width: 8.2rem;
}
.nowrap :deep(button) {
  padding: 0.2rem;
}
.tight {
  gap: 0.2rem;
  margin: 0.5rem 0;
}
table.plain {
  margin: 0.4rem 0;
}
table.plain td {
  padding: 0.12rem 0.25rem;
}
.card label.row {
  gap: 0.4rem;
  margin-bottom: 0.4rem;
}
</style>
