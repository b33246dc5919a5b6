<script setup lang="ts">
import { IconChevronDown, IconChevronUp } from '@tabler/icons-vue';
import { useLocalStorage } from '@vueuse/core';
import { computed, ref } from 'vue';
import { isSpin, nativeAt } from '@cork-elbow/core/actuators';
import { limbJoints, markClass } from '@cork-elbow/core/drawing';
import { formatNumber } from '@cork-elbow/core/units';
import IconButton from '../shared/IconButton.vue';
import JointMark from '../shared/JointMark.vue';
import { useSlots } from '../shared/joints';
import { useRigStore } from '../stores/rig';
import { useRunStore } from '../stores/run';
import { useViewStore } from '../stores/view';
import type { Frame } from '../workspace/useFrame';
import { useLoadNow } from '../workspace/useLoadNow';
import { useMoveJoint } from '../workspace/useMoveJoint';
import HandBar from './HandBar.vue';
import JointCell from './JointCell.vue';
import JointLine from './JointLine.vue';
import { unitOf, type StripJoint } from './strip-joint';
import { fromUnit } from '@cork-elbow/core/mechanism';

const { frame } = defineProps<{ frame: Frame }>();
const rigs = useRigStore();
const view = useViewStore();
const run = useRunStore();
const slots = useSlots();
const { shares: loads } = useLoadNow();
const isLive = computed(() => view.poseSource === 'live');
/** The pose that the motors are asked for: while the board is live what was commanded, not what was read back. */
const asked = computed(() => {
  const q = view.readQ.slice();
  if (isLive.value)
    slots.value.forEach(({ id, slot }) => {
      const v = run.telemetry?.commanded[id];
      if (v !== undefined) q[slot] = fromUnit(rigs.mechanism!, slot, v);
    });
  return q;
});
/** What a motor that is sent speeds is sent: while the board is live what went out last, else what it stands at. */
function spinCommand(slot: number): string | null {
  const spin = rigs.motors.find((m) => isSpin(m) && m.slots.includes(slot));
  if (!spin || !isSpin(spin)) return null;
  return `${(isLive.value ? run.telemetry?.wire[spin.drive.id] : undefined) ?? spin.stopUs} µs`;
}
/** What the motor of a joint is sent, with its unit. */
function commandOf(slot: number): string | null {
  const all = rigs.driven.filter((m) => m.slots.includes(slot));
  const map = all.find((m) => m.slots[m.index] === slot) ?? all[0];
  const native = map && nativeAt(map, rigs.mechanism!, asked.value);
  if (!map) return spinCommand(slot);
  return native === null || native === undefined ? 'out of the linkage' : `${native} ${map.native.unit}`;
}
const cells = computed<StripJoint[]>(() => {
  const { mechanism } = rigs;
  if (!mechanism) return [];
  const limb = limbJoints(rigs.hardware!, mechanism, view.limb);
  return slots.value
    .filter((info) => limb.has(info.id))
    .map((info) => {
      const s = info.slot;
      const unit = mechanism.siPerUnit[s];
      // An arm that is led shows where it was told to go; where it is stands beside that.
      const wished = run.byHand ? run.wish?.[s] : undefined;
      const commanded =
        wished === undefined ? (isLive.value ? run.telemetry?.commanded[info.id] : undefined) : wished / unit;
      return {
        info,
        value: commanded ?? view.readQ[s] / unit,
        low: mechanism.lower[s] / unit,
        high: mechanism.upper[s] / unit,
        command: commandOf(s),
        load: loads.value[s] ?? null,
        measured: isLive.value ? (run.telemetry?.measured[info.id] ?? null) : null,
      };
    });
});
const moveJoint = useMoveJoint();
const isLocked = computed(() => isLive.value && !run.byHand);
function move(slot: number, value: number): void {
  if (rigs.mechanism) moveJoint(slot, fromUnit(rigs.mechanism, slot, value));
}

