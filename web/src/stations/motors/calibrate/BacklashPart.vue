<script setup lang="ts">
/** Slack of a joint: the same command reached from below and from above. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { tipPerUnit } from '../tip';
import { entryOf } from '@cork-elbow/core/rig';
import { formatNumber, type Dimension } from '@cork-elbow/core/units';
import NumberField from '../../../shared/NumberField.vue';
import { today } from '../../../shared/today';
import { useRigStore } from '../../../stores/rig';
import { useViewStore } from '../../../stores/view';
import { useMotor } from '../useMotor';
import { useOneMotor } from '../useOneMotor';

const rigs = useRigStore();
const view = useViewStore();
const { row, onBuild } = useMotor();
const { isOn, comeFrom } = useOneMotor();
const info = computed(() => row.value!.info);
const dimension = computed((): Dimension => (info.value.unit === 'mm' ? 'length' : 'angle'));
const slack = computed(() => entryOf(rigs.build!.backlash, info.value.id)?.slack ?? null);
const below = ref<number | null>(null);
const above = ref<number | null>(null);
function take(side: 'below' | 'above', v: number): string | void {
  if (side === 'below') below.value = v;
  else above.value = v;
  if (below.value === null || above.value === null) return;
  const wide = Math.round(Math.abs(above.value - below.value) * 1000) / 1000;
  return onBuild(`Backlash of ${info.value.name}`, (build) => {
    build.backlash[info.value.id] = { slack: wide, takenOn: today() };
  });
}
const atTip = computed(() => {
  const per = tipPerUnit(rigs.mechanism!, info.value.slot, view.q);
  return per === null || slack.value === null ? null : per * slack.value;
});
</script>

<template>
  <p class="muted small">
    Send the same command from below and from above, and read the joint both times. Approach from one side in routines
    where it matters.
  </p>
  <div class="form">
    <NumberField
      prefix="from below"
      :value="below ?? 0"
      :dimension
      :decimals="2"
      label="Reading from below"
      :commit="(v: number) => take('below', v)"
    />
    <NumberField
      prefix="from above"
      :value="above ?? 0"
      :dimension
      :decimals="2"
      label="Reading from above"
      :commit="(v: number) => take('above', v)"
    />
    <template v-if="isOn">
      <Button
        v-for="side in ['below', 'above'] as const"
        :key="side"
        size="small"
        severity="secondary"
        data-moves
        :label="`Come from ${side}`"
        @click="comeFrom(side)"
      />
    </template>
    <p class="small" role="status" data-backlash>
      <template v-if="slack !== null"
        >Slack <b class="num">{{ formatNumber(slack, 2) }}{{ info.unit === 'mm' ? ' mm' : '°' }}</b
        ><template v-if="atTip !== null">, {{ formatNumber(atTip, 1) }} mm at the tip</template>.</template
      ><template v-else>Not measured yet.</template>
    </p>
  </div>
</template>
