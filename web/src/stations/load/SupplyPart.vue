<script setup lang="ts">
/** Supply by supply: what it has to give, against what it gives; leads, and how long a battery lasts. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { batteryHours, supplyBudget, type DrawnAlong, type RailBudget, type Rating } from '@cork-elbow/core/loads';
import type { Rail } from '@cork-elbow/core/rig';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import ShareBar from '../../shared/ShareBar.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useGo } from '../../workspace/useGo';
import { usePlan } from '../../workspace/usePlan';
import LeadTable from './LeadTable.vue';
import LetGo from './LetGo.vue';
import PinLoads from './PinLoads.vue';
import { useLoads } from './useLoads';

const rigs = useRigStore();
const edit = useEdit();
const plan = usePlan();
const { routineId, routine } = plan;
const go = useGo(plan);
const { along, loading, showAt } = useLoads();

useOverlay(() => ({ dimensions: false }));

const drawn = computed((): DrawnAlong | null => {
  const found = along.answer.value;
  const motors = loading.value?.motors;
  if (!found || !motors || found.amps.length !== motors.length) return null;
  const amps = new Map(motors.map(({ drive }, k) => [drive.id, found.amps[k].map((a) => (Number.isNaN(a) ? 0 : a))]));
  return { timeS: found.timeS, amps };
});
const rails = computed(() => (rigs.hardware ? supplyBudget(rigs.hardware, drawn.value) : []));
const used = computed(() => rails.value.filter(({ drives, stallA }) => drives.length || stallA > 0));
const wiring = computed(() => rigs.rig?.wiring ?? []);
const nameOf = (id: string): string => rigs.rig?.drives.find((drive) => drive.id === id)?.name ?? id;
const loose = computed(() => wiring.value.filter(({ rail }) => rail === null).map(({ drive }) => nameOf(drive)));

const amps = (a: number): string => `${formatNumber(a, a < 10 ? 2 : 1)} A`;
interface Figure {
  readonly key: string;
  readonly words: string;
  readonly amps: number;
  /** Whether it is more than a part that it goes through may carry. */
  readonly state: 'good' | 'over' | 'tight' | 'unknown';
  readonly says: string;
  readonly atS?: number;
}
const ratingWords: Record<Rating['part'], (amps: string) => string> = {
  supply: (a) => `more than the ${a} it gives`,
  regulator: (a) => `more than the ${a} its regulator gives`,
  fuse: (a) => `more than its fuse of ${a}`,
  relay: (a) => `more than the ${a} its relay carries`,
  connector: (a) => `more than the ${a} its connector carries`,
};
/** How much it is of all that it goes through. */
function figuresOf({ idleA, movingA, stallA, oneByOneA, run, givesA, ratings }: RailBudget): Figure[] {
  const against = (key: string, words: string, a: number, isHard: boolean, atS?: number): Figure => {
    const says = ratings
      .filter((rating) => a > rating.amps)
      .map((rating) => ratingWords[rating.part](amps(rating.amps)))
      .join(', ');
    const state = says ? (isHard ? 'over' : 'tight') : givesA === null ? 'unknown' : 'good';
    return { key, words, amps: a, state, says, ...(atS === undefined ? {} : { atS }) };
  };
  return [
    against('idle', 'standing', idleA, true),
    ...(run ? [against('run', 'most in the routine', run.peakA, true, run.peakAtS)] : []),
    against('moving', 'all moving freely', movingA, true),
    against('one', 'switched on one after the other', oneByOneA, true),
    against('stall', 'all held fast at once', stallA, false),
  ];
}
const scaleOf = ({ givesA, stallA }: RailBudget): number => Math.max(givesA ?? 0, stallA, 1e-9);
const limit = (budget: RailBudget): number | null => budget.givesA && budget.givesA / scaleOf(budget);

