<script setup lang="ts">
/** The motor itself: its class from the catalogue, and every figure of it to edit. */
import Button from 'primevue/button';
import Checkbox from 'primevue/checkbox';
import { computed, ref, shallowRef, watch } from 'vue';
import { driveSpeed, firstOfKind, motorName, stepsPerDeg, withFigures } from '@cork-elbow/core/actuators';
import { pinJobs, placeWire } from '@cork-elbow/core/wiring';
import { freeId, jointName, removeDrives, type Drive, type DriveFigures } from '@cork-elbow/core/rig';
import { formatNumber, type Dimension } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import TermHint from '../../shared/TermHint.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useRigStore } from '../../stores/rig';
import OwnMotors from './OwnMotors.vue';
import TorqueSpeed from './TorqueSpeed.vue';
import { useCatalogue } from '../../shared/useCatalogue';
import { useMotor } from './useMotor';

const { row, commit, onDrive } = useMotor();
const { entries, find } = useCatalogue();
const problem = ref('');
const drive = computed(() => row.value?.drive);

const kinds: { value: Drive['kind']; label: string }[] = [
  { value: 'servo', label: 'servo' },
  { value: 'continuous-servo', label: 'continuous servo' },
  { value: 'bus-servo', label: 'bus servo' },
  { value: 'stepper', label: 'stepper' },
  { value: 'dc-encoder', label: 'motor with encoder' },
];
const classes = computed(() =>
  entries.value
    .filter((entry) => !drive.value || entry.figures.kind === drive.value.kind)
    .map((entry) => ({ value: entry.id, label: entry.words })),
);

const rigs = useRigStore();
/** Figures of another kind of motor, to which points that were measured mean nothing: asked before they go. */
const asked = shallowRef<DriveFigures | null>(null);
const measured = computed(
  () => rigs.rig?.builds.flatMap((b) => b.calibrations).filter((c) => c.drive === drive.value?.id).length ?? 0,
);
watch(
  () => drive.value?.id,
  () => (asked.value = null),
);
function choose(figures: DriveFigures): void {
  if (measured.value && figures.kind !== drive.value!.kind) asked.value = figures;
  else become(figures);
}
/** The same motor in the rig with other figures; what was measured stays with a motor of the same kind. */
function become(figures: DriveFigures): void {
  asked.value = null;
  const { id, kind } = drive.value!;
  problem.value =
    commit(`Motor of ${row.value!.info.name}`, (draft) => {
      const k = draft.drives.findIndex((d) => d.id === id);
      draft.drives[k] = withFigures(draft.drives[k], figures);
      // A pin that did for the kind before may not do for this one; points of another kind mean nothing to it.
      if (pinJobs[drive.value!.kind].any[0] !== pinJobs[figures.kind].any[0]) {
        draft.wiring = draft.wiring.filter((w) => w.drive !== id);
        placeWire(draft, draft.drives[k]);
      }
      if (figures.kind === kind) return;
      for (const build of draft.builds) build.calibrations = build.calibrations.filter((c) => c.drive !== id);
    }) ?? '';
}
function giveMotor(kind: Drive['kind']): void {
  const { info } = row.value!;
  problem.value =
    commit(`Motor for ${info.name}`, (draft) => {
      const id = freeId(
        `m-${info.id}`,
        draft.drives.map((d) => d.id),
      );
      draft.drives.push({
        ...firstOfKind(kind),
        id,
        name: motorName(info.name, kind),
      } as Drive);
      draft.transmissions.push({
        id: freeId(
          `t-${info.id}`,
          draft.transmissions.map((t) => t.id),
        ),
        kind: 'ratio',
        joints: [info.id],
        drives: [id],
        // A slide moves 8 mm a turn to begin with.
        reduction: info.unit === 'mm' ? 45 : 1,
      });
      placeWire(draft, draft.drives.at(-1)!);
    }) ?? '';
}
function removeMotor(): void {
  const tie = row.value!.transmission!;
  problem.value =
    commit(`Delete the motor of ${row.value!.info.name}`, (draft) => {
      removeDrives(draft, tie.drives);
    }) ?? '';
}
interface Field {
  readonly key: string;
  readonly label: string;
  readonly prefix: string;
  readonly dimension: Dimension;
  readonly decimals?: number;
  readonly min?: number;
}
const f = (key: string, label: string, prefix: string, dimension: Dimension, decimals = 0, min = 0): Field => ({
  key,
  label,
  prefix,
  dimension,
  decimals,
  min,
});
/** Speeds in which the motor rattles; an upper end of 0 means none. */
function setRattle(end: 'fromDegPerS' | 'toDegPerS', value: number): string | void {
  return onDrive('Rattling', (d) => {
    const band = { fromDegPerS: 0, toDegPerS: 0, ...d.rattles?.[0], [end]: value };
    if (end === 'fromDegPerS' && band.toDegPerS <= value) band.toDegPerS = value + 10;
    if (band.toDegPerS > band.fromDegPerS) d.rattles = [band];
    else delete d.rattles;
  });
}

