<script setup lang="ts">
/** The supplies that motors hang on. */
import Button from 'primevue/button';
import Checkbox from 'primevue/checkbox';
import { computed } from 'vue';
import { planPowerUp } from '@cork-elbow/core/bring-up';
import { takeOut, type Rail } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../../shared/ChoiceField.vue';
import NumberField from '../../../shared/NumberField.vue';
import TextField from '../../../shared/TextField.vue';
import { NONE, orNull, useWiring } from './useWiring';

const { rigs, rig, change, newId } = useWiring();
const onRail = (rail: Rail, label: string, edit: (rail: Rail) => void): string | void =>
  change(`${label} of ${rail.name}`, (draft) => edit(draft.rails.find((r) => r.id === rail.id)!));
const add = (): void =>
  void change('Another supply', (draft) => {
    draft.rails.push({
      id: newId('supply', draft.rails),
      name: 'Motor supply',
      volts: draft.drives[0]?.voltageV ?? 6,
      source: 'supply',
      board: null,
      amps: 5,
      fuseA: 5,
      groundJoined: true,
    });
    // The first supply feeds everything until it is said otherwise.
    if (draft.rails.length === 1) for (const wire of draft.wiring) wire.rail ??= draft.rails[0].id;
  });
const remove = (rail: Rail): void => void change(`Delete ${rail.name}`, (draft) => takeOut(draft, 'rail', rail.id));
const draws = computed(() => {
  const { mechanism, build } = rigs;
  return new Map(mechanism && build ? planPowerUp(rig.value, mechanism, build).rails.map((r) => [r.railId, r]) : []);
});
const count = (rail: Rail): number => rig.value.wiring.filter((w) => w.rail === rail.id).length;
</script>

<template>
  <p class="muted small">
    Motors get a supply of their own with a fuse, its ground joined to the boards’. A battery is charged out of the
    arm and watched, never left to charge alone; cut it off when the bench is left. Mains wiring is for a qualified
    electrician under local rules.
  </p>
  <section v-for="rail in rig.rails" :key="rail.id" class="rail" :aria-label="rail.name">
    <div class="form">
      <label
        >called
        <TextField
          :value="rail.name"
          label="Name of the supply"
          :commit="(v: string) => onRail(rail, 'Name', (r) => (r.name = v))"
      /></label>
      <ChoiceField
        label="fed by"
        :name="`Source of ${rail.name}`"
        :options="[
          { value: 'supply', label: 'a mains supply unit' },
          { value: 'battery', label: 'a battery' },
          { value: 'board', label: 'a board’s regulator' },
        ]"
        :value="rail.source"
        @change="
          onRail(rail, 'Source', (r) => {
            r.source = $event as Rail['source'];
            r.board = $event === 'board' ? (rig.boards[0]?.id ?? null) : null;
          })
        "
      />
      <ChoiceField
        v-if="rail.source === 'board'"
        label="of"
        :name="`Board that feeds ${rail.name}`"
        :options="rig.boards.map((b) => ({ value: b.id, label: b.name }))"
        :value="rail.board ?? NONE"
        @change="onRail(rail, 'Board', (r) => (r.board = orNull($event)))"
      />
      <NumberField
        prefix="volts"
        :value="rail.volts"
        dimension="ratio"
        :decimals="1"
        label="Volts"
        :min="0.1"
        :max="500"
        :commit="(v: number) => onRail(rail, 'Volts', (r) => (r.volts = v))"
      />
      <NumberField
        prefix="gives A"
        :value="rail.amps"
        dimension="ratio"
        :decimals="1"
        label="Amperes it gives"
        :min="0"
        :commit="(v: number) => onRail(rail, 'Amperes', (r) => (r.amps = v))"
      />
      <NumberField
        prefix="fuse A"
        :value="rail.fuseA"
        dimension="ratio"
        :decimals="1"
        label="Fuse"
        :min="0"
        :commit="(v: number) => onRail(rail, 'Fuse', (r) => (r.fuseA = v))"
      />
    </div>
    <div class="row wrap small">
      <label class="row"
        ><Checkbox
          :model-value="rail.groundJoined"
          binary
          @update:model-value="onRail(rail, 'Ground', (r) => (r.groundJoined = Boolean($event)))"
        />
        its ground is joined to the boards’</label
      >
      <span class="grow muted"
        >{{ count(rail) }} {{ count(rail) === 1 ? 'motor' : 'motors'
        }}<template v-if="draws.get(rail.id)?.atOnceA"
          >, {{ formatNumber(draws.get(rail.id)!.atOnceA, 1) }} A if all stall at once</template
        ></span
      >
      <Button
        size="small"
        variant="text"
        severity="danger"
        label="Delete"
        :aria-label="`Delete ${rail.name}`"
        @click="remove(rail)"
      />
    </div>
  </section>
  <Button size="small" severity="secondary" label="Add a supply" @click="add" />
</template>

<style scoped>
.rail {
  border-bottom: 1px solid var(--lines);
  padding-bottom: 0.4rem;
  margin-bottom: 0.5rem;
}
label.row {
  gap: 0.35rem;
}
</style>
