<script setup lang="ts">
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import { calibrationOf, resolutionOf, servoLine, toWire, trimOf } from '@cork-elbow/core/drives';
import { freeId, type Drive, type Rig } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import { useSlots } from '../../shared/joints';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import StationHead from '../../shared/StationHead.vue';
import TextField from '../../shared/TextField.vue';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import type { Scope } from '../../stores/history';

const rigs = useRigStore();
const view = useViewStore();
const route = useRoute();
const slots = useSlots();
const problem = ref('');
watch(
  () => route.query.joint,
  (id) => typeof id === 'string' && (view.selected = id),
  { immediate: true },
);

const rows = computed(() =>
  slots.value.map((info) => {
    const transmission = rigs.rig!.transmissions.find((t) => t.joints[0] === info.id);
    const drive = transmission && rigs.rig!.drives.find((d) => d.id === transmission.drives[0]);
    const map = rigs.maps.find((m) => m.slot === info.slot);
    return {
      info,
      transmission,
      drive,
      map,
      wire: drive && rigs.rig!.wiring.find((w) => w.drive === drive.id),
      value: view.q[info.slot] / rigs.mechanism!.siPerUnit[info.slot],
    };
  }),
);
const row = computed(() => rows.value.find((r) => r.info.id === view.selected) ?? rows.value[0]);

function commit(label: string, recipe: (draft: Rig) => void, scope: Scope = 'design'): string | void {
  const result = rigs.commit(label, recipe, scope);
  if (!result.ok) return result.message;
}
const onDrive = (label: string, change: (drive: Drive) => void): string | void => {
  const id = row.value.drive!.id;
  return commit(`${label} of ${row.value.drive!.name}`, (draft) => change(draft.drives.find((d) => d.id === id)!));
};
const onBuild = (label: string, change: (build: Rig['builds'][number]) => void): string | void => {
  const id = rigs.build!.id;
  return commit(label, (draft) => change(draft.builds.find((b) => b.id === id)!), 'build');
};
function giveMotor(): void {
  const { info } = row.value;
  problem.value =
    commit(`Motor for ${info.name}`, (draft) => {
      const id = freeId(
        `m-${info.id}`,
        draft.drives.map((d) => d.id),
      );
      draft.drives.push({
        id,
        name: `${info.name} servo`,
        kind: 'servo',
        model: 'standard servo, 45 g',
        travelDeg: 180,
        centreUs: 1500,
        usPerDeg: 10,
        direction: 1,
        minUs: 500,
        maxUs: 2500,
        speedDegPerS: 300,
        stallNm: 0,
        deadBandUs: 5,
        updateHz: 50,
      });
      draft.transmissions.push({
        id: freeId(
          `t-${info.id}`,
          draft.transmissions.map((t) => t.id),
        ),
        kind: 'ratio',
        joints: [info.id],
        drives: [id],
        reduction: 1,
      });
      if (!draft.boards.length)
        draft.boards.push({ id: 'board', name: 'Servo board', kind: 'servo-board', channels: 16 });
      const taken = new Set(draft.wiring.map((w) => w.channel));
      const channel = Array.from({ length: draft.boards[0].channels }, (_, c) => c).find((c) => !taken.has(c));
      if (channel !== undefined)
        draft.wiring.push({
          id: freeId(
            `w-${info.id}`,
            draft.wiring.map((w) => w.id),
          ),
          drive: id,
          board: draft.boards[0].id,
          channel,
          note: '',
        });
    }) ?? '';
}
function setChannel(channel: number): string | void {
  const drive = row.value.drive!;
  return commit(`Channel of ${drive.name}`, (draft) => {
    const wire = draft.wiring.find((w) => w.drive === drive.id);
    if (wire) wire.channel = channel;
    else
      draft.wiring.push({
        id: freeId(
          `w-${drive.id}`,
          draft.wiring.map((w) => w.id),
        ),
        drive: drive.id,
        board: draft.boards[0].id,
        channel,
        note: '',
      });
  });
}

