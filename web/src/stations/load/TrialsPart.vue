<script setup lang="ts">
/** Lifts that are tried joint by joint, light to heavy: foretold first, logged with this build, and what they say of its figures. */
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { applyFact } from '@cork-elbow/core/calibration';
import {
  aKilogram,
  foretell,
  heldBy,
  Loading,
  outcomeAt,
  trialPoses,
  trialSteps,
  type Held,
  type Outcome,
} from '@cork-elbow/core/loads';
import { inUnit } from '@cork-elbow/core/mechanism';
import type { Lift } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import { type CallError } from '../../api';
import { motorsApi } from '../../api-motors';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import { useSlots } from '../../shared/joints';
import { today } from '../../shared/today';
import { useEdit } from '../../shared/useEdit';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import TrialVerdict from './TrialVerdict.vue';
import { sayAt, useLoads } from './useLoads';
import { massWords, torqueWords } from './words';

const rigs = useRigStore();
const view = useViewStore();
const edit = useEdit();
const slots = useSlots();
const { empty, tool, torqueUnit } = useLoads();
useOverlay(() => ({ dimensions: false }));

/** Masses to try hang at the tool's point. */
const hanging = (massG: number): Held | null =>
  tool.value && heldBy(tool.value, { massG, comMm: [0, 0, 0], inertiaKgM2: null });
const kilogram = computed(() => {
  const { hardware, mechanism } = rigs;
  const held = hanging(1000);
  return hardware && mechanism && held ? aKilogram(hardware, mechanism, held) : null;
});

/** Motors that a mass in the hand can ask something of, each where that asks most of it and of no other too much; from light to heavy. */
const motors = computed(() => {
  const own = empty.value;
  const more = kilogram.value;
  if (!own || !more) return [];
  return trialPoses(own, more)
    .flatMap((q, k) => (q ? [{ motor: own.motors[k], k, q, ...trialSteps(own, more, k, q) }] : []))
    .filter(({ steps }) => steps.length > 0)
    .sort((a, b) => a.steps[0].kg - b.steps[0].kg);
});
const driveId = ref<string | null>(null);
const chosen = computed(
  () => motors.value.find(({ motor }) => motor.drive.id === driveId.value) ?? motors.value[0] ?? null,
);
const nameOf = (id: string): string => {
  const row = empty.value?.motors.find(({ drive }) => drive.id === id);
  return row && row.perJoint !== null ? (slots.value[row.slots[0]]?.name ?? id) : (row?.drive.name ?? id);
};
const endsWords = computed(() => {
  const ends = chosen.value?.ends;
  if (!ends) return '';
  return ends.kind === 'base'
    ? 'Heavier ones are left out: the base would tip.'
    : `Heavier ones are left out: ${nameOf(empty.value!.motors[ends.index].drive.id)} may not hold them for long.`;
});

// ── The trial at hand ─────────────────────────────────────────────────────────────────────────────────────────────

const grams = ref(0);
const celsius = ref<number | null>(null);
const note = ref('');
const problem = ref('');
watch(
  chosen,
  (now, before) => {
    if (now?.motor.drive.id === before?.motor.drive.id && grams.value) return;
    grams.value = Math.round(1000 * (now?.steps[0]?.kg ?? 0));
  },
  { immediate: true },
);
/** As the arm stands, with so much in its hand. */
const foretold = computed(() => {
  const { hardware, mechanism } = rigs;
  const row = chosen.value;
  if (!hardware || !mechanism || !row || !tool.value || view.readQ.length !== mechanism.m) return null;
  const held = grams.value > 0 ? hanging(grams.value) : null;
  return foretell(new Loading(hardware, mechanism, held ? [held] : []), row.k, view.readQ);
});
const outcomeWords: Record<Outcome, string> = {
  lifted: 'lifts it',
  slowly: 'lifts it slowly',
  stalled: 'stalls',
};
const said = (nm: number): string =>
  chosen.value
    ? torqueWords(sayAt(chosen.value.motor, nm), chosen.value.motor.units[0] === 'mm' ? 'N' : 'N·m', torqueUnit.value)
    : '';
