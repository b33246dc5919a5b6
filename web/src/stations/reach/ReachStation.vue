<script setup lang="ts">
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { say } from '@cork-elbow/core/contract';
import { forward, solveInverse, type InverseResult, type Task } from '@cork-elbow/core/kinematics';
import { axisOf, positionOf, rpyOf, vec3, type Vec3 } from '@cork-elbow/core/linear';
import { fromSlotsRounded, toSlots } from '@cork-elbow/core/mechanism';
import { freeId } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import StationHead from '../../shared/StationHead.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';

type Aim = 'down' | 'level' | 'along' | 'free';
const rigs = useRigStore();
const view = useViewStore();
const tool = computed(() => rigs.mechanism?.tools.find((t) => t.mounted) ?? null);

const frameAt = (q: Float64Array): Float64Array | undefined =>
  tool.value && rigs.mechanism ? forward(rigs.mechanism, q).tools.get(tool.value.id) : undefined;
const target = ref<[number, number, number]>([0, 0, 0]);
const aim = ref<Aim>('free');
const along = ref<[number, number, number]>([1, 0, -1]);
/** Pose that solutions are counted from: where the arm stood before the question. */
const started = ref(false);

// The question begins where the tool is now.
watch(
  () => rigs.mechanism,
  () => {
    const frame = frameAt(view.q);
    if (!frame) return;
    const p = positionOf(frame);
    target.value = p.map((v) => Math.round(v * 10000) / 10) as [number, number, number];
    if (!started.value) aim.value = Math.abs(axisOf(frame, 2)[2] + 1) < 1e-3 ? 'down' : 'free';
    started.value = true;
  },
  { immediate: true },
);

const position = computed<Vec3>(() => [target.value[0] / 1000, target.value[1] / 1000, target.value[2] / 1000]);
function directionFor(p: Vec3): Vec3 | null {
  if (aim.value === 'down') return [0, 0, -1];
  if (aim.value === 'along') return vec3.unit(along.value);
  // Level: outward over the target.
  if (aim.value === 'level') return vec3.unit([p[0], p[1], 0]) ?? [1, 0, 0];
  return null;
}
const direction = computed(() => directionFor(position.value));
function ask(p: Vec3): InverseResult | null {
  const { mechanism } = rigs;
  if (!mechanism || !tool.value) return null;
  const d = directionFor(p);
  const task: Task = d ? { kind: 'direction', position: p, direction: d } : { kind: 'free', position: p };
  return solveInverse(mechanism, tool.value, task, view.editQ);
}
const result = computed(() => ask(position.value));
const chosen = ref(0);

/** A new question: the arm goes to the nearest answer, if there is one. */
function move(p: [number, number, number]): void {
  target.value = p;
  chosen.value = 0;
  const answer = result.value;
  if (answer?.reachable) view.setEdit(answer.solutions[0].q);
}
function setAim(next: Aim): void {
  aim.value = next;
  move([...target.value]);
}
function drag(p: Vec3): void {
  move(p.map((v) => Math.round(v * 10000) / 10) as [number, number, number]);
}
function take(k: number): void {
  chosen.value = k;
  const solution = result.value?.solutions[k];
  if (solution) view.setEdit(solution.q);
}
const missing = computed(() => result.value?.reasons.find((r) => r.byMm !== undefined));
useOverlay(() => ({
  target: position.value,
  targetNote:
    result.value?.reachable === false && missing.value
      ? `${formatNumber(missing.value.byMm!, 0)} mm ${missing.value.code === 'too-near' ? 'too near' : 'short'}`
      : '',
  ghost: result.value?.reachable === false ? (result.value.closest?.q ?? null) : null,
  reachDirection: aim.value === 'down' ? [0, 0, -1] : null,
  dimensions: true,
  onDrag: drag,
}));

