<script setup lang="ts">
/** Limits that depend on other joints, and the turns that cables and hoses allow. */
import { IconPlus, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed } from 'vue';
import { cableLeft, rulesExcess } from '@cork-elbow/core/mechanism';
import { freeId, isMoving, jointName, type AnyJoint, type LimitRule } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import IconButton from '../../shared/IconButton.vue';

const emit = defineEmits<{ problem: [sentence: string] }>();
const rigs = useRigStore();
const view = useViewStore();
const edit = useEdit();
const doc = computed(() => rigs.rig!.mechanism);
const movers = computed(() => (doc.value.joints as readonly AnyJoint[]).filter((j) => isMoving(j)));
const options = computed(() => movers.value.map((j) => ({ label: jointName(j), value: j.id })));
const turners = computed(() =>
  movers.value.filter((j) => j.type !== 'prismatic').map((j) => ({ label: jointName(j), value: j.id })),
);
const dimensionOf = (id: string): 'length' | 'angle' =>
  movers.value.find((j) => j.id === id)?.type === 'prismatic' ? 'length' : 'angle';
const tell = (sentence: string | void): void => emit('problem', sentence ?? '');
type While = Extract<LimitRule, { while: unknown }>;
type Sum = Extract<LimitRule, { terms: unknown }>;
const onRule = <R extends LimitRule>(i: number, change: (rule: R) => void): string | void =>
  edit('Limit that depends on others', (draft) => change(draft.mechanism.limitRules[i] as R));
const isBroken = computed(() => !!rigs.mechanism && rulesExcess(rigs.mechanism, view.q) > 1e-9);

function add(kind: 'while' | 'sum'): void {
  const [first, second] = movers.value;
  if (!second) return tell('Such a limit needs two joints that move.');
  tell(
    edit('Add a limit that depends on others', (draft) => {
      draft.mechanism.limitRules.push(
        kind === 'while'
          ? { while: { joint: first.id, above: 45 }, joint: second.id, max: 45 }
          : {
              terms: [
                { joint: first.id, factor: 1 },
                { joint: second.id, factor: 1 },
              ],
              min: -90,
              max: 170,
            },
      );
    }),
  );
}
const remove = (i: number): void =>
  tell(edit('Delete a limit that depends on others', (draft) => void draft.mechanism.limitRules.splice(i, 1)));
const whileValue = (rule: While): number => ('above' in rule.while ? rule.while.above : rule.while.below);
function setWhile(i: number, side: 'above' | 'below', value: number): string | void {
  return onRule<While>(i, (rule) => (rule.while = { joint: rule.while.joint, [side]: value } as While['while']));
}
function setBound(i: number, side: 'min' | 'max', value: number): string | void {
  return onRule<While>(i, (rule) => {
    delete rule.min;
    delete rule.max;
    rule[side] = value;
  });
}
const sides = [
  { label: 'above', value: 'above' },
  { label: 'below', value: 'below' },
] as const;
const bounds = [
  { label: 'at most', value: 'max' },
  { label: 'at least', value: 'min' },
] as const;

// Cables
const cables = computed(() => doc.value.cables ?? []);
const left = computed(() =>
  cables.value.map((cable) => (rigs.mechanism ? cableLeft(rigs.mechanism, cable, view.q) : 0)),
);
function addCable(): void {
  const [first] = turners.value;
  if (!first) return tell('A cable needs a joint that turns.');
  tell(
    edit('Add a cable', ({ mechanism }) => {
      mechanism.cables ??= [];
      mechanism.cables.push({
        id: freeId(
          'cable',
          mechanism.cables.map((c) => c.id),
        ),
        name: `Cable ${mechanism.cables.length + 1}`,
        slackMm: 60,
        around: [{ joint: first.value, radiusMm: 12, neutral: 0 }],
      });
    }),
  );
}
const onCable = (i: number, change: (cable: (typeof cables.value)[number]) => void): string | void =>
  edit('Cable', ({ mechanism }) => change(mechanism.cables![i]));
