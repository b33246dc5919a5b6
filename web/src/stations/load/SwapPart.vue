<script setup lang="ts">
/** Other motors and gears, before and after side by side; and the lightest that are strong enough. */
import Button from 'primevue/button';
import { computed, ref, shallowRef, watch } from 'vue';
import { ampsAt, wattsOf, windingOf } from '@cork-elbow/core/actuators';
import { candidatesFor, shareOf, swapped, type Swap } from '@cork-elbow/core/loads';
import type { Drive, DriveFigures } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import { useCatalogue } from '../../shared/useCatalogue';
import { useEdit } from '../../shared/useEdit';
import { useJob } from '../../shared/useJob';
import { useOverlay } from '../../shared/useOverlay';
import { useSlots } from '../../shared/joints';
import { vRove } from '../../shared/rove';
import { shareState, shareText } from '../../shared/share-words';
import { useRigStore } from '../../stores/rig';
import LoadHolding from './LoadHolding.vue';
import { useLoads } from './useLoads';
import { massWords } from './words';

const rigs = useRigStore();
const edit = useEdit();
const slots = useSlots();
const { entries } = useCatalogue();
const { loading, worst, tool, payload } = useLoads();
const SAMPLES = 30_000;

/** Motors that have a joint to themselves: those that share stay as they are. */
const motors = computed(() =>
  (loading.value?.motors ?? []).flatMap((motor, k) =>
    motor.transmission.kind === 'ratio' ? [{ motor, k, reduction: motor.transmission.reduction }] : [],
  ),
);
const chosenId = ref<string | null>(null);
const chosen = computed(
  () => motors.value.find(({ motor }) => motor.drive.id === chosenId.value) ?? motors.value[0] ?? null,
);
const nameOf = (slot: number): string => slots.value[slot]?.name ?? '';
const unit = computed(() => (chosen.value?.motor.units[0] === 'mm' ? 'mm/s' : '°/s'));

// ── What is tried ─────────────────────────────────────────────────────────────────────────────────────────────────

const tried = shallowRef<readonly Swap[]>([]);
watch(
  () => [rigs.id, rigs.rig?.drives, rigs.rig?.transmissions] as const,
  () => (tried.value = []),
);
const triedOf = (id: string): Swap | undefined => tried.value.find(({ drive }) => drive === id);
const reduction = computed(() => {
  const own = chosen.value;
  return own ? (triedOf(own.motor.drive.id)?.reduction ?? own.reduction) : 1;
});
function attempt(swap: Swap): void {
  const before = triedOf(swap.drive);
  tried.value = [...tried.value.filter((t) => t !== before), { ...before, ...swap }];
}
const holding = computed(() => tool.value && { toolId: tool.value.id, payload: payload.value });
const after = useJob('trial', {
  request: () =>
    tried.value.length
      ? { holding: holding.value, samples: SAMPLES, accelerating: 'all' as const, swaps: tried.value }
      : null,
  when: () => [tried.value, rigs.hardware, holding.value] as const,
  after: 100,
});

/** Motors of its kind in the place of the chosen one, by what the worst pose takes of it now. */
const candidates = computed(() => {
  const own = chosen.value;
  const need = own && worst.answer.value?.starting?.[own.k];
  return own && need !== undefined && need !== null
    ? candidatesFor(own.motor, need, { now: own.reduction, then: reduction.value }, entries.value)
    : [];
});
const needed = computed(() => {
  const slot = chosen.value?.motor.slots[0];
  const { mechanism } = rigs;
  return slot === undefined || !mechanism ? 0 : mechanism.speed[slot] / mechanism.siPerUnit[slot];
});
const isNow = (figures: DriveFigures): boolean => {
  const id = chosen.value?.motor.drive.id;
  const drive = rigs.rig?.drives.find((d) => d.id === id);
  return (triedOf(id ?? '')?.figures ?? drive)?.model === figures.model;
};
const holdWords = ({ amps, rise }: Side['holds'][number]): string =>
  Number.isNaN(amps) ? '–' : `${formatNumber(amps, 2)} A${rise === null ? '' : `, +${formatNumber(rise, 0)} K`}`;
const state = (share: number | null): string => (share === null ? '' : shareState(share));
const percent = (share: number | null): string => (share === null ? '–' : shareText(share));

// ── Before and after ──────────────────────────────────────────────────────────────────────────────────────────────

