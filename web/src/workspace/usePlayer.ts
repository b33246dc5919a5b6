/** Plays any motion on the stage, at real or many times real speed: a plan's, or a recording's. */
import { useEventListener, useRafFn } from '@vueuse/core';
import { computed, onScopeDispose, ref, type Ref } from 'vue';
import { poseAt, type Motion } from '@cork-elbow/core/motion';
import { useViewStore } from '../stores/view';

/**
 * It goes by the clock, however few pictures there are. Only what nobody can have looked at is left out: the time that the page was
 * hidden, or so long (s) without any picture that the machine must have slept.
 */
const ASLEEP = 3;

export type Player = ReturnType<typeof usePlayer>;

export function usePlayer(motion: Readonly<Ref<Motion | null>>, source: 'preview' | 'replay' = 'preview') {
  const view = useViewStore();
  const time = ref(0);
  const speed = ref(1);
  let before = 0;
  const { pause, resume, isActive } = useRafFn(
    ({ timestamp }) => {
      const dt = Math.max(0, (timestamp - before) / 1000);
      before = timestamp;
      if (dt < ASLEEP) show(time.value + dt * speed.value);
      if (time.value >= (motion.value?.durationS ?? 0)) pause();
    },
    { immediate: false },
  );
  useEventListener(document, 'visibilitychange', () => (before = performance.now()));
  function show(t: number): void {
    if (!motion.value) return;
    time.value = Math.min(motion.value.durationS, Math.max(0, t));
    view.setPlayed(poseAt(motion.value, time.value), source);
  }
  /** From where it stands; from the beginning where it stands at the end. */
  function play(): void {
    if (!motion.value) return;
    if (time.value >= motion.value.durationS - 1e-6) time.value = 0;
    before = performance.now();
    resume();
  }
  /** Back to the person's own pose. */
  function leave(): void {
    pause();
    time.value = 0;
    if (view.poseSource === source) view.setEdit(view.editQ);
  }
  onScopeDispose(pause);
  return { time, speed, play, pause, show, leave, isPlaying: computed(() => isActive.value) };
}
