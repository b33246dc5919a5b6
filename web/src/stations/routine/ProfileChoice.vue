<script setup lang="ts">
/** The profiles of a move side by side: the speed of each over the same time, and how long it takes. */
import { computed, ref } from 'vue';
import {
  curveInto,
  jointMove,
  pathMove,
  profileKinds,
  type MoveBlock,
  type PathBlock,
  type ProfileKind,
} from '@cork-elbow/core/motion';
import type { Routine, Step } from '@cork-elbow/core/rig';
import { profileWords } from '@cork-elbow/core/routine';
import { formatNumber } from '@cork-elbow/core/units';
import Button from 'primevue/button';
import { useRigStore } from '../../stores/rig';
import { usePlan } from '../../workspace/usePlan';

type Move = Extract<Step, { profile?: ProfileKind }>;
const { step, routine, set, setAll } = defineProps<{
  step: Move;
  routine: Routine;
  set: (profile: ProfileKind) => string | void;
  setAll: (profile: ProfileKind) => string | void;
}>();
const rigs = useRigStore();
const { plan } = usePlan();
/** The curves are made only while they are seen. */
const open = ref(false);
const chosen = computed(() => step.profile ?? routine.profile);
const hints: Record<ProfileKind, string> = {
  's-curve': 'quickest without a jerk',
  'minimum-jerk': 'smoothest, a little longer',
  'soft-stop': 'sharp start, soft end: lifelike',
  trapezoid: 'quick, jerks a little at its corners',
  linear: 'starts and stops at full speed',
  jump: 'asks for the end at once: only to compare',
};
const W = 64;
const H = 22;
const LOOKS = 40;
/** This step's move as planned, made again with every profile. */
const rows = computed(() => {
  const found = plan.value?.blocks.find(
    (b) => b.stepId === step.id && b.routine === routine.id && b.block.kind !== 'hold',
  );
  const { mechanism } = rigs;
  const block = found?.block;
  const pace = 'mmPerS' in step.pace ? {} : step.pace;
  const make = (profile: ProfileKind): MoveBlock | PathBlock | null =>
    !mechanism || !block || block.from.length !== mechanism.m
      ? null
      : block.kind === 'path'
        ? pathMove(mechanism, block.from, block.to, block.path, { ...pace, profile })
        : block.kind === 'move' || block.kind === 'own-pace'
          ? jointMove(mechanism, block.from, block.to, { ...pace, profile })
          : null;
  const made = profileKinds.map((profile) => ({ profile, move: open.value ? make(profile) : null }));
  const longest = Math.max(1e-9, ...made.map(({ move }) => move?.duration ?? 0));
  const out = new Float64Array(4);
  const speedAt = (move: MoveBlock | PathBlock, share: number): number => {
    // Just inside both ends: a profile that starts at full speed shows it.
    const t = move.duration * Math.min(1 - 1e-9, Math.max(1e-9, share));
    curveInto(out, move.curve, t / move.stretch);
    return out[1] / move.stretch;
  };
  const looks = Array.from({ length: LOOKS + 1 }, (_, k) => k / LOOKS);
  const fastest = Math.max(
    1e-9,
    ...made.flatMap(({ move }) => (move ? looks.map((share) => speedAt(move, share)) : [])),
  );
  return made.map(({ profile, move }) => {
    if (!move) return { profile, seconds: null, path: '' };
    const x = (t: number): number => 2 + ((W - 4) * t) / longest;
    const y = (v: number): number => H - 2 - ((H - 4) * v) / fastest;
    const points = looks.map(
      (share) => `${x(share * move.duration).toFixed(1)} ${y(speedAt(move, share)).toFixed(1)}`,
    );
    // A jump has no speed to draw: straight up.
    const path =
      profile === 'jump'
        ? `M${x(0)} ${y(0)}V2H${x(0) + 2}V${y(0)}H${x(move.duration).toFixed(1)}`
        : `M${x(0).toFixed(1)} ${y(0).toFixed(1)}L${points.join('L')}L${x(move.duration).toFixed(1)} ${y(0).toFixed(1)}`;
    return { profile, seconds: move.duration, path };
  });
});
</script>

<template>
  <details @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>
      Profile: <b>{{ profileWords[chosen] }}</b> {{ step.profile ? '' : 'as the whole routine' }}
    </summary>
    <div class="profiles" role="group" aria-label="Profile">
      <button
        v-for="r in rows"
        :key="r.profile"
        class="one"
        :aria-pressed="r.profile === chosen"
        :title="hints[r.profile]"
        @click="set(r.profile)"
      >
        <svg :viewBox="`0 0 ${W} ${H}`" width="100%" :height="H" aria-hidden="true"><path :d="r.path" /></svg>
        <span>{{ profileWords[r.profile] }}</span>
        <span class="num">{{ r.seconds === null ? '–' : `${formatNumber(r.seconds, 2)} s` }}</span>
      </button>
      <Button
        v-if="chosen !== routine.profile"
        size="small"
        variant="text"
        label="For the whole routine"
        @click="setAll(chosen)"
      />
    </div>
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
  font-size: 0.86rem;
  color: var(--ink-2);
}
.profiles {
  display: grid;
  grid-template-columns: repeat(6, minmax(0, 1fr));
  gap: 0.3rem;
}
.profiles :deep(.p-button) {
  grid-column: 1 / -1;
  justify-self: start;
}
.one {
  display: grid;
  justify-items: center;
  gap: 0.05rem;
  border: 1px solid var(--lines);
  border-radius: 4px;
  background: var(--paper);
  padding: 0.15rem 0.1rem;
  font-size: 0.72rem;
  line-height: 1.15;
  cursor: pointer;
  color: inherit;
}
.one[aria-pressed='true'] {
  border-color: var(--pine);
  box-shadow: inset 0 0 0 1px var(--pine);
  background: var(--pine-wash);
}
path {
  fill: none;
  stroke: var(--cork);
  stroke-width: 1.6;
}
</style>