/** Cells with gauges where there is room for them, unless they have been folded away; else a line of marks. */
const isFolded = useLocalStorage('cork-elbow:strip-folded', false);
const asCells = computed(() => frame === 'wide' && !isFolded.value);
/** With little room the chosen joint stands beside all marks; else a mark opens it. */
const isBeside = computed(() => frame === 'tall' || frame === 'narrow');
const isOpen = ref(false);
const chosen = computed(() => cells.value.find((c) => c.info.id === view.selected) ?? null);
const inLine = computed(() =>
  isBeside.value ? (chosen.value ?? cells.value[0]) : isOpen.value ? chosen.value : null,
);
function press(id: string): void {
  isOpen.value = !(isOpen.value && view.selected === id);
  view.selected = id;
}
</script>

<template>
  <section class="strip" :class="{ beside: isBeside }" aria-label="Joints" :data-pose-source="view.poseSource">
    <HandBar class="hand" />
    <div v-if="asCells" class="cells">
      <JointCell
        v-for="joint in cells"
        :key="joint.info.id"
        :joint
        :locked="isLocked"
        :selected="view.selected === joint.info.id"
        @move="move(joint.info.slot, $event)"
        @select="view.selected = joint.info.id"
      />
    </div>
    <template v-else>
      <JointLine
        v-if="inLine"
        :key="inLine.info.id"
        class="line"
        :joint="inLine"
        :locked="isLocked"
        @move="move(inLine.info.slot, $event)"
      />
      <div v-rove.across="'button'" class="marks" role="group" aria-label="All joints">
        <button
          v-for="joint in cells"
          :key="joint.info.id"
          class="mark"
          :class="markClass(joint.info.slot)"
          :aria-pressed="inLine?.info.id === joint.info.id"
          :aria-label="`${joint.info.name}, ${formatNumber(joint.value, 1)}${unitOf(joint)}`"
          @click="press(joint.info.id)"
        >
          <JointMark :index="joint.info.slot" :size="24" />
          <span v-if="!isBeside" class="num">{{ formatNumber(joint.value, 1) }}{{ unitOf(joint) }}</span>
        </button>
      </div>
    </template>
    <IconButton
      v-if="frame === 'wide' && cells.length"
      class="fold"
      :icon="isFolded ? IconChevronUp : IconChevronDown"
      :label="isFolded ? 'Unfold the joints' : 'Fold the joints to a line'"
      :title="isFolded ? 'Unfold the joints' : 'Fold the joints to a line'"
      @click="isFolded = !isFolded"
    />
    <p v-if="!cells.length" class="empty">No joint moves yet. Add one on the Measure page.</p>
  </section>
</template>

<style scoped>
.strip {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
  min-width: 0;
}
.hand {
  flex: 1 0 100%;
}
.strip.beside {
  flex-flow: row-reverse wrap;
}
.cells {
  display: flex;
  flex: 1;
  min-width: 0;
  gap: 0.6rem;
  overflow-x: auto;
  min-height: 7rem;
  padding: 2px;
  margin: -2px;
}
.line {
  flex: 1 0 100%;
}
.beside .line {
  flex: 1 1 22rem;
}
.marks {
  display: flex;
  flex: 1;
  min-width: 0;
  gap: 0.2rem;
  overflow-x: auto;
  background: var(--paper);
  border-radius: 5px;
  box-shadow: var(--shadow);
  scrollbar-width: thin;
}
.beside .marks {
  flex: 0 1 auto;
  max-width: 100%;
}
.mark {
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 0.35rem;
  flex: 1 0 auto;
  min-height: 2.75rem;
  min-width: 2.75rem;
  padding: 0 0.35rem;
  border: 2px solid transparent;
  border-radius: 5px;
  background: none;
  cursor: pointer;
  white-space: nowrap;
  font-size: 0.92rem;
}
.mark[aria-pressed='true'] {
  border-color: var(--pine);
  background: var(--pine-wash);
}
.fold {
  flex: none;
  align-self: stretch;
  padding-inline: 0.2rem;
}
.empty {
  margin: auto;
  color: var(--ink-2);
}
</style>
