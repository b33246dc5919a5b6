<script setup lang="ts">
import { computed } from 'vue';
import { isSpin, nativeAt } from '@cork-elbow/core/actuators';
import { limbJoints } from '@cork-elbow/core/drawing';
import { useSlots } from '../shared/joints';
import { useRigStore } from '../stores/rig';
import { useRunStore } from '../stores/run';
import { useViewStore } from '../stores/view';
import JointCell from './JointCell.vue';
import { fromUnit } from '@cork-elbow/core/mechanism';

const rigs = useRigStore();
const view = useViewStore();
const run = useRunStore();
const slots = useSlots();
const isLive = computed(() => view.poseSource === 'live');
/** The pose that the motors are asked for: while the board is live what was commanded, not what was read back. */
const asked = computed(() => {
  const q = view.q.slice();
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
const cells = computed(() => {
  const { mechanism } = rigs;
  if (!mechanism) return [];
  const limb = limbJoints(rigs.hardware!, mechanism, view.limb);
  return slots.value
    .filter((info) => limb.has(info.id))
    .map((info) => {
      const s = info.slot;
      const unit = mechanism.siPerUnit[s];
      const commanded = isLive.value ? run.telemetry?.commanded[info.id] : undefined;
      return {
        info,
        value: commanded ?? view.q[s] / unit,
        low: mechanism.lower[s] / unit,
        high: mechanism.upper[s] / unit,
        command: commandOf(s),
        measured: isLive.value ? (run.telemetry?.measured[info.id] ?? null) : null,
      };
    });
});
function move(slot: number, value: number): void {
  if (rigs.mechanism) view.setJoint(slot, fromUnit(rigs.mechanism, slot, value));
}
</script>

<template>
  <div class="strip" role="group" aria-label="Joints" :data-pose-source="view.poseSource">
    <JointCell
      v-for="cell in cells"
      :key="cell.info.id"
      v-bind="cell"
      :locked="isLive"
      :selected="view.selected === cell.info.id"
      @move="move(cell.info.slot, $event)"
      @select="view.selected = cell.info.id"
    />
    <p v-if="!cells.length" class="empty">No joint moves yet. Add one on the Measure page.</p>
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  gap: 10px;
  overflow-x: auto;
  min-height: 112px;
  padding: 2px;
  margin: -2px;
}
.empty {
  margin: auto;
  color: var(--ink-2);
}
</style>
