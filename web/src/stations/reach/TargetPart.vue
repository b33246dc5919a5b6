<script setup lang="ts">
/** One target: typed, dragged, nudged or picked; its postures, and why not. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { reachRegion } from '@cork-elbow/core/drawing';
import { vec3, type Vec3 } from '@cork-elbow/core/linear';
import { fromSlotsRounded } from '@cork-elbow/core/mechanism';
import { freeId } from '@cork-elbow/core/rig';
import { formatNumber, toMm } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import HoldStill from './HoldStill.vue';
import NudgePad from './NudgePad.vue';
import PostureList from './PostureList.vue';
import ReadOut from './ReadOut.vue';
import SpotTable from './SpotTable.vue';
import WhyNot from './WhyNot.vue';
import type { OthersWay } from './other-tools';
import { WORLD } from './target-frame';
import { useReach, type AimKind } from './useReach';

const rigs = useRigStore();
const view = useViewStore();
const reach = useReach();
const { tool, target, aim, along, turned, fromUp, answer, frameId, frames, worldTarget, direction, others } = reach;

const words = ['forward', 'left', 'up'] as const;
const aims: { id: AimKind; name: string; title: string }[] = [
  { id: 'free', name: 'free', title: 'The tool may point any way' },
  { id: 'down', name: 'down', title: 'The tool points straight down' },
  { id: 'level', name: 'level', title: 'The tool lies level, whatever its heading' },
  { id: 'outward', name: 'outward', title: 'The tool points level, straight outward from the base' },
  { id: 'tilt', name: 'tilted …', title: 'The tool stands at an angle from up, whatever its heading' },
  { id: 'along', name: 'along …', title: 'The tool points along a direction that you give' },
  { id: 'full', name: 'turned …', title: 'The tool’s whole rotation is given' },
  { id: 'spot', name: 'at target', title: 'The tool stays where it can and points at the target' },
];
const tools = computed(() =>
  (rigs.mechanism?.tools ?? []).filter((t) => t.mounted).map((t) => ({ label: t.name, value: t.id })),
);
const ways: { label: string; value: OthersWay }[] = [
  { label: 'turn as they need', value: 'free' },
  { label: 'stay where they are', value: 'stay' },
  { label: 'are carried along', value: 'along' },
];
const setPart = (list: readonly number[], k: number, v: number): [number, number, number] =>
  list.map((old, i) => (i === k ? v : old)) as [number, number, number];
function setAlong(k: number, v: number): string | void {
  const next = setPart(along.value, k, v);
  if (!vec3.unit(next)) return 'A direction needs a length: not all three may be 0.';
  along.value = next;
  void reach.solve(true);
}
function setFromUp(v: number): void {
  fromUp.value = v;
  void reach.solve(true);
}
function setTurned(k: number, v: number): void {
  turned.value = setPart(turned.value, k, v);
  void reach.solve(true);
}

/** The direction that the side view's reach outline is drawn for; null: any, undefined: no outline. */
const outlines: Partial<Record<AimKind, Vec3 | null>> = {
  down: [0, 0, -1],
  level: [1, 0, 0],
  outward: [1, 0, 0],
  free: null,
};
const missing = computed(() => answer.value?.reasons.find((r) => r.byMm !== undefined));
const verdict = computed(() =>
  !answer.value ? 'none' : !answer.value.reachable ? 'missed' : answer.value.isFree ? 'reached' : 'obstructed',
);
const isMissed = computed(() => !reach.isDragging.value && answer.value?.reachable === false);
/** What stands beside the target where the tool does not come to it. */
const note = computed(() => {
  if (reach.isDragging.value && !reach.isHit.value) return 'edge of reach';
  const short = isMissed.value ? missing.value : null;
  if (!short || short.byMm! < 0.5) return '';
  return `${formatNumber(short.byMm!, 0)} mm ${short.code === 'too-near' ? 'too near' : 'short'}`;
});
/** By itself, so that a drag does not ask for it again at every picture; space shows no outline. */
const region = computed(() => {
  const direction = outlines[aim.value];
  return rigs.mechanism && tool.value && direction !== undefined && view.stage !== '3d'
    ? reachRegion(rigs.mechanism, tool.value, direction)
    : null;
});
useOverlay(() => ({
  layers: {
    target: worldTarget.value && { at: worldTarget.value, note: note.value },
    ghosts: isMissed.value && answer.value?.closest ? [answer.value.closest.q] : null,
    region: region.value,
    frames: frameId.value !== WORLD || null,
  },
  dimensions: true,
  onDrag: reach.drag,
  onDrop: reach.drop,
}));

