<script setup lang="ts">
/** A base on wheels: whether it stays on them while it brakes and turns, and in which poses it may drive. */
import Checkbox from 'primevue/checkbox';
import { computed } from 'vue';
import { drivingLoad, Loading, mayDrive, type DrivingLoad } from '@cork-elbow/core/loads';
import { toSlots } from '@cork-elbow/core/mechanism';
import { formatNumber, toMm } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useLoads } from './useLoads';

const rigs = useRigStore();
const edit = useEdit();
const { loading, now, heldKg } = useLoads();
const base = computed(() => rigs.rig!.mechanism.base);
const travel = computed(() => base.value.travel ?? { brakeMmPerS2: 0, mmPerS: 0, turnDegPerS: 0 });
const set = (key: keyof typeof travel.value, value: number): string | void =>
  edit('How the base drives', (draft) => {
    draft.mechanism.base.travel = { ...travel.value, [key]: value };
  });
const here = computed(() =>
  loading.value && now.value ? drivingLoad(loading.value, travel.value, now.value.q) : null,
);
/** With nothing in its hand: only so it may drive. */
const empty = computed(() => (rigs.hardware && rigs.mechanism ? new Loading(rigs.hardware, rigs.mechanism) : null));
const poses = computed(() =>
  (rigs.rig?.poses ?? []).map((pose) => ({
    pose,
    load: empty.value ? drivingLoad(empty.value, travel.value, toSlots(rigs.mechanism!, pose.joints)) : null,
  })),
);
const stand = computed(() => {
  const { rig } = rigs;
  if (!rig || !loading.value || !now.value) return null;
  const found = mayDrive(loading.value, rig.mechanism, rig.poses, now.value.q, heldKg.value > 0);
  if (found.may)
    return { may: true, words: `Driving is allowed: it stands in “${found.pose.name}” with nothing in its hand.` };
  if (found.why === 'unmarked')
    return { may: false, words: 'No pose is marked as fit for driving, so it is allowed in none.' };
  const why =
    found.why === 'tips'
      ? tips(found.load)
      : { holds: 'something is in its hand', unfit: 'the arm stands in no pose that is fit for it' }[found.why];
  return { may: false, words: `Driving is not allowed: ${why}.` };
});
function tips({ by, turning }: DrivingLoad): string {
  const when = by === 'standing' ? '' : by === 'braking' ? 'braking' : 'speeding up';
  const where = turning ? `${when ? ' while it turns' : 'turning'} ${turning}` : '';
  return when || where ? `it tips ${when}${where}` : 'it tips already as it stands';
}
const mm = ({ margin }: DrivingLoad): string =>
  margin === -Infinity ? 'off the ground' : `${formatNumber(toMm(margin), 0)} mm`;
const mark = (id: string, driving: boolean): string | void =>
  edit(driving ? 'Fit for driving' : 'Not fit for driving', (draft) => {
    const pose = draft.poses.find((p) => p.id === id)!;
    if (driving) pose.driving = true;
    else delete pose.driving;
  });
</script>

<template>
  <section class="driving" data-driving>
    <h2>Driving</h2>
    <div class="form">
      <label
        >its most braking
        <NumberField
          :value="travel.brakeMmPerS2"
          dimension="linearAccel"
          label="Braking of the base"
          :min="0"
          :max="20000"
          :commit="(v: number) => set('brakeMmPerS2', v)"
      /></label>
      <label
        >fastest
        <NumberField
          :value="travel.mmPerS"
          dimension="speed"
          label="Highest speed of the base"
          :min="0"
          :max="20000"
          :commit="(v: number) => set('mmPerS', v)"
      /></label>
      <label
        >turns meanwhile by
        <NumberField
          :value="travel.turnDegPerS"
          dimension="angularSpeed"
          label="Turning of the base"
          :min="0"
          :max="1000"
          :commit="(v: number) => set('turnDegPerS', v)"
      /></label>
    </div>
    <p v-if="stand" role="status" class="verdict" :class="stand.may ? 'good' : 'tight'" :data-may-drive="stand.may">
      {{ stand.words }}
    </p>
    <p v-if="here" class="small" :data-driving-margin="here.margin">
      As it stands its load stays <b class="num">{{ mm(here) }}</b> inside its wheels while it drives<template
        v-if="here.margin < 0"
        >: {{ tips(here) }}</template
      >.
    </p>
    <table v-if="poses.length" class="plain" aria-label="Poses fit for driving">
      <thead>
        <tr>
          <th>pose</th>
          <th class="right">left while it drives</th>
          <th>fit for driving</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ pose, load } in poses" :key="pose.id" :data-pose="pose.id">
          <td>{{ pose.name }}</td>
          <td class="num right" :class="{ short: load && load.margin < 0 }">{{ load ? mm(load) : '' }}</td>
          <td>
            <Checkbox
              :model-value="pose.driving ?? false"
              binary
              :input-id="`drive-${pose.id}`"
              :aria-label="`${pose.name} is fit for driving`"
              @update:model-value="mark(pose.id, Boolean($event))"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <p class="small muted">
      On even ground, its wheels not slipping. Let it drive only where nobody can be hit, and slowly first.
    </p>
  </section>
</template>

<style scoped>
.driving {
  border-top: 1px solid var(--lines);
  margin-top: 0.7rem;
  padding-top: 0.5rem;
}
.right {
  text-align: right;
}
.short {
  color: var(--alarm);
}
td,
th {
  padding: 0.12rem 0.4rem;
}
</style>