function standThere(): void {
  if (chosen.value) view.setEdit(chosen.value.q);
}
function stands(): boolean {
  const row = chosen.value;
  const q = view.readQ;
  return row !== null && q.length === row.q.length && row.q.every((v, slot) => Math.abs(v - q[slot]) < 1e-6);
}

async function log(result: Outcome): Promise<void> {
  const { mechanism } = rigs;
  const row = chosen.value;
  if (!mechanism || !row || !foretold.value) return;
  const lift: Lift = {
    drive: row.motor.drive.id,
    joints: Object.fromEntries(
      mechanism.slotIds.map((id, slot) => [id, Math.round(1000 * inUnit(mechanism, slot, view.readQ[slot])) / 1000]),
    ),
    payloadG: grams.value,
    needNm: foretold.value.needNm,
    hasNm: foretold.value.stallNm,
    result,
    ...(celsius.value === null ? {} : { celsius: celsius.value }),
    note: note.value,
    takenOn: today(),
  };
  const refused = edit(`Lift of ${nameOf(lift.drive)}`, (draft) =>
    applyFact(
      draft.builds.find(({ id }) => id === rigs.build!.id)!,
      { kind: 'lift', lift },
    ),
  );
  problem.value = refused ?? '';
  if (refused) return;
  try {
    await motorsApi.recordCalibration(rigs.id!, rigs.build!.id, { kind: 'lift', lift }, note.value);
  } catch (error) {
    problem.value = `It stands in the document, but not in the history: ${(error as CallError).message}`;
  }
  note.value = '';
  celsius.value = null;
  const next = row.steps.find(({ kg }) => Math.round(1000 * kg) > grams.value);
  if (next && result === 'lifted') grams.value = Math.round(1000 * next.kg);
}

// ── What was tried ────────────────────────────────────────────────────────────────────────────────────────────────

const lifts = computed(() => [...(rigs.build?.lifts ?? [])].reverse());
const own = computed(() => lifts.value.filter(({ drive }) => drive === chosen.value?.motor.drive.id));
function remove(lift: Lift): void {
  problem.value =
    edit('Delete a lift', (draft) => {
      const build = draft.builds.find(({ id }) => id === rigs.build!.id)!;
      const text = JSON.stringify(lift);
      build.lifts = build.lifts?.filter((other) => JSON.stringify(other) !== text);
    }) ?? '';
}
const asForetold = (lift: Lift): boolean => outcomeAt(lift.needNm / lift.hasNm) === lift.result;
</script>

