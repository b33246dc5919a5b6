<script setup lang="ts">
/** Joint, motor, board, pin, supply, wire colour: one row a motor. */
import { computed } from 'vue';
import { pinJobs, placeWire } from '@cork-elbow/core/wiring';
import type { Drive, Wire } from '@cork-elbow/core/rig';
import Button from 'primevue/button';
import ChoiceField from '../../../shared/ChoiceField.vue';
import JointMark from '../../../shared/JointMark.vue';
import { useSlots } from '../../../shared/joints';
import TextField from '../../../shared/TextField.vue';
import { NONE, orNull, useWiring } from './useWiring';

const { rig, change, boards, rails, boardOf, pinsFor } = useWiring();
const slots = useSlots();
const rows = computed(() =>
  rig.value.transmissions.flatMap((t) =>
    t.drives.flatMap((id, k) => {
      const drive = rig.value.drives.find((d) => d.id === id);
      const joint = slots.value.find((s) => s.id === (t.joints[k] ?? t.joints[0]));
      if (!drive) return [];
      const wire = rig.value.wiring.find((w) => w.drive === id);
      return [{ drive, joint, wire, board: boardOf(wire?.board ?? null) }];
    }),
  ),
);
const hasLevels = (drive: Drive): boolean => drive.kind === 'stepper' || drive.kind === 'dc-encoder';

const onWire = (drive: Drive, label: string, edit: (wire: Wire) => void): string | void =>
  change(`${label} of ${drive.name}`, (draft) => edit(draft.wiring.find((w) => w.drive === drive.id)!));
function setBoard(drive: Drive, value: unknown): void {
  const id = orNull(value);
  change(`Board of ${drive.name}`, (draft) => {
    const before = draft.wiring.find((w) => w.drive === drive.id);
    draft.wiring = draft.wiring.filter((w) => w.drive !== drive.id);
    if (id === null) return;
    // A free pin of that board first; where it has none the first that fits.
    const board = draft.boards.find((b) => b.id === id)!;
    placeWire(draft, drive, before?.rail ?? null, [board]);
    if (!draft.wiring.some((w) => w.drive === drive.id)) {
      draft.wiring.push({
        id: before?.id ?? `w-${drive.id}`,
        drive: drive.id,
        board: id,
        channel: board.pins[0].pin,
        rail: before?.rail ?? null,
        colour: '',
        note: '',
      });
    }
    Object.assign(draft.wiring.at(-1)!, { colour: before?.colour ?? '', note: before?.note ?? '' });
  });
}
function setLevel(drive: Drive, key: 'direction' | 'enable', value: unknown): void {
  onWire(drive, key === 'direction' ? 'Direction pin' : 'Enable pin', (wire) => {
    const pin = orNull(value);
    if (pin === null) delete wire[key];
    else wire[key] = Number(pin);
  });
}
const wireAll = (): void =>
  void change('Wire the rest', (draft) => {
    for (const drive of draft.drives) if (!draft.wiring.some((w) => w.drive === drive.id)) placeWire(draft, drive);
  });
</script>

<template>
  <p v-if="!rows.length" class="muted small">
    No motors yet. Give the joints their motors under “Joint by joint”; each then gets a row here.
  </p>
  <ul v-else class="wires" aria-label="Wires">
    <li v-for="({ drive, joint, wire, board }, k) in rows" :key="drive.id" :data-drive="drive.id">
      <div class="row">
        <JointMark v-if="joint" :index="joint.slot" :size="20" />
        <b>{{ joint?.name ?? 'no joint' }}</b>
        <span class="muted small grow">{{ drive.model || drive.name }}</span>
        <TextField
          class="colour"
          :value="wire?.colour ?? ''"
          :label="`Wire colour of ${drive.name}`"
          placeholder="wire colour"
          :commit="
            (v: string) => (wire ? onWire(drive, 'Wire colour', (w) => (w.colour = v)) : 'Choose a board first.')
          "
        />
      </div>
      <div class="cells compact" :class="{ more: hasLevels(drive) }">
        <ChoiceField
          :label="k ? '' : 'board'"
          :name="`Board of ${drive.name}`"
          :options="boards"
          :value="wire?.board ?? NONE"
          @change="setBoard(drive, $event)"
        />
        <ChoiceField
          :label="k ? '' : hasLevels(drive) ? (drive.kind === 'stepper' ? 'step' : 'duty') : 'pin'"
          :name="`Pin of ${drive.name}`"
          :options="pinsFor(board, pinJobs[drive.kind].any, wire?.channel)"
          :value="wire ? String(wire.channel) : null"
          placeholder="–"
          @change="onWire(drive, 'Pin', (w) => (w.channel = Number($event)))"
        />
        <template v-if="hasLevels(drive)">
          <ChoiceField
            :label="k ? '' : 'direction'"
            :name="`Direction pin of ${drive.name}`"
            :options="pinsFor(board, ['output'], wire?.direction, true)"
            :value="wire?.direction === undefined ? NONE : String(wire.direction)"
            @change="setLevel(drive, 'direction', $event)"
          />
          <ChoiceField
            :label="k ? '' : 'enable'"
            :name="`Enable pin of ${drive.name}`"
            :options="pinsFor(board, ['output'], wire?.enable, true)"
            :value="wire?.enable === undefined ? NONE : String(wire.enable)"
            @change="setLevel(drive, 'enable', $event)"
          />
        </template>
        <ChoiceField
          :label="k ? '' : 'supply'"
          :name="`Supply of ${drive.name}`"
          :options="rails"
          :value="wire?.rail ?? NONE"
          @change="onWire(drive, 'Supply', (w) => (w.rail = orNull($event)))"
        />
      </div>
    </li>
  </ul>
  <Button
    v-if="rows.some((r) => !r.wire)"
    size="small"
    severity="secondary"
    label="Wire the rest to free pins"
    @click="wireAll"
  />
</template>

<style scoped>
.wires {
  list-style: none;
  margin: 0;
  padding: 0;
}
.wires li {
  border-bottom: 1px solid var(--lines);
  padding: 0.4rem 0 0.5rem;
}
.cells {
  display: grid;
  grid-template-columns: 1.5fr 1.3fr 1.5fr;
  gap: 0.4rem;
  margin-top: 0.25rem;
}
/* Two lines where there are three pins: board and supply, then step, direction, enable. */
.cells.more {
  grid-template-columns: repeat(6, 1fr);
}
.cells.more > * {
  grid-column: span 2;
}
.cells.more > :first-child,
.cells.more > :last-child {
  grid-column: span 3;
  grid-row: 1;
}
.colour {
  width: 7rem;
}
</style>
