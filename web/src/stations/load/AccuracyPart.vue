<script setup lang="ts">
/** How exactly the tool stands as the arm is posed now, and what that hangs on. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { accuracyAt, type ErrorKind } from '@cork-elbow/core/loads';
import { formatNumber, toMm } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import JointMark from '../../shared/JointMark.vue';
import ShareBar from '../../shared/ShareBar.vue';
import { useSlots } from '../../shared/joints';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { useGo } from '../../workspace/useGo';
import { usePlan } from '../../workspace/usePlan';
import { useLoads } from './useLoads';

const rigs = useRigStore();
const view = useViewStore();
const slots = useSlots();
const go = useGo(usePlan());
const { tools, tool, toolId } = useLoads();
const nameOf = (id: string): string => rigs.rig?.mechanism.tools.find((t) => t.id === id)?.name ?? id;

const found = computed(() => {
  const { hardware, mechanism, build } = rigs;
  if (!hardware || !mechanism || !build || !tool.value || view.readQ.length !== mechanism.m) return null;
  return accuracyAt(hardware, mechanism, build, tool.value, view.readQ);
});
const words: Record<ErrorKind, string> = {
  step: 'steps',
  'dead-band': 'dead band',
  slack: 'slack',
  calibration: 'calibration',
};
const help: Record<ErrorKind, string> = {
  step: 'more gear, or a motor with finer steps',
  'dead-band': 'a motor with a narrower dead band, or more gear',
  slack: 'coming from one side always, or less play in its gear',
  calibration: 'more points in its calibration',
};
const mm = (m: number): string => {
  const value = toMm(m);
  return formatNumber(value, value >= 10 ? 1 : value >= 1 ? 2 : 3);
};
const biggest = computed(() => found.value?.parts[0] ?? null);
/** What halving the biggest brings. */
const halved = computed(() => {
  if (!found.value || !biggest.value) return null;
  const { rss } = found.value;
  return Math.sqrt(Math.max(0, rss ** 2 - 0.75 * biggest.value.atTool ** 2));
});
useOverlay(() => ({ dimensions: false }));
</script>

<template>
  <div data-accuracy>
    <div v-if="tools.length > 1" class="form">
      <ChoiceField
        label="tool"
        :options="tools.map(({ id }) => ({ value: id, label: nameOf(id) }))"
        :value="tool?.id ?? null"
        @change="toolId = $event as string"
      />
    </div>
    <p v-if="!tool" class="muted">There is no tool on the arm yet.</p>
    <template v-else-if="found">
      <p v-if="!found.parts.length" class="muted">
        Nothing is known of what moves this tool, so nothing is said of how exactly it stands.
      </p>
      <dl v-else class="facts">
        <div>
          <dt>as a rule within</dt>
          <dd class="num big" :data-rss="found.rss">± {{ mm(found.rss) }} mm</dd>
        </div>
        <div>
          <dt>at worst within</dt>
          <dd class="num big" :data-worst="found.worst">± {{ mm(found.worst) }} mm</dd>
        </div>
      </dl>
      <p v-if="found.parts.length" class="small muted">
        As it stands now. As a rule: the root of the sum of squares of what is below; at worst: all of it at once,
        each in the worst sense.
      </p>
      <p v-if="found.unknown.length" class="row wrap small muted">
        No motor is known for {{ found.unknown.map((slot) => slots[slot]?.name).join(', ') }}: left out.
        <Button
          size="small"
          variant="text"
          label="Give it one"
          @click="go({ place: { station: 'motors', part: 'joints', joint: slots[found.unknown[0]]?.id } })"
        />
      </p>
      <p v-if="biggest && halved !== null" class="most">
        Most comes from <b>{{ slots[biggest.slot]?.name }}</b>: {{ words[biggest.kind] }}. Half of that would leave ±
        <span class="num">{{ mm(halved) }} mm</span>: {{ help[biggest.kind] }}.
      </p>
      <table v-if="found.parts.length" class="plain parts" aria-label="What it hangs on">
        <thead>
          <tr>
            <th>joint</th>
            <th>by</th>
            <th class="right">at the joint</th>
            <th class="right">at the tip</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="part in found.parts" :key="`${part.slot} ${part.kind}`" :data-part="part.kind">
            <td>
              <span class="who"><JointMark :index="part.slot" :size="20" /> {{ slots[part.slot]?.name }}</span>
            </td>
            <td>{{ words[part.kind] }}</td>
            <td class="num right">
              ± {{ formatNumber(part.spread, 3) }}{{ slots[part.slot]?.unit === 'mm' ? ' mm' : '°' }}
            </td>
            <td class="num right">{{ mm(part.atTool) }} mm</td>
            <td class="bar-cell">
              <ShareBar :part="part.atTool / (biggest?.atTool || 1)" state="plain" />
            </td>
          </tr>
        </tbody>
      </table>
      <p class="small muted">
        Slack is what was measured on this build (Motors, Calibrate). How far links bend under their load is not in
        it.
      </p>
    </template>
  </div>
</template>

<style scoped>
.big {
  font-size: 1.35rem;
}
.most {
  margin: 0.5rem 0;
}
.parts {
  width: 100%;
  margin: 0.4rem 0;
}
.parts td,
.parts th {
  padding: 0.15rem 0.4rem;
}
.right {
  text-align: right;
  white-space: nowrap;
}
.who {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  white-space: nowrap;
}
.bar-cell {
  width: 22%;
}
</style>
