<script setup lang="ts">
/** How the joints find their places: order, switches, speeds, where the others wait; timed, and played on the stage. */
import { IconArrowDown, IconArrowUp, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import Checkbox from 'primevue/checkbox';
import { computed, ref } from 'vue';
import {
  homingMotion,
  homingWhatIf,
  jointsToHome,
  planHoming,
  proposeHoming,
  restPose,
} from '@cork-elbow/core/bring-up';
import { tipPath } from '@cork-elbow/core/kinematics';
import type { HomingAxis } from '@cork-elbow/core/rig';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import { useSlots } from '../../shared/joints';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import ContactList from './ContactList.vue';
import HomingAxisForm from './HomingAxisForm.vue';
import TimelineBar from '../../workspace/TimelineBar.vue';
import { useMotor } from './useMotor';
import { useSweep } from './useSweep';
import { useTimeline } from '../../workspace/useTimeline';

const rigs = useRigStore();
const view = useViewStore();
const slots = useSlots();
const { commit } = useMotor();
const problem = ref('');
const chosen = ref<string | null>(null);
const fromShown = ref(false);

const begin = computed(() => {
  const { rig, mechanism } = rigs;
  return fromShown.value ? view.editQ : rig && mechanism ? restPose(rig, mechanism) : new Float64Array(0);
});
const plan = computed(() => {
  const { rig, mechanism } = rigs;
  return rig && mechanism ? planHoming(rig, mechanism, begin.value) : null;
});
const whatIf = computed(() => homingWhatIf(rigs.rig!, rigs.mechanism!, begin.value));
const motion = computed(() => plan.value && homingMotion(plan.value, rigs.mechanism!));
const timeline = useTimeline(motion);
const { time, durationS: duration } = timeline;
const contacts = useSweep(() => (rigs.rig?.homing.axes.length ? { kind: 'homing', start: begin.value } : null));
useOverlay(() => ({
  layers: {
    trace: motion.value && rigs.rig!.homing.axes.length ? tipPath(rigs.mechanism!, motion.value, 200) : null,
    hits: Float64Array.from((contacts.value ?? []).flatMap((c) => [...c.at])),
  },
  dimensions: false,
}));

const bys: { value: HomingAxis['by']; label: string }[] = [
  { value: 'switch', label: 'switch' },
  { value: 'end-stop', label: 'hard stop' },
  { value: 'sensor', label: 'sensor' },
  { value: 'cradle', label: 'rest cradle' },
  { value: 'neutral', label: 'put on at neutral' },
];
const rows = computed(() =>
  rigs.rig!.homing.axes.map((axis, k) => ({
    axis,
    k,
    info: slots.value.find((s) => s.id === axis.joint),
    timed: plan.value?.axes.find((a) => a.joint === axis.joint),
  })),
);
const row = computed(() => rows.value.find((r) => r.axis.joint === chosen.value) ?? rows.value[0]);
const missing = computed(() => slots.value.filter((s) => !rows.value.some((r) => r.axis.joint === s.id)));
const acting = computed(() => {
  const moves = (plan.value?.moves ?? []).filter((m) => time.value >= m.startS && time.value < m.startS + m.seconds);
  return moves.map((m) => `${slots.value.find((s) => s.id === m.joint)?.name}: ${words[m.act]}`).join(', ');
});
const words = {
  'wait pose': 'goes where it waits',
  seek: 'seeks its switch',
  'back off': 'backs off',
  'seek slowly': 'seeks slowly',
  read: 'is read',
  'set down': 'is where it lies',
} as const;

const edit = (label: string, recipe: Parameters<typeof commit>[1]): string | void => {
  const said = commit(label, recipe);
  problem.value = said ?? '';
  return said;
};
const onAxis = (label: string, change: (axis: HomingAxis) => void): string | void =>
  edit(`${label}, homing of ${row.value!.info?.name}`, (draft) =>
    change(draft.homing.axes.find((a) => a.joint === row.value!.axis.joint)!),
  );
const axisFor = (id: string): HomingAxis => proposeHoming(rigs.rig!, rigs.mechanism!, id);
function add(id: unknown): void {
  edit('Another axis to home', (draft) => draft.homing.axes.push(axisFor(String(id))));
  chosen.value = String(id);
}
/** The hand folds in before the base turns. */
const lost = computed(() => (rigs.rig && rigs.mechanism ? jointsToHome(rigs.rig, rigs.mechanism) : []));
const addAll = (): void =>
  void edit('Homing of all joints', (draft) => {
    draft.homing.axes = lost.value.map(axisFor);
  });
function shift(k: number, by: 1 | -1): void {
  edit('Order of homing', (draft) => {
    const { axes } = draft.homing;
    [axes[k], axes[k + by]] = [axes[k + by], axes[k]];
    axes[0].together = false;
  });
}
const poses = computed(() => rigs.rig!.poses.map((p) => ({ value: p.id, label: p.name })));
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <template v-if="!rows.length">
    <p class="muted small">
      No axis is homed. Servos know their angle; steppers and counted motors have to find it: by a switch, a hard
      stop, a cradle they rest in, or a sensor.
    </p>
    <Button v-if="lost.length" size="small" label="Home every joint, from the hand inward" @click="addAll" />
    <p v-else-if="slots.length" class="small">Every motor here knows where it stands: nothing has to be homed.</p>
  </template>
  <template v-else>
    <p class="muted small">
      Stay clear while an arm homes: it does not know yet where it is. Keep the cut-off switch in reach.
    </p>
    <table class="plain">
      <thead>
        <tr>
          <th></th>
          <th>joint</th>
          <th>by</th>
          <th class="r">begins</th>
          <th class="r">takes</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="r in rows"
          :key="r.axis.joint"
          :class="{ chosen: r.axis.joint === row?.axis.joint }"
          @click="chosen = r.axis.joint"
        >
          <td><JointMark v-if="r.info" :index="r.info.slot" :size="20" /></td>
          <td>
            <button class="pick" :aria-pressed="r.axis.joint === row?.axis.joint">
              {{ r.info?.name ?? r.axis.joint }}
            </button>
            <span v-if="r.axis.together" class="muted small"> at the same time</span>
          </td>
          <td class="small nowrap">
            {{ bys.find((b) => b.value === r.axis.by)!.label
            }}{{ !/switch|stop/.test(r.axis.by) ? '' : r.axis.end === 'min' ? ', lower' : ', upper' }}
          </td>
          <td class="r num nowrap">{{ r.timed ? `${formatFixed(r.timed.startS, 1)} s` : '–' }}</td>
          <td class="r num nowrap">{{ r.timed ? `${formatFixed(r.timed.seconds, 1)} s` : '–' }}</td>
          <td class="r nowrap">
            <Button
              size="small"
              variant="text"
              severity="secondary"
              :aria-label="`${r.info?.name} earlier`"
              :disabled="r.k === 0"
              @click.stop="shift(r.k, -1)"
              ><IconArrowUp :size="15" /></Button
            ><Button
              size="small"
              variant="text"
              severity="secondary"
              :aria-label="`${r.info?.name} later`"
              :disabled="r.k === rows.length - 1"
              @click.stop="shift(r.k, 1)"
              ><IconArrowDown :size="15" /></Button
            ><Button
              size="small"
              variant="text"
              severity="danger"
              :aria-label="`Do not home ${r.info?.name}`"
              @click.stop="
                edit('Delete an axis', (d) => (d.homing.axes = d.homing.axes.filter((a) => a.joint !== r.axis.joint)))
              "
              ><IconTrash :size="15"
            /></Button>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="small" role="status" data-homing-time>
      <b class="num">{{ formatNumber(whatIf.asSet, 1) }} s</b> as set; {{ formatNumber(whatIf.oneByOne, 1) }} s one by
      one, {{ formatNumber(whatIf.together, 1) }} s if all ran together.
    </p>
    <TimelineBar :timeline :duration />
    <p class="small muted acting">{{ acting || '\u00a0' }}</p>
    <ContactList :contacts clear="Nothing is touched on the way." @look="timeline.show" />
    <HomingAxisForm
      v-if="row?.info"
      :key="row.axis.joint"
      :axis="row.axis"
      :info="row.info"
      :is-first="row.k === 0"
      :bys
      :edit="onAxis"
    />
    <div class="rule"><h2>Before</h2></div>
    <div class="row wrap small">
      <ChoiceField
        v-if="missing.length"
        label=""
        name="Home another joint"
        placeholder="home another joint"
        :options="missing.map((s) => ({ value: s.id, label: s.name }))"
        :value="null"
        @change="add"
      />
      <label class="row"><Checkbox v-model="fromShown" binary /> timed from the pose on show, not from rest</label>
      <label class="row"
        ><Checkbox
          :model-value="rigs.rig!.homing.parked !== null"
          binary
          :disabled="!poses.length"
          @update:model-value="
            edit('Parked', (d) => (d.homing.parked = $event ? { pose: poses[0].value, speedShare: 0.25 } : null))
          "
        />
        may be skipped when parked</label
      >
    </div>
    <div v-if="rigs.rig!.homing.parked" class="form">
      <ChoiceField
        label="parked in"
        name="Parked pose"
        :options="poses"
        :value="rigs.rig!.homing.parked.pose"
        @change="edit('Parked pose', (d) => (d.homing.parked!.pose = String($event)))"
      />
      <NumberField
        prefix="speed, %"
        :value="rigs.rig!.homing.parked.speedShare * 100"
        dimension="count"
        label="Speed while unverified, %"
        :min="1"
        :max="100"
        :commit="(v: number) => edit('Speed cap', (d) => (d.homing.parked!.speedShare = v / 100))"
      />
      <p class="small muted note">
        Skipped, the remembered pose counts, marked unverified, and every run keeps to this share of its speed until
        it has homed.
      </p>
    </div>
  </template>
</template>

<style scoped>
table.plain .num {
  font-size: 0.88rem;
}
.nowrap :deep(button) {
  padding: 0.2rem;
}
.chosen {
  background: var(--pine-wash);
}
.pick {
  border: 0;
  background: none;
  padding: 0;
  font-weight: 600;
  cursor: pointer;
}
tbody tr {
  cursor: pointer;
}
table.plain td {
  padding: 0.1rem 0.25rem;
}
.acting {
  margin: 0.2rem 0;
}
label.row {
  gap: 0.35rem;
}
.note {
  grid-column: span 1;
}
</style>
