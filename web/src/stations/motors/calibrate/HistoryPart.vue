<script setup lang="ts">
/** What was measured on this build, row by row: written down, compared at the tip, applied again. */
import { format, parseISO } from 'date-fns';
import Button from 'primevue/button';
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import type { CalibrationEntry } from '@cork-elbow/core/contract';
import { applyFact, factsOf, subjectOf, tipDifference } from '@cork-elbow/core/calibration';
import type { Build, Fact } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import { type CallError } from '../../../api';
import { motorsApi } from '../../../api-motors';
import TextField from '../../../shared/TextField.vue';
import { useRigStore } from '../../../stores/rig';
import { useViewStore } from '../../../stores/view';
import { useMotor } from '../useMotor';

const rigs = useRigStore();
const view = useViewStore();
const { row, onBuild } = useMotor();
const all = shallowRef<readonly CalibrationEntry[]>([]);
const problem = ref('');
const note = ref('');
/** The drive, the joint and its sensors: everything on this page. */
const subjects = computed(() => {
  const r = row.value;
  const led = rigs.rig!.leaders.filter((l) => l.joint === r?.info.id).map((l) => l.sensor);
  const sensors = rigs.rig!.sensors.filter((s) => s.joint === r?.info.id || led.includes(s.id)).map((s) => s.id);
  return [r?.drive?.id, r?.info.id, ...sensors].filter((id): id is string => id !== undefined);
});
const entries = computed(() => all.value.filter((e) => subjects.value.includes(subjectOf(e.fact))));
/** The latest few; older ones on demand. */
const FEW = 8;
const isAll = ref(false);
const listed = computed(() => (isAll.value ? entries.value : entries.value.slice(0, FEW)));
const current = computed(() => subjects.value.flatMap((id) => factsOf(rigs.build!, id)));
const isKept = (fact: Fact): boolean => entries.value.some((e) => JSON.stringify(e.fact) === JSON.stringify(fact));
const unkept = computed(() => current.value.filter((fact) => !isKept(fact)));

async function load(): Promise<void> {
  try {
    all.value = await motorsApi.calibrations(rigs.id!, rigs.build!.id);
    problem.value = '';
  } catch (error) {
    problem.value = (error as CallError).message;
  }
}
onMounted(load);
watch(() => [rigs.id, rigs.build?.id], load);
async function record(): Promise<void> {
  try {
    for (const fact of unkept.value) await motorsApi.recordCalibration(rigs.id!, rigs.build!.id, fact, note.value);
    note.value = '';
    await load();
  } catch (error) {
    problem.value = `Not written down: ${(error as CallError).message}`;
  }
}
function apply(entry: CalibrationEntry): void {
  problem.value = onBuild(`Apply what was measured on ${day(entry)}`, (build) => applyFact(build, entry.fact)) ?? '';
}
const day = (entry: CalibrationEntry): string => format(parseISO(entry.takenAt), 'd MMM yyyy, HH:mm');
const words = (fact: Fact): string => {
  switch (fact.kind) {
    case 'points':
      return `${fact.calibration.points.length} points${fact.trimUs ? `, trim ${formatNumber(fact.trimUs, 0)} µs` : ''}`;
    case 'turn':
      return `${formatNumber(fact.turn.asked, 2)} asked, ${formatNumber(fact.turn.moved, 2)} gone`;
    case 'speeds':
      return `stands at ${formatNumber(fact.speeds.stopUs, 0)} µs, ${fact.speeds.points.length} speeds`;
    case 'sensor':
      return `zero ${formatNumber(fact.reading.zero, 0)}`;
    case 'range':
      return `free from ${formatNumber(fact.range.min, 1)} to ${formatNumber(fact.range.max, 1)}`;
    case 'lift':
      return `${formatNumber(fact.lift.payloadG, 0)} g ${fact.lift.result}`;
    default:
      return `slack ${formatNumber(fact.backlash.slack, 2)}`;
  }
};
/** mm between where the arm goes with an earlier row and where it goes now, for the same commands. */
const differences = computed(() => {
  const { rig, mechanism, build } = rigs;
  const map = new Map<string, { here: number; worst: number } | null>();
  if (!rig || !mechanism || !build) return map;
  for (const entry of listed.value) {
    if (!['points', 'turn'].includes(entry.fact.kind)) continue;
    const then = structuredClone(build) as Build;
    applyFact(then, entry.fact);
    map.set(entry.id, tipDifference(rig, mechanism, then, build, view.editQ));
  }
  return map;
});
</script>

<template>
  <div class="rule">
    <h2>History of {{ rigs.build!.name }}</h2>
  </div>
  <p v-if="problem" class="problem small" role="alert">{{ problem }}</p>
  <div v-if="unkept.length" class="row wrap">
    <TextField
      class="grow"
      :value="note"
      label="Note for the history"
      placeholder="a note, such as: new horn"
      :commit="(v: string) => void (note = v)"
    />
    <Button size="small" :label="`Write down: ${unkept.map(words).join('; ')}`" @click="record" />
  </div>
  <p v-else-if="!entries.length" class="muted small">Nothing measured here yet.</p>
  <table v-if="entries.length" class="plain" aria-label="Measurements of this build">
    <thead>
      <tr>
        <th>taken</th>
        <th>what</th>
        <th>note</th>
        <th class="r" title="Same commands, this row against what is applied now: the most, over the joints’ ranges">
          at the tip
        </th>
        <th></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="entry in listed" :key="entry.id">
        <td class="nowrap small">{{ day(entry) }}</td>
        <td class="small">{{ words(entry.fact) }}</td>
        <td class="small muted">{{ entry.note }}</td>
        <td class="r num small nowrap">
          <template v-if="differences.get(entry.id)"
            >{{ formatNumber(differences.get(entry.id)!.worst * 1000, 1) }} mm</template
          ><template v-else>–</template>
        </td>
        <td class="r">
          <span v-if="current.some((f) => JSON.stringify(f) === JSON.stringify(entry.fact))" class="muted small"
            >applied</span
          >
          <Button v-else size="small" variant="text" label="Apply" @click="apply(entry)" />
        </td>
      </tr>
    </tbody>
  </table>
  <Button
    v-if="entries.length > FEW && !isAll"
    size="small"
    variant="text"
    :label="`Show all ${entries.length}`"
    @click="isAll = true"
  />
</template>
