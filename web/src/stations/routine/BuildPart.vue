<script setup lang="ts">
/** Steps made for a purpose, or of the steps chosen: pick and place, a test of every joint, mirror, shift, scale. */
import Button from 'primevue/button';
import { computed, reactive, ref } from 'vue';
import { fromSlotsRounded } from '@cork-elbow/core/mechanism';
import { changedPose, jointTest, pickAndPlace, reversed, type Change } from '@cork-elbow/core/routine';
import { isJaw, type Target } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useRigStore } from '../../stores/rig';
import { usePlan } from '../../workspace/usePlan';
import TargetField from './TargetField.vue';
import { useSteps } from './useSteps';

const emit = defineEmits<{ done: [] }>();
const rigs = useRigStore();
const { plan } = usePlan();
const steps = useSteps();
const problem = ref('');
const first = (k: number): Target => {
  const { poses, spots } = rigs.rig!;
  if (spots[k]) return { spot: spots[k].id };
  return poses[k] ? { pose: poses[k].id } : { joints: {} };
};
const grips = computed(() =>
  rigs.rig!.mechanism.tools.filter((t) => t.grip).map((t) => ({ label: t.name ?? t.id, value: t.id })),
);
const payloads = computed(() => [
  { label: 'nothing that is drawn', value: '' },
  ...rigs.rig!.payloads.map((p) => ({ label: p.name, value: p.id })),
]);
const wish = reactive({
  tool: grips.value[0]?.value ?? '',
  payload: rigs.rig!.payloads[0]?.id ?? '',
  from: first(0),
  to: first(1),
  approachMm: 40,
  share: 50,
  slowMmPerS: 30,
});
function build(): void {
  const { tool, payload, from, to, approachMm, share, slowMmPerS } = wish;
  problem.value =
    steps.insert(
      'Build pick and place',
      pickAndPlace({
        tool,
        payload: payload || null,
        from: { ...from },
        to: { ...to },
        via: null,
        approachMm,
        pace: { speedShare: share / 100 },
        slowMmPerS,
      }),
    ) ?? '';
  if (!problem.value) emit('done');
}
function test(): void {
  problem.value = steps.insert('Add a test of every joint', jointTest(rigs.mechanism!)) ?? '';
  if (!problem.value) emit('done');
}

// ── The steps chosen, changed together ───────────────────────────────────────────────────────────────────────────
const shift = reactive<[number, number, number]>([0, 0, 10]);
const scale = ref(90);
const count = computed(() => steps.steps.value.filter((s) => steps.chosen.value.has(s.id) && 'target' in s).length);
/** Every chosen move goes where the change leads, as numbers; all or none. */
function change(label: string, how: Change): void {
  const { rig, mechanism } = rigs;
  if (!rig || !mechanism || !plan.value) return;
  const jaws = new Set(rig.mechanism.joints.filter(isJaw).map((j) => j.id));
  const made = new Map<string, Target>();
  for (const step of steps.steps.value) {
    if (!steps.chosen.value.has(step.id) || !('target' in step)) continue;
    const block = plan.value.blocks.findLast((b) => b.stepId === step.id && b.routine === steps.routine.value?.id);
    const tool = mechanism.tools.find((t) => (step.tool ? t.id === step.tool : t.mounted));
    const q = block && changedPose(rig, mechanism, tool, how, block.block.to);
    const no = steps.steps.value.indexOf(step) + 1;
    if (!q) {
      problem.value = `Step ${no} cannot be changed like that: the arm does not reach there.`;
      return;
    }
    const values = Object.entries(fromSlotsRounded(mechanism, q)).filter(([id]) => !jaws.has(id));
    made.set(step.id, { joints: Object.fromEntries(values) });
  }
  problem.value =
    steps.commit(label, (r) => {
      for (const step of r.steps) if ('target' in step && made.has(step.id)) step.target = made.get(step.id)!;
    }) ?? '';
}
function reverse(): void {
  const order = reversed(steps.steps.value, steps.chosen.value);
  if (!order) problem.value = 'Steps that open something, and their ends, cannot be turned round alone.';
  else {
    problem.value = '';
    steps.arrange(order.map((s) => s.id));
  }
}
</script>

<template>
  <section class="build" aria-label="Build steps">
    <div class="rule"><h2>Pick and place</h2></div>
    <div class="row wrap">
      <ChoiceField
        label="with"
        name="Tool"
        :options="grips"
        :value="wish.tool"
        placeholder="no tool that grips"
        @change="wish.tool = String($event)"
      />
      <ChoiceField
        label="carries"
        name="Carries"
        :options="payloads"
        :value="wish.payload"
        @change="wish.payload = String($event)"
      />
      <NumberField
        prefix="from above"
        :value="wish.approachMm"
        dimension="length"
        label="Approach"
        :min="1"
        :max="2000"
        :commit="(v: number) => void (wish.approachMm = v)"
      />
      <NumberField
        prefix="speed"
        :value="wish.share"
        dimension="share"
        :decimals="0"
        label="Speed"
        :min="1"
        :max="100"
        :commit="(v: number) => void (wish.share = v)"
      />
      <NumberField
        prefix="last part"
        :value="wish.slowMmPerS"
        dimension="speed"
        label="Speed of the last part"
        :min="0.1"
        :max="10000"
        :commit="(v: number) => void (wish.slowMmPerS = v)"
      />
    </div>
    <TargetField :target="wish.from" label="From" word="from" :set="(t: Target) => void (wish.from = t)" />
    <TargetField :target="wish.to" label="To" :set="(t: Target) => void (wish.to = t)" />
    <div class="row">
      <Button size="small" label="Insert the steps" :disabled="!wish.tool" @click="build" />
      <span class="grow" />
      <Button size="small" severity="secondary" label="Test of every joint" @click="test" />
    </div>
    <div class="rule">
      <h2>The moves chosen</h2>
      <span class="muted small">{{ count === 1 ? '1 move' : `${count} moves` }}</span>
    </div>
    <div class="row wrap">
      <Button
        size="small"
        severity="secondary"
        label="Mirror"
        title="Left for right"
        :disabled="!count"
        @click="change('Mirror the moves', { kind: 'mirror' })"
      />
      <Button
        size="small"
        severity="secondary"
        label="Invert"
        title="Every joint to the other side of its rest"
        :disabled="!count"
        @click="change('Invert the moves', { kind: 'invert' })"
      />
      <Button
        size="small"
        severity="secondary"
        label="Reverse"
        title="The last one first"
        :disabled="steps.chosen.value.size < 2"
        @click="reverse"
      />
    </div>
    <div class="row wrap">
      <TripleField :value="shift" label="Shift" :commit="(k: number, v: number) => void (shift[k] = v)" />
      <Button
        size="small"
        severity="secondary"
        label="Shift"
        :disabled="!count"
        @click="change('Shift the moves', { kind: 'shift', xyzMm: [shift[0], shift[1], shift[2]] })"
      />
    </div>
    <div class="row wrap">
      <NumberField
        :value="scale"
        prefix="way from rest"
        dimension="share"
        :decimals="0"
        label="Scale"
        :min="1"
        :max="300"
        :commit="(v: number) => void (scale = v)"
      />
      <Button
        size="small"
        severity="secondary"
        label="Scale"
        :disabled="!count"
        @click="change('Scale the moves', { kind: 'scale', factor: scale / 100 })"
      />
    </div>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.build {
  display: grid;
  gap: 0.45rem;
}
.build :deep(.field) {
  width: 9.6rem;
}
</style>