<template>
  <div data-trials>
    <p v-if="!tool" class="muted">There is no tool on the arm yet that could hold a load.</p>
    <p v-else-if="!motors.length" class="muted">
      No motor of which a torque is known bears what the tool holds, so there is nothing to try.
    </p>
    <template v-if="chosen">
      <div class="form">
        <ChoiceField
          label="motor, lightest first"
          :options="motors.map(({ motor }) => ({ value: motor.drive.id, label: nameOf(motor.drive.id) }))"
          :value="chosen.motor.drive.id"
          @change="driveId = $event as string"
        />
        <Button
          size="small"
          severity="secondary"
          label="Stand in its hardest pose"
          :disabled="stands()"
          @click="standThere"
        />
      </div>
      <table class="plain steps" aria-label="Masses to try">
        <thead>
          <tr>
            <th>hold</th>
            <th class="right">takes there</th>
            <th class="right">of its stall torque</th>
            <th>foretold</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="step in chosen.steps" :key="step.kg" :data-step="Math.round(1000 * step.kg)">
            <td class="num">{{ massWords(step.kg) }}</td>
            <td class="num right">{{ said(step.needNm) }}</td>
            <td class="num right">{{ formatNumber((100 * step.needNm) / step.stallNm, 0) }} %</td>
            <td>{{ outcomeWords[step.outcome] }}</td>
            <td>
              <Button
                size="small"
                variant="text"
                label="Try"
                :aria-label="`Try ${massWords(step.kg)}`"
                @click="
                  grams = Math.round(1000 * step.kg);
                  standThere();
                "
              />
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="endsWords" class="small muted">{{ endsWords }}</p>
      <h2 class="more">This lift</h2>
      <div class="form">
        <label
          >hung at its point
          <NumberField
            :value="grams"
            dimension="mass"
            label="Mass in its hand"
            :decimals="0"
            :min="0"
            :max="500000"
            :commit="(v: number) => void (grams = v)"
        /></label>
        <label
          >motor afterwards
          <NumberField
            :value="celsius ?? 0"
            :unset="celsius === null ? 'unknown' : null"
            dimension="temperature"
            label="Temperature of the motor afterwards"
            :decimals="0"
            :min="-20"
            :max="300"
            :commit="(v: number) => void (celsius = v || null)"
        /></label>
        <TextField
          class="grow"
          :value="note"
          label="Note to this lift"
          placeholder="a note"
          :commit="(v: string) => void (note = v)"
        />
      </div>
      <p v-if="foretold" class="foretold" :data-foretold="foretold.outcome">
        As it stands: <b>{{ nameOf(chosen.motor.drive.id) }} {{ outcomeWords[foretold.outcome] }}</b
        >. It takes <span class="num">{{ said(foretold.needNm) }}</span>, of
        <span class="num">{{ said(foretold.stallNm) }}</span> at which it stalls.
      </p>
      <p class="caution small">
        Nobody reaches under a raised load; hands, hair and sleeves clear. Lift it by a hand’s breadth from something
        soft, for a second or two, and let a stalled motor go at once.
      </p>
      <div class="row wrap" role="group" aria-label="What came of it">
        <span>It</span>
        <Button size="small" severity="secondary" label="lifted it" :disabled="!foretold" @click="log('lifted')" />
        <Button
          size="small"
          severity="secondary"
          label="lifted it slowly"
          :disabled="!foretold"
          @click="log('slowly')"
        />
        <Button size="small" severity="secondary" label="stalled" :disabled="!foretold" @click="log('stalled')" />
      </div>
      <TrialVerdict v-if="own.length && kilogram" :row="chosen" :kilogram :lifts="own" />
    </template>
    <p v-if="problem" class="problem small" role="alert">{{ problem }}</p>
    <template v-if="lifts.length">
      <h2 class="more">Tried with {{ rigs.build!.name }}</h2>
      <table class="plain steps" aria-label="Lifts that were tried">
        <thead>
          <tr>
            <th>day</th>
            <th>motor</th>
            <th class="right">held</th>
            <th>foretold</th>
            <th>came</th>
            <th class="right">then</th>
            <th></th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(lift, k) in lifts" :key="k" :data-lift="lift.result" :class="{ other: !asForetold(lift) }">
            <td class="nowrap small">{{ lift.takenOn }}</td>
            <td>{{ nameOf(lift.drive) }}</td>
            <td class="num right">{{ massWords(lift.payloadG / 1000) }}</td>
            <td>{{ outcomeWords[outcomeAt(lift.needNm / lift.hasNm)] }}</td>
            <td class="came">{{ outcomeWords[lift.result] }}</td>
            <td class="num right">{{ lift.celsius === undefined ? '' : `${formatNumber(lift.celsius, 0)} °C` }}</td>
            <td class="small muted">{{ lift.note }}</td>
            <td>
              <Button
                size="small"
                variant="text"
                label="Delete"
                :aria-label="`Delete the lift of ${massWords(lift.payloadG / 1000)}`"
                @click="remove(lift)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.steps {
  width: 100%;
}
.steps td,
.steps th {
  padding: 0.14rem 0.4rem;
}
.right {
  text-align: right;
  white-space: nowrap;
}
.more {
  margin: 0.9rem 0 0.2rem;
}
.foretold {
  margin: 0.4rem 0;
}
.caution {
  color: var(--caution);
}
.other .came {
  color: var(--alarm);
  font-weight: 600;
}
</style>
