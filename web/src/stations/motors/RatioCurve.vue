<script setup lang="ts">
/** Joint over motor angle of a linkage whose ratio changes, up to its ends; the ratio dashed. */
import { computed } from 'vue';
import type { Coupling } from '@cork-elbow/core/transmissions';
import { formatNumber } from '@cork-elbow/core/units';

const { coupling, unit, value, jointClass } = defineProps<{
  coupling: Coupling;
  unit: '°' | 'mm';
  /** Of the joint, as it stands. */
  value: number;
  jointClass: string;
}>();

const curve = computed(() => {
  const c = coupling;
  if (!c.domain) return null;
  const [m0, m1] = c.domain;
  const points = Array.from({ length: 61 }, (_, k) => {
    const m = m0 + ((m1 - m0) * k) / 60;
    const joint = c.toJoints([m])?.[0] ?? null;
    return { m, joint, ratio: joint === null ? null : (c.rates([joint])?.[0]?.[0] ?? null) };
  }).filter((p) => p.joint !== null && p.ratio !== null) as { m: number; joint: number; ratio: number }[];
  if (points.length < 2) return null;
  const js = points.map((p) => p.joint);
  const rs = points.map((p) => Math.abs(p.ratio));
  const [j0, j1] = [Math.min(...js), Math.max(...js)];
  const r1 = Math.max(...rs);
  const x = (m: number): number => 44 + ((m - m0) / (m1 - m0)) * 330;
  const y = (j: number): number => 130 - ((j - j0) / (j1 - j0 || 1)) * 112;
  const d = (f: (p: (typeof points)[number]) => number): string =>
    points.map((p, k) => `${k ? 'L' : 'M'}${x(p.m).toFixed(1)} ${f(p).toFixed(1)}`).join('');
  const now = c.toDrives([value])?.[0] ?? null;
  return {
    m0,
    m1,
    j0,
    j1,
    r1,
    joint: d((p) => y(p.joint)),
    ratio: d((p) => 130 - (Math.abs(p.ratio) / r1) * 112),
    now: now === null ? null : { x: x(now), y: y(value) },
  };
});
</script>

<template>
  <svg v-if="curve" viewBox="0 0 400 158" class="drawing curve" role="img" aria-label="Joint over motor angle">
    <path class="grid axis" d="M44 130H374M44 18V130" />
    <path class="ratio" :d="curve.ratio" />
    <path class="joint" :class="jointClass" :d="curve.joint" />
    <circle v-if="curve.now" :cx="curve.now.x" :cy="curve.now.y" r="4.5" class="now" />
    <text x="40" y="22" text-anchor="end" class="grid-label">{{ formatNumber(curve.j1, 0) }}{{ unit }}</text>
    <text x="40" y="132" text-anchor="end" class="grid-label">{{ formatNumber(curve.j0, 0) }}{{ unit }}</text>
    <text x="44" y="146" text-anchor="middle" class="grid-label">{{ formatNumber(curve.m0, 0) }}°</text>
    <text x="374" y="146" text-anchor="middle" class="grid-label">{{ formatNumber(curve.m1, 0) }}°</text>
    <text x="209" y="150" text-anchor="middle">motor; dashed: ratio, up to {{ formatNumber(curve.r1, 2) }}</text>
  </svg>
</template>

<style scoped>
.curve {
  height: auto;
  max-width: 26rem;
}
.joint {
  stroke: var(--jc);
  stroke-width: 2.5;
  fill: none;
}
.ratio {
  stroke: var(--ink-3);
  stroke-width: 1.2;
  stroke-dasharray: 4 3;
  fill: none;
}
.now {
  fill: var(--cork);
}
</style>
