/**
 * The question that the Reach station asks, and its answer. Typing asks the worker; dragging is followed here, a few small solves a
 * frame, and asks when it is over.
 */
import { computed, inject, provide, ref, watch, type InjectionKey } from 'vue';
import { Follower, type Carried, type Goal } from '@cork-elbow/core/kinematics';
import type { Vec3 } from '@cork-elbow/core/linear';
import { speedOnlySlots } from '@cork-elbow/core/actuators';
import { useJob } from '../../shared/useJob';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';
import { useViewStore } from '../../stores/view';
import type { PlainAsk } from '../../workers/jobs/inverse';
import type { OthersWay } from './other-tools';
import { createQuestion, type AimKind } from './question';
import { WORLD } from './target-frame';

export type { AimKind } from './question';
export type Reach = ReturnType<typeof createReach>;
const key: InjectionKey<Reach> = Symbol('reach');

export function createReach() {
  const rigs = useRigStore();
  const view = useViewStore();
  const run = useRunStore();
  const { begin, keepOthers, kept, setPlace, setTarget, ...question } = createQuestion();
  const { tool, carried, task, aim, heldSlots } = question;

  /** Joints whose motor can only be told how fast to turn. */
  const speedOnly = computed(() =>
    rigs.rig && rigs.mechanism ? speedOnlySlots(rigs.rig, rigs.mechanism) : new Set<number>(),
  );
  const asks = computed((): PlainAsk[] => {
    const { mechanism } = rigs;
    if (!tool.value || !mechanism) return [];
    const own: PlainAsk = {
      toolId: tool.value.id,
      task: task.value,
      ...(carried.value ? { on: carried.value } : {}),
    };
    return [own, ...kept.value];
  });
  const {
    answer,
    isBusy: isAsking,
    again,
  } = useJob('inverse', {
    request: () => (asks.value.length ? { asks: asks.value, near: view.editQ, held: heldSlots.value } : null),
  });
  const chosen = ref(0);

  /** Asks the worker; `go`: the arm goes to the nearest answer, which is given. */
  async function solve(go: boolean): Promise<Float64Array | null> {
    const result = await again();
    if (!result) return null;
    chosen.value = 0;
    if (!go || !result.reachable) return null;
    const { q } = result.solutions[0];
    view.setEdit(q);
    return q;
  }
  function take(k: number): void {
    const solution = answer.value?.solutions[k];
    if (!solution) return;
    chosen.value = k;
    view.setEdit(solution.q);
  }

  // ── A changed question is asked at once ─────────────────────────────────────────────────────────────────────────

  /** A new place, in mm of the chosen frame. */
  function move(to: readonly number[]): void {
    setTarget(to);
    void solve(true);
  }
  /** A small step of the question; of an arm that is led by hand from where its tool is going, and the tool goes straight. */
  async function step(change: () => boolean): Promise<void> {
    const from = run.byHand ? run.handPose() : null;
    if (from) {
      view.setEdit(from);
      question.takeTool();
    }
    if (!change()) return;
    const q = await solve(true);
    if (from && q && tool.value) run.leadTool(q, tool.value.id);
  }
  const stepBy = (by: readonly number[]): Promise<void> =>
    step(() => {
      setTarget(question.target.value.map((v, k) => v + by[k]));
      return true;
    });
  function setAim(next: AimKind): void {
    question.setAim(next);
    void solve(true);
  }
  const turnBy = (axis: Vec3, angle: number): Promise<void> => step(() => question.turnBy(axis, angle));
  function setFrame(id: string): void {
    question.setFrame(id);
    void solve(false);
  }
  /** To a work spot (mm, world), turned as it asks; who points at things goes on pointing. */
  function goTo(xyzMm: readonly number[], d: Vec3 | null): void {
    setFrame(WORLD);
    if (aim.value !== 'spot') {
      if (d) question.aimAlong(d);
      else aim.value = 'free';
    }
    move(xyzMm);
  }
  function hold(id: string): void {
    question.hold(id);
    void solve(true);
  }
  function setTool(id: string): void {
    question.setTool(id);
    void solve(false);
  }
  function setOthers(way: OthersWay): void {
    keepOthers(way);
    if (way !== 'free') void solve(true);
  }

  // ── Dragging ────────────────────────────────────────────────────────────────────────────────────────────────────

  const isDragging = ref(false);
  const isHit = ref(true);
  const follower = computed(() => {
    const { mechanism } = rigs;
    if (!mechanism || !tool.value) return null;
    // The goals alone, which tools in which frames: the tasks go with each step.
    const goal = (toolId: string | undefined, on?: Carried | null): Goal[] => {
      const found = mechanism.tools.find((t) => t.id === toolId);
      return found ? [{ tool: found, ...(on ? { on } : {}) }] : [];
    };
    const goals = [...goal(tool.value.id, carried.value), ...kept.value.flatMap((k) => goal(k.toolId, k.on))];
    return new Follower(mechanism, goals, heldSlots.value);
  });

  /** The target is being dragged to a place in the world (m): the arm follows as far as it can. */
  function drag(place: Vec3): void {
    isDragging.value = true;
    setPlace(place, 10);
    if (!follower.value) return;
    const { q, hit } = follower.value.step(
      view.editQ,
      asks.value.map((ask) => ask.task),
    );
    isHit.value = hit;
    view.setEdit(q);
  }
  function drop(): void {
    isDragging.value = false;
    void solve(false);
  }

  // A changed rig is asked again where the target stands; a newly opened one begins where its tool is.
  watch(
    () => [rigs.id, rigs.mechanism, speedOnly.value.size, rigs.rig?.obstacles] as const,
    ([id, mechanism], before) => {
      if (!mechanism) return;
      if (before?.[0] !== id) {
        keepOthers('free');
        begin(id);
      } else if (before[1] !== mechanism) {
        // What they keep to was told in joints and frames of the arm as it was.
        keepOthers();
      }
      // Nothing moves before anything was asked.
      void solve(before?.[0] === id && answer.value !== null);
    },
    { immediate: true },
  );

  const context = {
    ...question,
    ...{ setAim, stepBy, turnBy, setFrame, goTo, hold, setTool, setOthers, move },
    ...{ speedOnly, asks, answer, isAsking, chosen, take, solve, drag, drop, isDragging, isHit },
  };
  provide(key, context);
  return context;
}

export function useReach(): Reach {
  const context = inject(key);
  if (!context) throw new Error('useReach outside the Reach station');
  return context;
}
