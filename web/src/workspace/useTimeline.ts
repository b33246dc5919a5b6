/** The player of a station's own motion: another motion begins anew, and leaving gives the person's pose back. */
import { computed, onScopeDispose, watch, type Ref } from 'vue';
import type { Motion } from '@cork-elbow/core/motion';
import { usePlayer } from './usePlayer';

export type Timeline = ReturnType<typeof useTimeline>;

export function useTimeline(motion: Readonly<Ref<Motion | null>>, source: 'preview' | 'replay' = 'preview') {
  const player = usePlayer(motion, source);
  const durationS = computed(() => motion.value?.durationS ?? 0);
  watch(durationS, player.leave);
  onScopeDispose(player.leave);
  return { ...player, durationS };
}
