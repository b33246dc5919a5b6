<script setup lang="ts">
/** Every work spot: whether it is reached, how, and with what margin; live as lengths and limits change. */
import { IconTrash } from '@tabler/icons-vue';
import { computed } from 'vue';
import type { Task } from '@cork-elbow/core/kinematics';
import { vec3, type Vec3 } from '@cork-elbow/core/linear';
import { taskOf } from '@cork-elbow/core/reach';
import { takeOut, type Spot } from '@cork-elbow/core/rig';
import { toM } from '@cork-elbow/core/units';
import { useJob } from '../../shared/useJob';
import { useRigStore } from '../../stores/rig';
import { useReach } from './useReach';
import { tightest, TIGHT } from './words';
import IconButton from '../../shared/IconButton.vue';

const rigs = useRigStore();
const { tool, speedOnly, aim, goTo } = useReach();
/** The tool points at each spot from where it can, instead of going there. */
const isPointing = computed(() => aim.value === 'spot');

const { answer: results } = useJob('spots', {
  request: () => {
    const { rig } = rigs;
    if (!rig || !tool.value) return null;
    const tasks = rig.spots.map((spot): Task => {
      const position = spot.xyzMm.map(toM) as unknown as Vec3;
      const direction = spot.direction && vec3.unit(spot.direction);
      return isPointing.value ? { kind: 'aim', at: position } : taskOf({ position, direction });
    });
    return { toolId: tool.value.id, tasks };
  },
  when: () =>
    [
      rigs.rig?.spots,
      rigs.rig?.obstacles,
      rigs.mechanism,
      tool.value,
      speedOnly.value.size,
      isPointing.value,
    ] as const,
});

const rows = computed(() => {
  const { mechanism, rig } = rigs;
  if (!mechanism || !rig || !tool.value) return [];
  return rig.spots.map((spot, k) => {
    const result = results.value?.[k];
    // Where every posture touches something, none is a way to work there.
    const best = result?.isFree ? result.solutions[0] : undefined;
    const margin = best && best.q.length === mechanism.m ? tightest(mechanism, tool.value!.slots, best.q) : null;
    return {
      spot,
      best,
      margin,
      why: result?.reasons[0]?.message ?? '',
      verdict: !result ? '…' : !best ? 'no' : margin && margin.by < TIGHT ? 'tight' : 'yes',
    };
  });
});
const toolWords = ({ direction }: Spot): string =>
  isPointing.value
    ? 'at it'
    : !direction
      ? 'free'
      : direction[2] < -0.99
        ? 'down'
        : Math.abs(direction[2]) < 0.02
          ? 'level'
          : 'along';
function drop(id: string): void {
  rigs.commit(`Delete ${rigs.rig!.spots.find((s) => s.id === id)?.name ?? 'a work spot'}`, (draft) =>
    takeOut(draft, 'spot', id),
  );
}
</script>

<template>
  <table v-if="rows.length" class="plain spots">
    <thead>
      <tr>
        <th>spot</th>
        <th>tool</th>
        <th>posture, or why not</th>
        <th class="r">margin</th>
        <th>reach</th>
        <th></th>
      </tr>
    </thead>
    <tbody v-rove="'.link'">
      <tr v-for="r in rows" :key="r.spot.id" :class="r.verdict">
        <td>
          <button class="link" @click="goTo(r.spot.xyzMm, r.spot.direction && vec3.unit(r.spot.direction))">
            {{ r.spot.name }}
          </button>
        </td>
        <td>{{ toolWords(r.spot) }}</td>
        <td :class="{ small: !r.best }">{{ r.best?.posture ?? r.why }}</td>
        <td class="r num">{{ r.margin?.text ?? '–' }}</td>
        <td class="verdict">{{ r.verdict }}</td>
        <td class="r">
          <IconButton
            :icon="IconTrash"
            :label="`Delete ${r.spot.name}`"
            title="Delete"
            danger
            @click="drop(r.spot.id)"
          />
        </td>
      </tr>
    </tbody>
  </table>
  <p v-else class="muted small">No work spots yet: place a target and keep it.</p>
</template>

<style scoped>
.verdict {
  font-weight: 700;
  color: var(--good);
}
.no .verdict {
  color: var(--alarm);
}
.no {
  background: var(--cork-wash);
}
.tight .verdict {
  color: var(--caution);
}
</style>
