<script setup lang="ts">
/** Why a target is not reached, or what is in the way there, the closest pose, and the smallest changes that would do. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { vec3 } from '@cork-elbow/core/linear';
import { applyFix, type Fix } from '@cork-elbow/core/reach';
import { formatAmount } from '@cork-elbow/core/units';
import { useJob } from '../../shared/useJob';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { useReach } from './useReach';
import { fixWords, touchWords } from './words';

const rigs = useRigStore();
const view = useViewStore();
const reach = useReach();
const { answer, asks } = reach;

const headline = computed(() => {
  const first = answer.value?.reasons[0];
  if (!first) return '';
  const mm = first.byMm === undefined ? '' : formatAmount(first.byMm);
  switch (first.code) {
    case 'too-far':
    case 'rod-too-short':
      return `Not quite: ${mm} mm short.`;
    case 'too-near':
    case 'rod-too-long':
      return `Not quite: ${mm} mm too near.`;
    case 'limit-in-the-way':
    case 'turn-in-the-way':
    case 'slide-in-the-way':
    case 'rule-in-the-way':
      return 'A limit is in the way.';
    case 'in-the-way':
      return answer.value!.solutions.length > 1
        ? 'Something is in the way of every posture.'
        : 'Something is in the way.';
    case 'direction-out-of-plane':
    case 'direction-off':
    case 'rotation-off':
    case 'tool-turned':
      return 'There, but not turned like this.';
    case 'speed-only':
    case 'no-joints':
    case 'all-held':
      return 'Nothing can take it there.';
    default:
      return 'Not like this.';
  }
});

/** What the headline does not say already. */
const sentences = computed(() => {
  const reasons = answer.value?.reasons ?? [];
  const isSaid = /mm (short|too near)/.test(headline.value);
  return reasons.slice(isSaid && reasons.length > 1 ? 1 : 0).map((r) => r.message);
});

/** Reasons that no other length or limit would take away. */
const hopeless = new Set(['no-joints', 'all-held', 'speed-only', 'target-not-numbers']);
/** Changes of the rig answer for one tool in a frame that stands still. */
const canSearch = computed(
  () =>
    !hopeless.has(answer.value?.reasons[0]?.code ?? '') &&
    asks.value.length === 1 &&
    !asks.value[0].on &&
    asks.value[0].task.kind !== 'aim' &&
    !reach.held.value.size,
);
const { answer: fixes, isBusy: isSearching } = useJob('fixes', {
  request: () => {
    const [ask] = asks.value;
    return ask && canSearch.value ? { toolId: ask.toolId, task: ask.task, near: view.editQ } : null;
  },
  when: answer,
  after: 250,
  clears: true,
});

function apply(fix: Fix): void {
  if (fix.kind === 'tilt' || fix.kind === 'target') {
    // Another question, not another rig.
    const [aim, along, target] = [reach.aim.value, reach.along.value, reach.target.value];
    if (fix.kind === 'tilt') reach.aimAlong(fix.direction);
    else reach.shift(vec3.scale(fix.along, fix.by));
    void reach.solve(true);
    view.aside = {
      label: fixWords(fix),
      back: () => {
        reach.aim.value = aim;
        reach.along.value = along;
        reach.target.value = target;
        void reach.solve(false);
      },
    };
    return;
  }
  const { rig } = rigs;
  if (!rig) return;
  const next = applyFix(rig.mechanism, fix);
  // The changed rig is asked again by itself; the arm then goes there.
  rigs.commit(fixWords(fix), (draft) => void (draft.mechanism = next));
}
</script>

<template>
  <div class="why" role="status" :data-reason="answer?.reasons[0]?.code" :data-fixes="fixes?.length ?? 'none'">
    <h2>{{ headline }}</h2>
    <p v-for="(r, k) in sentences" :key="k">{{ r }}</p>
    <div v-if="answer?.closest" class="row">
      <Button
        size="small"
        severity="secondary"
        label="Go to the nearest pose"
        @click="view.setEdit(answer.closest.q)"
      /><span class="small"
        >shown as a ghost on the stage<template v-if="answer.closestTouch"
          >; {{ touchWords(answer.closestTouch) }}</template
        ></span
      >
    </div>
    <template v-if="canSearch">
      <h3>What would do</h3>
      <p v-if="isSearching" class="small muted">Looking for the smallest change …</p>
      <p v-else-if="fixes && !fixes.length" class="small">
        No single change of a length, a limit or the base’s place is enough.
      </p>
      <ul v-else-if="fixes">
        <li v-for="(fix, k) in fixes.slice(0, 8)" :key="k">
          <span>{{ fixWords(fix) }}</span>
          <Button
            size="small"
            severity="secondary"
            label="Apply"
            :aria-label="`Apply: ${fixWords(fix)}`"
            @click="apply(fix)"
          />
        </li>
      </ul>
      <p v-if="fixes?.length" class="small">
        Each was solved again with the change made, touches nothing there, and stops no routine that could be run
        before. Ctrl Z takes it back.
      </p>
    </template>
  </div>
</template>

<style scoped>
.why {
  background: var(--alarm-wash);
  border-left: 4px solid var(--alarm);
  border-radius: 3px;
  padding: 0.6rem 0.8rem;
  margin: 0.6rem 0;
  display: grid;
  gap: 0.35rem;
}
.row :deep(button) {
  flex: none;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.2rem;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 0.6rem;
}
</style>
