<script setup lang="ts">
import { IconPlus } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import StationHead from '../../shared/StationHead.vue';
import { useParts } from '../../shared/useParts';
import { useEdit } from '../../shared/useEdit';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import AroundPart from './AroundPart.vue';
import BasePart from './BasePart.vue';
import DeltaForm from './DeltaForm.vue';
import DhPart from './DhPart.vue';
import JointForm from './JointForm.vue';
import JointTable from './JointTable.vue';
import PayloadsPart from './PayloadsPart.vue';
import RulesPart from './RulesPart.vue';
import ToolsPart from './ToolsPart.vue';
import { addJoint, lastLink } from './edits';

const rigs = useRigStore();
const view = useViewStore();
const route = useRoute();
const edit = useEdit();
const problem = ref('');
const { parts, part } = useParts('measure');
watch(
  () => route.query.joint,
  (joint) => typeof joint === 'string' && (view.selected = joint),
  { immediate: true },
);
watch([part, () => rigs.rig], () => (problem.value = ''));

const doc = computed(() => rigs.rig!.mechanism);
const isTree = computed(() => doc.value.family === 'tree');
const selected = computed(() => {
  const ids: readonly { id: string }[] = doc.value.joints;
  return ids.find((j) => j.id === view.selected)?.id ?? ids[0]?.id ?? null;
});
useOverlay(() => ({
  dimensions: part.value !== 'around',
  frames: part.value === 'around' || part.value === 'tools',
}));

function add(): void {
  let made = '';
  const refused = edit('Add a joint', (draft) => {
    const parent =
      view.selected && draft.mechanism.joints.some((j) => j.id === view.selected)
        ? view.selected
        : lastLink(draft.mechanism);
    made = addJoint(draft, parent);
  });
  problem.value = refused ?? '';
  if (!refused) view.selected = made;
}
</script>

<template>
  <StationHead station="measure"
    ><Button
      v-if="part === 'joints' && isTree"
      size="small"
      severity="secondary"
      label="Joint"
      title="Hangs a new joint on the selected one"
      @click="add"
      ><template #icon><IconPlus :size="16" /></template></Button
  ></StationHead>
  <span class="choice small parts" role="group" aria-label="Part of the definition">
    <button v-for="p in parts" :key="p.id" :aria-pressed="part === p.id" @click="part = p.id">{{ p.name }}</button>
  </span>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>

  <template v-if="part === 'joints'">
    <DeltaForm v-if="!isTree" />
    <JointTable v-if="doc.joints.length" />
    <p v-else class="muted empty">
      No joints yet. Press <b>Joint</b>: begin with what turns on the base, then work outward.
    </p>
    <JointForm v-if="selected" :id="selected" @problem="problem = $event" />
  </template>
  <RulesPart v-else-if="part === 'rules'" @problem="problem = $event" />
  <template v-else-if="part === 'tools'">
    <ToolsPart @problem="problem = $event" />
    <PayloadsPart @problem="problem = $event" />
  </template>
  <BasePart v-else-if="part === 'base'" @problem="problem = $event" />
  <AroundPart v-else-if="part === 'around'" @problem="problem = $event" />
  <DhPart v-else @problem="problem = $event" />
</template>

<style scoped>
.parts {
  display: flex;
  margin-bottom: 0.5rem;
}
.parts button {
  flex: 1;
  padding-inline: 0.2rem;
}
.problem {
  color: var(--alarm);
  background: var(--alarm-wash);
  padding: 0.4rem 0.6rem;
  border-radius: 4px;
  margin-bottom: 0.5rem;
}
.empty {
  padding: 1rem 0;
}
</style>
