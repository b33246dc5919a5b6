/** The stations in the order of the work; each answers the question in its head line. */
import type { Component } from 'vue';

export interface Station {
  readonly id: string;
  readonly name: string;
  readonly question: string;
  readonly page: () => Promise<Component>;
}

export const stations: readonly Station[] = [
  {
    id: 'measure',
    name: 'Measure',
    question: 'What is it, exactly?',
    page: () => import('../stations/measure/MeasureStation.vue'),
  },
  {
    id: 'motors',
    name: 'Motors',
    question: 'What turns an angle into a pulse?',
    page: () => import('../stations/motors/MotorsStation.vue'),
  },
  {
    id: 'reach',
    name: 'Reach',
    question: 'Can it get there?',
    page: () => import('../stations/reach/ReachStation.vue'),
  },
  {
    id: 'poses',
    name: 'Poses',
    question: 'Where does it stand?',
    page: () => import('../stations/poses/PosesStation.vue'),
  },
  {
    id: 'routine',
    name: 'Routine',
    question: 'What does it do, and how smoothly?',
    page: () => import('../stations/routine/RoutineStation.vue'),
  },
  {
    id: 'hand-off',
    name: 'Hand-off',
    question: 'What goes to the motors?',
    page: () => import('../stations/hand-off/HandOffStation.vue'),
  },
  {
    id: 'bench',
    name: 'Bench',
    question: 'Does it do what was planned?',
    page: () => import('../stations/bench/BenchStation.vue'),
  },
];
