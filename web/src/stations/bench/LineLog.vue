<script setup lang="ts">
/** Every line to the boards and from them, with its time: filtered, held still, copied. */
import { IconCopy, IconPlayerPause, IconPlayerPlay } from '@tabler/icons-vue';
import { useVirtualList } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, nextTick, onBeforeUnmount, ref, shallowRef, watch } from 'vue';
import { linedBoards } from '@cork-elbow/core/actuators';
import type { BoardLine } from '@cork-elbow/core/contract';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';

const rigs = useRigStore();
const run = useRunStore();
const isOpen = ref(false);
watch(isOpen, (on) => run.listen(on));
onBeforeUnmount(() => isOpen.value && run.listen(false));

const words = ref('');
/** What stands still while it is looked at; null: what comes is shown. */
const held = shallowRef<readonly BoardLine[] | null>(null);
const hold = (): void => void (held.value = held.value ? null : run.lines);
const all = computed(() => held.value ?? run.lines);
const shown = computed(() => {
  const wanted = words.value.trim().toLowerCase();
  return wanted ? all.value.filter(({ text }) => text.toLowerCase().includes(wanted)) : all.value;
});
const several = computed(() => rigs.rig!.boards.length > 1);
const boardName = (id: string): string => rigs.rig!.boards.find((b) => b.id === id)?.name ?? id;
/** Whether lines before this one were not kept. */
const gap = (k: number): number => {
  const before = k > 0 ? shown.value[k - 1].no : null;
  return words.value || before === null ? 0 : shown.value[k].no - before - 1;
};

const ROW = 20;
const { list, containerProps, wrapperProps, scrollTo } = useVirtualList(shown, { itemHeight: ROW, overscan: 20 });
/** What comes is followed while the end is in view. */
const follows = ref(true);
function scrolled(): void {
  const box = containerProps.ref.value;
  if (box) follows.value = box.scrollTop + box.clientHeight > box.scrollHeight - 3 * ROW;
}
watch(shown, async (now) => {
  if (!follows.value || !now.length) return;
  await nextTick();
  scrollTo(now.length - 1);
});

/** A line of one's own: only while nothing is switched on, and nothing that would. */
const own = ref('');
const to = ref<string | null>(null);
const boards = computed(() => linedBoards(rigs.rig!).map(({ id, name }) => ({ label: name, value: id })));
const maySend = computed(() => run.isLive && !run.status.armed && run.mayDrive);
function sendOwn(): void {
  const text = own.value.trim();
  if (!text || !maySend.value) return;
  run.send({ type: 'line', board: to.value ?? boards.value[0].value, text });
  own.value = '';
}
const copied = ref('');
async function copy(): Promise<void> {
  const text = shown.value.map(
    ({ atS, way, board, text: own }) =>
      `${atS.toFixed(3)}\t${way === 'out' ? 'to' : 'from'}\t${boardName(board)}\t${own}`,
  );
  try {
    await navigator.clipboard.writeText(text.join('\n'));
    copied.value = `${formatNumber(text.length, 0)} lines copied.`;
  } catch {
    copied.value = 'The browser did not let them be copied.';
  }
}
</script>

<template>
  <details class="line-log" @toggle="isOpen = ($event.target as HTMLDetailsElement).open">
    <summary>Lines to and from the boards</summary>
    <template v-if="isOpen">
      <div class="row">
        <input
          v-model="words"
          class="words"
          type="search"
          placeholder="only lines with …"
          aria-label="Only lines with"
        />
        <Button
          size="small"
          severity="secondary"
          :label="held ? 'Follow' : 'Hold'"
          :aria-pressed="!!held"
          @click="hold"
          ><template #icon><component :is="held ? IconPlayerPlay : IconPlayerPause" :size="15" /></template
        ></Button>
        <Button size="small" severity="secondary" label="Copy" :disabled="!shown.length" @click="copy"
          ><template #icon><IconCopy :size="15" /></template
        ></Button>
      </div>
      <p v-if="!all.length" class="muted small">Nothing has been said yet: connect, and it stands here.</p>
      <div
        v-else
        v-bind="containerProps"
        class="lines num"
        tabindex="0"
        role="log"
        aria-live="off"
        aria-label="Lines"
        @scroll.passive="scrolled"
      >
        <div v-bind="wrapperProps">
          <div
            v-for="{ data, index } in list"
            :key="data.no"
            class="said"
            :class="data.way"
            :style="{ height: `${ROW}px` }"
            :title="gap(index) ? `${formatNumber(gap(index), 0)} lines before this one were not kept` : undefined"
          >
            <span class="at">{{ gap(index) ? '⋯ ' : '' }}{{ formatFixed(data.atS, 3) }} s</span>
            <span class="way" :aria-label="data.way === 'out' ? 'to the board' : 'from the board'">{{
              data.way === 'out' ? '→' : '←'
            }}</span>
            <span v-if="several" class="board">{{ boardName(data.board) }}</span>
            <span class="text">{{ data.text }}</span>
          </div>
        </div>
      </div>
      <form class="row own" @submit.prevent="sendOwn">
        <ChoiceField
          v-if="boards.length > 1"
          label=""
          name="Board that the line goes to"
          :options="boards"
          :value="to ?? boards[0].value"
          @change="to = $event as string"
        />
        <input
          v-model="own"
          class="words"
          :disabled="!maySend"
          placeholder="hello 0"
          aria-label="A line of your own"
          autocomplete="off"
          spellcheck="false"
          maxlength="113"
        />
        <Button size="small" severity="secondary" type="submit" label="Send" :disabled="!maySend || !own.trim()" />
      </form>
      <p class="muted small">
        {{
          run.isLive && run.status.armed
            ? 'A line of your own is sent only while nothing is switched on.'
            : 'The checksum is put behind it; a word that is # becomes the next number. Lines that move are kept to the program.'
        }}
      </p>
      <p class="muted small" role="status">
        {{ copied || `${formatNumber(shown.length, 0)} of ${formatNumber(all.length, 0)} lines` }}
      </p>
    </template>
  </details>
</template>

<style scoped>
.own {
  margin-top: 0.4rem;
}
.line-log {
  margin-top: 0.6rem;
}
summary {
  cursor: pointer;
  font-weight: 600;
  padding: 0.25rem 0;
}
.words {
  flex: 1;
  min-width: 6rem;
  border: 1px solid var(--lines);
  border-radius: 4px;
  background: var(--paper);
  color: inherit;
  font: inherit;
  font-size: 0.88rem;
  padding: 0.25rem 0.5rem;
}
.lines {
  height: 15rem;
  margin-top: 0.4rem;
  border: 1px solid var(--lines);
  border-radius: 4px;
  font-size: 0.78rem;
  scrollbar-width: thin;
}
.said {
  display: flex;
  gap: 0.6rem;
  padding-inline: 0.4rem;
  white-space: pre;
  align-items: center;
}
.at {
  flex: 0 0 6.2rem;
  text-align: right;
  color: var(--ink-2);
}
.way {
  flex: none;
}
.in {
  background: var(--paper-2);
}
.board {
  flex: none;
  color: var(--ink-2);
}
</style>
