<script setup lang="ts">
/** A leader over its follower: what both can reach, what is lost, and the scale and offset that would share it all. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { followerRange, followerSpline, matchLeader, proposeLeader } from '@cork-elbow/core/calibration';
import type { Leader } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import { useSlots } from '../../shared/joints';
import TextField from '../../shared/TextField.vue';
import { useRigStore } from '../../stores/rig';
import { useMotor } from './useMotor';
import { useWiring } from './wiring/useWiring';

const rigs = useRigStore();
const slots = useSlots();
const { commit } = useMotor();
const { newId } = useWiring();
const problem = ref('');
const edit = (label: string, recipe: Parameters<typeof commit>[1]): string | void => {
  const said = commit(label, recipe);
  problem.value = said ?? '';
  return said;
};
const rows = computed(() =>
  rigs.rig!.leaders.map((leader) => {
    const info = slots.value.find((s) => s.id === leader.joint);
    const range = rigs.mechanism && followerRange(rigs.mechanism, leader);
    const match = range && matchLeader(leader, ...range);
    const teeth = followerSpline(rigs.rig!, leader);
    const proposed = range && leader.high !== leader.low ? proposeLeader(leader, ...range, teeth) : null;
    return { leader, info, range, match, proposed, bars: match && barsOf(match.follower, match.asked, match.common) };
  }),
);
/** Both ranges on one scale of 100. */
function barsOf(
  follower: readonly [number, number],
  asked: readonly [number, number],
  common: readonly [number, number] | null,
) {
  const low = Math.min(follower[0], asked[0]);
  const span = Math.max(follower[1], asked[1]) - low || 1;
  const bar = ([a, b]: readonly [number, number]) => ({ x: (100 * (a - low)) / span, w: (100 * (b - a)) / span });
  return { asked: bar(asked), follower: bar(follower), common: common && bar(common) };
}
const onLeader = (leader: Leader, label: string, change: (leader: Leader) => void): string | void =>
  edit(`${label} of ${leader.name}`, (draft) => change(draft.leaders.find((l) => l.id === leader.id)!));
function add(): void {
  edit('Another guide', (draft) => {
    const free = slots.value.find((s) => !draft.leaders.some((l) => l.joint === s.id)) ?? slots.value[0];
    const used = new Set(draft.leaders.map((l) => l.sensor));
    let sensor = draft.sensors.find((s) => s.joint === null && !used.has(s.id));
    if (!sensor) {
      sensor = {
        id: newId(`led-${free.id}`, draft.sensors),
        name: `Guide of ${free.name}`,
        kind: 'potentiometer',
        joint: null,
        side: 'joint',
        countsPerTurn: 1365,
        wraps: false,
        board: null,
        channel: null,
        address: null,
        port: null,
        note: '',
      };
      draft.sensors.push(sensor);
    }
    draft.leaders.push({
      id: newId(`leader-${free.id}`, draft.leaders),
      name: `Guide of ${free.name}`,
      sensor: sensor.id,
      joint: free.id,
      scale: 1,
      offset: 0,
      low: -90,
      high: 90,
    });
  });
}
const take = (r: (typeof rows.value)[number]): void =>
  void onLeader(r.leader, 'Scale and offset', (l) => {
    l.scale = Math.round(r.proposed!.scale * 1000) / 1000;
    l.offset = Math.round(r.proposed!.offset * 100) / 100;
  });
const flip = (leader: Leader): void =>
  void onLeader(leader, 'Direction', (l) => {
    l.scale = -l.scale;
    // About the middle of the leader's travel, so that the range stays where it is.
    l.offset -= l.scale * (l.low + l.high);
  });
