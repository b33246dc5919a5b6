<script setup lang="ts">
/** A spring or a counterweight sized for one joint, so that least is left to its motor at its worst pose. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { heldBy, Loading, springFor, weightFor } from '@cork-elbow/core/loads';
import { inUnit } from '@cork-elbow/core/mechanism';
import { freeId, type PlaceOn } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useSlots } from '../../shared/joints';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useLoads } from './useLoads';
import { massWords, torqueWords } from './words';

const rigs = useRigStore();
const edit = useEdit();
const slots = useSlots();
const { tool, payload, torqueUnit } = useLoads();
const jointId = ref<string | null>(null);
const chosen = computed(
  () => slots.value.find(({ id }) => id === jointId.value) ?? slots.value[1] ?? slots.value[0] ?? null,
);
const behindMm = ref(60);
const held = computed(() => (tool.value && payload.value.massG > 0 ? [heldBy(tool.value, payload.value)] : []));
const spring = computed(() => {
  const { hardware, mechanism } = rigs;
  if (!hardware || !mechanism || !chosen.value) return null;
  return springFor(new Loading(hardware, mechanism, held.value), chosen.value.slot);
});
/** On the joint's link, on the other side of its axis than what it carries. */
const place = computed((): PlaceOn | null => {
  const { mechanism } = rigs;
  const own = chosen.value;
  if (!mechanism || !own || own.joint.type === 'prismatic' || mechanism.delta) return null;
  const joints = rigs.rig!.mechanism.joints;
  const child = joints.find((joint) => 'parent' in joint && joint.parent === own.id);
  const way = child && 'origin' in child ? child.origin.xyzMm : (own.joint.link?.comMm ?? [0, 0, 0]);
  const length = Math.hypot(...way);
  if (length < 1) return null;
  return { joint: own.id, xyzMm: way.map((v) => Math.round((-10 * v * behindMm.value) / length) / 10) as never };
});
const weight = computed(() => {
  const { hardware, mechanism } = rigs;
  return hardware && mechanism && chosen.value && place.value
    ? weightFor(hardware, held.value, mechanism, chosen.value.slot, place.value)
    : null;
});
const unit = computed(() => (chosen.value?.unit === 'mm' ? ('N' as const) : ('N·m' as const)));
const said = (nm: number): string => torqueWords(nm, unit.value, torqueUnit.value);
const perUnit = computed(() => (chosen.value && rigs.mechanism ? rigs.mechanism.siPerUnit[chosen.value.slot] : 1));
const rounded = (v: number, digits = 3): number => Number(v.toPrecision(digits));

function addSpring(): void {
  const { mechanism } = rigs;
  const own = chosen.value!;
  const found = spring.value!;
  edit(`Spring at ${own.name}`, (draft) => {
    const list = (draft.mechanism.springs ??= []);
    list.push({
      ...{ kind: 'at-joint', joint: own.id, name: `Spring at ${own.name}`.slice(0, 80) },
      id: freeId(
        'spring',
        list.map(({ id }) => id),
      ),
      stiffness: rounded(found.stiffness * perUnit.value, 4),
      slackAt: Math.round(10 * inUnit(mechanism!, own.slot, found.slackAt)) / 10,
    });
  });
}
function addWeight(): void {
  const own = chosen.value!;
  edit(`Counterweight at ${own.name}`, (draft) => {
    const list = (draft.mechanism.weights ??= []);
    list.push({
      ...{ name: `Counterweight of ${own.name}`.slice(0, 80), ...place.value! },
      id: freeId(
        'weight',
        list.map(({ id }) => id),
      ),
      massG: Math.round(1000 * weight.value!.massKg),
    });
  });
}
</script>

<template>
  <section v-if="chosen" class="size" data-size>
    <h2 class="more">Size one for a joint</h2>
    <div class="form">
      <ChoiceField
        label="joint"
        name="Joint to be relieved"
        :options="slots.map(({ id, name }) => ({ value: id, label: name }))"
        :value="chosen.id"
        @change="jointId = $event as string"
      />
      <label v-if="place"
        >weight behind it by
        <NumberField
          :value="behindMm"
          dimension="length"
          label="Counterweight behind the joint by"
          :decimals="0"
          :min="5"
          :max="2000"
          :commit="(v: number) => void (behindMm = v)"
      /></label>
    </div>
    <p v-if="spring" class="row wrap" :data-spring="spring.after">
      <span
        >A spring of <b class="num">{{ rounded(spring.stiffness * perUnit) }} {{ unit }}</b> for each
        {{ chosen.unit === 'mm' ? 'mm' : '°' }}, slack at
        <b class="num"
          >{{ formatNumber(inUnit(rigs.mechanism!, chosen.slot, spring.slackAt), 0)
          }}{{ chosen.unit === 'mm' ? ' mm' : '°' }}</b
        >, leaves <span class="num">{{ said(spring.after) }}</span> of
        <span class="num">{{ said(spring.before) }}</span>.</span
      >
      <Button size="small" severity="secondary" label="Add this spring" @click="addSpring" />
    </p>
    <p v-else class="small muted">No spring round {{ chosen.name }} makes its worst torque less.</p>
    <p v-if="weight" class="row wrap" :data-counterweight="weight.massKg">
      <span
        ><b class="num">{{ massWords(weight.massKg) }}</b> there leave
        <span class="num">{{ said(weight.after) }}</span> of <span class="num">{{ said(weight.before) }}</span>; the
        joints before it bear that mass too.</span
      >
      <Button size="small" severity="secondary" label="Add this counterweight" @click="addWeight" />
    </p>
    <p v-else-if="place" class="small muted">No counterweight there makes its worst torque less.</p>
  </section>
</template>

<style scoped>
.size {
  border-top: 1px solid var(--lines);
  margin-top: 0.6rem;
}
.more {
  margin: 0.6rem 0 0.2rem;
}
</style>