const pulse = [
  f('minUs', 'Shortest pulse', 'shortest', 'pulse', 0, 1),
  f('maxUs', 'Longest pulse', 'longest', 'pulse', 0, 1),
];
const own: Record<Drive['kind'], readonly Field[]> = {
  servo: [
    f('travelDeg', 'Travel', 'travel', 'angle', 0, 1),
    f('centreUs', 'Centre pulse', 'centre', 'pulse', 0, 1),
    f('usPerDeg', 'Pulse per degree', 'per °', 'pulsePerDegree', 2, 0.01),
    ...pulse,
    f('deadBandUs', 'Dead band', 'dead band', 'pulse'),
    f('speedDegPerS', 'No-load speed', 'speed', 'angularSpeed', 0, 1),
    f('updateHz', 'Pulses a second', 'pulses/s', 'count', 0, 1),
  ],
  'continuous-servo': [
    f('stopUs', 'Stop pulse', 'stop', 'pulse', 0, 1),
    f('fullUs', 'Pulse offset of full speed', 'full at ±', 'pulse', 0, 1),
    ...pulse,
    f('deadBandUs', 'Dead band', 'dead band', 'pulse'),
    f('speedDegPerS', 'Full speed', 'speed', 'angularSpeed', 0, 1),
    f('updateHz', 'Pulses a second', 'pulses/s', 'count', 0, 1),
  ],
  'bus-servo': [
    f('countsPerTurn', 'Counts per turn', 'counts/turn', 'count', 0, 1),
    f('centreCount', 'Centre count', 'centre', 'count', 0, -1e6),
    f('minCount', 'Lowest count', 'lowest', 'count', 0, -1e6),
    f('maxCount', 'Highest count', 'highest', 'count', 0, -1e6),
    f('address', 'Bus address', 'address', 'address'),
    f('deadBandCounts', 'Dead band', 'dead band', 'count'),
    f('speedDegPerS', 'No-load speed', 'speed', 'angularSpeed', 0, 1),
    f('updateHz', 'Commands a second', 'frames/s', 'count', 0, 1),
  ],
  stepper: [
    f('stepsPerTurn', 'Steps per turn', 'steps/turn', 'count', 0, 1),
    f('microsteps', 'Microsteps', 'microsteps', 'count', 0, 1),
    f('maxStepHz', 'Highest step rate', 'at most /s', 'count', 0, 1),
    f('startStepHz', 'Start step rate', 'starts /s', 'count', 0, 1),
  ],
  'dc-encoder': [
    f('countsPerTurn', 'Counts per turn', 'counts/turn', 'count', 0, 1),
    f('speedDegPerS', 'No-load speed', 'speed', 'angularSpeed', 0, 1),
  ],
};
const common: readonly Field[] = [
  f('stallNm', 'Stall torque', 'stall', 'torque', 2),
  f('holdNm', 'Holding torque', 'hold', 'torque', 2),
  f('voltageV', 'Voltage', 'volts', 'ratio', 1, 0.1),
  f('idleA', 'Idle current', 'idle A', 'ratio', 3),
  f('movingA', 'Moving current', 'moving A', 'ratio', 2),
  f('stallA', 'Stall current', 'stall A', 'ratio', 2),
  f('massG', 'Mass', 'mass', 'mass', 0),
  f('splineTeeth', 'Spline teeth', 'teeth', 'count', 0, 3),
  f('thermalC', 'Temperature it stands', 'up to °C', 'count', 0, 1),
  f('price', 'Price', 'price', 'ratio', 2),
];
const figure = (key: string): number | undefined =>
  (drive.value as unknown as Record<string, number | undefined>)[key];
