<script setup lang="ts">
/** The tool library of this rig, and what its tools carry. */
import { IconPlus, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import ToggleSwitch from 'primevue/toggleswitch';
import { computed } from 'vue';
import { isMoving, jointName, PLATFORM, type AnyJoint, type Tool } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import ItemList from '../../shared/ItemList.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useRigStore } from '../../stores/rig';
import { newTool } from './edits';
import { useChosen } from './useChosen';
import { BASE } from './words';

const emit = defineEmits<{ problem: [sentence: string] }>();
const rigs = useRigStore();
const tell = (sentence: string | void): void => emit('problem', sentence ?? '');
const doc = computed(() => rigs.rig!.mechanism);
const joints = computed(() => doc.value.joints as readonly AnyJoint[]);

const {
  items: tools,
  item: tool,
  on,
  rename,
  pick,
  add,
  copy,
  remove,
} = useChosen<Tool>('a tool', (rig) => rig.mechanism.tools, tell);
const listed = computed(() =>
  tools.value.map((t) => ({
    id: t.id,
    name: t.name ?? t.id,
    note: `${t.massG} g${t.mounted ? '' : ', not mounted'}`,
  })),
);

const parents = computed(() => [
  { label: 'the base', value: BASE },
  ...(doc.value.family === 'tree'
    ? joints.value.map((j) => ({ label: jointName(j), value: j.id }))
    : [{ label: 'the platform', value: PLATFORM }]),
]);
const worked = computed(() => {
  const grip = tool.value?.grip;
  return !grip ? 'none' : 'joint' in grip ? grip.joint : ':output';
});
const workers = computed(() => [
  { label: 'nothing', value: 'none' },
  { label: 'an output (pump, relay, magnet)', value: ':output' },
  ...joints.value.filter((j) => isMoving(j)).map((j) => ({ label: jointName(j), value: j.id })),
]);
function setWorker(value: string): void {
  tell(
    on('What works it', (t) => {
      const { openS, closeS } = t.grip ?? {};
      const times = { ...(openS ? { openS } : {}), ...(closeS ? { closeS } : {}) };
      if (value === 'none') delete t.grip;
      else if (value === ':output') t.grip = { output: 'output', ...times };
      else t.grip = { joint: value, open: 40, closed: 5, ...times };
    }),
  );
}
const grip = computed(() => (tool.value?.grip && 'joint' in tool.value.grip ? tool.value.grip : null));
const table = computed(() => grip.value?.openingMm ?? []);
type JointGrip = Extract<NonNullable<Tool['grip']>, { joint: string }>;
const onGrip = (label: string, change: (grip: JointGrip) => void): string | void =>
  on(label, (t) => t.grip && 'joint' in t.grip && change(t.grip));
/** Which way the tool points, in the frame of what it hangs on. */
const directions = [
  { label: 'on along the link (its up)', value: '0,0,0' },
  { label: 'forward', value: '0,90,0' },
  { label: 'back', value: '0,-90,0' },
  { label: 'left', value: '-90,0,0' },
  { label: 'right', value: '90,0,0' },
  { label: 'down', value: '180,0,0' },
  { label: 'as typed', value: 'other' },
];
const points = computed(() => {
  const text = tool.value?.origin.rpyDeg.join(',') ?? '';
  return directions.some((d) => d.value === text) ? text : 'other';
});
function point(value: string): void {
  if (value !== 'other')
    tell(on('Direction', (t) => (t.origin.rpyDeg = value.split(',').map(Number) as [number, number, number])));
}
</script>

<template>
  <div class="list-form">
    <ItemList
      title="Tools"
      :items="listed"
      :chosen="tool?.id ?? null"
      add-label="Add a tool"
      empty="No tool yet: without one there is no tip to bring anywhere."
      @pick="pick"
      @add="add(newTool)"
      @copy="copy"
      @remove="remove($event)"
    />
    <div v-if="tool" class="form">
      <label>name <TextField :value="tool.name ?? tool.id" label="Tool name" :commit="rename" /></label>
      <ChoiceField
        label="Sits on"
        name="Tool sits on"
        :options="parents"
        :value="tool.parent ?? BASE"
        @change="(v) => tell(on('Place', (t) => (t.parent = v === BASE ? null : String(v))))"
      />
      <label class="switch"
        ><ToggleSwitch
          :model-value="tool.mounted"
          aria-label="Mounted"
          @update:model-value="(v: boolean) => tell(on(v ? 'Mounting' : 'Taking off', (t) => (t.mounted = v)))"
        />
        mounted</label
      >
      <span class="group">Tip, seen from the pivot it sits on</span>
      <TripleField
        :value="tool.origin.xyzMm"
        label="Tip"
        :commit="(k, v) => on('Tip', (t) => (t.origin.xyzMm[k] = v))"
      />
      <ChoiceField
        label="Points"
        name="Tool points"
        :options="directions"
        :value="points"
        @change="(v) => point(String(v))"
      />
      <span class="muted small wide">A tool’s own “up” points out of it, at what it works on.</span>
      <TripleField
        :value="tool.origin.rpyDeg"
        label="Tool"
        :words="['roll', 'pitch', 'yaw']"
        dimension="angle"
        :commit="(k, v) => on('Direction', (t) => (t.origin.rpyDeg[k] = v))"
      />
      <NumberField
        prefix="mass"
        :value="tool.massG"
        dimension="mass"
        label="Tool mass"
        :min="0"
        :commit="(v: number) => on('Mass', (t) => (t.massG = v))"
      />
      <NumberField
        prefix="pad grip µ"
        :value="tool.padFriction ?? 0"
        dimension="ratio"
        label="Pad grip"
        :min="0"
        :max="3"
        :step="0.05"
        :unset="tool.padFriction === undefined ? 'unknown' : null"
        :commit="(v: number) => on('Pad grip', (t) => (t.padFriction = v))"
      />
      <span />
      <span class="group">Its centre of mass</span>
      <TripleField
        :value="tool.comMm"
        label="Tool’s centre of mass"
        :commit="(k, v) => on('Centre of mass', (t) => (t.comMm[k] = v))"
      />
      <ChoiceField label="Worked by" :options="workers" :value="worked" @change="(v) => setWorker(String(v))" />
      <label v-if="tool.grip && 'output' in tool.grip"
        >Output
        <TextField
          :value="tool.grip.output"
          label="Output"
          :commit="(v: string) => on('Output', (t) => t.grip && 'output' in t.grip && (t.grip.output = v))"
      /></label>
      <template v-if="grip">
        <NumberField
          prefix="open at"
          :value="grip.open"
          dimension="angle"
          label="Jaw open at"
          :commit="(v: number) => onGrip('Jaw', (g) => (g.open = v))"
        />
        <NumberField
          prefix="closed at"
          :value="grip.closed"
          dimension="angle"
          label="Jaw closed at"
          :commit="(v: number) => onGrip('Jaw', (g) => (g.closed = v))"
        />
      </template>
      <template v-if="tool.grip">
        <NumberField
          prefix="opens in"
          :value="tool.grip.openS ?? 0"
          dimension="time"
          label="Time to open"
          :unset="tool.grip.openS === undefined ? 'unknown' : null"
          :commit="
            (v: number) =>
              v > 0 ? on('Opening time', (t) => t.grip && (t.grip.openS = v)) : 'Opening takes more than 0 s.'
          "
        />
        <NumberField
          prefix="closes in"
          :value="tool.grip.closeS ?? 0"
          dimension="time"
          label="Time to close"
          :unset="tool.grip.closeS === undefined ? 'unknown' : null"
          :commit="
            (v: number) =>
              v > 0 ? on('Closing time', (t) => t.grip && (t.grip.closeS = v)) : 'Closing takes more than 0 s.'
          "
        />
      </template>
      <template v-if="grip">
        <NumberField
          prefix="closes past contact by"
          :value="grip.pastMm ?? 0"
          dimension="length"
          :min="0"
          :max="50"
          label="How much narrower than what it closes on it is sent"
          :commit="(v: number) => onGrip('Past contact', (g) => void (g.pastMm = v || undefined))"
        />
        <span class="group"
          >Opening between the pads
          <Button
            size="small"
            variant="text"
            label="Row"
            aria-label="Add a row of opening"
            @click="
              tell(
                onGrip('Opening', (g) =>
                  (g.openingMm ??= []).push({
                    at: g.openingMm.at(-1) ? g.openingMm.at(-1)!.at + 10 : g.closed,
                    mm: 0,
                  }),
                ),
              )
            "
            ><template #icon><IconPlus :size="14" /></template></Button
        ></span>
        <template v-for="(row, k) in table" :key="k">
          <NumberField
            prefix="at"
            :value="row.at"
            dimension="angle"
            :label="`Jaw angle, row ${k + 1}`"
            :commit="
              (v: number) =>
                table.some((r, i) => i !== k && r.at === v)
                  ? `The angle ${v}° stands in another row already.`
                  : onGrip('Opening', (g) => (g.openingMm![k].at = v))
            "
          />
          <NumberField
            prefix="opening"
            :value="row.mm"
            dimension="length"
            :min="0"
            :label="`Opening, row ${k + 1}`"
            :commit="(v: number) => onGrip('Opening', (g) => (g.openingMm![k].mm = v))"
          />
          <Button
            size="small"
            variant="text"
            severity="danger"
            :aria-label="`Delete row ${k + 1} of opening`"
            @click="tell(onGrip('Opening', (g) => g.openingMm!.splice(k, 1)))"
            ><IconTrash :size="15"
          /></Button>
        </template>
      </template>
    </div>
  </div>
</template>

<style scoped>
.switch {
  display: flex !important;
  align-items: center;
  gap: 0.5rem;
  padding-bottom: 0.3rem;
}
.wide {
  grid-column: span 2;
}
</style>
