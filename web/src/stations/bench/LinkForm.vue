<script setup lang="ts">
/** How one board is reached: simulated by the server, over TCP, or on a serial port. */
import { IconRefresh } from '@tabler/icons-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { linkOptions, type LinkOptions, type PortList } from '@cork-elbow/core/contract';
import { faultsOf } from '@cork-elbow/core/findings';
import { usualTemplate, type LineTemplate } from '@cork-elbow/core/own-lines';
import { benchApi } from '../../api-bench';
import ChoiceField from '../../shared/ChoiceField.vue';
import IconButton from '../../shared/IconButton.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import LinesForm from './LinesForm.vue';
import { imperfections } from './link-words';

/**
 * `counts`: motors hang on it that do not know by themselves where they are; `senses`: it reads sensors; `currentless`: so many of its
 * motors have no figures of current, and draw nothing.
 */
const {
  boardId,
  board,
  link,
  counts = false,
  senses = false,
  currentless = 0,
} = defineProps<{
  boardId: string;
  board: string;
  link: LinkOptions;
  counts?: boolean;
  senses?: boolean;
  currentless?: number;
}>();
const emit = defineEmits<{ change: [link: LinkOptions] }>();

const kinds = [
  { label: 'simulated', value: 'simulated' },
  { label: 'serial port', value: 'serial' },
  { label: 'network (TCP)', value: 'tcp' },
];
const fresh: Readonly<Record<LinkOptions['kind'], LinkOptions>> = {
  simulated: { kind: 'simulated' },
  tcp: { kind: 'tcp', host: '127.0.0.1', port: 7010 },
  serial: { kind: 'serial', path: '/dev/ttyACM0', baud: 115_200 },
};
/** What was typed for a kind stays while another one is looked at. */
const kept: Partial<Record<LinkOptions['kind'], LinkOptions>> = {};
function turnTo(kind: LinkOptions['kind']): void {
  kept[link.kind] = link;
  const [first] = ports.value?.ports ?? [];
  // What the board reads does not change with the way that leads to it.
  const next = { ...(kept[kind] ?? fresh[kind]), lines: link.lines };
  emit('change', next.kind === 'serial' && !kept.serial && first ? { ...next, path: first.path } : next);
}
/** Takes what was typed, or says why not. */
function take(change: object): string | void {
  const next = { ...link, ...change };
  const read = linkOptions.safeParse(next);
  if (!read.success) return faultsOf(read.error, next, 'it')[0].message;
  emit('change', read.data);
}

/** Serial ports of the server's computer; looked up when they are wanted. */
const ports = shallowRef<PortList | null>(null);
const looking = ref(false);
async function look(): Promise<void> {
  looking.value = true;
  try {
    ports.value = await benchApi.ports();
  } catch (error) {
    ports.value = { ports: [], problem: (error as Error).message };
  } finally {
    looking.value = false;
  }
}
watch(
  () => link.kind,
  (kind) => kind === 'serial' && !ports.value && void look(),
  { immediate: true },
);
const OTHER = '#other';
const typed = ref(false);
const portChoices = computed(() => {
  const found = ports.value?.ports ?? [];
  const own = link.kind === 'serial' && !found.some(({ path }) => path === link.path) ? [link.path] : [];
  return [
    ...[...found.map(({ path }) => path), ...own].map((path) => ({ label: path, value: path })),
    { label: 'another one …', value: OTHER },
  ];
});
/** What is known of the port that is chosen. */
const about = computed(() => {
  if (link.kind !== 'serial' || !ports.value) return '';
  const { ports: found, problem } = ports.value;
  const here = found.find(({ path }) => path === link.path);
  return problem ?? (here ? here.about : `${link.path} is not there now.`);
});
const isTyped = computed(() => typed.value || !ports.value?.ports.length);
const speeds = [9600, 19_200, 38_400, 57_600, 115_200, 230_400, 250_000, 460_800, 500_000, 1_000_000, 2_000_000].map(
  (baud) => ({ label: `${baud}`, value: baud }),
);
const firmwares = [
  { label: 'the protocol', value: false },
  { label: 'lines of its own', value: true },
];
/** Lines that were written stay while the protocol is looked at. */
let written: LineTemplate | undefined;
function speak(own: boolean): void {
  written = link.lines ?? written;
  emit('change', { ...link, lines: own ? (written ?? usualTemplate) : undefined });
}
const share = (percent: number): number => Math.round(percent * 1e4) / 1e6;
</script>

