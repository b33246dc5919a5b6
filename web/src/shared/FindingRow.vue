<script setup lang="ts">
/** One finding, everywhere the same: what is wrong, where, how much, and a button that goes there. */
import { computed, ref } from 'vue';
import { remedyOf } from '@cork-elbow/core/catalogue';
import type { Finding } from '@cork-elbow/core/findings';
import { fixOf } from '@cork-elbow/core/routine';
import Button from 'primevue/button';
import { useRigStore } from '../stores/rig';
import { useEdit } from './useEdit';

const { finding } = defineProps<{ finding: Finding }>();
const emit = defineEmits<{ go: [finding: Finding] }>();
const rigs = useRigStore();
/** Why the mend was refused. */
const problem = ref('');
const edit = useEdit(problem);
const remedy = computed(() => remedyOf(finding.code, finding.data));
/** What mends it at once, where there is nothing to choose. */
const fix = computed(() => (rigs.rig ? fixOf(rigs.rig, finding) : null));
const words = { stop: 'must be mended', look: 'worth a look', note: 'to know' } as const;
</script>

<template>
  <div class="finding" :data-severity="finding.severity" :data-code="finding.code">
    <span class="sign" aria-hidden="true">{{
      finding.severity === 'stop' ? '✕' : finding.severity === 'look' ? '!' : 'i'
    }}</span>
    <span class="grow"
      ><span class="sr">{{ words[finding.severity] }}: </span>{{ finding.message }}
      <span v-if="remedy" class="muted small">{{ remedy }}</span></span
    >
    <Button
      v-if="fix"
      size="small"
      variant="outlined"
      class="fix"
      :label="fix.label"
      @click="edit(fix.label, fix.apply)"
    />
    <Button size="small" variant="text" label="Go there" @click="emit('go', finding)" />
    <p v-if="problem" class="refused small" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.finding {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 0.1rem 0.6rem;
  padding: 0.3rem 0.5rem;
  border-left: 4px solid var(--ink-3);
  background: var(--paper-2);
  border-radius: 3px;
  font-size: 0.92rem;
}
.finding .grow {
  flex: 1 1 14rem;
}
.refused {
  flex-basis: 100%;
  margin: 0;
  color: var(--alarm);
}
.fix {
  white-space: nowrap;
}
.sign {
  font-weight: 700;
  width: 1rem;
  text-align: center;
}
[data-severity='stop'] {
  border-color: var(--alarm);
  background: var(--alarm-wash);
}
[data-severity='stop'] .sign {
  color: var(--alarm);
}
[data-severity='look'] {
  border-color: var(--caution);
  background: var(--caution-wash);
}
[data-severity='look'] .sign {
  color: var(--caution);
}
</style>