const neededH = ref(1);
function runtime({ rail, run, movingA }: RailBudget): { words: string; isEnough: boolean; basis: string } | null {
  const hours = batteryHours(rail, run?.meanA ?? movingA);
  if (hours === null) return null;
  const words = hours >= 1 ? `${formatNumber(hours, 1)} h` : `${formatNumber(60 * hours, 0)} min`;
  const basis = run
    ? `at ${amps(run.meanA)}, the mean of the routine again and again`
    : `with all motors moving, ${amps(movingA)}`;
  return { words: hours === Infinity ? 'for ever' : words, isEnough: hours >= neededH.value, basis };
}

// ── What is known of supplies and leads ───────────────────────────────────────────────────────────────────────────

const change = (label: string, rail: Rail, recipe: (rail: Rail) => void): string | void =>
  edit(label, (draft) => recipe(draft.rails.find(({ id }) => id === rail.id)!));
const setCharge = (rail: Rail, mAh: number): string | void =>
  change(`Charge of ${rail.name}`, rail, (r) => {
    if (mAh > 0) r.battery = { mAh, usable: r.battery?.usable ?? 0.8 };
    else delete r.battery;
  });
const carriers = [
  ['relay', 'relayA'],
  ['connector', 'connectorA'],
] as const;
const DIRECT = '';
const setFrom = (rail: Rail, from: string): string | void =>
  change(`What feeds ${rail.name}`, rail, (r) => {
    if (from === DIRECT) delete r.from;
    else r.from = { rail: from, efficiency: r.from?.efficiency ?? 0.85 };
  });
</script>