const words = ['forward', 'left', 'up'] as const;
const aims: { id: Aim; name: string }[] = [
  { id: 'down', name: 'straight down' },
  { id: 'level', name: 'level' },
  { id: 'along', name: 'along …' },
  { id: 'free', name: 'free' },
];
const jointUnit = (slot: number): string => rigs.mechanism!.units[rigs.mechanism!.jointOfSlot[slot]];
const tightest = (q: Float64Array): { slot: number; by: number } => {
  const m = rigs.mechanism!;
  let best = { slot: -1, by: Infinity };
  for (const s of tool.value!.slots) {
    const by = Math.min(q[s] - m.lower[s], m.upper[s] - q[s]) / m.siPerUnit[s];
    if (by < best.by) best = { slot: s, by };
  }
  return best;
};
const headline = computed(() => {
  const reasons = result.value?.reasons ?? [];
  const first = reasons[0];
  if (!first) return '';
  if (first.code === 'too-far') return `Not quite: ${formatNumber(first.byMm!, 0)} mm short.`;
  if (first.code === 'too-near') return `Not quite: ${formatNumber(first.byMm!, 0)} mm too near.`;
  if (first.code === 'limit-in-the-way') return 'A limit is in the way.';
  return 'Not like this.';
});
const readout = computed(() => {
  const frame = frameAt(view.q);
  if (!frame) return null;
  const rpy = rpyOf(frame).map((v) => (v * 180) / Math.PI);
  return { rpy, z: axisOf(frame, 2) };
});

// Work spots: each tried with its own direction from where the arm stands.
const spots = computed(() =>
  (rigs.rig?.spots ?? []).map((spot) => {
    const { mechanism } = rigs;
    const p = spot.xyzMm.map((v) => v / 1000) as unknown as Vec3;
    const d = spot.direction && vec3.unit(spot.direction);
    const answer =
      mechanism && tool.value
        ? solveInverse(
            mechanism,
            tool.value,
            d ? { kind: 'direction', position: p, direction: d } : { kind: 'free', position: p },
            mechanism.home,
          )
        : null;
    const best = answer?.solutions[0];
    const margin = best ? tightest(best.q) : null;
    return {
      spot,
      best,
      margin,
      why: answer?.reasons[0]?.message ?? say('no-joints'),
      tone: !best ? 'short' : margin!.by < 8 ? 'tight' : 'reaches',
    };
  }),
);
function goToSpot(k: number): void {
  const { spot } = spots.value[k];
  if (!spot.direction) aim.value = 'free';
  else if (spot.direction[2] < 0 && spot.direction[0] === 0 && spot.direction[1] === 0) aim.value = 'down';
  else {
    aim.value = 'along';
    along.value = [...spot.direction];
  }
  move([...spot.xyzMm]);
}
function keepSpot(): void {
  const list = rigs.rig!.spots;
  rigs.commit(
    'Keep a work spot',
    (draft) =>
      void draft.spots.push({
        id: freeId(
          'spot',
          list.map((s) => s.id),
        ),
        name: `Spot ${list.length + 1}`,
        xyzMm: [...target.value],
        direction: direction.value ? [...direction.value] : null,
      }),
  );
}
function dropSpot(id: string): void {
  rigs.commit('Remove a work spot', (draft) => void (draft.spots = draft.spots.filter((s) => s.id !== id)));
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
        joints: fromSlotsRounded(mechanism, toSlots(mechanism, {}, view.q)),
        note: '',
      }),
  );
}
</script>

