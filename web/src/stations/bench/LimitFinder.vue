<script setup lang="ts">
/** How far a joint goes with nothing in its way: a small step at a press, while somebody looks; back off and keep it on “stop”. */
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { confirmedWith } from '@cork-elbow/core/calibration';
import { formatNumber } from '@cork-elbow/core/units';
import { motorsApi } from '../../api-motors';
import ChoiceField from '../../shared/ChoiceField.vue';
import { useSlots } from '../../shared/joints';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';

/** Share of the joint's speed at which it is tried. */
const GENTLE = 0.05;
/** This near (° or mm) it is there. */
const THERE = 0.02;

const rigs = useRigStore();
const run = useRunStore();
const slots = useSlots();
const edit = useEdit();
const chosen = ref<string | null>(null);
const end = ref<'min' | 'max'>('max');
const step = ref(1);
/** Where it began, where it was free before the last step, where it is going, and whether it is on its way back. */
const tried = ref<{ joint: string; begin: number; free: number; to: number; back: boolean } | null>(null);
const said = ref('');

const joints = computed(() => slots.value.filter(({ id }) => (run.telemetry?.commanded ?? {})[id] !== undefined));
const joint = computed(() => joints.value.find(({ id }) => id === chosen.value) ?? joints.value[0]);
const here = computed(() => (joint.value ? (run.telemetry?.commanded[joint.value.id] ?? null) : null));
const limit = computed(() => {
  const { mechanism } = rigs;
  if (!mechanism || !joint.value) return 0;
  const { slot } = joint.value;
  return mechanism[end.value === 'min' ? 'lower' : 'upper'][slot] / mechanism.siPerUnit[slot];
});
const confirmed = computed(() => (joint.value ? rigs.build?.confirmed[joint.value.id] : undefined));
const mayBegin = computed(
  () =>
    run.isLive &&
    run.mayDrive &&
    run.isFree &&
    run.status.armed &&
    !run.isRunning &&
    ['normal', 'by-hand'].includes(run.status.mode) &&
    rigs.saveState === 'saved',
);
const isThere = computed(
  () => tried.value !== null && here.value !== null && Math.abs(here.value - tried.value.to) < THERE,
);
const atLimit = computed(() => tried.value !== null && Math.abs(tried.value.to - limit.value) < 1e-6);
const value = (v: number): string => `${formatNumber(v, 1)}${joint.value?.unit === 'mm' ? ' mm' : '°'}`;

function begin(): void {
  if (here.value === null || !joint.value) return;
  said.value = '';
  tried.value = { joint: joint.value.id, begin: here.value, free: here.value, to: here.value, back: false };
  run.send({
    ...{ type: 'by-hand', on: true, limitsOf: joint.value.id },
    ...{ rigId: rigs.id!, revision: rigs.revision, buildId: rigs.build!.id },
  });
}
const lead = (to: number): void => run.send({ type: 'guide', joints: { [tried.value!.joint]: to }, share: GENTLE });
function further(): void {
  const now = tried.value!;
  const way = end.value === 'max' ? 1 : -1;
  const to = way > 0 ? Math.min(limit.value, now.to + step.value) : Math.max(limit.value, now.to - step.value);
  tried.value = { ...now, free: now.to, to };
  lead(to);
}
/** It touches something: back to where it was free before, and that is kept. */
function touches(): void {
  const now = tried.value!;
  tried.value = { ...now, to: now.free, back: true };
  lead(now.free);
}
watch(isThere, (there) => there && tried.value?.back && void keep());
watch(
  () => run.byHand,
  (on) => !on && (tried.value = null),
);

async function keep(): Promise<void> {
  const now = tried.value!;
  tried.value = null;
  const range = confirmedWith(rigs.build!.confirmed[now.joint], end.value, now.to, now.begin, now.back);
  const buildId = rigs.build!.id;
  const name = joint.value!.name;
  const refused = edit(
    `Confirmed range of ${name}`,
    (draft) => (draft.builds.find((b) => b.id === buildId)!.confirmed[now.joint] = range),
    'build',
  );
  said.value = refused ?? `${name} is confirmed from ${value(range.min)} to ${value(range.max)}.`;
  if (refused) return;
  try {
    await motorsApi.recordCalibration(
      rigs.id!,
      buildId,
      { kind: 'range', joint: now.joint, range },
      'found on the Bench',
    );
  } catch (error) {
    said.value += ` It was not written into the history: ${(error as Error).message}`;
  }
}
</script>

<template>
  <details v-if="run.isLive && run.status.armed && joints.length" class="finder">
    <summary>Find how far a joint goes</summary>
    <p class="muted small">
      It goes a small step at each press, at {{ formatNumber(100 * GENTLE, 0) }} % of its speed, up to its software
      limit. Look at it after each: cables, neighbours, the table. Runs keep to what is confirmed.
    </p>
    <div class="row ask">
      <ChoiceField
        label="joint"
        :options="joints.map(({ id, name }) => ({ label: name, value: id }))"
        :value="joint?.id ?? null"
        @change="((chosen = String($event)), (tried = null))"
      />
      <ChoiceField
        label="towards"
        :options="[
          { label: 'its highest', value: 'max' },
          { label: 'its lowest', value: 'min' },
        ]"
        :value="end"
        @change="((end = $event as 'min' | 'max'), (tried = null))"
      />
      <ChoiceField
        label="a step is"
        :options="[0.5, 1, 2, 5].map((v) => ({ label: value(v), value: v }))"
        :value="step"
        @change="step = Number($event)"
      />
    </div>
    <p class="small" role="status" data-finder>
      It stands at <b class="num">{{ here === null ? '–' : value(here) }}</b>; its limit there is {{ value(limit) }}.
      {{
        confirmed ? `Confirmed from ${value(confirmed.min)} to ${value(confirmed.max)}.` : 'Nothing is confirmed yet.'
      }}
    </p>
    <div class="row">
      <Button v-if="!tried" size="small" label="Begin" data-moves :disabled="!mayBegin" @click="begin" />
      <template v-else>
        <Button
          size="small"
          :label="`${value(step)} further`"
          data-moves
          :disabled="!isThere || atLimit || tried.back"
          @click="further"
        />
        <Button
          size="small"
          severity="danger"
          label="Stop, it touches"
          title="Goes back by one step, and keeps where it is free"
          data-moves
          :disabled="tried.back || tried.to === tried.begin"
          @click="touches"
        />
        <Button
          size="small"
          severity="secondary"
          label="It is free, keep it"
          title="Confirms the joint up to here"
          :disabled="!isThere || tried.back"
          @click="keep"
        />
      </template>
      <span v-if="said" class="small grow" role="status">{{ said }}</span>
    </div>
    <p v-if="tried && !confirmed" class="muted small">
      The other end counts as tried from where it began: find that too.
    </p>
  </details>
</template>

<style scoped>
.finder {
  margin-top: 0.5rem;
}
summary {
  cursor: pointer;
  font-weight: 600;
}
.ask {
  align-items: end;
  gap: 0.6rem;
}
.ask > * {
  flex: 1;
  min-width: 0;
}
p {
  margin: 0.35rem 0;
}
</style>