function keepSpot(): void {
  const list = rigs.rig!.spots;
  const d = direction.value;
  rigs.commit(
    'Keep a work spot',
    (draft) =>
      void draft.spots.push({
        id: freeId(
          'spot',
          list.map((s) => s.id),
        ),
        name: `Spot ${list.length + 1}`,
        xyzMm: worldTarget.value.map((v) => Math.round(toMm(v) * 1000) / 1000) as [number, number, number],
        direction: d ? ([...d] as [number, number, number]) : null,
      }),
  );
}
function keepPose(): void {
  const { mechanism, rig } = rigs;
  if (!mechanism || !rig) return;
  rigs.commit(
    'Keep a pose',
    (draft) =>
      void draft.poses.push({
        id: freeId(
          'pose',
          rig.poses.map((p) => p.id),
        ),
        name: `Pose ${rig.poses.length + 1}`,
        joints: fromSlotsRounded(mechanism, view.q),
        note: '',
      }),
  );
}
</script>

<template>
  <div class="target" :data-answer="reach.isAsking.value ? 'asking' : verdict">
    <div v-if="tools.length > 1 || frames.length > 2" class="two">
      <ChoiceField
        v-if="tools.length > 1"
        label="tool"
        name="Tool to place"
        :options="tools"
        :value="tool!.id"
        @change="reach.setTool(String($event))"
      />
      <ChoiceField
        label="target given in"
        name="Frame of the target"
        :options="frames"
        :value="frameId"
        @change="reach.setFrame(String($event))"
      />
    </div>
    <div class="ask">
      <span class="muted">{{ aim === 'spot' ? 'Spot' : 'Tip at' }}</span>
      <NumberField
        v-for="(word, k) in words"
        :key="word"
        :prefix="word"
        :value="target[k]"
        dimension="length"
        :decimals="1"
        :label="`Target ${word}`"
        :min="-5000"
        :max="5000"
        :commit="(v: number) => reach.move(setPart(target, k, v))"
      />
    </div>
    <div class="ask tool">
      <span class="muted">Tool</span>
      <span v-rove.across="'button'" class="choice" role="group" aria-label="Direction of the tool"
        ><button
          v-for="a in aims"
          :key="a.id"
          :aria-pressed="aim === a.id"
          :title="a.title"
          @click="reach.setAim(a.id)"
        >
          {{ a.name }}
        </button></span
      >
    </div>
    <div v-if="aim === 'tilt'" class="ask">
      <span class="muted"></span>
      <NumberField
        prefix="from up"
        :value="fromUp"
        dimension="angle"
        :decimals="1"
        label="Tool’s angle from up"
        :min="0"
        :max="180"
        :commit="setFromUp"
      />
    </div>
    <div v-if="aim === 'along'" class="ask">
      <span class="muted">along</span>
      <NumberField
        v-for="(word, k) in words"
        :key="word"
        :prefix="word"
        :value="along[k]"
        dimension="ratio"
        :label="`Direction ${word}`"
        :commit="(v: number) => setAlong(k, v)"
      />
    </div>
    <div v-if="aim === 'full'" class="ask">
      <span class="muted">turned</span>
      <NumberField
        v-for="(word, k) in ['roll', 'pitch', 'yaw']"
        :key="word"
        :prefix="word"
        :value="turned[k]"
        dimension="angle"
        :decimals="1"
        :label="`Tool ${word}`"
        :min="-360"
        :max="360"
        :commit="(v: number) => setTurned(k, v)"
      />
    </div>
    <NudgePad />
    <HoldStill>
      <span v-if="others.length" class="small others"
        >the other tools
        <ChoiceField
          label=""
          name="The other tools"
          :options="ways"
          :value="reach.othersWay.value"
          @change="reach.setOthers($event as OthersWay)"
      /></span>
    </HoldStill>

    <template v-if="answer">
      <WhyNot v-if="!answer.isFree && !reach.isDragging.value" />
      <div class="rule">
        <h2>
          {{
            answer.reachable
              ? answer.solutions.length === 1
                ? 'One posture'
                : `${answer.solutions.length} postures`
              : 'No posture'
          }}
        </h2>
        <Button v-if="answer.reachable" size="small" variant="text" label="Save as a pose" @click="keepPose" />
      </div>
      <PostureList v-if="answer.reachable" />
    </template>

    <div class="rule">
      <h2>Work spots</h2>
      <Button size="small" variant="text" label="Save as a work spot" @click="keepSpot" />
    </div>
    <SpotTable />
    <ReadOut />
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
  margin-bottom: 0.5rem;
}
.ask {
  display: grid;
  grid-template-columns: 2.9rem repeat(3, minmax(0, 1fr));
  gap: 0.45rem;
  align-items: center;
  margin-bottom: 0.5rem;
}
.ask.tool {
  grid-template-columns: 2.9rem 1fr;
}
@container station (max-width: 29rem) {
  .ask:not(.tool) {
    grid-template-columns: repeat(3, minmax(0, 1fr));
  }
  .ask:not(.tool) > .muted {
    grid-column: 1 / -1;
    margin-bottom: -0.3rem;
  }
}
.choice {
  display: flex;
  flex-wrap: wrap;
}
.choice button {
  flex: 1 1 auto;
  padding-inline: 0.2rem;
  white-space: nowrap;
}
@container station (max-width: 29rem) {
  .choice button {
    flex-basis: 25%;
  }
}
.others {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  margin-left: 0.5rem;
}
</style>