const trialRig = computed(() => (rigs.hardware && tried.value.length ? swapped(rigs.hardware, tried.value) : null));
interface Side {
  readonly shares: readonly (number | null)[];
  /** Per motor, held for ever at its worst pose: A, and K that its winding rises by; null where they are not known. */
  readonly holds: readonly { readonly amps: number; readonly rise: number | null }[];
  readonly heaviest: number | null;
  readonly massG: number;
  readonly stallA: number;
  readonly price: number;
}
const sum = (drives: readonly Drive[], of: (drive: Drive) => number | undefined): number =>
  drives.reduce((total, drive) => total + (of(drive) ?? 0), 0);
function sideOf(drives: readonly Drive[], found: typeof worst.answer.value): Side | null {
  if (!found?.starting || found.motors.length !== loading.value?.motors.length) return null;
  return {
    shares: found.motors.map(({ value: { nm, usableNm } }, k) =>
      shareOf({ nm, usableNm, needNm: found.starting?.[k] ?? 0 }),
    ),
    holds: found.motors.map(({ value: { needNm } }, k) => {
      const drive = drives.find(({ id }) => id === loading.value!.motors[k].drive.id)!;
      const amps = ampsAt(drive, needNm, false);
      const winding = windingOf(drive);
      return {
        amps: amps ?? NaN,
        rise: amps === null || !winding ? null : wattsOf(winding, amps ** 2) * winding.kPerW,
      };
    }),
    heaviest: found.heaviest?.value.kg ?? null,
    massG: sum(drives, ({ massG }) => massG),
    stallA: sum(drives, ({ stallA }) => stallA),
    price: sum(drives, ({ price }) => price),
  };
}
const before = computed(() => (rigs.hardware ? sideOf(rigs.hardware.drives, worst.answer.value) : null));
const then = computed(() =>
  trialRig.value && after.isCurrent.value ? sideOf(trialRig.value.drives, after.answer.value) : null,
);
function take(): void {
  const swaps = tried.value;
  edit(swaps.length > 1 ? `${swaps.length} other motors` : `Other motor`, (draft) => {
    const next = swapped(draft, swaps);
    draft.drives = next.drives;
    draft.transmissions = next.transmissions;
  });
}

// ── The lightest ──────────────────────────────────────────────────────────────────────────────────────────────────

const leftPercent = ref(30);
const search = useJob('lightest', {
  request: () => ({ holding: holding.value, wanted: 1 - leftPercent.value / 100, entries: entries.value }),
});
const short = ref<readonly string[]>([]);
async function findLightest(): Promise<void> {
  const found = await search.again();
  if (!found) return;
  const drives = rigs.rig?.drives ?? [];
  short.value = found.short.map((id) => drives.find((d) => d.id === id)?.name ?? id);
  tried.value = found.swaps.filter(
    ({ drive, figures }) => drives.find((d) => d.id === drive)?.model !== figures?.model,
  );
}
useOverlay(() => ({ dimensions: false }));
</script>

