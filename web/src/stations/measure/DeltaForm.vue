<script setup lang="ts">
/** The measures of a rotary delta. */
import { computed } from 'vue';
import type { DeltaDoc } from '@cork-elbow/core/rig';
import NumberField from '../../shared/NumberField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';

const rigs = useRigStore();
const edit = useEdit();
const delta = computed(() => (rigs.rig!.mechanism as DeltaDoc).delta);
const on = (label: string, change: (delta: DeltaDoc['delta']) => void): string | void =>
  edit(label, ({ mechanism }) => mechanism.family === 'rotary-delta' && change(mechanism.delta));
const lengths = [
  ['baseRadiusMm', 'base radius', 'Middle of the plate to a motor’s axis'],
  ['upperArmMm', 'upper arm', 'Motor axis to the rods’ upper joints'],
  ['forearmMm', 'rods', 'Rods, joint to joint'],
  ['platformRadiusMm', 'platform', 'Middle of the platform to the rods’ lower joints'],
  ['rodGapMm', 'rods apart', 'One rod of a pair to the other'],
] as const;
const masses = [
  ['upperArmG', 'upper arm'],
  ['forearmG', 'pair of rods'],
  ['platformG', 'platform'],
] as const;
</script>

<template>
  <div class="rule"><h2>Rotary delta</h2></div>
  <div class="form">
    <span class="group">Lengths, to the middle of each hinge</span>
    <NumberField
      v-for="[key, word, label] in lengths"
      :key="key"
      :prefix="word"
      :value="delta[key]"
      dimension="length"
      :label
      :min="0.1"
      :commit="(v: number) => on(label, (d) => (d[key] = v))"
    />
    <span class="group">Directions of the three motors, anticlockwise from forward</span>
    <NumberField
      v-for="(azimuth, i) in delta.azimuthsDeg"
      :key="i"
      :prefix="`motor ${i + 1}`"
      :value="azimuth"
      dimension="angle"
      :label="`Direction of motor ${i + 1}`"
      :commit="(v: number) => on('Direction of a motor', (d) => (d.azimuthsDeg[i] = v))"
    />
    <span class="group">Masses, each of three</span>
    <NumberField
      v-for="[key, word] in masses"
      :key="key"
      :prefix="word"
      :value="delta.masses[key]"
      dimension="mass"
      :label="`Mass of ${word}`"
      :min="0"
      :commit="(v: number) => on('Masses', (d) => (d.masses[key] = v))"
    />
  </div>
</template>
