<script setup lang="ts">
import { IconCamera, IconGripVertical, IconTrash } from '@tabler/icons-vue';
import { usePreferredReducedMotion } from '@vueuse/core';
import Button from 'primevue/button';
import Menu from 'primevue/menu';
import { computed, ref, useTemplateRef } from 'vue';
import { VueDraggable } from 'vue-draggable-plus';
import { useRouter } from 'vue-router';
import { fromUnit, fromSlotsRounded, toSlots } from '@cork-elbow/core/mechanism';
import { takeOut, freeId, type Pose } from '@cork-elbow/core/rig';
import { stepsWith } from '@cork-elbow/core/routine';
import { formatNumber } from '@cork-elbow/core/units';
import { useSlots } from '../../shared/joints';
import JointMark from '../../shared/JointMark.vue';
import StationPage from '../../shared/StationPage.vue';
import TextField from '../../shared/TextField.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { usePlan } from '../../workspace/usePlan';
import IconButton from '../../shared/IconButton.vue';
import { useEdit } from '../../shared/useEdit';

const rigs = useRigStore();
const view = useViewStore();
/** Rows slide to their places unless the machine was asked for no motion. */
const motion = usePreferredReducedMotion();
const slots = useSlots();
const router = useRouter();
const planContext = usePlan();
const problem = ref('');
const many = computed(() => slots.value.length > 5);
const poses = computed(() => rigs.rig!.poses);
useOverlay(() => ({ dimensions: false }));

const commit = useEdit(problem);
const now = (): Record<string, number> => fromSlotsRounded(rigs.mechanism!, view.q);
function take(): void {
  commit(
    'Take a pose',
    (draft) =>
      void draft.poses.push({
        id: freeId(
          'pose',
          poses.value.map((p) => p.id),
        ),
        name: `Pose ${poses.value.length + 1}`,
        joints: now(),
        note: '',
      }),
  );
}
const retake = (pose: Pose): void =>
  void commit(`Re-take ${pose.name}`, (draft) => void (draft.poses.find((p) => p.id === pose.id)!.joints = now()));
const remove = (pose: Pose): void => void commit(`Delete ${pose.name}`, (draft) => takeOut(draft, 'pose', pose.id));
const rename = (pose: Pose, name: string): string | void =>
  name
    ? commit(`Rename ${pose.name}`, (draft) => void (draft.poses.find((p) => p.id === pose.id)!.name = name))
    : 'A pose needs a name.';
function go(pose: Pose): void {
  const { mechanism } = rigs;
  if (!mechanism) return;
  const q = toSlots(mechanism, pose.joints, view.q);
  view.setEdit(q.map((v, s) => Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], v))));
}
/** Steps that go to a pose: all of them change with it. */
const usesIn = computed(
  () => new Map(rigs.rig!.poses.map((pose) => [pose.id, stepsWith(rigs.rig!, 'pose', pose.id)])),
);
const usesMenu = useTemplateRef('usesMenu');
const usesShown = ref<string | null>(null);
const usesItems = computed(() =>
  (usesIn.value.get(usesShown.value ?? '') ?? []).map(({ routineId, routine, stepId, step }) => ({
    label: `${routine}, step ${step}`,
    command: () => {
      planContext.routineId.value = routineId;
      void router.push({ name: 'routine', params: { rigId: rigs.id! }, query: { step: stepId } });
    },
  })),
);
function showUses(event: Event, id: string): void {
  usesShown.value = id;
  usesMenu.value?.show(event);
}
const isHere = (pose: Pose): boolean =>
  slots.value.every(
    (s) =>
      !Object.hasOwn(pose.joints, s.id) ||
      Math.abs(fromUnit(rigs.mechanism!, s.slot, pose.joints[s.id]) - view.q[s.slot]) < 1e-4,
  );
const past = (pose: Pose): string => {
  const m = rigs.mechanism!;
  const over = slots.value.find(
    (s) =>
      Object.hasOwn(pose.joints, s.id) &&
      (fromUnit(m, s.slot, pose.joints[s.id]) < m.lower[s.slot] - 1e-9 ||
        fromUnit(m, s.slot, pose.joints[s.id]) > m.upper[s.slot] + 1e-9),
  );
  return over ? `${over.name} is past its limit here.` : '';
};
function reorder(list: Pose[]): void {
  const order = list.map((p) => p.id);
  commit('Reorder the poses', (draft) => void draft.poses.sort((a, b) => order.indexOf(a.id) - order.indexOf(b.id)));
}
function shift(pose: Pose, by: number): void {
  const order = [...poses.value];
  const at = order.indexOf(pose);
  if (at + by < 0 || at + by >= order.length) return;
  order.splice(at, 1);
  order.splice(at + by, 0, pose);
  reorder(order);
}
</script>

