<script setup lang="ts">
/** The lines that a board with firmware of its builder's own reads, and what they come to. */
import { computed } from 'vue';
import { isSpin, nativeAt } from '@cork-elbow/core/actuators';
import { Channels, lineMotors, linePlaces } from '@cork-elbow/core/commands';
import {
  lineBaud,
  previewLines,
  readTemplate,
  templateStarts,
  unspoken,
  type LineTemplate,
  type TemplateText,
} from '@cork-elbow/core/own-lines';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';

/** `boardId` and `board`: id and name of the board; `baud`: the speed of its line, where there is one. */
const { boardId, board, template, baud, commit } = defineProps<{
  boardId: string;
  board: string;
  template: LineTemplate;
  baud: number | null;
  commit: (template: LineTemplate) => string | void;
}>();
const rigs = useRigStore();
const view = useViewStore();

const texts: { key: TemplateText | 'reply'; label: string; hint?: string }[] = [
  { key: 'head', label: 'begins with' },
  { key: 'each', label: 'for each motor' },
  { key: 'separator', label: 'between two' },
  { key: 'tail', label: 'ends with' },
  { key: 'on', label: 'a motor on', hint: 'nothing' },
  { key: 'off', label: 'a motor off', hint: 'never off' },
  { key: 'output', label: 'an output', hint: 'not reached' },
  { key: 'halt', label: 'frozen', hint: 'last values' },
  { key: 'reply', label: 'an answer begins', hint: 'nothing' },
];
const ends = [
  { label: 'line feed', value: 'lf' },
  { label: 'return and line feed', value: 'crlf' },
  { label: 'return', value: 'cr' },
];
const start = computed(
  () => templateStarts.find((each) => JSON.stringify(each.template) === JSON.stringify(template))?.id ?? null,
);
function take(change: Partial<LineTemplate>): string | void {
  const next = { ...template, ...change };
  const read = readTemplate(next);
  if (read.ok) return commit(next);
  const own = read.at in change;
  const where = own ? '' : `${texts.find(({ key }) => key === read.at)!.label}: `;
  return where + (own ? read.message.charAt(0).toUpperCase() + read.message.slice(1) : read.message) + '.';
}

const channels = computed(() =>
  rigs.rig && rigs.mechanism && rigs.build ? new Channels(rigs.rig, rigs.mechanism, rigs.build) : null,
);
/** What goes over the line for the pose on show. */
const preview = computed(() => {
  const read = readTemplate(template);
  const all = channels.value;
  if (!read.ok || !all || view.editQ.length !== all.mechanism.m) return null;
  const maps = all.on(boardId);
  if (!maps.length) return { trouble: 'No motor is wired to this board yet.', lines: null };
  const motors = lineMotors(maps);
  const trouble = unspoken(read.value, motors);
  if (trouble) return { trouble: `${trouble}.`, lines: null };
  const q = view.editQ;
  const natives = maps.map((map) => (isSpin(map) ? map.stopUs : (nativeAt(map, all.mechanism, q) ?? 0)));
  const lines = previewLines(template, read.value, motors, linePlaces(all, maps, q, natives));
  return { trouble: '', lines };
});
const load = computed(() => {
  const line = preview.value?.lines?.values;
  if (line === undefined) return '';
  const takes = lineBaud(template, line.length);
  const length = `${line.length} letters and the end of the line, ${formatNumber(template.perS, 0)} times a second`;
  if (baud === null) return `${length}.`;
  return `${length}: ${formatNumber((100 * takes) / baud, 0)} % of what the line carries.`;
});
const over = computed(() => {
  const line = preview.value?.lines?.values;
  return line !== undefined && baud !== null && lineBaud(template, line.length) > 0.9 * baud;
});
/** Spaces and tabs that can be seen. */
const shown = (line: string): string => line.replace(/ /g, '·').replace(/\t/g, '→');
const mark = computed(() => ({ lf: '↵', crlf: '␍↵', cr: '␍' })[template.end]);
</script>

