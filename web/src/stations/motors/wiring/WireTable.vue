<script setup lang="ts">
/** Joint, motor, board, pin, supply, wire colour: one row a motor. */
import { computed } from 'vue';
import { pinJobs, placeWire, roleJobs, roleNames, rolesOf, type WireRole } from '@cork-elbow/core/wiring';
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
/** Rows with their fields named above: the first one, and where a motor has other pins than the one before it. */
const shown = computed(() =>
  rows.value.map((row, k) => ({
    ...row,
    roles: rolesOf(row.drive.kind, row.wire),
    isNamed: k === 0 || ownPin(rows.value[k - 1].drive) !== ownPin(row.drive),
  })),
);
const ownPin = ({ kind }: Drive): string => (kind === 'stepper' ? 'step' : kind === 'dc-encoder' ? 'duty' : 'pin');
/** What the fields of further pins are called beside their drive's name. */
const fieldNames: Record<WireRole, string> = {
  direction: 'Direction pin',
  enable: 'Enable pin',
  firstTrack: 'Pin of the first track',
  secondTrack: 'Pin of the second track',
};

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
function setRole(drive: Drive, role: WireRole, value: unknown): void {
  onWire(drive, fieldNames[role], (wire) => {
    const pin = orNull(value);
    if (pin === null) delete wire[role];
    else wire[role] = Number(pin);
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
    <li v-for="{ drive, joint, wire, board, roles, isNamed } in shown" :key="drive.id" :data-drive="drive.id">
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
      <div class="cells compact" :class="{ more: roles.length, counted: roles.length > 2 }">
        <ChoiceField
          :label="isNamed ? 'board' : ''"
          :name="`Board of ${drive.name}`"
          :options="boards"
          :value="wire?.board ?? NONE"
          @change="setBoard(drive, $event)"
        />
        <ChoiceField
          :label="isNamed ? ownPin(drive) : ''"
          :name="`Pin of ${drive.name}`"
          :options="pinsFor(board, pinJobs[drive.kind].any, wire?.channel)"
          :value="wire ? String(wire.channel) : null"
          placeholder="–"
          @change="onWire(drive, 'Pin', (w) => (w.channel = Number($event)))"
        />
        <ChoiceField
          v-for="role in roles"
          :key="role"
          :label="isNamed ? roleNames[role] : ''"
          :name="`${fieldNames[role]} of ${drive.name}`"
          :options="pinsFor(board, roleJobs[role].any, wire?.[role], true)"
          :value="wire?.[role] === undefined ? NONE : String(wire[role])"
          @change="setRole(drive, role, $event)"
        />
        <ChoiceField
          :label="isNamed ? 'supply' : ''"
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
/* Three lines: duty, direction and enable, then the two tracks of its counter. */
.cells.counted > :nth-last-child(2),
.cells.counted > :nth-last-child(3) {
  grid-column: span 3;
}
.colour {
  width: 7rem;
}
</style>
