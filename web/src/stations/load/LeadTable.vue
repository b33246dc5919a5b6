<script setup lang="ts">
/** The leads of a supply's motors: what is lost on the way, and what their plugs carry. */
import { computed } from 'vue';
import type { LeadDrop, RailBudget } from '@cork-elbow/core/loads';
import type { Wire } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';

const { budget } = defineProps<{ budget: RailBudget }>();
const rigs = useRigStore();
const edit = useEdit();
const wires = computed(() => new Map(rigs.rig?.wiring.map((wire) => [wire.drive, wire])));
const nameOf = (id: string): string => rigs.rig?.drives.find((drive) => drive.id === id)?.name ?? id;
type Key = 'lengthMm' | 'crossMm2' | 'connectorA';
const set = (drive: string, key: Key, value: number): string | void =>
  edit(`Lead of ${nameOf(drive)}`, (draft) => {
    const wire = draft.wiring.find((w) => w.drive === drive);
    if (!wire) return;
    if (value > 0) wire[key] = value;
    else delete wire[key];
  });
const valueOf = (drive: string, key: Key): number => (wires.value.get(drive) as Wire | undefined)?.[key] ?? 0;
const lost = (volts: number | null): string =>
  volts === null ? '' : `${formatNumber(volts, 2)} V, ${formatNumber((100 * volts) / budget.rail.volts, 0)} %`;
/** A motor that loses this share of its voltage when it is held fast is weaker than its figures say. */
const MUCH = 0.1;
const isTooMuch = ({ plugA, peakA }: LeadDrop): boolean => plugA !== null && peakA !== null && peakA > plugA;
</script>

<template>
  <details class="leads" :open="budget.leads.some(isTooMuch)">
    <summary>Leads: what is lost on the way, and what their plugs carry</summary>
    <table class="plain">
      <thead>
        <tr>
          <th>motor</th>
          <th>one way</th>
          <th>copper, mm²</th>
          <th title="Of the voltage, when it is held fast">lost</th>
          <th>plug carries</th>
          <th title="In the routine">at most</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="lead in budget.leads" :key="lead.drive" :data-lead="lead.drive">
          <td>{{ nameOf(lead.drive) }}</td>
          <td>
            <NumberField
              :value="valueOf(lead.drive, 'lengthMm')"
              :unset="valueOf(lead.drive, 'lengthMm') ? null : 'unknown'"
              dimension="length"
              :decimals="0"
              :label="`Lead of ${nameOf(lead.drive)}`"
              :min="0"
              :max="100000"
              :commit="(v: number) => set(lead.drive, 'lengthMm', v)"
            />
          </td>
          <td>
            <NumberField
              :value="valueOf(lead.drive, 'crossMm2')"
              :unset="valueOf(lead.drive, 'crossMm2') ? null : 'unknown'"
              dimension="ratio"
              :decimals="2"
              :label="`Copper of the lead of ${nameOf(lead.drive)}`"
              :min="0"
              :max="100"
              :commit="(v: number) => set(lead.drive, 'crossMm2', v)"
            />
          </td>
          <td class="num" :class="{ short: (lead.stallV ?? 0) > MUCH * budget.rail.volts }">
            {{ lost(lead.stallV) }}
          </td>
          <td>
            <NumberField
              :value="valueOf(lead.drive, 'connectorA')"
              :unset="valueOf(lead.drive, 'connectorA') ? null : 'unknown'"
              dimension="current"
              :label="`What the plug of ${nameOf(lead.drive)} carries`"
              :min="0"
              :max="1000"
              :commit="(v: number) => set(lead.drive, 'connectorA', v)"
            />
          </td>
          <td class="num" :class="{ short: isTooMuch(lead) }" :data-plug="isTooMuch(lead) ? 'over' : 'good'">
            {{ lead.peakA === null ? '' : `${formatNumber(lead.peakA, 2)} A` }}
          </td>
        </tr>
      </tbody>
    </table>
  </details>
</template>

<style scoped>
.leads {
  margin-top: 0.4rem;
}
.leads td,
.leads th {
  padding: 0.1rem 0.25rem;
}
.leads td.num {
  white-space: nowrap;
}
.short {
  color: var(--alarm);
}
</style>
