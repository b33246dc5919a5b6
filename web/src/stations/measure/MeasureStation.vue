<script setup lang="ts">
import { IconPlus } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed, ref, watch, type Component } from 'vue';
import { useRoute } from 'vue-router';
import type { PartOf } from '@cork-elbow/core/findings';
import StationPage from '../../shared/StationPage.vue';
import { useParts } from '../../shared/useParts';
import { useEdit } from '../../shared/useEdit';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import AroundPart from './AroundPart.vue';
import BasePart from './BasePart.vue';
import DhPart from './DhPart.vue';
import JointsPart from './JointsPart.vue';
import PayloadsPart from './PayloadsPart.vue';
import RulesPart from './RulesPart.vue';
import ToolsPart from './ToolsPart.vue';
import WayOn from './WayOn.vue';
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

/** What each part is made of, from above to below. */
const pages = {
  joints: [JointsPart],
  rules: [RulesPart],
  tools: [ToolsPart, PayloadsPart],
  base: [BasePart],
  around: [AroundPart],
  table: [DhPart],
} satisfies Record<PartOf<'measure'>, readonly Component[]>;
const isTree = computed(() => rigs.rig!.mechanism.family === 'tree');
useOverlay(() => ({
  dimensions: part.value !== 'around',
  layers: { frames: part.value === 'around' || part.value === 'tools' || null },
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
  <StationPage v-model="part" station="measure" :parts>
    <template #actions>
      <Button
        v-if="part === 'joints' && isTree"
        size="small"
        severity="secondary"
        label="Add a joint"
        title="Hangs a new joint on the selected one"
        @click="add"
        ><template #icon><IconPlus :size="16" /></template
      ></Button>
    </template>
    <WayOn />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <component :is="page" v-for="(page, k) in pages[part]" :key="`${part} ${k}`" @problem="problem = $event" />
  </StationPage>
</template>

<style scoped>
.problem {
  color: var(--alarm);
  background: var(--alarm-wash);
  padding: 0.4rem 0.6rem;
  border-radius: 4px;
  margin-bottom: 0.5rem;
}
</style>
