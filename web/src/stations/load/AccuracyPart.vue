<script setup lang="ts">
/** How exactly the tool stands as the arm is posed now, and what that hangs on. */
import Button from 'primevue/button';
import { computed, toRaw } from 'vue';
import { forward } from '@cork-elbow/core/kinematics';
import { positionOf } from '@cork-elbow/core/linear';
import { accuracyAt, spreadOf, type ErrorKind } from '@cork-elbow/core/loads';
import { formatNumber, toMm } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import LoadHolding from './LoadHolding.vue';
import JointMark from '../../shared/JointMark.vue';
import ShareBar from '../../shared/ShareBar.vue';
import { useSlots } from '../../shared/joints';
import { useEdit } from '../../shared/useEdit';
import { useJob } from '../../shared/useJob';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { useGo } from '../../workspace/useGo';
import { usePlan } from '../../workspace/usePlan';
import { useLoads } from './useLoads';

const rigs = useRigStore();
const view = useViewStore();
const slots = useSlots();
const edit = useEdit();
const go = useGo(usePlan());
const { tools, tool, toolId, loading, payload } = useLoads();
const nameOf = (id: string): string => rigs.rig?.mechanism.tools.find((t) => t.id === id)?.name ?? id;

const found = computed(() => {
  const { hardware, mechanism, build } = rigs;
  if (!hardware || !mechanism || !build || !tool.value || view.readQ.length !== mechanism.m) return null;
  return accuracyAt(hardware, mechanism, build, tool.value, view.readQ, loading.value);
});
const words: Record<ErrorKind, string> = {
  step: 'steps',
  'dead-band': 'dead band',
  slack: 'slack',
  calibration: 'calibration',
  flex: 'giving way',
};
const help: Record<ErrorKind, string> = {
  step: 'more gear, or a motor with finer steps',
  'dead-band': 'a motor with a narrower dead band, or more gear',
  slack: 'coming from one side always, or less play in its gear',
  calibration: 'more points in its calibration',
  flex: 'a stiffer joint and link, less load, or calibrating with the load in its hand',
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

// ── On the stage ──────────────────────────────────────────────────────────────────────────────────────────────────

/** The ellipsoid is drawn so many times as large as it is. */
const TIMES = 20;
useOverlay(() => ({
  dimensions: false,
  layers:
    found.value && tool.value && rigs.mechanism && found.value.rss > 0
      ? {
          blur: {
            at: positionOf(forward(rigs.mechanism, view.readQ).tools.get(tool.value.id)!),
            shape: spreadOf(found.value.scatter),
            times: TIMES,
          },
        }
      : {},
}));
const sinks = computed(() => -(found.value?.droop[2] ?? 0));

// ── Elsewhere ─────────────────────────────────────────────────────────────────────────────────────────────────────

const everywhere = useJob('exactness', {
  request: () =>
    tool.value && { toolId: tool.value.id, holding: { toolId: tool.value.id, payload: toRaw(payload.value) } },
  when: () => [rigs.rig?.spots, rigs.rig?.poses, rigs.hardware, rigs.build, tool.value?.id, payload.value] as const,
  after: 200,
});
const places = computed(() => everywhere.answer.value ?? []);
const worstPlace = computed(() =>
  places.value.reduce<number>((most, { stands }) => Math.max(most, stands?.rss ?? 0), 0),
);

// ── How stiff it is ───────────────────────────────────────────────────────────────────────────────────────────────

const movable = computed(() =>
  slots.value.flatMap(({ id, name, unit }, slot) => {
    const joint = rigs.rig?.mechanism.joints.find((j) => j.id === id);
    return joint && 'home' in joint && tool.value?.slots.includes(slot)
      ? [{ id, name, unit, slot, stiffness: joint.stiffness ?? 0 }]
      : [];
  }),
);
const setStiffness = (id: string, value: number): string | void =>
  edit('Stiffness', (draft) => {
    const joint = draft.mechanism.joints.find((j) => j.id === id);
    if (joint && 'home' in joint) joint.stiffness = value || undefined;
  });
</script>

<template>
  <div data-accuracy>
    <LoadHolding v-if="movable.some(({ stiffness }) => stiffness)" />
    <div v-else-if="tools.length > 1" class="form">
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
        <div v-if="Math.abs(sinks) > 1e-6">
          <dt>under its load it {{ sinks > 0 ? 'sinks' : 'rises' }} by</dt>
          <dd class="num big" :data-sinks="sinks">{{ mm(Math.abs(sinks)) }} mm</dd>
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
      <p v-if="found.parts.length" class="small muted">
        The shape round the tool on the drawing is what it scatters by as a rule, {{ TIMES }} times as large. Slack is
        what was measured on this build (Motors, Calibrate).
      </p>
      <template v-if="places.length">
        <h2 class="more">At its spots and poses</h2>
        <table class="plain parts" aria-label="How exactly it stands elsewhere">
          <thead>
            <tr>
              <th>place</th>
              <th class="right">as a rule</th>
              <th class="right">at worst</th>
              <th class="right">sinks</th>
              <th></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="{ kind, id, name, stands } in places" :key="`${kind} ${id}`" :data-place="id">
              <td>
                <button v-if="stands" class="link" :title="`Stand at ${name}`" @click="view.setEdit(stands.q)">
                  {{ name }}</button><template v-else>{{ name }}</template>
              </td>
              <template v-if="stands">
                <td class="num right">± {{ mm(stands.rss) }} mm</td>
                <td class="num right">± {{ mm(stands.worst) }} mm</td>
                <td class="num right">{{ Math.abs(stands.sinks) > 1e-6 ? `${mm(stands.sinks)} mm` : '' }}</td>
                <td class="bar-cell"><ShareBar :part="stands.rss / (worstPlace || 1)" state="plain" /></td>
              </template>
              <td v-else colspan="4" class="muted">out of reach</td>
            </tr>
          </tbody>
        </table>
      </template>
      <details>
        <summary>How stiff its joints are</summary>
        <p class="small muted">
          With the motors held: hang a known weight on the tool, and see by how much each joint gives way. N·m for
          each °; of a joint that slides N for each mm. 0: not known, and left out.
        </p>
        <div class="form">
          <NumberField
            v-for="joint in movable"
            :key="joint.id"
            :prefix="joint.name"
            :value="joint.stiffness"
            :dimension="joint.unit === 'mm' ? 'ratio' : 'stiffness'"
            :label="`Stiffness of ${joint.name}`"
            :min="0"
            :max="100000"
            :commit="(v: number) => setStiffness(joint.id, v)"
          />
        </div>
      </details>
    </template>
  </div>
</template>

<style scoped>
.big {
  font-size: 1.35rem;
}
.more {
  margin: 0.9rem 0 0.2rem;
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
