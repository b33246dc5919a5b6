<script setup lang="ts">
import { IconArrowBackUp, IconArrowForwardUp, IconKeyboard, IconMoon, IconSun } from '@tabler/icons-vue';
import { format } from 'date-fns';
import Button from 'primevue/button';
import { computed } from 'vue';
import { contractFindings } from '@cork-elbow/core/contract';
import { readinessOf } from '@cork-elbow/core/routine';
import { RouterLink } from 'vue-router';
import TextField from '../shared/TextField.vue';
import ParkButtons from './ParkButtons.vue';
import { useRigStore } from '../stores/rig';
import { useRunStore } from '../stores/run';
import { useViewStore } from '../stores/view';
import IconButton from '../shared/IconButton.vue';

const { toLook } = defineProps<{ toLook: number }>();
const emit = defineEmits<{ findings: []; keys: [] }>();
const rigs = useRigStore();
const view = useViewStore();
const run = useRunStore();

const saved = computed(() => {
  switch (rigs.saveState) {
    case 'saved':
      return 'saved';
    case 'waiting':
    case 'saving':
      return 'saving …';
    case 'away':
      // What may pass by itself is tried again; what it is stands there unless nobody answers at all.
      return rigs.saveMessage === contractFindings.say('server-away')
        ? 'not saved: the server is away'
        : `not saved yet: ${rigs.saveMessage}`;
    case 'conflict':
      return 'changed elsewhere';
    case 'refused':
      return `not saved: ${rigs.saveMessage}`;
  }
  return '';
});
/** What may be done as it stands, and what is missing for more. */
const readiness = computed(() =>
  rigs.rig ? readinessOf(rigs.rig, view.findings) : { state: 'stopped' as const, missing: [] },
);
const fitness = computed(
  () =>
    ({
      stopped: 'something stops a run',
      simulated: 'fit for the simulated board',
      real: 'fit for a real board',
    })[readiness.value.state],
);
const why = computed(() => {
  if (readiness.value.state !== 'simulated') return '';
  const [first] = readiness.value.missing;
  return first ? `Missing for a real board: ${first.message}` : 'A real board wants motors first.';
});
const board = computed(() => {
  const { link, armed, run: state } = run.status;
  if (link === 'absent') return { text: 'no board', tone: '' };
  if (link === 'lost') return { text: 'board lost', tone: 'alarm' };
  if (link === 'connecting') return { text: 'connecting …', tone: '' };
  if (run.isRunning) return { text: state === 'paused' ? 'paused' : 'moving', tone: 'alarm' };
  return armed ? { text: 'armed', tone: 'alarm' } : { text: 'board connected', tone: 'good' };
});
const rename = (name: string): string | void => {
  const result = rigs.commit('Rename the rig', (draft) => void (draft.name = name));
  if (!result.ok) return name === '' ? 'A rig needs a name.' : result.message;
};
</script>

