/**
 * The question that the Reach station asks: which tool, where, turned how, in which frame, with which joints held; and its
 * answer. Typing asks the worker; dragging is followed here, a few small solves a frame, and asks when it is over.
 */
import { computed, inject, provide, ref, watch, type InjectionKey } from 'vue';
import { Follower, forward, taskIn, type Carried, type Goal, type Task } from '@cork-elbow/core/kinematics';
import {
  apply,
  axisAngle,
  axisOf,
  fromXyzRpy,
  identity,
  inverse,
  mul,
  positionOf,
  rotate,
  rpyOf,
  vec3,
  type Vec3,
} from '@cork-elbow/core/linear';
import { speedOnlySlots } from '@cork-elbow/core/actuators';
import { toDeg, toMm, toRad } from '@cork-elbow/core/units';
import { useJob } from '../../shared/useJob';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import type { PlainAsk } from '../../workers/jobs/inverse';
import { createOtherTools, type OthersWay } from './other-tools';
import { createTargetFrame, WORLD } from './target-frame';

export type AimKind = 'free' | 'down' | 'level' | 'outward' | 'tilt' | 'along' | 'full' | 'spot';
type Triple = [number, number, number];

const DOWN: Vec3 = [0, 0, -1];
const UP: Vec3 = [0, 0, 1];
/** Fine enough for a target taken from the arm to be one that it meets: 1e-9 m, 2e-8 rad. */
const round = (v: number): number => Math.round(v * 1e6) / 1e6;
const triple = (v: readonly number[]): Triple => [v[0], v[1], v[2]];

/** The last question asked of each rig, so that a walk to another station loses nothing. */
interface Remembered {
  readonly toolId: string | null;
  readonly frameId: string;
  readonly target: Triple;
  readonly aim: AimKind;
  readonly along: Triple;
  readonly turned: Triple;
  readonly fromUp: number;
  readonly held: ReadonlySet<string>;
}
const memory = new Map<string, Remembered>();

export type Reach = ReturnType<typeof createReach>;
const key: InjectionKey<Reach> = Symbol('reach');

