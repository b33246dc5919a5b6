<script setup lang="ts">
/** The options of an export or import as fields, from its schema. */
import { computed } from 'vue';
import { linedBoards } from '@cork-elbow/core/actuators';
import { fieldsWhile, type OptionField } from '@cork-elbow/core/exports';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';

const { fields, values } = defineProps<{
  fields: readonly OptionField[];
  values: Readonly<Record<string, unknown>>;
}>();
const emit = defineEmits<{ change: [key: string, value: unknown] }>();
const rigs = useRigStore();
/** Words of fields are written small. */
const small = (words: string): string => words.charAt(0).toLowerCase() + words.slice(1);
/** Lists of the rig that a choice may be among. */
const lists = computed(() => ({
  tools: (rigs.mechanism?.tools ?? []).map(({ id, name }) => ({ value: id, label: name })),
  inputs: [
    { value: '', label: 'no input' },
    ...(rigs.rig?.signals ?? []).flatMap(({ id, name, way }) => (way === 'in' ? [{ value: id, label: name }] : [])),
  ],
  sticks: [
    { value: '', label: 'no stick' },
    ...(rigs.rig?.sensors ?? []).flatMap(({ id, name, joint }) =>
      joint === null
        ? [
            { value: id, label: name },
            { value: `-${id}`, label: `${name}, the other way` },
          ]
        : [],
    ),
  ],
  boards: (rigs.rig ? linedBoards(rigs.rig) : []).map(({ id, name }) => ({ value: id, label: name })),
}));
const shown = computed(() =>
  fieldsWhile(fields, values).flatMap((field) => {
    if (field.kind !== 'one-of') return [field];
    const choices = lists.value[field.of];
    // One alone is no choice.
    return choices.length > 1 ? [{ ...field, kind: 'choice' as const, choices }] : [];
  }),
);
</script>

<template>
  <div v-if="shown.length || $slots.default" class="form">
    <slot />
    <template v-for="field in shown" :key="field.key">
      <ChoiceField
        v-if="field.kind === 'choice'"
        :label="field.title"
        :options="field.choices"
        :value="String(values[field.key] ?? field.choices[0].value)"
        @change="emit('change', field.key, $event)"
      />
      <label v-else-if="field.kind === 'number'" class="number"
        >{{ small(field.title) }}
        <NumberField
          :value="Number(values[field.key])"
          :dimension="field.isAddress ? 'address' : 'count'"
          :label="field.title"
          :min="field.min"
          :max="field.max"
          :step="field.step"
          :commit="(v: number) => emit('change', field.key, v)"
      /></label>
      <label v-else class="yes-no"
        ><input
          type="checkbox"
          :checked="values[field.key] === true"
          @change="emit('change', field.key, ($event.target as HTMLInputElement).checked)"
        />
        {{ small(field.title) }}</label
      >
    </template>
  </div>
</template>

<style scoped>
.number {
  display: grid;
  gap: 0.15rem;
  font-size: 0.82rem;
  color: var(--ink-2);
  min-width: 0;
}
.form .yes-no {
  display: flex;
  align-items: center;
  gap: 0.45rem;
  font-size: 0.9rem;
  min-height: 2.3rem;
}
</style>
