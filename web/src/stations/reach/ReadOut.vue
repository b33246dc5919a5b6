<script setup lang="ts">
/** The tool's frame and every joint in figures, to copy; and how far two poses are apart. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { forward } from '@cork-elbow/core/kinematics';
import { axisOf, mul, inverse, positionOf, rotationBetween, rpyOf, vec3 } from '@cork-elbow/core/linear';
import { inUnit, toSlots } from '@cork-elbow/core/mechanism';
import { formatNumber, toDeg, toMm } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { useReach } from './useReach';

const rigs = useRigStore();
const view = useViewStore();
const reach = useReach();

const frame = computed(() => {
  const { mechanism } = rigs;
  const tool = reach.tool.value;
  if (!mechanism || !tool) return null;
  const world = forward(mechanism, view.q).tools.get(tool.id)!;
  return mul(inverse(reach.frameNow(view.q)), world);
});
const lines = computed(() => {
  const f = frame.value;
  if (!f) return [];
  const three = (v: readonly number[], digits: number): string => v.map((x) => formatNumber(x, digits)).join(', ');
  return [
    { name: 'forward, left, up', value: `${three(positionOf(f).map(toMm), 2)} mm` },
    { name: 'roll, pitch, yaw', value: `${three(rpyOf(f).map(toDeg), 2)}°` },
    { name: 'pointing', value: three(axisOf(f, 2), 4) },
  ];
});
const joints = computed(() => {
  const { mechanism } = rigs;
  if (!mechanism) return [];
  const { all } = forward(mechanism, view.q);
  return mechanism.ids.flatMap((_, j) => {
    if (mechanism.type[j] === 0) return [];
    const unit = mechanism.units[j];
    const value = unit === 'mm' ? toMm(all[j]) : toDeg(all[j]);
    return [{ name: mechanism.names[j], value: `${formatNumber(value, 2)}${unit === 'mm' ? ' mm' : '°'}` }];
  });
});
const copied = ref(false);
async function copy(): Promise<void> {
  const text = [...lines.value, ...joints.value].map(({ name, value }) => `${name}\t${value}`).join('\n');
  try {
    await navigator.clipboard.writeText(text);
    copied.value = true;
    setTimeout(() => (copied.value = false), 1500);
  } catch {
    // Not allowed here: the figures can be selected by hand.
  }
}

// ── Two poses ─────────────────────────────────────────────────────────────────────────────────────────────────────
const NOW = ':now';
const from = ref(NOW);
const to = ref(NOW);
const poses = computed(() => [
  { value: NOW, label: 'as it stands' },
  ...(rigs.rig?.poses ?? []).map((p) => ({ value: p.id, label: p.name })),
]);
const slotsOf = (id: string): Float64Array => {
  const pose = rigs.rig?.poses.find((p) => p.id === id);
  return pose && rigs.mechanism ? toSlots(rigs.mechanism, pose.joints) : view.q;
};
const apart = computed(() => {
  const { mechanism } = rigs;
  const tool = reach.tool.value;
  if (!mechanism || !tool || from.value === to.value) return null;
  const [a, b] = [slotsOf(from.value), slotsOf(to.value)];
  const [fa, fb] = [a, b].map((q) => forward(mechanism, q).tools.get(tool.id)!);
  let far = { name: '', by: 0, unit: '' };
  let seconds = 0;
  for (let s = 0; s < mechanism.m; s++) {
    const by = inUnit(mechanism, s, Math.abs(a[s] - b[s]));
    const time = Math.abs(a[s] - b[s]) / mechanism.speed[s];
    if (time <= seconds) continue;
    seconds = time;
    const j = mechanism.jointOfSlot[s];
    far = { name: mechanism.names[j], by, unit: mechanism.units[j] === 'mm' ? ' mm' : '°' };
  }
  return {
    mm: toMm(vec3.distance(positionOf(fa), positionOf(fb))),
    deg: toDeg(vec3.norm(rotationBetween(fa, fb))),
    far,
    seconds,
  };
});
</script>

<template>
  <details class="readout">
    <summary>
      Tool and joints in figures
      <span v-if="lines.length" class="num small muted">{{ lines[0].value }}</span>
    </summary>
    <div class="columns">
      <dl>
        <template v-for="l in lines" :key="l.name"
          ><dt>{{ l.name }}</dt>
          <dd class="num">{{ l.value }}</dd></template
        >
      </dl>
      <dl>
        <template v-for="l in joints" :key="l.name"
          ><dt>{{ l.name }}</dt>
          <dd class="num">{{ l.value }}</dd></template
        >
      </dl>
    </div>
    <Button size="small" severity="secondary" :label="copied ? 'Copied' : 'Copy all'" @click="copy" />
    <div class="apart">
      <ChoiceField
        label="from"
        name="Distance from pose"
        :options="poses"
        :value="from"
        @change="from = String($event)"
      />
      <ChoiceField label="to" name="Distance to pose" :options="poses" :value="to" @change="to = String($event)" />
      <p v-if="apart" class="small" role="status">
        The tool moves <b class="num">{{ formatNumber(apart.mm, 1) }} mm</b> and turns
        <b class="num">{{ formatNumber(apart.deg, 1) }}°</b>; {{ apart.far.name }} goes farthest for its speed,
        <b class="num">{{ formatNumber(apart.far.by, 1) }}{{ apart.far.unit }}</b> in at least
        <b class="num">{{ formatNumber(apart.seconds, 2) }} s</b>.
      </p>
      <p v-else class="small muted">Choose two poses to see how far apart they are.</p>
    </div>
  </details>
</template>

<style scoped>
.readout {
  margin-top: 0.7rem;
  border-top: 1px solid var(--lines);
  padding-top: 0.4rem;
}
.columns {
  display: grid;
  grid-template-columns: 1.3fr 1fr;
  gap: 0.3rem 1.2rem;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0.1rem 0.7rem;
  font-size: 0.86rem;
  margin: 0.5rem 0;
  align-content: start;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  text-align: right;
}
.apart {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.4rem 0.5rem;
  margin-top: 0.6rem;
}
.apart p {
  grid-column: 1 / -1;
}
</style>