// Two points: what was measured on this build, or, while nothing was, where the nominal line stands.
const reduction = computed(() => row.value?.transmission?.reduction ?? 1);
const calibration = computed(() => (row.value?.drive ? calibrationOf(rigs.build!, row.value.drive.id) : undefined));
const points = computed(() => {
  const r = row.value;
  if (!r?.drive) return [];
  if (calibration.value)
    return calibration.value.points.slice(0, 2).map((p) => ({ at: p.at / reduction.value, us: p.us }));
  const line = servoLine(r.drive, rigs.build!);
  return [-45, 45].map((at) => ({ at: at / reduction.value, us: Math.round(line.atZeroUs + line.usPerDeg * at) }));
});
function setPoint(k: number, change: Partial<{ at: number; us: number }>): string | void {
  const drive = row.value.drive!;
  const next = points.value
    .map((p, i) => (i === k ? { ...p, ...change } : p))
    .map((p) => ({ at: p.at * reduction.value, us: p.us }));
  return onBuild(`Points of ${drive.name}`, (build) => {
    const kept = build.calibrations.find((c) => c.drive === drive.id);
    const takenOn = new Date().toISOString().slice(0, 10);
    if (kept) Object.assign(kept, { points: [...next, ...kept.points.slice(2)], takenOn });
    else build.calibrations.push({ drive: drive.id, points: next, takenOn });
  });
}
function forget(): void {
  const drive = row.value.drive!;
  problem.value =
    onBuild(
      `Forget the points of ${drive.name}`,
      (build) => void (build.calibrations = build.calibrations.filter((c) => c.drive !== drive.id)),
    ) ?? '';
}
const setTrim = (us: number): string | void =>
  onBuild(`Trim of ${row.value.drive!.name}`, (build) => void (build.trims[row.value.drive!.id] = us));
const resolution = computed(() =>
  row.value?.map ? resolutionOf(row.value.map, rigs.mechanism!.siPerUnit[row.value.info.slot]) : null,
);

// Graph of the line: joint range across, pulse range up.
const graph = computed(() => {
  const r = row.value;
  if (!r?.map || !r.drive) return null;
  const m = rigs.mechanism!;
  const unit = m.siPerUnit[r.info.slot];
  const [low, high] = [m.lower[r.info.slot], m.upper[r.info.slot]].map((v, i) =>
    Number.isFinite(v) ? v / unit : i ? 180 : -180,
  );
  const pad = (high - low) * 0.08;
  const [x0, x1] = [low - pad, high + pad];
  const [y0, y1] = [Math.min(r.drive.minUs, 500) - 100, Math.max(r.drive.maxUs, 2500) + 100];
  const px = (at: number): number => 46 + ((at - x0) / (x1 - x0)) * 260;
  const py = (us: number): number => 148 - ((us - y0) / (y1 - y0)) * 138;
  const us = (at: number): number => r.map!.offsetUs + r.map!.usPerSi * at * unit;
  return { px, py, low, high, us, minUs: r.drive.minUs, maxUs: r.drive.maxUs };
});
</script>

