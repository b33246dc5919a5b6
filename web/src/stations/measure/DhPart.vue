<script setup lang="ts">
/** The definition as a Denavit–Hartenberg table, and joints from one that is typed or pasted. */
import { IconCopy } from '@tabler/icons-vue';
import Button from 'primevue/button';
import Textarea from 'primevue/textarea';
import { computed, ref } from 'vue';
import { dhHead, dhOf, dhToText } from '@cork-elbow/core/exports';
import { dh, parseDhText, type DhTextOptions } from '@cork-elbow/core/imports';
import type { DhConvention } from '@cork-elbow/core/mechanism';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';

const emit = defineEmits<{ problem: [sentence: string] }>();
const rigs = useRigStore();
const view = useViewStore();
const edit = useEdit();
const convention = ref<DhConvention>('standard');
const conventions = [
  { label: 'standard', value: 'standard' },
  { label: 'modified', value: 'modified' },
] as const;

const tools = computed(() => rigs.mechanism?.tools.map((t) => ({ label: t.name, value: t.id })) ?? []);
const toolId = ref<string | null>(null);
const chosen = computed(
  () => tools.value.find((t) => t.value === toolId.value)?.value ?? tools.value[0]?.value ?? '',
);
const table = computed(() => rigs.mechanism && dhOf(rigs.mechanism, chosen.value, convention.value));
const isDelta = computed(() => rigs.rig!.mechanism.family === 'rotary-delta');
const figure = (v: number): string => formatNumber(v, 3);
const place = (frame: { xyzMm: readonly number[]; rpyDeg: readonly number[] }): string =>
  `${frame.xyzMm.map((v) => formatNumber(v, 2)).join(', ')} mm, turned ${frame.rpyDeg.map((v) => formatNumber(v, 2)).join(', ')}°`;
const copied = ref(false);
async function copy(): Promise<void> {
  if (!table.value) return;
  try {
    await navigator.clipboard.writeText(dhToText(table.value));
    copied.value = true;
    setTimeout(() => (copied.value = false), 1800);
  } catch {
    emit('problem', 'The browser does not let this page use the clipboard; select the table and copy it by hand.');
  }
}

// Text in
const text = ref('');
const units = ref<{ -readonly [K in keyof DhTextOptions]: DhTextOptions[K] }>({ angle: 'deg', length: 'mm' });
const read = computed(() =>
  text.value.trim() && rigs.rig
    ? dh.read(text.value, rigs.rig, { convention: convention.value, ...units.value })
    : null,
);
function replace(): void {
  if (!read.value?.edit) return;
  const refused = edit(read.value.label, read.value.edit);
  emit('problem', refused ?? '');
  if (refused) return;
  view.selected = rigs.rig!.mechanism.joints[0].id;
  convention.value = parseDhText(text.value, units.value).convention ?? convention.value;
  text.value = '';
}
</script>

<template>
  <div class="form">
    <ChoiceField
      label="Convention"
      :options="conventions"
      :value="convention"
      @change="(v) => (convention = v as DhConvention)"
    />
    <ChoiceField
      v-if="tools.length > 1"
      label="The way to"
      :options="tools"
      :value="chosen"
      @change="(v) => (toolId = String(v))"
    />
    <span v-else />
    <Button v-if="table" size="small" severity="secondary" :label="copied ? 'Copied' : 'Copy the table'" @click="copy"
      ><template #icon><IconCopy :size="15" /></template
    ></Button>
  </div>
  <p v-if="isDelta" class="muted">A rotary delta has closed loops; no such table describes it.</p>
  <p v-else-if="!table" class="muted">
    There is no such table for this tool: a joint on the way to it follows others, or none moves it.
  </p>
  <template v-else>
    <table class="plain dh" aria-label="Denavit–Hartenberg table">
      <thead>
        <tr>
          <th v-for="(title, k) in dhHead(convention)" :key="title" :class="{ r: k > 1 }">{{ title }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, i) in table.rows" :key="i">
          <td>{{ row.name }}</td>
          <td class="muted">
            {{ row.type === 'prismatic' ? 'slides' : row.type === 'continuous' ? 'turns on' : 'turns' }}
          </td>
          <td class="r num">{{ figure(row.thetaDeg) }}{{ row.type === 'prismatic' ? '' : ' + q' }}</td>
          <td class="r num">{{ figure(row.dMm) }}{{ row.type === 'prismatic' ? ' + q' : '' }}</td>
          <td class="r num">{{ figure(row.aMm) }}</td>
          <td class="r num">{{ figure(row.alphaDeg) }}</td>
        </tr>
      </tbody>
    </table>
    <p class="muted small">
      First frame in the base: {{ place(table.base) }}. Tool in the last frame: {{ place(table.tool) }}.
    </p>
  </template>

  <template v-if="!isDelta">
    <div class="rule"><h2>Joints from a table</h2></div>
    <p class="muted small">
      Paste rows from a spreadsheet or type them: θ, d, a, α, with or without a head line; also names, kinds, limits,
      and the lines for convention and frames that “Copy the table” writes.
    </p>
    <div class="form">
      <ChoiceField
        label="Angles in"
        :options="[
          { label: 'degrees', value: 'deg' },
          { label: 'radians', value: 'rad' },
        ]"
        :value="units.angle"
        @change="(v) => (units.angle = v as 'deg')"
      />
      <ChoiceField
        label="Lengths in"
        :options="['mm', 'cm', 'm', 'in'].map((u) => ({ label: u, value: u }))"
        :value="units.length"
        @change="(v) => (units.length = v as 'mm')"
      />
    </div>
    <Textarea
      v-model="text"
      class="paste num"
      rows="6"
      aria-label="Rows of the table"
      :placeholder="dh.example"
      spellcheck="false"
    />
    <ul v-if="read?.problems.length" class="problems" role="alert">
      <li v-for="sentence in read.problems.slice(0, 6)" :key="sentence">{{ sentence }}</li>
    </ul>
    <p v-if="read?.summary" class="small muted">{{ read.summary }} understood.</p>
    <Button label="Apply in place of all joints" size="small" :disabled="!read?.edit" @click="replace" />
  </template>
</template>

<style scoped>
.dh td,
.dh th {
  white-space: nowrap;
}
.paste {
  width: 100%;
  font-size: 0.86rem;
  margin-bottom: 0.4rem;
}
.problems {
  color: var(--alarm);
  margin: 0.2rem 0 0.4rem;
  padding-left: 1.1rem;
  font-size: 0.88rem;
}
</style>
