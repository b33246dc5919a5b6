/** A run over many points in the worker, with what a person wants to know of it at a glance. */
import { computed, shallowRef } from 'vue';
import { isTooFast, type TablePoint } from '@cork-elbow/core/reach';
import { useJob } from '../../shared/useJob';
import { useViewStore } from '../../stores/view';
import { useReach } from './useReach';

export function usePoints() {
  const view = useViewStore();
  const { tool } = useReach();
  const asked = shallowRef<{ points: readonly TablePoint[]; speed: number } | null>(null);
  const {
    answer: results,
    isBusy: isRunning,
    again,
  } = useJob('points', {
    request: () => asked.value && tool.value && { toolId: tool.value.id, start: view.editQ, ...asked.value },
  });
  /** `speed` in m/s. */
  async function run(points: readonly TablePoint[], speed: number): Promise<void> {
    asked.value = { points, speed };
    await again();
  }

  const summary = computed(() => {
    const list = results.value ?? [];
    return {
      all: list.length,
      reached: list.filter((r) => r.solution).length,
      tooFast: list.filter(isTooFast).length,
      touching: list.filter((r) => r.touch).length,
      changes: list.filter((r) => r.changes).length,
      worst: Math.max(0, ...list.map((r) => r.speedShare)),
      margin: Math.min(1, ...list.map((r) => r.solution?.limitMargin ?? 1)),
    };
  });
  /** The way of the tool through the points that are reached (m, world). */
  const trace = computed(() => {
    const reached = (results.value ?? []).filter((r) => r.solution);
    return reached.length > 1 ? Float64Array.from(reached.flatMap((r) => [...r.point.position])) : null;
  });
  return { results, isRunning, run, summary, trace };
}