<template>
  <StationHead question="What turns an angle into a pulse?" />
  <p class="caution">
    Unplug the motor supply before wiring. Motors get a supply of their own with a fuse, its ground joined to the
    board’s. Mind polarity.
  </p>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <table class="plain motors">
    <thead>
      <tr>
        <th>joint</th>
        <th>motor</th>
        <th class="r">channel</th>
        <th class="r">now</th>
        <th>pulse from</th>
      </tr>
    </thead>
    <tbody>
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
        <td class="r num">{{ r.wire?.channel ?? '–' }}</td>
        <td class="r num nowrap">{{ r.map ? `${toWire(r.map, view.q[r.info.slot])} µs` : '–' }}</td>
        <td class="nowrap" :class="r.map?.calibrated ? 'good' : 'muted'">
          {{ !r.drive ? 'no motor' : r.map?.calibrated ? 'two points' : 'nominal figures' }}
        </td>
      </tr>
    </tbody>
  </table>
  <p v-if="!rows.length" class="muted">No joint moves yet; begin on the Measure page.</p>

  <template v-if="row">
    <div class="rule">
      <h2>{{ row.drive?.name ?? row.info.name }}</h2>
    </div>
    <div v-if="!row.drive" class="stack none">
      <p class="muted">{{ row.info.name }} has no motor.</p>
      <div><Button label="Give it a servo" @click="giveMotor" /></div>
    </div>
    <template v-else>
      <div class="two">
        <div class="stack tight">
          <span class="muted small"
            >Two points on <b>{{ rigs.build?.name }}</b>: send a pulse, measure the joint with a protractor{{
              calibration?.takenOn ? ` (last on ${calibration.takenOn})` : ''
            }}</span
          >
          <div v-for="(p, k) in points" :key="k" class="pair">
            <NumberField
              :prefix="`${k + 1}.`"
              :value="p.us"
              dimension="pulse"
              :decimals="0"
              :label="`Pulse of point ${k + 1}`"
              :min="1"
              :commit="(v: number) => setPoint(k, { us: v })"
            />
            <span aria-hidden="true">→</span>
            <NumberField
              :value="p.at"
              :dimension="row.info.unit === 'mm' ? 'length' : 'angle'"
              :decimals="1"
              :label="`Angle at point ${k + 1}`"
              :commit="(v: number) => setPoint(k, { at: v })"
            />
          </div>
          <div class="pair">
            <NumberField
              prefix="trim"
              :value="trimOf(rigs.build!, row.drive.id)"
              dimension="pulse"
              :decimals="0"
              label="Trim"
              :min="-500"
              :max="500"
              :commit="setTrim"
            />
            <span />
            <Button
              v-if="calibration"
              size="small"
              variant="text"
              severity="secondary"
              label="Forget points"
              @click="forget"
            />
          </div>
          <Button
            v-if="rigs.buildUndoLabel"
            size="small"
            variant="text"
            :label="`Take back: ${rigs.buildUndoLabel}`"
            @click="rigs.undo('build')"
          />
        </div>
        <svg
          v-if="graph"
          viewBox="0 0 316 176"
          class="drawing line"
          role="img"
          :aria-label="`Pulse over angle of ${row.info.name}`"
        >
          <rect
            :x="graph.px(graph.low)"
            y="10"
            :width="graph.px(graph.high) - graph.px(graph.low)"
            height="138"
            class="range"
          />
          <path class="grid axis" :d="`M46 ${graph.py(graph.minUs)}H306M46 ${graph.py(graph.maxUs)}H306`" />
          <text x="42" :y="graph.py(graph.minUs) + 4" text-anchor="end" class="grid-label">{{ graph.minUs }}</text>
          <text x="42" :y="graph.py(graph.maxUs) + 4" text-anchor="end" class="grid-label">{{ graph.maxUs }}</text>
          <text
            x="42"
            :y="(graph.py(graph.minUs) + graph.py(graph.maxUs)) / 2 + 4"
            text-anchor="end"
            class="grid-label"
          >
            µs
          </text>
          <path
            class="fit"
            :class="`j${(row.info.slot % 8) + 1}`"
            :d="`M${graph.px(graph.low)} ${graph.py(graph.us(graph.low))}L${graph.px(graph.high)} ${graph.py(graph.us(graph.high))}`"
          />
          <circle
            v-for="(p, k) in calibration ? points : []"
            :key="k"
            :cx="graph.px(p.at)"
            :cy="graph.py(p.us)"
            r="4.5"
            class="dot"
          />
          <circle :cx="graph.px(row.value)" :cy="graph.py(graph.us(row.value))" r="5" class="now" />
          <text :x="graph.px(graph.low)" y="163" text-anchor="middle" class="grid-label">
            {{ formatNumber(graph.low, 0) }}{{ row.info.unit }}
          </text>
          <text :x="graph.px(graph.high)" y="163" text-anchor="middle" class="grid-label">
            {{ formatNumber(graph.high, 0) }}{{ row.info.unit }}
          </text>
        </svg>
      </div>
      <div class="form">
        <label class="name"
          >Motor
          <TextField
            :value="row.drive.model"
            label="Kind of motor"
            placeholder="standard servo, 45 g"
            :commit="(v: string) => onDrive('Kind', (d) => (d.model = v))"
        /></label>
        <NumberField
          prefix="channel"
          :value="row.wire?.channel ?? 0"
          dimension="count"
          label="Channel"
          :min="0"
          :max="255"
          :commit="setChannel"
        />
        <NumberField
          prefix="shortest"
          :value="row.drive.minUs"
          dimension="pulse"
          :decimals="0"
          label="Shortest pulse"
          :min="1"
          :commit="(v: number) => onDrive('Shortest pulse', (d) => (d.minUs = v))"
        />
        <NumberField
          prefix="longest"
          :value="row.drive.maxUs"
          dimension="pulse"
          :decimals="0"
          label="Longest pulse"
          :min="1"
          :commit="(v: number) => onDrive('Longest pulse', (d) => (d.maxUs = v))"
        />
        <NumberField
          prefix="speed"
          :value="row.drive.speedDegPerS"
          dimension="angularSpeed"
          :decimals="0"
          label="No-load speed"
          :min="1"
          :commit="(v: number) => onDrive('Speed', (d) => (d.speedDegPerS = v))"
        />
        <NumberField
          prefix="reduction"
          :value="reduction"
          dimension="ratio"
          label="Reduction"
          :commit="
            (v: number) =>
              commit(
                'Reduction',
                (d) => void (d.transmissions.find((t) => t.id === row.transmission!.id)!.reduction = v),
              )
          "
        />
        <NumberField
          prefix="dead band"
          :value="row.drive.deadBandUs"
          dimension="pulse"
          :decimals="0"
          label="Dead band"
          :min="0"
          :commit="(v: number) => onDrive('Dead band', (d) => (d.deadBandUs = v))"
        />
        <NumberField
          prefix="every"
          :value="1000 / row.drive.updateHz / 1000"
          dimension="time"
          :decimals="3"
          label="Time between pulses"
          :min="0.001"
          :max="1"
          :step="0.001"
          :commit="(v: number) => onDrive('Pulse rate', (d) => (d.updateHz = 1 / v))"
        />
      </div>
      <p v-if="resolution && row.map" class="muted small">
        One µs turns {{ row.info.name }} by
        <b class="num">{{ formatNumber(resolution.perUs, 3) }}{{ row.info.unit }}</b
        >; a 12-bit driver at this rate steps by
        <b class="num">{{ formatNumber(resolution.perTick, 2) }}{{ row.info.unit }}</b
        >. Pulses sent: <b class="num">{{ row.map.lowUs }}</b> to <b class="num">{{ row.map.highUs }} µs</b>.
      </p>
    </template>
  </template>
