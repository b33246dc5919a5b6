<script setup lang="ts">
/** Motors: which motor moves which joint, through what, and what it is sent. */
import { useSessionStorage } from '@vueuse/core';
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import { calibrationOf } from '@cork-elbow/core/actuators';
import FindingRow from '../../shared/FindingRow.vue';
import JointMark from '../../shared/JointMark.vue';
import StationPage from '../../shared/StationPage.vue';
import StationParts from '../../shared/StationParts.vue';
import { useParts } from '../../shared/useParts';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import CalibratePart from './calibrate/CalibratePart.vue';
import ConvertPart from './ConvertPart.vue';
import HornPart from './HornPart.vue';
import MotorPart from './MotorPart.vue';
import PowerUpPart from './PowerUpPart.vue';
import TransmissionPart from './TransmissionPart.vue';
import { useMotor } from './useMotor';

/** Parts that are opened now and then come when they are. */
const LeaderPart = defineAsyncComponent(() => import('./LeaderPart.vue'));
const WiringPart = defineAsyncComponent(() => import('./wiring/WiringPart.vue'));
const HomingPart = defineAsyncComponent(() => import('./HomingPart.vue'));

const rigs = useRigStore();
const view = useViewStore();
const route = useRoute();
const { rows, row, nowOf } = useMotor();
watch(
  () => route.query.joint,
  (id) => typeof id === 'string' && (view.selected = id),
  { immediate: true },
);
const { parts: all, part: shown } = useParts('motors');
/** Parts that stand together have one button, which goes back to the one that was last on show. */
const levels = all
  .filter(({ group }, k) => !group || all.findIndex((p) => p.group === group) === k)
  .map(({ id, group, name }) => ({ id, name: group ?? name }));
const wiring = all.filter(({ group }) => group);
const isWiring = computed(() => wiring.some(({ id }) => id === shown.value));
const lastWiring = ref(isWiring.value ? shown.value : wiring[0].id);
watch(shown, (id) => isWiring.value && (lastWiring.value = id));
const level = computed({
  get: () => (isWiring.value ? wiring[0].id : shown.value),
  set: (id) => (shown.value = id === wiring[0].id ? lastWiring.value : id),
});
/** Where hands go to wires and power. */
const isTouching = computed(() => isWiring.value || shown.value === 'power-up');
/** Findings of the page on show; the wires' own page lists its own. */
const found = computed(() =>
  view.findings.filter((f) => !isWiring.value && shown.value !== 'joints' && f.place.part === shown.value),
);
type Part = 'motor' | 'tie' | 'points' | 'horn' | 'convert';
const parts: { id: Part; name: string }[] = [
  { id: 'motor', name: 'Motor' },
  { id: 'tie', name: 'Transmission' },
  { id: 'points', name: 'Calibrate' },
  { id: 'horn', name: 'Horn' },
  { id: 'convert', name: 'Convert' },
];
const part = useSessionStorage<Part>('cork-elbow:motor-part', 'motor');
/** How a servo's map was come by. */
function pointsOf(driveId: string): string {
  const count = (rigs.build && calibrationOf(rigs.build, driveId)?.points.length) ?? 0;
  return !count ? 'nominal' : count === 2 ? 'two points' : `${count} points`;
}
/** The pin's printed label. */
function pinOf({ wire }: (typeof rows.value)[number]): string {
  const board = rigs.rig!.boards.find((b) => b.id === wire?.board);
  return wire ? (board?.pins.find((p) => p.pin === wire.channel)?.label ?? `${wire.channel}?`) : '–';
}
const kinds = {
  servo: 'servo',
  'continuous-servo': 'speed only',
  'bus-servo': 'bus servo',
  stepper: 'stepper',
  'dc-encoder': 'counted motor',
} as const;
</script>

<template>
  <StationPage v-model="level" station="motors" :parts="levels">
    <p v-if="isTouching" class="caution">
      Unplug the motor supply before wiring. Motors get a supply of their own with a fuse, its ground joined to the
      board’s. Mind polarity; keep fingers out of linkages and the cut-off switch in reach.
    </p>
    <div v-if="found.length" class="found">
      <FindingRow
        v-for="(f, k) in found"
        :key="k"
        :finding="f"
        @go="(finding) => (view.selected = finding.place.joint ?? view.selected)"
      />
    </div>
    <WiringPart v-if="isWiring" v-model="shown" :parts="wiring" />
    <PowerUpPart v-else-if="shown === 'power-up'" />
    <HomingPart v-else-if="shown === 'homing'" />
    <LeaderPart v-else-if="shown === 'leader'" />
    <template v-else>
      <div class="list">
        <table class="plain motors">
          <thead>
            <tr>
              <th>joint</th>
              <th class="model">motor</th>
              <th>by</th>
              <th class="r">pin</th>
              <th class="r">now</th>
            </tr>
          </thead>
          <tbody v-rove="'.pick'">
            <tr
              v-for="r in rows"
              :key="r.info.id"
              :class="{ chosen: r.info.id === row?.info.id }"
              @click="view.selected = r.info.id"
            >
              <td>
                <button class="pick" :aria-pressed="r.info.id === row?.info.id">
                  <JointMark :index="r.info.slot" :size="22" /> {{ r.info.name }}
                </button>
              </td>
              <td class="model" :title="r.drive?.model">{{ r.drive?.model || r.drive?.name || '–' }}</td>
              <td class="nowrap" :class="{ muted: !r.drive }">
                {{ !r.drive ? 'no motor' : r.drive.kind === 'servo' ? pointsOf(r.drive.id) : kinds[r.drive.kind] }}
              </td>
              <td class="r num nowrap pin">{{ pinOf(r) }}</td>
              <td class="r num nowrap">{{ nowOf(r) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="!rows.length" class="muted">No joint moves yet; begin on the Measure page.</p>
      <template v-if="row">
        <StationParts v-model="part" within :parts label="Of this motor" />
        <div class="rule">
          <h2>{{ row.info.name }}{{ row.drive ? `: ${row.drive.name}` : '' }}</h2>
        </div>
        <MotorPart v-if="part === 'motor' || !row.drive" />
        <TransmissionPart v-else-if="part === 'tie'" :key="row.info.id" />
        <CalibratePart v-else-if="part === 'points'" />
        <HornPart v-else-if="part === 'horn'" :key="row.info.id" />
        <ConvertPart v-else />
      </template>
    </template>
  </StationPage>
</template>

<style scoped>
.found {
  display: grid;
  gap: 0.25rem;
  margin: 0.4rem 0;
}
.caution {
  background: var(--caution-wash);
  border-left: 4px solid var(--caution);
  padding: 0.35rem 0.6rem;
  border-radius: 3px;
  font-size: 0.86rem;
  margin-bottom: 0.5rem;
}
.list {
  margin-bottom: 0.6rem;
  max-height: 13.5rem;
  overflow: auto;
}
.motors tr {
  cursor: pointer;
}
.pin {
  font-size: 0.82rem;
}
.model {
  font-size: 0.86rem;
}
.motors th,
.motors td {
  padding: 0.16rem 0.25rem;
}
.model {
  max-width: 7.2rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.chosen {
  background: var(--pine-wash);
}
.pick {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  font-weight: 600;
  text-align: left;
}
/* In a narrow window the motor's own page names it; figures are never cut. */
@container station (max-width: 27rem) {
  .model {
    display: none;
  }
}
</style>