const setFigure = (field: Field, v: number): string | void =>
  onDrive(
    field.label,
    (d) => void Object.assign(d, { [field.key]: field.dimension === 'count' ? Math.round(v) : v }),
  );

/** Where its mass counts: in the masses of the links, unless it says where it sits. */
const IN_LINKS = '';
const ON_BASE = '#base';
const seats = computed(() => [
  { value: IN_LINKS, label: 'in the masses of the links already' },
  { value: ON_BASE, label: 'on the base' },
  ...(rigs.rig?.mechanism.joints ?? []).map((joint) => ({ value: joint.id, label: `on ${jointName(joint)}` })),
]);
const seatOf = computed(() => (drive.value?.seat ? (drive.value.seat.joint ?? ON_BASE) : IN_LINKS));
function setSeat(on: string): void {
  onDrive('Seat', (d) => {
    if (on === IN_LINKS) delete d.seat;
    else d.seat = { joint: on === ON_BASE ? null : on, xyzMm: d.seat?.xyzMm ?? [0, 0, 0] };
  });
}

/** Speed and fineness of the shaft in words. */
const says = computed(() => {
  const d = drive.value;
  if (!d) return '';
  const speed = `top speed ${formatNumber(driveSpeed(d), 0)}°/s`;
  if (d.kind === 'stepper') return `${formatNumber(stepsPerDeg(d), 3)} microsteps per degree of the shaft, ${speed}.`;
  if (d.kind === 'bus-servo' || d.kind === 'dc-encoder')
    return `${formatNumber(d.countsPerTurn / 360, 2)} counts per degree of the shaft, ${speed}.`;
  if (d.kind === 'continuous-servo')
    return d.feedback
      ? `Runs at the speed a pulse asks for; its own sensor says where it is. ${speed}.`
      : `Can only be told how fast to turn: Reach and routines cannot send it to an angle. ${speed}.`;
  return `One µs turns the shaft by ${formatNumber(1 / d.usPerDeg, 3)}°, ${speed}.`;
});
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <div v-if="!drive" class="stack none">
    <p class="muted">{{ row!.info.name }} has no motor.</p>
    <div class="row wrap">
      <Button label="Give it a servo" @click="giveMotor('servo')" />
      <Button label="A stepper" severity="secondary" @click="giveMotor('stepper')" />
      <Button label="A bus servo" severity="secondary" @click="giveMotor('bus-servo')" />
      <Button label="A motor with encoder" severity="secondary" @click="giveMotor('dc-encoder')" />
    </div>
  </div>
  <template v-else>
    <div class="form">
      <ChoiceField
        label="kind"
        name="Kind of drive"
        :options="kinds"
        :value="drive.kind"
        @change="choose(firstOfKind($event as Drive['kind']))"
      />
      <ChoiceField
        label="figures of a size class"
        name="Size class"
        placeholder="choose"
        :options="classes"
        :value="null"
        @change="choose(find(String($event))!.figures)"
      />
      <label
        >called
        <TextField
          :value="drive.model"
          label="Kind of motor"
          placeholder="standard servo, 45 g"
          :commit="(v: string) => onDrive('Kind', (d) => (d.model = v))"
      /></label>
    </div>
    <div v-if="asked" class="card" role="alert" data-asks="points">
      <p>
        Points were measured with this motor. Another kind of motor is not told by pulses like these: they would be
        forgotten{{ measured > 1 ? `, on ${measured} builds` : '' }}.
      </p>
      <div class="row">
        <Button size="small" severity="danger" label="Change it and forget them" @click="become(asked)" />
        <Button size="small" severity="secondary" label="Leave it as it is" @click="asked = null" />
      </div>
    </div>
    <p v-else-if="measured" class="muted small">
      Its measured points stay when other figures of this kind are chosen; measure again if another motor was put in.
    </p>
    <p class="muted small">{{ says }}</p>
    <div class="form">
      <NumberField
        v-for="field in own[drive.kind]"
        :key="field.key"
        :prefix="field.prefix"
        :value="figure(field.key) ?? 0"
        :unset="figure(field.key) === undefined ? 'unknown' : null"
        :dimension="field.dimension"
        :decimals="field.decimals"
        :label="field.label"
        :min="field.min"
        :commit="(v: number) => setFigure(field, v)"
      />
      <ChoiceField
        label=""
        name="Sense of turning"
        :options="[
          { value: 1, label: 'same sense' },
          { value: -1, label: 'other sense' },
        ]"
        :value="drive.direction"
        @change="onDrive('Sense', (d) => (d.direction = $event as 1 | -1))"
      />
      <TermHint v-if="own[drive.kind].some((field) => field.prefix === 'dead band')" class="group" term="deadBand" />
    </div>
    <label v-if="drive.kind === 'continuous-servo'" class="row small"
      ><Checkbox
        :model-value="drive.feedback"
        binary
        input-id="feedback"
        @update:model-value="onDrive('Feedback', (d) => void Object.assign(d, { feedback: $event }))"
      />
      a sensor on the shaft tells where it is</label
    >
    <details>
      <summary>Torque, current, mass and the rest</summary>
      <div class="form">
        <NumberField
          v-for="field in common"
          :key="field.key"
          :prefix="field.prefix"
          :value="figure(field.key) ?? 0"
          :unset="figure(field.key) === undefined ? 'unknown' : null"
          :dimension="field.dimension"
          :decimals="field.decimals"
          :label="field.label"
          :min="field.min"
          :commit="(v: number) => setFigure(field, v)"
        />
      </div>
      <div class="form">
        <NumberField
          v-for="(end, k) in ['fromDegPerS', 'toDegPerS'] as const"
          :key="end"
          :prefix="k ? 'to' : 'rattles from'"
          :value="drive.rattles?.[0]?.[end] ?? 0"
          dimension="angularSpeed"
          :label="k ? 'Rattles up to, 0 for nowhere' : 'Rattles from'"
          :min="0"
          :commit="(v: number) => setRattle(end, v)"
        />
      </div>
      <div class="form">
        <ChoiceField
          label="where it sits"
          name="Link that the motor sits on"
          :options="seats"
          :value="seatOf"
          @change="setSeat($event as string)"
        />
        <template v-if="drive.seat">
          <span class="group">its middle there</span>
          <TripleField
            :value="drive.seat.xyzMm"
            label="Middle of the motor"
            :commit="(k: number, v: number) => onDrive('Seat', (d) => void (d.seat!.xyzMm[k] = v))"
          />
        </template>
      </div>
      <TorqueSpeed :drive :commit="(points) => onDrive('Torque at speed', (d) => void (d.torqueAtSpeed = points))" />
    </details>
    <OwnMotors :drive />
    <div class="row foot">
      <Button size="small" variant="text" severity="danger" label="Delete this motor" @click="removeMotor" />
    </div>
  </template>
</template>

<style scoped>
.none {
  padding: 0.8rem 0;
}
.foot {
  margin-top: 0.5rem;
}
</style>