<template>
  <div data-supply>
    <div class="form">
      <ChoiceField
        v-if="rigs.rig?.routines.length"
        label="routine"
        :options="rigs.rig.routines.map(({ id, name }) => ({ value: id, label: name }))"
        :value="routine?.id ?? null"
        @change="routineId = $event as string"
      />
      <label v-if="used.some(({ rail }) => rail.source === 'battery')"
        >needed for
        <NumberField
          :value="neededH"
          dimension="hours"
          label="Time needed"
          :min="0"
          :max="1000"
          :commit="(v: number) => void (neededH = v)"
      /></label>
    </div>
    <p v-if="!rails.length" class="row wrap muted">
      There is no supply yet.
      <Button
        size="small"
        severity="secondary"
        label="Add one on the Motors page"
        @click="go({ place: { station: 'motors', part: 'rails' } })"
      />
    </p>
    <p v-else-if="loose.length" class="row wrap small muted">
      On no supply: {{ loose.join(', ') }}.
      <Button
        size="small"
        variant="text"
        label="Choose their supply"
        @click="go({ place: { station: 'motors', part: 'wires' } })"
      />
    </p>
    <section v-for="budget in used" :key="budget.rail.id" class="rail" :aria-label="budget.rail.name">
      <header class="row wrap">
        <h2>{{ budget.rail.name }}</h2>
        <span class="small muted num"
          >{{ formatNumber(budget.rail.volts, 1) }} V<template v-if="budget.givesA !== null"
            >, {{ amps(budget.givesA) }}</template
          ><template v-if="budget.rail.fuseA">, fuse {{ amps(budget.rail.fuseA) }}</template></span
        >
        <Button
          v-if="budget.givesA === null"
          size="small"
          variant="text"
          label="Enter what it gives"
          @click="go({ place: { station: 'motors', part: 'rails' } })"
        />
      </header>
      <ul class="figures">
        <li
          v-for="figure in figuresOf(budget)"
          :key="figure.key"
          :data-amps="figure.key"
          :data-state="figure.state"
          :class="figure.state"
        >
          <span
            >{{ figure.words
            }}<button v-if="figure.atS !== undefined" class="link" @click="showAt(figure.atS)">
              , at {{ formatFixed(figure.atS, 1) }} s
            </button></span
          >
          <ShareBar :part="figure.amps / scaleOf(budget)" :state="figure.state" :mark="limit(budget)" />
          <b class="num">{{ amps(figure.amps) }}</b>
          <span v-if="figure.says" class="says small">{{ figure.says }}</span>
        </li>
      </ul>
      <p v-if="budget.unknown.length" class="small muted">
        Not known, and left out: current of {{ budget.unknown.map(nameOf).join(', ') }}.
      </p>
      <p v-if="runtime(budget)" class="small" :class="{ short: !runtime(budget)!.isEnough }" data-runtime>
        The battery lasts <b class="num">{{ runtime(budget)!.words }}</b> {{ runtime(budget)!.basis
        }}{{ runtime(budget)!.isEnough ? '.' : `: less than the ${formatNumber(neededH, 1)} h needed.` }}
      </p>
      <div class="form">
        <label v-if="budget.rail.source === 'battery'"
          >it holds
          <NumberField
            :value="budget.rail.battery?.mAh ?? 0"
            :unset="budget.rail.battery ? null : 'unknown'"
            dimension="charge"
            :label="`Charge of ${budget.rail.name}`"
            :min="0"
            :max="1000000"
            :commit="(v: number) => setCharge(budget.rail, v)"
        /></label>
        <label v-if="budget.rail.battery"
          >of that may be used
          <NumberField
            :value="100 * budget.rail.battery.usable"
            dimension="share"
            :label="`Share of ${budget.rail.name} that may be used`"
            :min="1"
            :max="100"
            :commit="(v: number) => change('Usable charge', budget.rail, (r) => void (r.battery!.usable = v / 100))"
        /></label>
        <label v-for="[part, key] in carriers" :key
          >{{ part }} carries
          <NumberField
            :value="budget.rail[key] ?? 0"
            :unset="budget.rail[key] ? null : 'unknown'"
            dimension="current"
            :label="`What the ${part} of ${budget.rail.name} carries`"
            :min="0"
            :max="1000"
            :commit="
              (v: number) => change(`What the ${part} carries`, budget.rail, (r) => void (r[key] = v || undefined))
            "
        /></label>
        <ChoiceField
          v-if="budget.rail.source !== 'board' && rails.length > 1"
          label="made by a converter from"
          :name="`What feeds ${budget.rail.name}`"
          :options="[
            { value: DIRECT, label: 'none: a supply of its own' },
            ...rails
              .filter(({ rail }) => rail.id !== budget.rail.id)
              .map(({ rail }) => ({ value: rail.id, label: rail.name })),
          ]"
          :value="budget.rail.from?.rail ?? DIRECT"
          @change="setFrom(budget.rail, $event as string)"
        />
        <label v-if="budget.rail.from"
          >of the power arrives
          <NumberField
            :value="100 * budget.rail.from.efficiency"
            dimension="share"
            :label="`Efficiency of the converter of ${budget.rail.name}`"
            :min="10"
            :max="100"
            :commit="(v: number) => change('Converter', budget.rail, (r) => void (r.from!.efficiency = v / 100))"
        /></label>
      </div>
      <LeadTable v-if="budget.leads.length" :budget />
    </section>
    <PinLoads />
    <LetGo />
    <p class="small muted">
      By the figures of the motors, at their torque in the routine. A battery is charged out of the arm, watched, and
      never when it is swollen, punctured or below freezing; store it half full, away from what burns. Fuse, relay and
      connectors carry no less than the most in the routine. Mains wiring is for a qualified electrician under local
      rules.
    </p>
  </div>
</template>

<style scoped>
.rail {
  border-top: 1px solid var(--lines);
  padding: 0.6rem 0 0.5rem;
}
.figures {
  list-style: none;
  margin: 0.4rem 0;
  padding: 0;
}
.figures li {
  display: grid;
  grid-template-columns: 13.5rem minmax(4rem, 1fr) 4.5rem;
  align-items: center;
  gap: 0.1rem 0.6rem;
  min-height: 1.7rem;
}
.figures b {
  text-align: right;
}
.says {
  grid-column: 2 / span 2;
  justify-self: start;
}
.over b,
.over .says,
.short {
  color: var(--alarm);
}
@container station (max-width: 28rem) {
  .figures li {
    grid-template-columns: 9rem minmax(3rem, 1fr) 4.2rem;
  }
}
</style>
