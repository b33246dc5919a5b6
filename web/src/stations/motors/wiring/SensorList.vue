<script setup lang="ts">
/** What reads angles: encoders, potentiometers, and the potentiometer inside a servo. */
import Button from 'primevue/button';
import Checkbox from 'primevue/checkbox';
import { computed } from 'vue';
import { bestPin, sensorJobs } from '@cork-elbow/core/wiring';
import { takeOut, type Sensor } from '@cork-elbow/core/rig';
import ChoiceField from '../../../shared/ChoiceField.vue';
import { useSlots } from '../../../shared/joints';
import NumberField from '../../../shared/NumberField.vue';
import TextField from '../../../shared/TextField.vue';
import { NONE, orNull, useWiring } from './useWiring';

const { rig, change, newId, boards, boardOf, pinsFor } = useWiring();
const slots = useSlots();
const joints = computed(() => [
  { value: NONE, label: 'a guide or knob' },
  ...slots.value.map((s) => ({ value: s.id, label: s.name })),
]);
const onSensor = (sensor: Sensor, label: string, edit: (sensor: Sensor) => void): string | void =>
  change(`${label} of ${sensor.name}`, (draft) => edit(draft.sensors.find((s) => s.id === sensor.id)!));
const beginnings: Record<
  Sensor['kind'],
  { name: string; countsPerTurn: number; wraps: boolean; address: number | null }
> = {
  encoder: { name: 'Encoder', countsPerTurn: 4096, wraps: true, address: 54 },
  // 1024 readings over 270°, and over a servo's 180°.
  potentiometer: { name: 'Potentiometer', countsPerTurn: 1365, wraps: false, address: null },
  'servo-potentiometer': { name: 'Servo’s own potentiometer', countsPerTurn: 2048, wraps: false, address: null },
};
function add(kind: unknown): void {
  change('Another sensor', (draft) => {
    draft.sensors.push({
      ...beginnings[kind as Sensor['kind']],
      id: newId('sensor', draft.sensors),
      kind: kind as Sensor['kind'],
      joint: null,
      side: 'joint',
      board: null,
      channel: null,
      port: null,
      note: '',
    });
  });
}
function remove(sensor: Sensor): void {
  change(`Delete ${sensor.name}`, (draft) => takeOut(draft, 'sensor', sensor.id));
}
function setBoard(sensor: Sensor, value: unknown): void {
  change(`Board of ${sensor.name}`, (draft) => {
    const own = draft.sensors.find((s) => s.id === sensor.id)!;
    const board = draft.boards.find((b) => b.id === orNull(value));
    own.board = own.channel = null;
    if (!board) return;
    const pin = bestPin(draft, board, sensorJobs(own), own.address !== null);
    Object.assign(own, { board: board.id, channel: pin?.pin ?? null });
  });
}
const kinds: { value: Sensor['kind']; label: string }[] = [
  { value: 'encoder', label: 'encoder' },
  { value: 'potentiometer', label: 'potentiometer' },
  { value: 'servo-potentiometer', label: 'servo’s own potentiometer' },
];
</script>

<template>
  <p v-if="!rig.sensors.length" class="muted small">
    No sensors yet. Add an encoder, a potentiometer, or the wire to the potentiometer inside a servo; a guide is read
    by one.
  </p>
  <section v-for="sensor in rig.sensors" :key="sensor.id" class="sensor" :aria-label="sensor.name">
    <div class="row">
      <TextField
        class="grow"
        :value="sensor.name"
        label="Name of the sensor"
        :commit="(v: string) => onSensor(sensor, 'Name', (s) => (s.name = v))"
      />
      <span class="muted small">{{ kinds.find((k) => k.value === sensor.kind)!.label }}</span>
      <Button
        size="small"
        variant="text"
        severity="danger"
        label="×"
        :aria-label="`Delete ${sensor.name}`"
        @click="remove(sensor)"
      />
    </div>
    <div class="cells compact">
      <ChoiceField
        label="reads"
        :name="`Joint of ${sensor.name}`"
        :options="joints"
        :value="sensor.joint ?? NONE"
        @change="onSensor(sensor, 'Joint', (s) => (s.joint = orNull($event)))"
      />
      <ChoiceField
        label="board"
        :name="`Board of ${sensor.name}`"
        :options="boards"
        :value="sensor.board ?? NONE"
        @change="setBoard(sensor, $event)"
      />
      <ChoiceField
        label="pin"
        :name="`Pin of ${sensor.name}`"
        :options="pinsFor(boardOf(sensor.board), sensorJobs(sensor), sensor.channel)"
        :value="sensor.channel === null ? null : String(sensor.channel)"
        placeholder="–"
        @change="onSensor(sensor, 'Pin', (s) => (s.channel = Number($event)))"
      />
      <NumberField
        prefix="counts/turn"
        :value="sensor.countsPerTurn"
        dimension="count"
        :label="`Counts per turn of ${sensor.name}`"
        :min="1"
        :commit="(v: number) => onSensor(sensor, 'Counts', (s) => (s.countsPerTurn = v))"
      />
      <NumberField
        v-if="sensor.address !== null"
        prefix="address"
        :value="sensor.address"
        dimension="address"
        :label="`Address of ${sensor.name}`"
        :min="0"
        :max="127"
        :commit="(v: number) => onSensor(sensor, 'Address', (s) => (s.address = Math.round(v)))"
      />
      <ChoiceField
        v-if="sensor.address !== null"
        label=""
        :name="`Multiplexer port of ${sensor.name}`"
        :options="[
          { value: NONE, label: 'on the bus itself' },
          ...Array.from({ length: 8 }, (_, k) => ({ value: String(k), label: `multiplexer port ${k}` })),
        ]"
        :value="sensor.port === null ? NONE : String(sensor.port)"
        @change="onSensor(sensor, 'Port', (s) => (s.port = $event === NONE ? null : Number($event)))"
      />
    </div>
    <div class="row small wrap">
      <label class="row"
        ><Checkbox
          :model-value="sensor.wraps"
          binary
          @update:model-value="onSensor(sensor, 'Wrap', (s) => (s.wraps = Boolean($event)))"
        />
        begins again after a turn</label
      >
      <label class="row"
        ><Checkbox
          :model-value="sensor.side === 'motor'"
          binary
          @update:model-value="onSensor(sensor, 'Side', (s) => (s.side = $event ? 'motor' : 'joint'))"
        />
        sits on the motor’s shaft</label
      >
      <label class="row"
        ><Checkbox
          :model-value="sensor.address !== null"
          binary
          @update:model-value="
            onSensor(sensor, 'Bus', (s) => ((s.address = $event ? 54 : null), (s.channel = null), (s.port = null)))
          "
        />
        on the two-wire bus</label
      >
    </div>
  </section>
  <div class="row">
    <ChoiceField
      class="add"
      label=""
      name="Add a sensor"
      placeholder="add a sensor"
      :options="kinds"
      :value="null"
      @change="add"
    />
  </div>
</template>

<style scoped>
.sensor {
  border-bottom: 1px solid var(--lines);
  padding: 0.4rem 0;
  margin-bottom: 0.3rem;
}
.cells {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0.4rem;
  margin: 0.25rem 0;
  align-items: end;
}
.add {
  width: 14rem;
}
label.row {
  gap: 0.3rem;
}
</style>