<template>
  <div :data-swap="then ? 'tried' : tried.length ? 'trying' : 'none'">
    <p class="small muted">
      At the worst pose of each motor, as its joint speeds up as fast as it may. Nothing is changed until it is taken.
    </p>
    <LoadHolding />
    <p v-if="!motors.length" class="muted">No motor has a joint to itself here.</p>
    <template v-else>
      <div class="form">
        <ChoiceField
          label="motor of"
          name="Motor to swap"
          :options="motors.map(({ motor }) => ({ value: motor.drive.id, label: nameOf(motor.slots[0]) }))"
          :value="chosen?.motor.drive.id ?? null"
          @change="chosenId = $event as string"
        />
        <NumberField
          v-if="chosen"
          prefix="ratio"
          :value="Math.abs(reduction)"
          dimension="ratio"
          label="Ratio that is tried"
          :min="0.001"
          :max="100000"
          :commit="
            (v: number) => attempt({ drive: chosen!.motor.drive.id, reduction: v * Math.sign(chosen!.reduction) })
          "
        />
      </div>
      <table class="plain swaps" aria-label="Motors for this joint">
        <thead>
          <tr>
            <th>motor</th>
            <th class="right">mass</th>
            <th class="right">of its torque</th>
            <th class="right">speed, {{ unit }}</th>
            <th class="right">stall, A</th>
          </tr>
        </thead>
        <tbody v-rove="'.link'">
          <tr v-for="c in candidates" :key="c.entry.id" :class="{ now: isNow(c.entry.figures) }">
            <td>
              <button class="link" @click="attempt({ drive: chosen!.motor.drive.id, figures: c.entry.figures })">
                {{ c.entry.words }}
              </button>
            </td>
            <td class="num right">{{ c.entry.figures.massG ?? '–' }} g</td>
            <td class="num right" :class="state(c.share)">{{ percent(c.share) }}</td>
            <td class="num right" :class="{ over: c.speed < needed }">{{ formatNumber(c.speed, 0) }}</td>
            <td class="num right">{{ c.entry.figures.stallA ?? '–' }}</td>
          </tr>
        </tbody>
      </table>
      <p class="small muted">
        The joint is to reach {{ formatNumber(needed, 0) }} {{ unit }}. Figures are those of a size class: check them
        against your own motor.
      </p>
      <div class="row wrap find">
        <NumberField
          prefix="leave"
          :value="leftPercent"
          dimension="share"
          label="Share of torque to be left"
          :decimals="0"
          :min="0"
          :max="95"
          :commit="(v: number) => void (leftPercent = v)"
        />
        <Button
          size="small"
          severity="secondary"
          :disabled="search.isBusy.value"
          label="Find the lightest motors"
          @click="findLightest"
        />
      </div>
      <p v-if="short.length" class="small short" role="status">
        Nothing in the catalogue is strong and fast enough at this ratio for {{ short.join(', ') }}.
      </p>
      <template v-if="tried.length && before">
        <div class="rule">
          <h2>Before and after</h2>
          <Button size="small" label="Apply" :disabled="!then" @click="take" />
          <Button size="small" variant="text" label="Leave it" @click="tried = []" />
        </div>
        <table class="plain swaps" aria-label="Before and after">
          <thead>
            <tr>
              <th></th>
              <th class="right">before</th>
              <th class="right">after</th>
              <th class="right" title="Current, and rise of the winding, held for ever at its worst pose">
                held, before
              </th>
              <th class="right" title="Current, and rise of the winding, held for ever at its worst pose">after</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="{ motor, k } in motors" :key="motor.drive.id" :data-pair="motor.drive.id">
              <td>
                <span class="who"
                  ><JointMark v-for="slot in motor.slots" :key="slot" :index="slot" :size="20" />
                  {{ nameOf(motor.slots[0]) }}</span
                >
              </td>
              <td class="num right" :class="state(before.shares[k])">{{ percent(before.shares[k]) }}</td>
              <td class="num right" :class="then && state(then.shares[k])">
                {{ then ? percent(then.shares[k]) : '…' }}
              </td>
              <td class="num right">{{ holdWords(before.holds[k]) }}</td>
              <td class="num right">{{ then ? holdWords(then.holds[k]) : '…' }}</td>
            </tr>
          </tbody>
        </table>
        <table class="plain swaps" aria-label="The whole arm, before and after">
          <thead>
            <tr>
              <th></th>
              <th class="right">before</th>
              <th class="right">after</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <td>holds at most, anywhere</td>
              <td class="num right">{{ before.heaviest === null ? '–' : massWords(before.heaviest) }}</td>
              <td class="num right">{{ then && then.heaviest !== null ? massWords(then.heaviest) : '…' }}</td>
            </tr>
            <tr>
              <td>motors weigh</td>
              <td class="num right">{{ formatNumber(before.massG, 0) }} g</td>
              <td class="num right">{{ then ? `${formatNumber(then.massG, 0)} g` : '…' }}</td>
            </tr>
            <tr>
              <td>all held fast draw</td>
              <td class="num right">{{ formatNumber(before.stallA, 1) }} A</td>
              <td class="num right">{{ then ? `${formatNumber(then.stallA, 1)} A` : '…' }}</td>
            </tr>
            <tr v-if="before.price || then?.price">
              <td>motors cost</td>
              <td class="num right">{{ formatNumber(before.price, 2) }}</td>
              <td class="num right">{{ then ? formatNumber(then.price, 2) : '…' }}</td>
            </tr>
          </tbody>
        </table>
        <p class="small muted">
          What a motor weighs counts in the arm where it says where it sits (Motors, “Torque, current, mass and the
          rest”). Another motor wants its horn fitted and calibrated again.
        </p>
      </template>
    </template>
  </div>
</template>

<style scoped>
.swaps {
  width: 100%;
  margin: 0.3rem 0;
}
.swaps td,
.swaps th {
  padding: 0.12rem 0.4rem;
}
.swaps .right {
  text-align: right;
  white-space: nowrap;
}
.swaps tr.now {
  background: var(--pine-wash);
}
.who {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
}
.good {
  color: var(--good);
}
.tight {
  color: var(--caution);
  font-weight: 600;
}
.over,
.short {
  color: var(--alarm);
}
.over {
  font-weight: 600;
}
.find {
  margin: 0.5rem 0;
}
</style>