<template>
  <div class="link" :data-link-kind="link.kind">
    <ChoiceField
      label="reached"
      :name="`How ${board} is reached`"
      :options="kinds"
      :value="link.kind"
      @change="turnTo($event as LinkOptions['kind'])"
    />
    <template v-if="link.kind === 'tcp'">
      <label class="wide"
        ><span>at</span
        ><TextField :label="`Computer that ${board} is at`" :value="link.host" :commit="(host) => take({ host })"
      /></label>
      <NumberField
        :label="`TCP port of ${board}`"
        prefix="port"
        dimension="count"
        :value="link.port"
        :min="1"
        :max="65535"
        :decimals="0"
        :commit="(port) => take({ port })"
      />
    </template>
    <template v-else-if="link.kind === 'serial'">
      <div class="wide port">
        <label v-if="isTyped"
          ><span>port</span
          ><TextField :label="`Serial port of ${board}`" :value="link.path" :commit="(path) => take({ path })"
        /></label>
        <ChoiceField
          v-else
          label="port"
          :name="`Serial port of ${board}`"
          :options="portChoices"
          :value="link.path"
          @change="$event === OTHER ? (typed = true) : take({ path: $event })"
        />
        <IconButton
          :icon="IconRefresh"
          label="Look for ports again"
          title="Look for ports again"
          :disabled="looking"
          @click="((typed = false), look())"
        />
      </div>
      <ChoiceField
        label="baud"
        :name="`Speed of the line to ${board}`"
        :options="speeds"
        :value="link.baud"
        @change="take({ baud: $event })"
      />
    </template>
    <details v-else class="wide">
      <summary class="small">
        {{ imperfections(link) ? `Not ideal: ${imperfections(link)}` : 'An ideal line and clock: make them worse …' }}
      </summary>
      <div class="worse">
        <NumberField
          label="Clock fast by"
          prefix="clock fast by"
          dimension="share"
          :value="(link.ppm ?? 0) / 1e4"
          :min="-2"
          :max="2"
          :step="0.1"
          :decimals="3"
          :commit="(percent) => take({ ppm: Math.round(percent * 1e4) })"
        />
        <NumberField
          label="Bytes under way for"
          prefix="under way"
          dimension="time"
          :value="(link.delayMs ?? 0) / 1000"
          :min="0"
          :max="0.5"
          :step="0.005"
          :commit="(s) => take({ delayMs: Math.round(s * 1e4) / 10 })"
        />
        <NumberField
          label="And up to so much longer"
          prefix="or longer by"
          dimension="time"
          :value="(link.jitterMs ?? 0) / 1000"
          :min="0"
          :max="0.5"
          :step="0.005"
          :commit="(s) => take({ jitterMs: Math.round(s * 1e4) / 10 })"
        />
        <NumberField
          label="Bytes lost"
          prefix="lost"
          dimension="share"
          :value="100 * (link.lostShare ?? 0)"
          :min="0"
          :max="20"
          :step="0.1"
          :decimals="2"
          :commit="(lost) => take({ lostShare: share(lost) })"
        />
        <NumberField
          label="Bytes doubled"
          prefix="doubled"
          dimension="share"
          :value="100 * (link.doubledShare ?? 0)"
          :min="0"
          :max="20"
          :step="0.1"
          :decimals="2"
          :commit="(doubled) => take({ doubledShare: share(doubled) })"
        />
        <NumberField
          label="Load on each motor, share of its stall torque"
          prefix="loaded by"
          dimension="share"
          :value="100 * (link.load ?? 0)"
          :min="0"
          :max="150"
          :step="5"
          :decimals="0"
          :commit="(load) => take({ load: share(load) })"
        />
        <NumberField
          label="The arm’s own weight on its motors, times"
          prefix="its weight, ×"
          dimension="count"
          :value="link.weight ?? 0"
          :min="0"
          :max="2"
          :step="0.5"
          :decimals="2"
          :commit="(weight) => take({ weight })"
        />
        <NumberField
          v-if="link.weight"
          label="Held by its first tool"
          prefix="it holds"
          dimension="mass"
          :value="link.heldG ?? 0"
          :min="0"
          :max="500000"
          :decimals="0"
          :commit="(heldG) => take({ heldG })"
        />
        <NumberField
          label="Play of each joint beside its motor, ° or mm"
          prefix="joints play"
          dimension="count"
          :value="link.slop ?? 0"
          :min="0"
          :max="10"
          :step="0.1"
          :decimals="2"
          :commit="(slop) => take({ slop })"
        />
        <NumberField
          v-if="senses"
          label="Sensors scatter by, raw counts"
          prefix="sensors scatter"
          dimension="count"
          :value="link.noise ?? 0"
          :min="0"
          :max="1000"
          :step="1"
          :decimals="0"
          :commit="(noise) => take({ noise })"
        />
        <NumberField
          v-if="senses"
          label="Sensors read more than they should by, ° or mm"
          prefix="sensors off by"
          dimension="count"
          :value="link.sensorOff ?? 0"
          :min="-180"
          :max="180"
          :step="0.5"
          :decimals="1"
          :commit="(sensorOff) => take({ sensorOff })"
        />
        <NumberField
          label="One supply for board and motors, V; 0: it never dips"
          prefix="supply, V"
          dimension="count"
          :value="link.supplyV ?? 0"
          :min="0"
          :max="60"
          :step="0.5"
          :decimals="1"
          :commit="(supplyV) => take({ supplyV })"
        />
        <NumberField
          v-if="link.supplyV"
          label="Ohms of the supply and its wires"
          prefix="its Ω"
          dimension="count"
          :value="link.supplyOhm ?? 0.1"
          :min="0"
          :max="10"
          :step="0.05"
          :decimals="2"
          :commit="(supplyOhm) => take({ supplyOhm })"
        />
        <NumberField
          v-if="link.supplyV"
          label="The board begins anew below, V"
          prefix="anew below, V"
          dimension="count"
          :value="link.resetV ?? 0"
          :min="0"
          :max="60"
          :step="0.1"
          :decimals="1"
          :commit="(resetV) => take({ resetV })"
        />
        <NumberField
          v-if="counts"
          label="Joints of motors that count stand off, ° or mm, by up to"
          prefix="joints off by"
          dimension="count"
          :value="link.astray ?? 0"
          :min="0"
          :max="20"
          :step="0.5"
          :decimals="1"
          :commit="(astray) => take({ astray })"
        />
      </div>
    </details>
    <p v-if="link.kind === 'simulated' && link.supplyV && currentless" class="all notice small" role="note">
      {{
        currentless === 1
          ? 'A motor has no currents under Motors, and draws'
          : `${currentless} motors have no currents under Motors, and draw`
      }}
      nothing from this supply.
    </p>
    <p v-if="about" class="all muted small">{{ about }}</p>
    <ChoiceField
      class="reads"
      label="its firmware reads"
      :name="`What the firmware of ${board} reads`"
      :options="firmwares"
      :value="link.lines !== undefined"
      @change="speak($event as boolean)"
    />
    <LinesForm
      v-if="link.lines"
      class="all"
      :board-id
      :board
      :template="link.lines"
      :baud="link.kind === 'serial' ? link.baud : null"
      :commit="(lines) => take({ lines })"
    />
  </div>
</template>

<style scoped>
.link {
  display: grid;
  grid-template-columns: 9.5rem minmax(0, 1fr) 7rem;
  gap: 0.6rem;
  align-items: end;
}
.link > .wide:last-of-type:is(details) {
  grid-column: 2 / -1;
  align-self: center;
}
.link > .wide:last-of-type:is(details[open]) {
  grid-column: 1 / -1;
}
label {
  display: grid;
  gap: 0.15rem;
  min-width: 0;
}
label > span:first-child {
  font-size: 0.82rem;
  color: var(--ink-2);
}
.port {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0.3rem;
  align-items: end;
}
summary {
  cursor: pointer;
}
.worse {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(8.5rem, 1fr));
  gap: 0.5rem;
  margin-top: 0.4rem;
  align-items: end;
}
.reads {
  grid-column: 1 / -1;
  max-width: 14rem;
}
.notice {
  color: var(--caution);
}
.all {
  grid-column: 1 / -1;
  margin: 0;
}
</style>
