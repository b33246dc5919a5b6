/** The plan of the routine on show: made in the worker, again whenever the rig or the routine changes. */
import { watchThrottled } from '@vueuse/core';
import { computed, inject, provide, ref, shallowRef, watch, type InjectionKey } from 'vue';
import { bySeverity } from '@cork-elbow/core/findings';
import { type SimulatedInputs } from '@cork-elbow/core/contract';
import { tipPath, tipTrace } from '@cork-elbow/core/kinematics';
import { payloadFrames, planCommands, preflight, checkRig, stepAt, type Plan } from '@cork-elbow/core/routine';
import { useJob } from '../shared/useJob';
import { useRigStore } from '../stores/rig';
import { useViewStore } from '../stores/view';
import { usePlayer } from './usePlayer';

export type PlanContext = ReturnType<typeof createPlan>;
/** Seconds between the dots on the tool's path. */
const BEAT = 0.1;
/** While edits follow each other it is planned and looked through at most once in so long (ms). */
const REPLAN = 150;
const key: InjectionKey<PlanContext> = Symbol('plan');

export function createPlan() {
  const rigs = useRigStore();
  const view = useViewStore();
  const routineId = ref<string | null>(null);
  /** Inputs as they are tried, by routine. */
  const tried = shallowRef<Readonly<Record<string, SimulatedInputs>>>({});
  /** A plan kept to be held against what becomes of it. */
  const kept = shallowRef<{ readonly plan: Plan; readonly at: Date } | null>(null);
  const routine = computed(
    () => rigs.rig?.routines.find((r) => r.id === routineId.value) ?? rigs.rig?.routines[0] ?? null,
  );

  const asked = () => {
    const id = routine.value?.id;
    return id === undefined ? null : { routineId: id, inputs: tried.value[id] ?? {} };
  };
  const causes = () => [rigs.rig, rigs.build, routine.value?.id, tried.value];
  const { answer: plan, isCurrent } = useJob('plan', { request: asked, when: causes, every: REPLAN });
  /** What the arm touches on the way; known a little after the plan. */
  const touched = useJob('contact', { request: () => plan.value && asked(), when: plan, clears: true });
  const contacts = computed(() => touched.answer.value ?? []);
  // What is found along a plan that is being made anew is of no use any more.
  watch(causes, touched.cancel);
  watch(plan, (made) => made && (time.value = Math.min(time.value, made.durationS)));

  function gather(): void {
    const { rig, mechanism, build } = rigs;
    view.findings =
      rig && mechanism && build
        ? // The rig's own do not hang on a routine.
          plan.value
          ? [...preflight(rig, mechanism, build, plan.value), ...contacts.value].sort(bySeverity)
          : checkRig(rig, mechanism, build).sort(bySeverity)
        : [];
  }
  watchThrottled([plan, contacts, () => rigs.rig, () => rigs.build], gather, {
    ...{ immediate: true, throttle: REPLAN, leading: true, trailing: true },
  });

  /** What motors are told over the plan, as long as it is one of the arm on show: what is played, drawn, handed off and run. */
  const motion = computed(() => {
    const { hardware: rig, mechanism, motors } = rigs;
    if (!plan.value || !rig || !mechanism || plan.value.start.length !== mechanism.m) return null;
    return planCommands(rig, mechanism, motors, plan.value);
  });
  const player = usePlayer(motion);
  const { time, play, pause, show } = player;

  /** Shows another routine and plays it from its start as soon as it is planned. */
  function playRoutine(id: string): void {
    pause();
    routineId.value = id;
    const begin = (): boolean => {
      if (plan.value?.routineId !== id) return false;
      time.value = 0;
      play();
      return true;
    };
    if (begin()) return;
    const stop = watch(plan, () => begin() && stop());
  }

  const step = computed(() => (plan.value ? stepAt(plan.value, time.value) : undefined));
  /** Path of the tool point over the whole plan. */
  const trace = computed(() => {
    const { mechanism } = rigs;
    if (!motion.value || !mechanism) return null;
    return tipTrace(mechanism, motion.value);
  });
  /** Places of the tool point every {@link BEAT} seconds: close together where it is slow. */
  const beats = computed(() => {
    const { mechanism } = rigs;
    if (!motion.value?.durationS || !mechanism) return null;
    const { durationS } = motion.value;
    const every = Math.max(BEAT, durationS / 250);
    return tipPath(mechanism, motion.value, Math.max(1, Math.round(durationS / every)));
  });
  const payloads = computed(() => {
    const { mechanism } = rigs;
    if (!plan.value || !motion.value || !mechanism) return new Map<string, Float64Array>();
    return payloadFrames(mechanism, plan.value, motion.value, view.poseSource === 'edit' ? 0 : time.value, view.q);
  });

  const context = {
    routineId,
    routine,
    plan,
    isCurrent,
    motion,
    time,
    step,
    trace,
    beats,
    tried,
    kept,
    payloads,
    isPlaying: player.isPlaying,
    play,
    playRoutine,
    pause,
    show,
  };
  provide(key, context);
  return context;
}

export function usePlan(): PlanContext {
  const context = inject(key);
  if (!context) throw new Error('usePlan outside the workspace');
  return context;
}