const toothWords = (n: number | null): string =>
  n === null
    ? ''
    : n === 0
      ? 'as it is'
      : `${Math.abs(n)} ${Math.abs(n) === 1 ? 'tooth' : 'teeth'} ${n > 0 ? 'up' : 'down'}`;
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <p class="muted small">
    A guide is a knob, or the joint of a small arm led by hand. What it asks for and what the joint can do should
    cover each other; where they do not, the joint stands still while the hand goes on.
  </p>
  <section v-for="r in rows" :key="r.leader.id" class="leader" :aria-label="r.leader.name">
    <div class="row">
      <JointMark v-if="r.info" :index="r.info.slot" :size="20" />
      <TextField
        class="grow"
        :value="r.leader.name"
        label="Name of the guide"
        :commit="(v: string) => onLeader(r.leader, 'Name', (l) => (l.name = v))"
      />
      <Button
        size="small"
        variant="text"
        severity="danger"
        label="×"
        :aria-label="`Delete ${r.leader.name}`"
        @click="edit('Delete a guide', (d) => (d.leaders = d.leaders.filter((l) => l.id !== r.leader.id)))"
      />
    </div>
    <svg
      v-if="r.bars && r.match"
      viewBox="0 0 400 74"
      class="drawing bars"
      role="img"
      :aria-label="`${formatNumber(r.match.share * 100, 0)} % in common`"
    >
      <rect
        v-if="r.bars.common"
        class="common"
        :x="r.bars.common.x * 3 + 90"
        y="2"
        :width="r.bars.common.w * 3"
        height="54"
      />
      <text x="84" y="20" text-anchor="end">guide</text>
      <rect class="asked" :x="r.bars.asked.x * 3 + 90" y="8" :width="r.bars.asked.w * 3" height="16" />
      <text x="84" y="46" text-anchor="end">joint</text>
      <rect class="own" :x="r.bars.follower.x * 3 + 90" y="34" :width="r.bars.follower.w * 3" height="16" />
      <text :x="r.bars.follower.x * 3 + 90" y="68" class="end">
        {{ formatNumber(r.match.follower[0], 0) }}{{ r.info?.unit }}
      </text>
      <text :x="(r.bars.follower.x + r.bars.follower.w) * 3 + 90" y="68" text-anchor="end" class="end">
        {{ formatNumber(r.match.follower[1], 0) }}{{ r.info?.unit }}
      </text>
    </svg>
    <p v-if="r.match" class="small" role="status" :data-share="Math.round(r.match.share * 100)">
      <b :class="{ bad: r.match.share < 0.95 }">{{ formatNumber(r.match.share * 100, 1) }} % in common.</b>{{ ' ' }}
      <template v-if="r.match.lost > 0.005">
        {{ formatNumber(r.match.lost * 100, 0) }} % of the joint’s travel cannot be reached.</template
      >
      <template v-if="r.match.idle > 0.005">
        On {{ formatNumber(r.match.idle * 100, 0) }} % of the guide’s travel the joint stands at a limit.</template
      >
    </p>
    <p v-else class="muted small">The joint has no limits to compare with.</p>
    <div class="form">
      <ChoiceField
        label="leads"
        :name="`Joint that ${r.leader.name} leads`"
        :options="slots.map((s) => ({ value: s.id, label: s.name }))"
        :value="r.leader.joint"
        @change="onLeader(r.leader, 'Joint', (l) => (l.joint = String($event)))"
      />
      <ChoiceField
        label="read by"
        :name="`Sensor of ${r.leader.name}`"
        :options="rigs.rig!.sensors.map((s) => ({ value: s.id, label: s.name }))"
        :value="r.leader.sensor"
        @change="onLeader(r.leader, 'Sensor', (l) => (l.sensor = String($event)))"
      />
      <NumberField
        prefix="guide from"
        :value="r.leader.low"
        dimension="angle"
        :decimals="1"
        label="Lower end of the guide"
        :commit="
          (v: number) =>
            v < r.leader.high
              ? onLeader(r.leader, 'Range', (l) => (l.low = v))
              : `Below ${formatNumber(r.leader.high, 1)}°, its upper end.`
        "
      />
      <NumberField
        prefix="to"
        :value="r.leader.high"
        dimension="angle"
        :decimals="1"
        label="Upper end of the guide"
        :commit="
          (v: number) =>
            v > r.leader.low
              ? onLeader(r.leader, 'Range', (l) => (l.high = v))
              : `Above ${formatNumber(r.leader.low, 1)}°, its lower end.`
        "
      />
      <NumberField
        prefix="scale"
        :value="r.leader.scale"
        dimension="ratio"
        :decimals="3"
        label="Scale"
        :commit="(v: number) => onLeader(r.leader, 'Scale', (l) => (l.scale = v))"
      />
      <NumberField
        prefix="offset"
        :value="r.leader.offset"
        dimension="angle"
        :decimals="1"
        label="Offset"
        :commit="(v: number) => onLeader(r.leader, 'Offset', (l) => (l.offset = v))"
      />
    </div>
    <div class="row wrap">
      <Button size="small" severity="secondary" label="Invert" @click="flip(r.leader)" />
      <Button
        v-if="r.proposed && r.match && r.match.share + (1 - r.match.idle) < 1.999"
        size="small"
        :label="`Apply scale ${formatNumber(r.proposed.scale, 2)}, offset ${formatNumber(r.proposed.offset, 1)}°`"
        @click="take(r)"
      />
      <NumberField
        class="teeth"
        prefix="guide’s teeth"
        :value="r.leader.splineTeeth ?? 0"
        dimension="count"
        label="Teeth of the guide’s spline"
        :min="3"
        :max="120"
        :commit="(v: number) => onLeader(r.leader, 'Spline', (l) => (l.splineTeeth = Math.round(v)))"
      />
    </div>
    <p
      v-if="r.proposed && (r.proposed.leaderTeeth !== null || r.proposed.followerTeeth !== null)"
      class="muted small"
    >
      Without an offset in the program:
      <template v-if="r.proposed.leaderTeeth !== null">guide’s horn {{ toothWords(r.proposed.leaderTeeth) }}</template
      ><template v-if="r.proposed.leaderTeeth !== null && r.proposed.followerTeeth !== null">, or </template
      ><template v-if="r.proposed.followerTeeth !== null"
        >joint’s horn {{ toothWords(r.proposed.followerTeeth) }}</template
      >.
    </p>
  </section>
  <p v-if="!rows.length" class="muted small">
    No guide yet: a knob, or a small arm that is moved by hand and that joints copy.
  </p>
  <Button v-if="slots.length" size="small" severity="secondary" label="Add a guide" @click="add" />
</template>

<style scoped>
.problem,
.bad {
  color: var(--alarm);
}
.leader {
  border-bottom: 1px solid var(--lines);
  padding-bottom: 0.5rem;
  margin-bottom: 0.6rem;
}
.bars {
  width: 100%;
  height: auto;
  margin-top: 0.3rem;
}
.bars text {
  font-size: 13px;
  fill: var(--ink-2);
}
.bars .end {
  font-size: 12px;
  font-family: var(--mono);
}
.common {
  fill: var(--reach);
}
.asked {
  fill: none;
  stroke: var(--cork);
  stroke-width: 2;
}
.own {
  fill: var(--pine);
}
.teeth {
  width: 9.5rem;
}
</style>
