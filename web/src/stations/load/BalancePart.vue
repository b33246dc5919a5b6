<script setup lang="ts">
/** Counterweights and springs that bear a part of the load, with what they change at the worst pose. */
import { computed, ref } from 'vue';
import { freeId, jointName, type PlaceOn, type Rig, type Spring, type Weight } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import ItemList from '../../shared/ItemList.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useSlots } from '../../shared/joints';
import { useEdit } from '../../shared/useEdit';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import LoadHolding from './LoadHolding.vue';
import LoadTable from './LoadTable.vue';
import SizeHelper from './SizeHelper.vue';
import { useRows } from './useRows';
import { useLoads } from './useLoads';

const rigs = useRigStore();
const edit = useEdit();
const slots = useSlots();
const { worst, loading } = useLoads();
const rows = useRows(() => 'anywhere');

const weights = computed(() => rigs.rig?.mechanism.weights ?? []);
const springs = computed(() => rigs.rig?.mechanism.springs ?? []);
const weightId = ref<string | null>(null);
const springId = ref<string | null>(null);
const weight = computed(() => weights.value.find(({ id }) => id === weightId.value) ?? weights.value[0] ?? null);
const spring = computed(() => springs.value.find(({ id }) => id === springId.value) ?? springs.value[0] ?? null);

const BASE = '#base';
const places = computed(() => [
  { value: BASE, label: 'the base' },
  ...(rigs.rig?.mechanism.joints ?? []).map((joint) => ({ value: joint.id, label: jointName(joint) })),
]);
const turning = computed(() => slots.value.map(({ id, name }) => ({ value: id, label: name })));
const placeOf = (joint: string | null): string => joint ?? BASE;
const jointOf = (place: unknown): string | null => (place === BASE ? null : (place as string));
const first = computed(() => slots.value[1]?.id ?? slots.value[0]?.id ?? null);

const ids = (list: readonly { id: string }[]): string[] => list.map(({ id }) => id);
function addWeight(copy?: Weight): void {
  edit('Another weight', (draft) => {
    const list = (draft.mechanism.weights ??= []);
    const id = freeId('weight', ids(list));
    list.push(
      copy
        ? { ...copy, id, xyzMm: [...copy.xyzMm] }
        : { id, name: `Weight ${list.length + 1}`, joint: first.value, xyzMm: [0, 0, -60], massG: 100 },
    );
    weightId.value = id;
  });
}
function addSpring(copy?: Spring): void {
  const joint = first.value;
  if (!joint && !copy) return;
  edit('Another spring', (draft) => {
    const list = (draft.mechanism.springs ??= []);
    const id = freeId('spring', ids(list));
    list.push(
      copy
        ? { ...structuredClone(copy), id }
        : { kind: 'at-joint', id, name: `Spring ${list.length + 1}`, joint: joint!, stiffness: 0.005, slackAt: 0 },
    );
    springId.value = id;
  });
}
const drop = (key: 'weights' | 'springs', id: string): string | void =>
  edit(key === 'weights' ? 'Delete a weight' : 'Delete a spring', (draft: Rig) => {
    const list = (draft.mechanism[key] ?? []) as { id: string }[];
    const k = list.findIndex((item) => item.id === id);
    if (k >= 0) list.splice(k, 1);
  });
const onWeight = (label: string, change: (w: Weight) => void): string | void =>
  edit(`${label} of ${weight.value!.name}`, (draft) =>
    change(draft.mechanism.weights!.find(({ id }) => id === weight.value!.id)!),
  );
const onSpring = (label: string, change: (s: Spring) => void): string | void =>
  edit(`${label} of ${spring.value!.name}`, (draft) =>
    change(draft.mechanism.springs!.find(({ id }) => id === spring.value!.id)!),
  );
function setKind(kind: Spring['kind']): void {
  const own = spring.value!;
  if (own.kind === kind) return;
  edit(`Kind of ${own.name}`, (draft) => {
    const list = draft.mechanism.springs!;
    const k = list.findIndex(({ id }) => id === own.id);
    const { id, name } = own;
    const at = (joint: string | null): PlaceOn => ({ joint, xyzMm: [0, 0, 50] });
    list[k] =
      kind === 'between'
        ? {
            kind,
            id,
            name,
            from: at(null),
            to: at(own.kind === 'at-joint' ? own.joint : null),
            nPerMm: 0.2,
            freeMm: 40,
          }
        : {
            ...{ kind, id, name, stiffness: 0.005, slackAt: 0 },
            joint: (own.kind === 'between' ? own.to.joint : null) ?? first.value!,
          };
  });
}
const isSlide = (id: string): boolean => slots.value.find((s) => s.id === id)?.unit === 'mm';
useOverlay(() => ({ dimensions: false }));
</script>

