<script setup lang="ts">
/** The tree as a table: every joint with its place, axis, range and rest, editable in its cells. */
import { computed } from 'vue';
import { isMoving, jointName, limitsOf, treeOf, type AnyMoving, type Joint } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { shortAxis } from './words';

const rigs = useRigStore();
const view = useViewStore();
const edit = useEdit();
const isTree = computed(() => rigs.rig!.mechanism.family === 'tree');
const joints = computed(() => treeOf(rigs.rig!.mechanism).joints.filter((j) => isTree.value || isMoving(j)));

/** Rows in the order of the tree, each with how deep it hangs. */
const rows = computed(() => {
  const children = new Map<string | null, Joint[]>();
  for (const joint of joints.value) children.set(joint.parent, [...(children.get(joint.parent) ?? []), joint]);
  const list: { joint: Joint; depth: number }[] = [];
  const walk = (parent: string | null, depth: number): void => {
    for (const joint of children.get(parent) ?? []) {
      list.push({ joint, depth });
      // A chain is no reason to indent; only what branches off is.
      walk(joint.id, depth + ((children.get(joint.id)?.length ?? 0) > 1 ? 1 : 0));
    }
  };
  walk(null, 0);
  return list;
});
const slotOf = (id: string): number => rigs.mechanism?.slotOf.get(id) ?? -1;
const at = (id: string): number => rigs.rig!.mechanism.joints.findIndex((j) => j.id === id);

const place = (joint: Joint, k: number, v: number): string | void =>
  edit(`Pivot of ${jointName(joint)}`, ({ mechanism }) => {
    if (mechanism.family === 'tree') mechanism.joints[at(joint.id)].origin.xyzMm[k] = v;
  });
function range(joint: AnyMoving, key: 'min' | 'max' | 'home', v: number): string | void {
  return edit(`${key === 'home' ? 'Rest' : 'Range'} of ${jointName(joint)}`, ({ mechanism }) => {
    const own = mechanism.joints[at(joint.id)];
    if (!isMoving(own)) return;
    if (key === 'home') own.home = v;
    else own.limits = { ...own.limits, [key]: v };
  });
}
const dimensionOf = (joint: Joint): 'length' | 'angle' => (joint.type === 'prismatic' ? 'length' : 'angle');
const words = ['forward', 'left', 'up'] as const;
</script>

<template>
  <table class="plain joints">
    <thead>
      <tr>
        <th>joint</th>
        <th>axis</th>
        <th v-for="w in words" :key="w" class="r">{{ w }}</th>
        <th class="r">from</th>
        <th class="r">to</th>
        <th class="r">rest</th>
      </tr>
    </thead>
    <tbody v-rove="'.pick'">
      <tr
        v-for="{ joint, depth } in rows"
        :key="joint.id"
        :class="{ chosen: joint.id === view.selected }"
        @click="view.selected = joint.id"
      >
        <td>
          <button class="pick" :style="{ marginLeft: `${depth * 10}px` }" :aria-pressed="joint.id === view.selected">
            <JointMark v-if="slotOf(joint.id) >= 0" :index="slotOf(joint.id)" :size="21" />
            <span v-else class="no-mark" aria-hidden="true">{{ joint.type === 'fixed' ? '▪' : '↳' }}</span>
            <span class="name">{{ jointName(joint) }}</span>
          </button>
        </td>
        <td class="muted axis">
          {{ isMoving(joint) ? (joint.follows ? 'follows' : shortAxis(joint.type, joint.axis)) : 'fixed' }}
        </td>
        <td v-for="(w, k) in words" :key="w" class="cell">
          <NumberField
            v-if="isTree"
            :value="joint.origin.xyzMm[k]"
            dimension="length"
            :decimals="1"
            :label="`${jointName(joint)}, pivot ${w}`"
            :skipped="joint.id !== view.selected"
            :commit="(v: number) => place(joint, k, v)"
          />
          <span v-else class="num given">{{ formatNumber(joint.origin.xyzMm[k], 1) }}</span>
        </td>
        <template v-if="isMoving(joint) && !joint.follows && joint.type !== 'continuous'">
          <td v-for="key in ['min', 'max', 'home'] as const" :key="key" class="cell narrow">
            <NumberField
              :value="key === 'home' ? joint.home : limitsOf(joint)[key]"
              :dimension="dimensionOf(joint)"
              :decimals="1"
              :label="`${jointName(joint)}, ${key === 'min' ? 'from' : key === 'max' ? 'to' : 'rests at'}`"
              :skipped="joint.id !== view.selected"
              :min="key === 'home' ? limitsOf(joint).min : undefined"
              :max="key === 'home' ? limitsOf(joint).max : undefined"
              :commit="(v: number) => range(joint, key, v)"
            />
          </td>
        </template>
        <td v-else colspan="3" class="muted r">
          {{ joint.type === 'continuous' ? 'without end' : joint.type === 'fixed' ? '' : 'as its sources go' }}
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.joints {
  table-layout: fixed;
}
.joints th:first-child {
  width: 27%;
}
.joints th:nth-child(2) {
  width: 13%;
}
.joints tr {
  cursor: pointer;
}
.joints .chosen {
  background: var(--pine-wash);
}
.joints td {
  padding: 0.12rem 0.08rem;
}
/* Worked out, not typed: as far apart as fields would be. */
.given {
  display: block;
  padding-inline: 0.1rem 0.25rem;
  font-size: 0.88em;
  text-align: right;
  white-space: nowrap;
}
.joints th {
  padding-inline: 0.08rem;
}
.pick {
  display: flex;
  align-items: center;
  gap: 0.35rem;
  border: 0;
  background: none;
  padding: 0.1rem 0;
  cursor: pointer;
  font-weight: 600;
  max-width: 100%;
  min-width: 0;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.no-mark {
  width: 21px;
  text-align: center;
  color: var(--ink-3);
}
.axis {
  font-size: 0.82rem;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.cell {
  text-align: right;
}
.cell :deep(.unit) {
  display: none;
}
.cell :deep(.box) {
  border-color: transparent;
  background: transparent;
  padding: 0.12rem 0.1rem;
}
.cell :deep(.box:hover) {
  border-color: var(--lines);
}
.cell :deep(.box:focus-within) {
  border-color: var(--pine);
  background: var(--paper);
}
.cell :deep(input) {
  min-width: 0;
  font-size: 0.8rem;
  letter-spacing: -0.02em;
}
.cell :deep(.message) {
  position: absolute;
  z-index: 3;
  background: var(--paper);
  border: 1px solid var(--alarm);
  border-radius: 4px;
  padding: 0.2rem 0.4rem;
  margin-top: 1.7rem;
  max-width: 17rem;
  right: 1.2rem;
  text-align: left;
}
</style>
