<script setup lang="ts">
import { IconArrowBackUp, IconArrowForwardUp, IconDots, IconKeyboard, IconMoon, IconSun } from '@tabler/icons-vue';
import { format } from 'date-fns';
import Button from 'primevue/button';
import Popover from 'primevue/popover';
import { computed, useTemplateRef } from 'vue';
import { contractFindings } from '@cork-elbow/core/contract';
import { readinessOf } from '@cork-elbow/core/routine';
import { RouterLink } from 'vue-router';
import TextField from '../shared/TextField.vue';
import ParkButtons from './ParkButtons.vue';
import { useRigStore } from '../stores/rig';
import { useRunStore } from '../stores/run';
import { useViewStore } from '../stores/view';
import IconButton from '../shared/IconButton.vue';
import type { Frame } from './useFrame';

const { toLook, frame } = defineProps<{ toLook: number; frame: Frame }>();
const emit = defineEmits<{ findings: []; keys: [] }>();
const rigs = useRigStore();
const view = useViewStore();
const run = useRunStore();

/** With less room, what is seldom wanted stands behind one button. */
const isShort = computed(() => frame === 'tall' || frame === 'narrow');
const more = useTemplateRef('more');

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
  rigs.rig ? readinessOf(view.findings) : { state: 'stopped' as const, missing: [] },
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
  const { state, missing } = readiness.value;
  if (!missing.length) return '';
  return `${state === 'stopped' ? 'Stops a run' : 'Missing for a real board'}: ${missing[0].message}`;
});
const board = computed(() => {
  const { link, armed, run: state } = run.status;
  if (link === 'absent') return { text: 'no board', tone: '' };
  if (link === 'lost') return { text: 'board lost', tone: 'alarm' };
  if (link === 'connecting') return { text: 'connecting …', tone: '' };
  if (run.isRunning) {
    const text = state === 'paused' ? 'paused' : state === 'stopping' ? 'stopping' : 'running';
    return { text, tone: 'alarm' };
  }
  if (run.status.mode === 'by-hand') return { text: 'by hand', tone: 'alarm' };
  if (run.status.mode === 'homing') return { text: 'homing', tone: 'alarm' };
  if (run.status.mode === 'one-motor') return { text: 'one motor on', tone: 'alarm' };
  if (armed) return { text: 'armed', tone: 'alarm' };
  // What is connected for another rig does nothing for this one.
  return run.isLive ? { text: 'board connected', tone: 'good' } : { text: 'board at another rig', tone: '' };
});
const otherTheme = computed(() => (view.theme === 'dark' ? 'Light theme' : 'Dark theme'));
const themeIcon = computed(() => (view.theme === 'dark' ? IconSun : IconMoon));
const turnTheme = (): void => void (view.theme = view.theme === 'dark' ? 'light' : 'dark');
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
      <span v-if="frame === 'wide' || frame === 'medium'">Cork Elbow</span>
    </RouterLink>
    <template v-if="rigs.rig">
      <span v-if="!isShort" class="rule-v" />
      <TextField class="title" quiet :value="rigs.rig.name" label="Name of the rig" :commit="rename" />
      <span v-if="frame === 'wide'" class="muted small build">{{ rigs.build?.name }}</span>
      <Button
        size="small"
        severity="secondary"
        variant="text"
        :disabled="!view.undoLabel"
        :aria-label="view.undoLabel ? `Undo: ${view.undoLabel}` : 'Nothing to undo'"
        :title="view.undoLabel ? `Undo: ${view.undoLabel}` : 'Nothing to undo'"
        @click="view.undo()"
        ><IconArrowBackUp :size="17"
      /></Button>
      <Button
        size="small"
        severity="secondary"
        variant="text"
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
    <ParkButtons v-if="rigs.rig && !isShort" />
    <button
      v-if="rigs.rig"
      class="chip look"
      :class="[readiness.state, { some: toLook }]"
      :data-readiness="readiness.state"
      :title="why"
      :aria-label="`Checks: ${toLook || 'clear'}; ${fitness}`"
      @click="emit('findings')"
    >
      <span
        >Checks: <b :class="{ num: toLook }">{{ toLook || 'clear' }}</b><template v-if="frame === 'wide'"
          >; {{ fitness }}</template
        ></span
      >
    </button>
    <span class="board" :class="board.tone"><i aria-hidden="true" />{{ board.text }}</span>
    <template v-if="!isShort">
      <IconButton :icon="IconKeyboard" label="Keys" title="Keys (?)" @click="emit('keys')" />
      <IconButton :icon="themeIcon" :label="otherTheme" :title="otherTheme" @click="turnTheme" />
    </template>
    <template v-else>
      <IconButton :icon="IconDots" label="More" title="More" @click="more?.toggle($event)" />
      <Popover ref="more">
        <div class="stack">
          <div class="row"><ParkButtons v-if="rigs.rig" /></div>
          <Button
            size="small"
            variant="text"
            severity="secondary"
            label="Keys"
            @click="
              more?.hide();
              emit('keys');
            "
            ><template #icon><IconKeyboard :size="16" /></template
          ></Button>
          <Button size="small" variant="text" severity="secondary" :label="otherTheme" @click="turnTheme"
            ><template #icon><component :is="themeIcon" :size="16" /></template
          ></Button>
        </div>
      </Popover>
    </template>
    <button v-if="run.isRunning || run.isLed" class="stop" @click="run.stop()">
      Stop <span class="small">Esc</span>
    </button>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 0.55rem;
  min-height: 3.1rem;
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
@media (pointer: coarse) {
  .brand {
    min-width: 2.75rem;
    min-height: 2.75rem;
    justify-content: center;
  }
}
.rule-v {
  width: 1px;
  height: 1.25rem;
  background: var(--ink-3);
  opacity: 0.5;
  margin: 0 0.3rem;
}
.title {
  width: auto;
  min-width: 5rem;
  max-width: 19rem;
  font-weight: 700;
}
.title :deep(input) {
  font-weight: 700;
  /* As wide as the name. */
  field-sizing: content;
  width: auto;
  min-width: 5rem;
  max-width: 100%;
}
.saved {
  overflow: hidden;
  text-overflow: ellipsis;
  flex: 0 1 auto;
  min-width: 0;
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
  flex: none;
}
@media (max-width: 72em) {
  .at {
    display: none;
  }
}
@media (max-width: 43.75em) {
  .bar {
    gap: 0.3rem;
  }
  .saved:not(.warn) {
    display: none;
  }
  .title {
    width: auto;
    flex: 1 1 5rem;
    min-width: 4rem;
  }
  .stop {
    padding-inline: 0.9rem;
  }
}
@media (max-width: 30em) {
  .board {
    font-size: 0;
  }
}
</style>