<template>
  <StationPage station="poses">
    <template #actions>
      <Button label="Take this pose" @click="take"
        ><template #icon><IconCamera :size="17" /></template
      ></Button>
    </template>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <p v-if="!poses.length" class="muted">
      No poses yet. Bring the arm where you want it, by the strip below or on the Reach page, and take the pose. A few
      to begin with: rest, ready, out.
    </p>
    <div v-else class="head small muted" :class="{ many }">
      <span /><span>pose</span
      ><span class="values"
        ><span v-for="s in slots" :key="s.id"><JointMark :index="s.slot" :size="20" /></span></span
      ><span>used</span><span />
    </div>
    <VueDraggable
      tag="ul"
      class="list"
      :model-value="[...poses]"
      handle=".grip"
      :animation="motion === 'reduce' ? 0 : 120"
      @update:model-value="reorder($event as Pose[])"
    >
      <li
        v-for="pose in poses"
        :key="pose.id"
        class="pose"
        :class="{ here: isHere(pose), many }"
        :data-pose="pose.id"
      >
        <button
          class="grip"
          :aria-label="`Move ${pose.name}; arrow keys move it up or down`"
          @keydown.up.prevent="shift(pose, -1)"
          @keydown.down.prevent="shift(pose, 1)"
        >
          <IconGripVertical :size="16" />
        </button>
        <TextField quiet :value="pose.name" label="Pose name" :commit="(v: string) => rename(pose, v)" />
        <span class="values num"
          ><span v-for="s in slots" :key="s.id">{{
            Object.hasOwn(pose.joints, s.id) ? formatNumber(pose.joints[s.id], 0) : '·'
          }}</span></span
        >
        <button
          class="num small uses"
          :disabled="!usesIn.get(pose.id)?.length"
          :aria-label="`${pose.name} is used by ${usesIn.get(pose.id)?.length ?? 0} steps; show them`"
          @click="showUses($event, pose.id)"
        >
          {{ usesIn.get(pose.id)?.length || '' }}
        </button>
        <span class="row acts">
          <Button size="small" variant="text" label="Go" :aria-label="`Go to ${pose.name}`" @click="go(pose)" />
          <IconButton
            :icon="IconCamera"
            :label="`Re-take ${pose.name} from where the arm stands`"
            title="Re-take from where the arm stands"
            @click="retake(pose)"
          />
          <IconButton :icon="IconTrash" :label="`Delete ${pose.name}`" title="Delete" danger @click="remove(pose)" />
        </span>
        <span v-if="past(pose)" class="past">{{ past(pose) }}</span>
      </li>
    </VueDraggable>
    <Menu ref="usesMenu" :model="usesItems" popup />
  </StationPage>
</template>

<style scoped>
.list {
  list-style: none;
  margin: 0;
  padding: 0;
}
.head,
.pose {
  display: grid;
  --grip: 1.2rem;
  --uses: 1.6rem;
  --acts: 6.4rem;
  grid-template-columns: var(--grip) minmax(7rem, 1fr) auto var(--uses) var(--acts);
  align-items: center;
  gap: 0.3rem;
}
.head {
  padding-bottom: 0.2rem;
  border-bottom: 1px solid var(--lines);
}
.pose {
  border-bottom: 1px solid var(--lines);
}
.pose.here {
  background: var(--pine-wash);
}
.values {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: 2.05rem;
  text-align: right;
  font-size: 0.84rem;
}
.head .values {
  justify-items: end;
}
@media (pointer: coarse) {
  .head,
  .pose {
    --grip: 2.75rem;
    --uses: 2.75rem;
    --acts: 9rem;
  }
}
/* Eight figures want a line of their own before a name is squeezed. */
@container station (max-width: 36rem) {
  .many {
    grid-template-columns: var(--grip) minmax(7rem, 1fr) var(--uses) var(--acts);
  }
  .many .values {
    grid-area: 2 / 2 / 3 / -1;
    justify-content: end;
    padding-bottom: 0.25rem;
  }
}
.uses {
  border: 0;
  background: none;
  color: var(--pine);
  cursor: pointer;
  text-align: right;
}
.acts {
  gap: 0;
}
.acts :deep(.p-button) {
  padding-inline: 0.35rem;
}
.grip {
  border: 0;
  background: none;
  cursor: grab;
  color: var(--ink-3);
  padding: 0.2rem 0;
  display: grid;
}
.past {
  grid-column: 2 / -1;
  color: var(--alarm);
  font-size: 0.82rem;
}
</style>