<template>
  <header class="bar">
    <RouterLink to="/" class="brand" aria-label="Cork Elbow, to the shelf">
      <svg viewBox="0 0 32 32" width="26" height="26" aria-hidden="true">
        <path d="M7 28V11q0-4 4-4h17" fill="none" stroke="var(--cork)" stroke-width="8" />
        <circle cx="9.5" cy="9.5" r="2.6" fill="var(--board)" />
      </svg>
      <span>Cork Elbow</span>
    </RouterLink>
    <template v-if="rigs.rig">
      <span class="rule-v" />
      <TextField class="title" quiet :value="rigs.rig.name" label="Name of the rig" :commit="rename" />
      <span class="muted small build">{{ rigs.build?.name }}</span>
      <Button
        size="small"
        severity="secondary"
        :disabled="!view.undoLabel"
        :aria-label="view.undoLabel ? `Undo: ${view.undoLabel}` : 'Nothing to undo'"
        :title="view.undoLabel ? `Undo: ${view.undoLabel}` : 'Nothing to undo'"
        @click="view.undo()"
        ><IconArrowBackUp :size="17"
      /></Button>
      <Button
        size="small"
        severity="secondary"
        :disabled="!rigs.redoLabel"
        :aria-label="rigs.redoLabel ? `Redo: ${rigs.redoLabel}` : 'Nothing to redo'"
        :title="rigs.redoLabel ? `Redo: ${rigs.redoLabel}` : 'Nothing to redo'"
        @click="rigs.redo()"
        ><IconArrowForwardUp :size="17"
      /></Button>
      <span
        class="muted small saved"
        role="status"
        :class="{ warn: ['away', 'refused', 'conflict'].includes(rigs.saveState) }"
        >{{ saved
        }}<span v-if="rigs.saveState === 'saved' && rigs.savedAt" class="at">{{
          ` ${format(rigs.savedAt, 'HH:mm')}`
        }}</span></span
      >
    </template>
    <span class="grow" />
    <button v-if="run.isRunning" class="stop" @click="run.send({ type: 'stop' })">
      Stop <span class="small">Esc</span>
    </button>
    <ParkButtons v-if="rigs.rig" />
    <button
      v-if="rigs.rig"
      class="chip look"
      :class="[readiness.state, { some: toLook }]"
      :data-readiness="readiness.state"
      :title="why"
      @click="emit('findings')"
    >
      <b v-if="toLook" class="num">{{ toLook }}</b> {{ toLook ? 'to look at' : ''
      }}<template v-if="toLook">; </template>{{ fitness }}
    </button>
    <span class="board" :class="board.tone"><i aria-hidden="true" />{{ board.text }}</span>
    <IconButton :icon="IconKeyboard" label="Keys" title="Keys (?)" @click="emit('keys')" />
    <Button
      size="small"
      variant="text"
      severity="secondary"
      :aria-label="view.theme === 'dark' ? 'Light theme' : 'Dark theme'"
      @click="view.theme = view.theme === 'dark' ? 'light' : 'dark'"
    >
      <IconSun v-if="view.theme === 'dark'" :size="18" /><IconMoon v-else :size="18" />
    </Button>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 0.55rem;
  height: 50px;
  margin-bottom: -8px;
  white-space: nowrap;
  min-width: 0;
}
.brand {
  display: flex;
  align-items: center;
  gap: 0.6rem;
  font: 700 1.15rem var(--display);
  color: var(--ink);
  text-decoration: none;
}
.rule-v {
  width: 1px;
  height: 20px;
  background: var(--ink-3);
  opacity: 0.5;
  margin: 0 0.3rem;
}
.title {
  width: 9.5rem;
  font-weight: 700;
}
.title :deep(input) {
  font-weight: 700;
}
.saved {
  overflow: hidden;
  text-overflow: ellipsis;
  min-width: 3rem;
}
.warn {
  color: var(--alarm);
  font-weight: 600;
}
.look {
  border: 0;
  cursor: pointer;
  color: var(--good);
  background: transparent;
}
.look.stopped {
  color: var(--alarm);
}
.look.simulated {
  color: var(--ink-2);
}
.look.some {
  background: var(--cork-wash);
  color: var(--ink);
}
.board {
  display: inline-flex;
  align-items: center;
  gap: 0.45rem;
  font-size: 0.9rem;
  color: var(--ink-2);
}
.board i {
  width: 9px;
  height: 9px;
  border-radius: 50%;
  border: 2px solid currentColor;
}
.board.good {
  color: var(--good);
}
.board.good i {
  background: currentColor;
}
.board.alarm {
  color: var(--alarm);
  font-weight: 700;
}
.board.alarm i {
  background: currentColor;
}
.stop {
  border: 0;
  border-radius: 5px;
  background: var(--alarm);
  color: var(--on-alarm);
  font-weight: 800;
  font-size: 1.05rem;
  padding: 0.45rem 1.5rem;
  cursor: pointer;
}
@media (max-width: 1150px) {
  .build,
  .at {
    display: none;
  }
  .title {
    width: 8.5rem;
  }
}
</style>
