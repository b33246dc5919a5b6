<script setup lang="ts">
/** What the jaws hold by friction, and how hard they squeeze for what is held. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { gripOn, massHeld, squeezeFor } from '@cork-elbow/core/loads';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import { useGo } from '../../workspace/useGo';
import { usePlan } from '../../workspace/usePlan';
import { useLoads } from './useLoads';
import { massWords } from './words';

const rigs = useRigStore();
const go = useGo(usePlan());
const { tool, loading, payload } = useLoads();
/** mm/s² upwards, on top of the weight. */
const accel = ref(1000);
const document = computed(() => rigs.rig?.mechanism.tools.find(({ id }) => id === tool.value?.id) ?? null);
/** The narrowest side is what jaws close on. */
const widthMm = computed(() => ('sizeMm' in payload.value ? Math.min(...(payload.value.sizeMm as number[])) : 0));
const grip = computed(() =>
  document.value && loading.value && rigs.mechanism
    ? gripOn(loading.value, rigs.mechanism, document.value, widthMm.value)
    : null,
);
const mu = computed(() => document.value?.padFriction ?? 0);
const kg = computed(() => payload.value.massG / 1000);
const needed = computed(() => squeezeFor(kg.value, mu.value, accel.value / 1000));
const why = {
  'no-table': 'How wide its jaws open at which value is not known',
  'no-motor': 'No motor whose torque is known moves the jaws alone',
  'too-wide': 'Its jaws do not close on something that wide or that thin',
} as const;
const state = computed(() => {
  if (!grip.value?.ok || !mu.value) return null;
  const { longN, stallN } = grip.value;
  if (needed.value > stallN) return { kind: 'over', words: 'It slips, however hard it squeezes.' };
  if (needed.value > longN)
    return { kind: 'tight', words: 'It holds, but only by squeezing harder than its motor may for long.' };
  return { kind: 'good', words: 'It holds by friction.' };
});
</script>

<template>
  <section
    v-if="grip && (grip.ok || grip.why !== 'no-jaw')"
    :data-grip="grip.ok ? (state?.kind ?? 'no-friction') : grip.why"
  >
    <h2 class="more">Grip</h2>
    <p v-if="!grip.ok" class="row wrap small muted">
      {{ why[grip.why as 'no-table'] }}.
      <Button
        size="small"
        variant="text"
        :label="grip.why === 'no-motor' ? 'To the motors' : 'To the tools'"
        @click="
          go({
            place:
              grip!.ok === false && grip!.why === 'no-motor'
                ? { station: 'motors', part: 'joints' }
                : { station: 'measure', part: 'tools' },
          })
        "
      />
    </p>
    <template v-else>
      <p v-if="state" class="verdict" :class="state.kind">{{ state.words }}</p>
      <dl class="facts">
        <div>
          <dt>squeezes for long with</dt>
          <dd class="num">{{ formatNumber(grip.longN, 1) }} N</dd>
        </div>
        <div v-if="mu">
          <dt>that holds, at µ {{ formatNumber(mu, 2) }}</dt>
          <dd class="num">{{ massWords(massHeld(grip.longN, mu, accel / 1000)) }}</dd>
        </div>
        <div v-if="mu && kg > 0">
          <dt>this takes</dt>
          <dd class="num">
            {{ formatNumber(needed, 1) }} N, {{ formatNumber((100 * needed) / grip.stallN, 0) }} % of stall
          </dd>
        </div>
      </dl>
      <div class="form">
        <NumberField
          prefix="speeding up by"
          :value="accel"
          dimension="linearAccel"
          label="Acceleration while it holds"
          :min="0"
          :max="50000"
          :commit="(v: number) => void (accel = v)"
        />
      </div>
      <p v-if="!mu" class="row wrap small muted">
        The friction of its pads is not known.
        <Button
          size="small"
          variant="text"
          label="Enter it"
          @click="go({ place: { station: 'measure', part: 'tools' } })"
        />
      </p>
      <p class="small muted">Close a little past contact, not onto the stop: a servo held at stall burns out.</p>
    </template>
  </section>
</template>

<style scoped>
.more {
  margin: 0.9rem 0 0.2rem;
}
.verdict {
  font-weight: 600;
}
</style>