<template>
  <StationHead question="Can it get there?" />
  <p v-if="!tool" class="muted">There is no tool on the arm yet: add one on the Measure page.</p>
  <template v-else-if="result">
    <div class="ask">
      <span class="muted">Tip at</span>
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
        :commit="(v: number) => move(target.map((t, i) => (i === k ? v : t)) as [number, number, number])"
      />
    </div>
    <div class="ask tool">
      <span class="muted">Tool</span>
      <span class="choice" role="group" aria-label="Direction of the tool"
        ><button v-for="a in aims" :key="a.id" :aria-pressed="aim === a.id" @click="setAim(a.id)">
          {{ a.name }}
        </button></span
      >
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
        :commit="
          (v: number) => {
            const next = along.map((t, i) => (i === k ? v : t)) as [number, number, number];
            if (!vec3.unit(next)) return 'A direction needs a length: not all three may be 0.';
            along = next;
            move([...target]);
          }
        "
      />
    </div>

    <div v-if="!result.reachable" class="why" role="status" :data-reason="result.reasons[0]?.code">
      <h2>{{ headline }}</h2>
      <p v-for="(r, k) in result.reasons" :key="k">{{ r.message }}</p>
      <div v-if="result.closest" class="row">
        <Button
          size="small"
          severity="secondary"
          label="Go to the nearest pose"
          @click="view.setEdit(result.closest.q)"
        /><span class="small">dashed on the stage</span>
      </div>
    </div>

    <div class="rule">
      <h2>
        {{
          result.reachable
            ? result.solutions.length === 1
              ? 'One posture'
              : `${result.solutions.length} postures`
            : 'No posture'
        }}
      </h2>
      <Button v-if="result.reachable" size="small" variant="text" label="Keep as a pose" @click="keepPose" />
    </div>
    <div class="postures">
      <button
        v-for="(s, k) in result.solutions"
        :key="k"
        class="posture"
        :aria-pressed="chosen === k"
        @click="take(k)"
      >
        <b>{{ s.posture }}</b>
        <span class="muted small"
          >margin
          <span class="num">{{ formatNumber(tightest(s.q).by, 0) }}{{ jointUnit(tightest(s.q).slot) }}</span> at
          <JointMark :index="tightest(s.q).slot" :size="19"
        /></span>
        <span class="muted small"
          >away <span class="num">{{ formatNumber(s.away, 0) }}°</span></span
        >
      </button>
    </div>

    <div class="rule">
      <h2>Work spots</h2>
      <Button size="small" variant="text" label="Keep this target" @click="keepSpot" />
    </div>
    <table v-if="spots.length" class="plain">
      <thead>
        <tr>
          <th>spot</th>
          <th>tool</th>
          <th>posture</th>
          <th class="r">margin</th>
          <th></th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(s, k) in spots" :key="s.spot.id" :class="s.tone" :title="s.best ? '' : s.why">
          <td>
            <button class="link" @click="goToSpot(k)">{{ s.spot.name }}</button>
          </td>
          <td>{{ !s.spot.direction ? 'free' : s.spot.direction[2] < -0.99 ? 'down' : 'along' }}</td>
          <td>{{ s.best?.posture ?? '–' }}</td>
          <td class="r num">{{ s.margin ? `${formatNumber(s.margin.by, 0)}°` : '–' }}</td>
          <td class="verdict">{{ s.tone }}</td>
          <td class="r">
            <button class="link muted" :aria-label="`Remove ${s.spot.name}`" @click="dropSpot(s.spot.id)">×</button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="muted small">No work spots yet: place a target and keep it.</p>
    <p v-if="readout" class="readout muted small num">
      tool now: roll {{ formatNumber(readout.rpy[0], 1) }}°, pitch {{ formatNumber(readout.rpy[1], 1) }}°, yaw
      {{ formatNumber(readout.rpy[2], 1) }}°, pointing {{ readout.z.map((v) => formatNumber(v, 3)).join(', ') }}
    </p>
    <p class="muted small">Drag the target in the side view or the plan.</p>
  </template>
</template>

<style scoped>
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
.choice {
  display: flex;
}
.choice button {
  flex: 1 1 auto;
  padding-inline: 0.3rem;
  white-space: nowrap;
}
.why {
  background: var(--alarm-wash);
  border-left: 4px solid var(--alarm);
  border-radius: 3px;
  padding: 0.6rem 0.8rem;
  margin: 0.6rem 0;
  display: grid;
  gap: 0.35rem;
}
.postures {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 0.5rem;
  margin: 0.5rem 0;
}
.posture {
  display: grid;
  text-align: left;
  gap: 0.1rem;
  padding: 0.5rem 0.7rem;
  border: 1px solid var(--lines);
  background: var(--paper);
  border-radius: 4px;
  cursor: pointer;
}
.posture b::first-letter {
  text-transform: uppercase;
}
.posture[aria-pressed='true'] {
  border: 2px solid var(--pine);
  background: var(--pine-wash);
  padding: calc(0.5rem - 1px) calc(0.7rem - 1px);
}
.link {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  text-align: left;
  color: var(--pine);
  font-weight: 600;
}
.link.muted {
  color: var(--ink-2);
}
.verdict {
  font-weight: 700;
  color: var(--good);
}
.short .verdict {
  color: var(--alarm);
}
.short {
  background: var(--cork-wash);
}
.tight .verdict {
  color: var(--caution);
}
.readout {
  margin: 0.6rem 0 0.2rem;
}
</style>