</script>

<template>
  <div class="rule">
    <h2>Limits that depend on another joint</h2>
    <Button
      size="small"
      variant="text"
      label="Limit while …"
      title="One joint is limited while another is past a value"
      @click="add('while')"
      ><template #icon><IconPlus :size="15" /></template></Button
    ><Button
      size="small"
      variant="text"
      label="Limit a sum"
      title="A sum of joints stays between two values"
      @click="add('sum')"
      ><template #icon><IconPlus :size="15" /></template
    ></Button>
  </div>
  <p v-if="!doc.limitRules.length" class="muted small">
    None. “Elbow at most 40° while the shoulder is above 70°” is one; so is a sum that must stay between two values.
  </p>
  <p v-if="isBroken" class="caution small">The pose on the stage is outside one of these.</p>
  <template v-for="(rule, i) in doc.limitRules" :key="i">
    <div v-if="'while' in rule" class="form sentence" :data-rule="i">
      <span class="group head"
        >Limit {{ i + 1
        }}<IconButton :icon="IconTrash" :label="`Delete limit ${i + 1}`" title="Delete" danger @click="remove(i)"
      /></span>
      <ChoiceField
        label=""
        :name="`Limited joint ${i + 1}`"
        :options
        :value="rule.joint"
        @change="(v) => tell(onRule<While>(i, (r) => (r.joint = String(v))))"
      />
      <ChoiceField
        label=""
        :name="`Bound ${i + 1}`"
        :options="bounds"
        :value="rule.max === undefined ? 'min' : 'max'"
        @change="(v) => tell(setBound(i, v as 'min', rule.max ?? rule.min ?? 0))"
      />
      <NumberField
        :value="rule.max ?? rule.min ?? 0"
        :dimension="dimensionOf(rule.joint)"
        :label="`Bound value ${i + 1}`"
        :commit="(v: number) => setBound(i, rule.max === undefined ? 'min' : 'max', v)"
      />
      <ChoiceField
        label="while"
        :name="`Condition joint ${i + 1}`"
        :options
        :value="rule.while.joint"
        @change="(v) => tell(onRule<While>(i, (r) => (r.while.joint = String(v))))"
      />
      <ChoiceField
        label=""
        :name="`Condition ${i + 1}`"
        :options="sides"
        :value="'above' in rule.while ? 'above' : 'below'"
        @change="(v) => tell(setWhile(i, v as 'above', whileValue(rule)))"
      />
      <NumberField
        :value="whileValue(rule)"
        :dimension="dimensionOf(rule.while.joint)"
        :label="`Condition value ${i + 1}`"
        :commit="(v: number) => setWhile(i, 'above' in rule.while ? 'above' : 'below', v)"
      />
    </div>
    <div v-else class="form sentence" :data-rule="i">
      <template v-for="(term, k) in rule.terms" :key="k">
        <NumberField
          prefix="×"
          :value="term.factor"
          dimension="ratio"
          :label="`Factor ${k + 1} of sum ${i + 1}`"
          :commit="(v: number) => onRule<Sum>(i, (r) => (r.terms[k].factor = v))"
        />
        <ChoiceField
          label=""
          :name="`Joint ${k + 1} of sum ${i + 1}`"
          :options
          :value="term.joint"
          @change="(v) => tell(onRule<Sum>(i, (r) => (r.terms[k].joint = String(v))))"
        />
        <Button
          v-if="rule.terms.length > 1"
          size="small"
          variant="text"
          severity="secondary"
          label="less"
          :aria-label="`Take joint ${k + 1} out of sum ${i + 1}`"
          @click="tell(onRule<Sum>(i, (r) => r.terms.splice(k, 1)))"
        />
      </template>
      <NumberField
        prefix="from"
        :value="rule.min"
        dimension="angle"
        :label="`Sum ${i + 1} from`"
        :commit="(v: number) => onRule<Sum>(i, (r) => (r.min = v))"
      />
      <NumberField
        prefix="to"
        :value="rule.max"
        dimension="angle"
        :label="`Sum ${i + 1} to`"
        :commit="(v: number) => onRule<Sum>(i, (r) => (r.max = v))"
      />
      <span class="row">
        <Button
          size="small"
          variant="text"
          label="joint"
          :aria-label="`Another joint in sum ${i + 1}`"
          @click="tell(onRule<Sum>(i, (r) => r.terms.push({ joint: movers[0].id, factor: 1 })))"
          ><template #icon><IconPlus :size="14" /></template
        ></Button>
        <IconButton :icon="IconTrash" :label="`Delete limit ${i + 1}`" title="Delete" danger @click="remove(i)" />
      </span>
    </div>
  </template>

  <div class="rule">
    <h2>Cables and hoses</h2>
    <Button size="small" variant="text" label="Add a cable" @click="addCable"
      ><template #icon><IconPlus :size="15" /></template
    ></Button>
  </div>
  <p v-if="!cables.length" class="muted small">
    None. A cable led round a joint takes up its radius times the angle; here its slack becomes a limit.
  </p>
  <div v-for="(cable, i) in cables" :key="cable.id" class="form cable">
    <label
      >name
      <TextField
        :value="cable.name"
        :label="`Cable name ${i + 1}`"
        :commit="(v: string) => (v ? onCable(i, (c) => (c.name = v)) : 'A cable needs a name.')"
    /></label>
    <NumberField
      prefix="slack"
      :value="cable.slackMm"
      dimension="length"
      :label="`Slack of ${cable.name}`"
      :min="0"
      :commit="(v: number) => onCable(i, (c) => (c.slackMm = v))"
    />
    <span class="row"
      ><output class="num small" :class="{ alarm: left[i] < 0 }">{{ formatNumber(left[i], 1) }} mm left</output
      ><IconButton
        :icon="IconTrash"
        :label="`Delete ${cable.name}`"
        title="Delete"
        danger
        @click="tell(edit('Delete a cable', ({ mechanism }) => void mechanism.cables!.splice(i, 1)))"
    /></span>
    <template v-for="(turn, k) in cable.around" :key="k">
      <ChoiceField
        label="round"
        :name="`${cable.name} round ${k + 1}`"
        :options="turners"
        :value="turn.joint"
        @change="(v) => tell(onCable(i, (c) => (c.around[k].joint = String(v))))"
      />
      <NumberField
        prefix="radius"
        :value="turn.radiusMm"
        dimension="length"
        :label="`${cable.name} radius ${k + 1}`"
        :min="0.1"
        :commit="(v: number) => onCable(i, (c) => (c.around[k].radiusMm = v))"
      />
      <NumberField
        prefix="slack at"
        :value="turn.neutral"
        dimension="angle"
        :label="`${cable.name} neutral ${k + 1}`"
        :commit="(v: number) => onCable(i, (c) => (c.around[k].neutral = v))"
      />
    </template>
    <Button
      size="small"
      variant="text"
      label="Another joint"
      @click="tell(onCable(i, (c) => c.around.push({ joint: turners[0].value, radiusMm: 12, neutral: 0 })))"
    />
    <Button
      v-if="cable.around.length > 1"
      size="small"
      variant="text"
      severity="secondary"
      label="One joint less"
      @click="tell(onCable(i, (c) => c.around.pop()))"
    />
  </div>
</template>

<style scoped>
.sentence {
  grid-template-columns: repeat(3, minmax(0, 1fr));
  align-items: center;
  border-bottom: 1px dashed var(--lines);
  padding-bottom: 0.5rem;
}
.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
}
.cable {
  border-bottom: 1px dashed var(--lines);
  padding-bottom: 0.5rem;
}
.caution {
  color: var(--caution);
}
.alarm {
  color: var(--alarm);
}
</style>
