<script setup lang="ts">
/** The joints: all of them as a table, the chosen one as a form; a delta's measures over them. */
import { computed } from 'vue';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import DeltaForm from './DeltaForm.vue';
import JointForm from './JointForm.vue';
import JointTable from './JointTable.vue';

const emit = defineEmits<{ problem: [sentence: string] }>();
const rigs = useRigStore();
const view = useViewStore();
const doc = computed(() => rigs.rig!.mechanism);
const selected = computed(() => {
  const ids: readonly { id: string }[] = doc.value.joints;
  return ids.find((j) => j.id === view.selected)?.id ?? ids[0]?.id ?? null;
});
</script>

<template>
  <DeltaForm v-if="doc.family !== 'tree'" />
  <JointTable v-if="doc.joints.length" />
  <p v-else class="muted empty">
    No joints yet. Press <b>Add a joint</b>: begin with what turns on the base, then work outward.
  </p>
  <JointForm v-if="selected" :id="selected" @problem="emit('problem', $event)" />
</template>

<style scoped>
.empty {
  padding: 1rem 0;
}
</style>
