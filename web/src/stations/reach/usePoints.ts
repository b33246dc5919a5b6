/** A run over many points in the worker, with what a person wants to know of it at a glance. */
import { computed, onScopeDispose, ref, shallowRef } from 'vue';
import { isTooFast, type PointResult, type TablePoint } from '@cork-elbow/core/reach';
import { useJobsStore } from '../../stores/jobs';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { useReach } from './useReach';

export function usePoints() {
  const rigs = useRigStore();
  const view = useViewStore();
  const jobs = useJobsStore();
  const { tool, speedOnly } = useReach();
  const results = shallowRef<readonly PointResult[] | null>(null);
  const isRunning = ref(false);

  /** `speed` in m/s. */
  async function run(points: readonly TablePoint[], speed: number): Promise<void> {
    const { rig, build } = rigs;
    if (!rig || !tool.value) return;
    const toolId = tool.value.id;
    isRunning.value = true;
    const found = await jobs.run('reach-points', 'Solving the points', (worker, id, progress) =>
      worker.points(id, rig, build?.mounting, toolId, points, view.editQ, speed, speedOnly.value, progress),
    );
    if (!found) {
      if (!jobs.isBusy('reach-points')) isRunning.value = false;
      return;
    }
    isRunning.value = false;
    results.value = found;
  }
  onScopeDispose(() => jobs.cancel('reach-points'));

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
