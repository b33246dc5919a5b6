/** The player of a station's own motion: another motion begins anew, and leaving gives the person's pose back. */
import { computed, onScopeDispose, watch, type Ref } from 'vue';
import type { Motion } from '@cork-elbow/core/motion';
import { usePlayer } from '../../workspace/usePlayer';

export type Timeline = ReturnType<typeof useTimeline>;

export function useTimeline(motion: Readonly<Ref<Motion | null>>) {
  const player = usePlayer(motion);
  const durationS = computed(() => motion.value?.durationS ?? 0);
  watch(durationS, player.leave);
  onScopeDispose(player.leave);
  return { ...player, durationS };
}