</template>

<style scoped>
.caution {
  background: var(--caution-wash);
  border-left: 4px solid var(--caution);
  padding: 0.35rem 0.6rem;
  border-radius: 3px;
  font-size: 0.86rem;
  margin-bottom: 0.5rem;
}
.problem {
  color: var(--alarm);
}
.motors tr {
  cursor: pointer;
}
.nowrap {
  white-space: nowrap;
}
.model {
  max-width: 8.6rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.line .grid-label {
  font-size: 15px;
}
.chosen {
  background: var(--pine-wash);
}
.good {
  color: var(--good);
}
.pick {
  display: inline-flex;
  align-items: center;
  gap: 0.4rem;
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  font-weight: 600;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 205px;
  gap: 0.8rem;
  margin: 0.5rem 0;
  align-items: center;
}
.tight {
  gap: 0.4rem;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1.2rem 1fr;
  align-items: center;
  gap: 0.2rem;
  text-align: center;
}
.line {
  height: auto;
}
.range {
  fill: var(--reach);
}
.fit {
  stroke: var(--jc);
  stroke-width: 2.5;
  fill: none;
}
.dot {
  fill: var(--paper);
  stroke: var(--ink);
  stroke-width: 2;
}
.now {
  fill: var(--cork);
}
.form {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0.4rem 0.5rem;
  margin: 0.4rem 0;
  align-items: end;
}
.form label {
  display: grid;
  gap: 0.1rem;
  font-size: 0.82rem;
  color: var(--ink-2);
}
.name {
  grid-column: span 2;
}
.none {
  padding: 0.8rem 0;
}
</style>
