/** Playing something that the core gives a pose of at any time: on the stage, at real or many times real speed. */
import { useRafFn } from '@vueuse/core';
import { computed, onScopeDispose, ref, watch, type Ref } from 'vue';
import { useViewStore } from '../../stores/view';

export type Timeline = ReturnType<typeof useTimeline>;

export function useTimeline(durationS: Readonly<Ref<number>>, poseAt: (t: number) => Float64Array) {
  const view = useViewStore();
  const time = ref(0);
  const speed = ref(1);
  let before = 0;
  const { pause, resume, isActive } = useRafFn(
    ({ timestamp }) => {
      const dt = before ? (timestamp - before) / 1000 : 0;
      before = timestamp;
      show(Math.min(durationS.value, time.value + dt * speed.value));
      if (time.value >= durationS.value) pause();
    },
    { immediate: false },
  );
  function show(t: number): void {
    time.value = t;
    view.setPreview(poseAt(t));
  }
  function play(): void {
    if (time.value >= durationS.value) time.value = 0;
    before = 0;
    resume();
  }
  /** Back to the person's own pose. */
  function leave(): void {
    pause();
    time.value = 0;
    if (view.poseSource === 'preview') view.setEdit(view.editQ);
  }
  // Another plan begins anew.
  watch(durationS, leave);
  onScopeDispose(leave);
  return { time, speed, play, pause, show, leave, isPlaying: computed(() => isActive.value) };
}