<template>
  <div class="lines" role="group" :aria-label="`Lines of its own for ${board}`">
    <ChoiceField
      class="start"
      label="begin with"
      :name="`Lines to begin with for ${board}`"
      placeholder="lines of your own"
      :options="templateStarts.map(({ id, name }) => ({ label: name, value: id }))"
      :value="start"
      @change="commit(templateStarts.find(({ id }) => id === $event)!.template)"
    />
    <label v-for="{ key, label, hint } in texts" :key :class="key"
      ><span>{{ label }}</span
      ><TextField
        class="mono"
        exact
        :label="`Lines for ${board}: ${label}`"
        :placeholder="hint"
        :value="template[key]"
        :commit="(text) => take({ [key]: text })"
    /></label>
    <ChoiceField
      label="a line ends with"
      :name="`End of a line for ${board}`"
      :options="ends"
      :value="template.end"
      @change="take({ end: $event as LineTemplate['end'] })"
    />
    <div class="rate">
      <span>lines a second</span>
      <NumberField
        :label="`Lines a second for ${board}`"
        dimension="count"
        :value="template.perS"
        :min="1"
        :max="100"
        :decimals="0"
        :commit="(perS) => take({ perS })"
      />
    </div>
    <label class="tick"
      ><input
        type="checkbox"
        :checked="template.changedOnly"
        @change="take({ changedOnly: ($event.target as HTMLInputElement).checked })"
      />only what has changed</label
    >
    <div class="all sent" aria-label="What is sent">
      <p v-if="preview?.trouble" class="alarm small" role="alert">{{ preview.trouble }}</p>
      <pre
        v-if="preview?.lines"
        class="mono"
      ><template v-for="(line, k) in [...preview.lines.on, preview.lines.values, ...preview.lines.off]" :key="k"><span :class="{ values: line === preview.lines.values }">{{ shown(line) }}</span><span class="muted">{{ mark }}
</span></template></pre>
      <p class="small" :class="over ? 'alarm' : 'muted'">
        {{ load }}{{ over ? ' That is too much: fewer lines, or shorter ones.' : '' }}
      </p>
    </div>
    <p class="all muted small">
      In braces: <code>{channel}</code> pin, <code>{no}</code> place in the list, <code>{id}</code> name in code;
      <code>{value}</code> µs, counts or steps, <code>{counts}</code> driver counts, of 4096 at 50 Hz,
      <code>{joint}</code> ° or mm, <code>{rad}</code> rad or m; of a line <code>{ms}</code>, <code>{line}</code>,
      <code>{time}</code>; of an output <code>{level}</code>. <code>{joint*-1+90:.1}</code> reckons, and writes one
      decimal; <code>{value:05}</code> five digits.
    </p>
    <p class="all small">
      {{
        template.reply
          ? 'A line goes once the one before was answered; where motors are is what they were sent.'
          : 'Nothing answers: whether a line arrived, and where motors are, is not known. Runs begin slowly.'
      }}
      {{ template.off ? '' : 'No line switches motors off: only their supply does.' }}
    </p>
  </div>
</template>

<style scoped>
.lines {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0.5rem;
  align-items: start;
}
.start {
  grid-column: 1 / -1;
  max-width: 22rem;
}
label,
.rate {
  display: grid;
  gap: 0.15rem;
  min-width: 0;
}
label > span:first-child,
.rate > span:first-child {
  font-size: 0.82rem;
  color: var(--ink-2);
}
.tick {
  grid-auto-flow: column;
  justify-content: start;
  align-items: center;
  gap: 0.4rem;
  font-size: 0.92rem;
  align-self: center;
}
.all {
  grid-column: 1 / -1;
  margin: 0;
}
.sent p {
  margin: 0;
}
pre {
  margin: 0 0 0.2rem;
  padding: 0.4rem 0.55rem;
  background: var(--paper);
  border: 1px solid var(--lines);
  border-radius: 4px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  max-height: 9rem;
  overflow-y: auto;
  font-size: 0.86rem;
}
.values {
  font-weight: 600;
}
.mono,
.mono :deep(input),
code {
  font-family: var(--mono, ui-monospace, monospace);
}
.alarm {
  color: var(--alarm);
}
</style>