export function createReach() {
  const rigs = useRigStore();
  const view = useViewStore();

  const toolId = ref<string | null>(null);
  const tool = computed(() => {
    const tools = rigs.mechanism?.tools ?? [];
    return tools.find((t) => t.id === toolId.value) ?? tools.find((t) => t.mounted) ?? tools[0] ?? null;
  });
  const { others, othersWay, kept, keepOthers } = createOtherTools(tool);
  const { frameId, frames, carried, frameNow } = createTargetFrame(others);
  /** mm in the chosen frame. */
  const target = ref<Triple>([0, 0, 0]);
  const aim = ref<AimKind>('free');
  /** Direction of the tool for "along", in the chosen frame. */
  const along = ref<Triple>([1, 0, -1]);
  /** Roll, pitch, yaw (°) for the full pose, in the chosen frame. */
  const turned = ref<Triple>([0, 0, 0]);
  /** The tool's angle (°) from up, for "tilted". */
  const fromUp = ref(120);
  /** Ids of joints that keep their values. */
  const held = ref(new Set<string>());

  // ── The question ────────────────────────────────────────────────────────────────────────────────────────────────

  const inFrame = computed((): Vec3 => vec3.scale(target.value, 1e-3));
  const worldTarget = computed((): Vec3 => apply(frameNow(view.editQ), inFrame.value));

  /** The task in the chosen frame for frames that move, in the world for the others. */
  const task = computed((): Task => {
    const still = carried.value ? identity() : frameNow(view.editQ);
    const position = apply(still, inFrame.value);
    const direction = (v: Vec3): Task => ({ kind: 'direction', position, direction: v });
    switch (aim.value) {
      case 'down':
        return direction(DOWN);
      case 'level':
      case 'tilt':
        return { kind: 'tilt', position, fromUp: toRad(aim.value === 'level' ? 90 : fromUp.value), up: UP };
      case 'outward':
        return direction(vec3.unit([position[0], position[1], 0]) ?? [1, 0, 0]);
      case 'along':
        return direction(vec3.unit(rotate(still, along.value)) ?? DOWN);
      case 'full': {
        const rotation = mul(still, fromXyzRpy([0, 0, 0], triple(turned.value.map(toRad))));
        return { kind: 'full', position, rotation };
      }
      case 'spot':
        return { kind: 'aim', at: position };
      default:
        return { kind: 'free', position };
    }
  });
  /** The direction asked for, in the world; null where it is free. */
  const direction = computed((): Vec3 | null => {
    const t = carried.value ? taskIn(frameNow(view.editQ), task.value) : task.value;
    return t.kind === 'direction' ? t.direction : t.kind === 'full' ? axisOf(t.rotation, 2) : null;
  });
  const heldSlots = computed(() => new Set([...held.value].flatMap((id) => rigs.mechanism?.slotOf.get(id) ?? [])));
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
  function setOthers(way: OthersWay): void {
    keepOthers(way);
    if (way !== 'free') void solve(true);
  }

  // ── The answer ──────────────────────────────────────────────────────────────────────────────────────────────────

  const {
    answer,
    isBusy: isAsking,
    again,
  } = useJob('inverse', {
    request: () => (asks.value.length ? { asks: asks.value, near: view.editQ, held: heldSlots.value } : null),
  });
  const chosen = ref(0);
  const isDragging = ref(false);

  /** Asks the worker; `go`: the arm goes to the nearest answer. */
  async function solve(go: boolean): Promise<void> {
    const result = await again();
    if (!result) return;
    chosen.value = 0;
    if (go && result.reachable) view.setEdit(result.solutions[0].q);
  }
  function take(k: number): void {
    const solution = answer.value?.solutions[k];
    if (!solution) return;
    chosen.value = k;
    view.setEdit(solution.q);
  }

  /** A new place, in mm of the chosen frame. */
  function move(to: readonly number[]): void {
    target.value = triple(to.map(round));
    void solve(true);
  }
  function setAim(next: AimKind): void {
    const { mechanism } = rigs;
    if (next === 'full' && aim.value !== 'full' && mechanism && tool.value) {
      // The full pose begins as the tool is turned now.
      const now = forward(mechanism, view.editQ).tools.get(tool.value.id)!;
      turned.value = triple(rpyOf(mul(inverse(frameNow(view.editQ)), now)).map((v) => round(toDeg(v))));
    }
    if (next === 'tilt' && aim.value !== 'tilt' && mechanism && tool.value) {
      // The tilt begins as the tool leans now.
      const now = forward(mechanism, view.editQ).tools.get(tool.value.id)!;
      fromUp.value = Math.round(toDeg(vec3.angleBetween(axisOf(now, 2), UP)) * 10) / 10;
    }
    if (next === 'along' && aim.value !== 'along' && direction.value)
      along.value = triple(rotate(inverse(frameNow(view.editQ)), direction.value).map(round));
    aim.value = next;
    void solve(true);
  }
  /** A direction (world) asked for in so many words. */
  function aimAlong(d: Vec3): void {
    aim.value = d[0] === 0 && d[1] === 0 && d[2] < 0 ? 'down' : 'along';
    along.value = triple(rotate(inverse(frameNow(view.editQ)), d).map(round));
  }
  /** The whole rotation that "turned" stands for, in the world. */
  const wishedRotation = (): Float64Array =>
    mul(frameNow(view.editQ), fromXyzRpy([0, 0, 0], triple(turned.value.map(toRad))));
  /** The wished rotation turned by an angle (rad) about an axis (unit, world). */
  function turnBy(axis: Vec3, angle: number): void {
    const d = direction.value;
    if (aim.value === 'full') {
      const now = mul(inverse(frameNow(view.editQ)), mul(axisAngle(axis, angle), wishedRotation()));
      turned.value = triple(rpyOf(now).map((v) => round(toDeg(v))));
    } else if (d) aimAlong(rotate(axisAngle(axis, angle), d));
    else return;
    void solve(true);
  }
  /** The target goes on by mm along the world's axes. */
  function shift(mm: readonly number[]): void {
    const back = inverse(frameNow(view.editQ));
    const place = vec3.add(worldTarget.value, vec3.scale(triple(mm), 1e-3));
    target.value = triple(apply(back, place).map((v) => round(toMm(v))));
  }
  /** The same target seen from another frame. */
  function setFrame(id: string): void {
    const place = worldTarget.value;
    const d = direction.value;
    const rotation = wishedRotation();
    frameId.value = id;
    const back = inverse(frameNow(view.editQ));
    turned.value = triple(rpyOf(mul(back, rotation)).map((v) => round(toDeg(v))));
    target.value = triple(apply(back, place).map((v) => round(toMm(v))));
    if (d) along.value = triple(rotate(back, d).map(round));
    void solve(false);
  }
  /** To a work spot (mm, world), turned as it asks; who points at things goes on pointing. */
  function goTo(xyzMm: readonly number[], d: Vec3 | null): void {
    setFrame(WORLD);
    if (aim.value !== 'spot') {
      if (d) aimAlong(d);
      else aim.value = 'free';
    }
    move(xyzMm);
  }
  function hold(id: string): void {
    const next = new Set(held.value);
    if (!next.delete(id)) next.add(id);
    held.value = next;
    void solve(true);
  }
  function setTool(id: string): void {
    toolId.value = id;
    frameId.value = WORLD;
    setOthers('free');
    fromTool();
    void solve(false);
  }

  /** The target begins where the tool is. */
  function fromTool(): void {
    const { mechanism } = rigs;
    if (!mechanism || !tool.value) return;
    const frame = forward(mechanism, view.editQ).tools.get(tool.value.id)!;
    const back = inverse(frameNow(view.editQ));
    target.value = triple(apply(back, positionOf(frame)).map((v) => round(toMm(v))));
  }

  // ── Dragging ────────────────────────────────────────────────────────────────────────────────────────────────────

  const follower = computed(() => {
    const { mechanism } = rigs;
    if (!mechanism || !tool.value) return null;
    // The goals alone, which tools in which frames: the tasks go with each step.
    const goal = (toolId: string | undefined, on?: Carried | null): Goal[] => {
      const found = mechanism.tools.find((t) => t.id === toolId);
      return found ? [{ tool: found, ...(on ? { on } : {}) }] : [];
    };
    const goals = [...goal(tool.value?.id, carried.value), ...kept.value.flatMap((k) => goal(k.toolId, k.on))];
    return new Follower(mechanism, goals, heldSlots.value);
  });

  /** The target is being dragged to a place in the world (m): the arm follows as far as it can. */
  function drag(place: Vec3): void {
    isDragging.value = true;
    const p = apply(inverse(frameNow(view.editQ)), place);
    target.value = triple(p.map((v) => Math.round(toMm(v) * 10) / 10));
    if (!follower.value) return;
    const { q, hit } = follower.value.step(
      view.editQ,
      asks.value.map((ask) => ask.task),
    );
    isHit.value = hit;
    view.setEdit(q);
  }
  const isHit = ref(true);
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
        setOthers('free');
        if (!recall(id)) begin();
      } else if (before[1] !== mechanism) {
        // What they keep to was told in joints and frames of the arm as it was.
        keepOthers();
      }
      void solve(before?.[0] === id && !isFresh());
    },
    { immediate: true },
  );
  /** The first question: where the tool is, and pointing down where it does. */
  function begin(): void {
    const { mechanism } = rigs;
    frameId.value = WORLD;
    toolId.value = null;
    held.value = new Set();
    fromTool();
    const frame = tool.value && mechanism && forward(mechanism, view.editQ).tools.get(tool.value.id);
    aim.value = frame && Math.abs(axisOf(frame, 2)[2] + 1) < 1e-3 ? 'down' : 'free';
  }
  function recall(id: string | null): boolean {
    const last = id ? memory.get(id) : undefined;
    if (!last) return false;
    toolId.value = last.toolId;
    target.value = last.target;
    aim.value = last.aim;
    along.value = last.along;
    turned.value = last.turned;
    fromUp.value = last.fromUp;
    held.value = new Set([...last.held].filter((joint) => rigs.mechanism?.slotOf.has(joint)));
    frameId.value = frames.value.some((f) => f.value === last.frameId) ? last.frameId : WORLD;
    return true;
  }
  watch([toolId, frameId, target, aim, along, turned, fromUp, held], () => {
    if (!rigs.id) return;
    memory.set(rigs.id, {
      toolId: toolId.value,
      frameId: frameId.value,
      target: target.value,
      aim: aim.value,
      along: along.value,
      turned: turned.value,
      fromUp: fromUp.value,
      held: held.value,
    });
  });
  /** Nothing was asked yet. */
  function isFresh(): boolean {
    return answer.value === null;
  }

  const context = {
    toolId,
    tool,
    setTool,
    frames,
    frameId,
    setFrame,
    frameNow,
    carried,
    target,
    worldTarget,
    move,
    aim,
    setAim,
    aimAlong,
    goTo,
    shift,
    turnBy,
    along,
    turned,
    fromUp,
    task,
    direction,
    held,
    heldSlots,
    speedOnly,
    hold,
    others,
    othersWay,
    setOthers,
    asks,
    answer,
    isAsking,
    chosen,
    take,
    solve,
    fromTool,
    drag,
    drop,
    isDragging,
    isHit,
  };
  provide(key, context);
  return context;
}

export function useReach(): Reach {
  const context = inject(key);
  if (!context) throw new Error('useReach outside the Reach station');
  return context;
}
