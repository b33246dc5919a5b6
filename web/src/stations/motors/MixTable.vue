<script setup lang="ts">
/**
 * Motors that mix to as many joints: a belt or shaft carried through other joints, a parallel-bar elbow, a two-motor wrist. Said as
 * what each joint follows, or as the numbers of the matrix; joints can be taken in and out.
 */
import { useSessionStorage } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { invert } from '@cork-elbow/core/transmissions';
import type { TransmissionOf } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useMotor } from './useMotor';

const { tie, partners } = defineProps<{
  tie: TransmissionOf<'matrix'>;
  /** Joints that can be taken in: driven alone, at a ratio. */
  partners: readonly { readonly value: string; readonly label: string }[];
}>();
const { rows, row, commit, onTie } = useMotor();
const MOST = 6;
const way = useSessionStorage<'follows' | 'numbers'>('cork-elbow:mix-way', 'follows');
const partner = ref<string | null>(null);
const problem = ref('');
const joint = (id: string) => rows.value.find((r) => r.info.id === id)?.info;
const nameOf = (id: string): string => joint(id)?.name ?? id;
const unitOf = (id: string): string => (joint(id)?.unit === 'mm' ? ' mm' : '°');
const motorOf = (id: string): string => rows.value.find((r) => r.drive?.id === id)?.drive?.name ?? id;

/** How far (its own unit) each joint, a row, goes for one degree of each motor, a column. */
const follows = computed(() => invert(tie.matrix));
/** Twelve digits: what is written back and forth stays what was typed. */
const tidy = (v: number): number => Number(v.toPrecision(12)) + 0;
function setFollow(i: number, k: number, v: number): string | void {
  const next = follows.value!.map((r, a) => r.map((w, b) => (a === i && b === k ? v : w)));
  const matrix = invert(next);
  if (!matrix)
    return `Then the motors could no longer move ${tie.joints.map(nameOf).join(' and ')} each by itself; another number is needed.`;
  return onTie(`What ${nameOf(tie.joints[i])} follows`, (t) => {
    if (t.kind === 'matrix') t.matrix = matrix.map((r) => r.map(tidy));
  });
}
const says = computed(() =>
  tie.joints.map((id, i) => {
    const parts = tie.drives.flatMap((d, k) => {
      const v = follows.value?.[i][k] ?? 0;
      return Math.abs(v) < 5e-5 ? [] : [`${formatNumber(v, 3)}${unitOf(id)} for a degree of ${motorOf(d)}`];
    });
    return `${nameOf(id)} goes ${parts.join(' and ')}.`;
  }),
);
function takeIn(): void {
  const other = rows.value.find((r) => r.info.id === partner.value)?.transmission;
  if (other?.kind !== 'ratio') return;
  problem.value =
    commit(`${nameOf(other.joints[0])} mixes too`, (draft) => {
      const t = draft.transmissions.find((x) => x.id === tie.id);
      if (t?.kind !== 'matrix') return;
      t.matrix.forEach((r) => r.push(0));
      t.matrix.push([...t.joints.map(() => 0), other.reduction]);
      t.joints.push(other.joints[0]);
      t.drives.push(other.drives[0]);
      draft.transmissions = draft.transmissions.filter((x) => x.id !== other.id);
    }) ?? '';
  partner.value = null;
}
/** The joint of the table goes back to its own motor at its own ratio. */
function takeOut(k: number): void {
  const [id, drive] = [tie.joints[k], tie.drives[k]];
  problem.value =
    commit(`${nameOf(id)} by itself`, (draft) => {
      const t = draft.transmissions.find((x) => x.id === tie.id);
      if (t?.kind !== 'matrix') return;
      const reduction = t.matrix[k][k] || 1;
      t.joints.splice(k, 1);
      t.drives.splice(k, 1);
      t.matrix.splice(k, 1);
      t.matrix.forEach((r) => r.splice(k, 1));
      const taken = new Set(draft.transmissions.map((x) => x.id));
      let free = `${t.id}-${id}`;
      for (let n = 2; taken.has(free); n++) free = `${t.id}-${id}-${n}`;
      draft.transmissions.push({ id: free, kind: 'ratio', joints: [id], drives: [drive], reduction });
    }) ?? '';
}
const own = computed(() => row.value?.info.id);
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <span v-rove.across="'button'" class="choice" role="group" aria-label="How the mixing is said"
    ><button :aria-pressed="way === 'follows'" @click="way = 'follows'">What follows what</button
    ><button :aria-pressed="way === 'numbers'" @click="way = 'numbers'">As numbers</button></span
  >
  <div class="wide-table">
    <table v-if="way === 'follows' && follows" class="plain narrow">
      <thead>
        <tr>
          <th>for one degree of …</th>
          <th v-for="d in tie.drives" :key="d">{{ motorOf(d) }}</th>
          <th v-if="tie.joints.length > 2"></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(j, i) in tie.joints" :key="j" :class="{ own: j === own }">
          <td>{{ nameOf(j) }} follows by</td>
          <td v-for="(d, k) in tie.drives" :key="d">
            <NumberField
              :value="follows[i][k]"
              dimension="ratio"
              :label="`${nameOf(j)} follows ${motorOf(d)} by`"
              :commit="(v: number) => setFollow(i, k, v)"
            />
          </td>
          <td v-if="tie.joints.length > 2">
            <Button
              size="small"
              variant="text"
              severity="secondary"
              label="×"
              :aria-label="`Take ${nameOf(j)} out`"
              @click="takeOut(i)"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <table v-else class="plain narrow">
      <thead>
        <tr>
          <th>degrees of … per</th>
          <th v-for="j in tie.joints" :key="j">{{ nameOf(j) }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(d, i) in tie.drives" :key="d">
          <td>{{ motorOf(d) }}</td>
          <td v-for="(j, k) in tie.joints" :key="j">
            <NumberField
              :value="tie.matrix[i][k]"
              dimension="ratio"
              :label="`${motorOf(d)} per ${nameOf(j)}`"
              :commit="(v: number) => onTie('Matrix', (t) => t.kind === 'matrix' && void (t.matrix[i][k] = v))"
            />
          </td>
        </tr>
      </tbody>
    </table>
  </div>
  <ul class="says small" data-mix>
    <li v-for="s in says" :key="s">{{ s }}</li>
  </ul>
  <div v-if="partners.length && tie.joints.length < MOST" class="form">
    <ChoiceField
      label="one more joint"
      name="One more joint"
      placeholder="choose"
      :options="[...partners]"
      :value="partner"
      @change="partner = String($event)"
    />
    <Button size="small" severity="secondary" label="Add" :disabled="!partner" @click="takeIn" />
  </div>
</template>

<style scoped>
.wide-table {
  overflow-x: auto;
}
.narrow td {
  padding-block: 0.2rem;
}
.own td:first-child {
  font-weight: 600;
}
.says {
  margin: 0.4rem 0;
  padding-left: 1.1rem;
  color: var(--ink-2);
}
</style>
