/** The page of each station. */
import type { Component } from 'vue';
import type { StationId } from '@cork-elbow/core/findings';

export const pages: Readonly<Record<StationId, () => Promise<Component>>> = {
  measure: () => import('../stations/measure/MeasureStation.vue'),
  motors: () => import('../stations/motors/MotorsStation.vue'),
  reach: () => import('../stations/reach/ReachStation.vue'),
  load: () => import('../stations/load/LoadStation.vue'),
  poses: () => import('../stations/poses/PosesStation.vue'),
  routine: () => import('../stations/routine/RoutineStation.vue'),
  'hand-off': () => import('../stations/hand-off/HandOffStation.vue'),
  bench: () => import('../stations/bench/BenchStation.vue'),
};
