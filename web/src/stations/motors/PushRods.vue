<script setup lang="ts">
/** The two push rods that tilt a plate: where they hold, how long they are. */
import type { TransmissionOf } from '@cork-elbow/core/rig';
import NumberField from '../../shared/NumberField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useRigStore } from '../../stores/rig';
import { useMotor } from './useMotor';

const { tie } = defineProps<{ tie: TransmissionOf<'tilt-plate'> }>();
const rigs = useRigStore();
const { onTie } = useMotor();
const driveName = (id: string): string => rigs.rig!.drives.find((d) => d.id === id)?.name ?? id;
type RodKey = 'atMm' | 'plateMm' | 'axis' | 'along';
function setRod(k: number, key: RodKey, axis: number, v: number): string | void {
  return onTie('Push rod', (t) => {
    if (t.kind === 'tilt-plate') t.rods[k][key][axis] = v;
  });
}
</script>

<template>
  <div v-for="(rod, k) in tie.rods" :key="k" class="form">
    <span class="group">{{ driveName(tie.drives[k]) }}: horn’s pivot, from the plate’s</span>
    <TripleField
      :label="`Pivot ${k + 1}`"
      :value="rod.atMm"
      :commit="(a: number, v: number) => setRod(k, 'atMm', a, v)"
    />
    <span class="group">where the rod holds the plate, plate level</span>
    <TripleField
      :label="`Hold ${k + 1}`"
      :value="rod.plateMm"
      :commit="(a: number, v: number) => setRod(k, 'plateMm', a, v)"
    />
    <NumberField
      prefix="horn"
      :value="rod.hornMm"
      dimension="length"
      :decimals="1"
      :label="`Horn ${k + 1}`"
      :min="1"
      :commit="(v: number) => onTie('Horn', (t) => t.kind === 'tilt-plate' && void (t.rods[k].hornMm = v))"
    />
    <NumberField
      prefix="rod"
      :value="rod.rodMm"
      dimension="length"
      :decimals="1"
      :label="`Rod ${k + 1}`"
      :min="1"
      :commit="(v: number) => onTie('Rod', (t) => t.kind === 'tilt-plate' && void (t.rods[k].rodMm = v))"
    />
  </div>
</template>