<template>
  <div :data-balance="worst.isBusy.value ? 'making' : 'made'">
    <LoadHolding />
    <LoadTable v-if="loading && rows.length" :rows />
    <p class="small muted">At the worst pose of each motor, anywhere in its limits.</p>
    <div class="list-form">
      <ItemList
        title="Weights"
        :items="weights.map(({ id, name, massG }) => ({ id, name, note: `${massG} g` }))"
        :chosen="weight?.id ?? null"
        add-label="Add a weight"
        empty="No counterweight, and nothing else that belongs to no link."
        @pick="weightId = $event"
        @add="addWeight()"
        @copy="addWeight(weights.find(({ id }) => id === $event))"
        @remove="drop('weights', $event)"
      />
      <div v-if="weight" class="form">
        <label
          >name
          <TextField
            :value="weight.name"
            label="Weight name"
            :commit="(v: string) => onWeight('Name', (w) => (w.name = v))"
        /></label>
        <NumberField
          prefix="mass"
          :value="weight.massG"
          dimension="mass"
          label="Mass of the weight"
          :min="0"
          :commit="(v: number) => onWeight('Mass', (w) => (w.massG = v))"
        />
        <ChoiceField
          label="on"
          name="What the weight is on"
          :options="places"
          :value="placeOf(weight.joint)"
          @change="onWeight('Place', (w) => (w.joint = jointOf($event)))"
        />
        <span class="group">its middle there</span>
        <TripleField
          :value="weight.xyzMm"
          label="Middle of the weight"
          :commit="(k: number, v: number) => onWeight('Place', (w) => (w.xyzMm[k] = v))"
        />
      </div>
      <ItemList
        title="Springs"
        :items="
          springs.map(({ id, name, kind }) => ({
            id,
            name,
            note: kind === 'between' ? 'between two places' : 'at a joint',
          }))
        "
        :chosen="spring?.id ?? null"
        add-label="Add a spring"
        empty="No spring bears a part of the load."
        @pick="springId = $event"
        @add="addSpring()"
        @copy="addSpring(springs.find(({ id }) => id === $event))"
        @remove="drop('springs', $event)"
      />
      <div v-if="spring" class="form">
        <label
          >name
          <TextField
            :value="spring.name"
            label="Spring name"
            :commit="(v: string) => onSpring('Name', (s) => (s.name = v))"
        /></label>
        <ChoiceField
          label="kind"
          name="Kind of spring"
          :options="[
            { value: 'at-joint', label: 'coiled round a joint' },
            { value: 'between', label: 'pulls two places together' },
          ]"
          :value="spring.kind"
          @change="setKind($event as 'between')"
        />
        <template v-if="spring.kind === 'at-joint'">
          <ChoiceField
            label="joint"
            name="Joint of the spring"
            :options="turning"
            :value="spring.joint"
            @change="onSpring('Joint', (s) => void (s.kind === 'at-joint' && (s.joint = $event as string)))"
          />
          <label
            >{{ isSlide(spring.joint) ? 'N for each mm' : 'N·m for each °' }}
            <NumberField
              :value="spring.stiffness"
              dimension="ratio"
              label="Stiffness"
              :decimals="4"
              :min="0.000001"
              :step="0.001"
              :commit="
                (v: number) => onSpring('Stiffness', (s) => void (s.kind === 'at-joint' && (s.stiffness = v)))
              "
          /></label>
          <label
            >slack at
            <NumberField
              :value="spring.slackAt"
              :dimension="isSlide(spring.joint) ? 'length' : 'angle'"
              label="Slack at"
              :commit="(v: number) => onSpring('Slack', (s) => void (s.kind === 'at-joint' && (s.slackAt = v)))"
          /></label>
        </template>
        <template v-else>
          <template v-for="end in ['from', 'to'] as const" :key="end">
            <ChoiceField
              :label="end === 'from' ? 'one end on' : 'the other on'"
              :name="end === 'from' ? 'One end of the spring' : 'Other end of the spring'"
              :options="places"
              :value="placeOf(spring[end].joint)"
              @change="onSpring('End', (s) => void (s.kind === 'between' && (s[end].joint = jointOf($event))))"
            />
            <TripleField
              :value="spring[end].xyzMm"
              :label="end === 'from' ? 'One end' : 'Other end'"
              :commit="
                (k: number, v: number) => onSpring('End', (s) => void (s.kind === 'between' && (s[end].xyzMm[k] = v)))
              "
            />
          </template>
          <label
            >N for each mm
            <NumberField
              :value="spring.nPerMm"
              dimension="ratio"
              label="Stiffness"
              :min="0.0001"
              :step="0.05"
              :commit="(v: number) => onSpring('Stiffness', (s) => void (s.kind === 'between' && (s.nPerMm = v)))"
          /></label>
          <label
            >length without a load
            <NumberField
              :value="spring.freeMm"
              dimension="length"
              label="Length without a load"
              :min="0"
              :commit="(v: number) => onSpring('Length', (s) => void (s.kind === 'between' && (s.freeMm = v)))"
          /></label>
        </template>
      </div>
    </div>
    <SizeHelper />
    <p class="small muted">
      A tensed spring lets go at once when a link or a screw gives: hands clear, eyes covered, and slack it before the
      arm is taken apart.
    </p>
  </div>
</template>
