/**
 * What the Reach station asks for: which tool, where, turned how, in which frame, with which joints held. Here it is changed and put
 * into words of the solver; who answers it stands in useReach.ts.
 */
import { computed, ref, watch } from 'vue';
import { forward, taskIn, type Task } from '@cork-elbow/core/kinematics';
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
import { toDeg, toMm, toRad } from '@cork-elbow/core/units';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { createOtherTools } from './other-tools';
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

export function createQuestion() {
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

  /** The chosen frame as the arm stands, and the way back into it. */
  const frame = (): Float64Array => frameNow(view.editQ);
  const back = (): Float64Array => inverse(frame());
  const toolFrame = (): Float64Array | null =>
    rigs.mechanism && tool.value && forward(rigs.mechanism, view.editQ).tools.get(tool.value.id)!;

  // ── In the solver's words ───────────────────────────────────────────────────────────────────────────────────────

  const inFrame = computed((): Vec3 => vec3.scale(target.value, 1e-3));
  const worldTarget = computed((): Vec3 => apply(frame(), inFrame.value));

  /** The task in the chosen frame for frames that move, in the world for the others. */
  const task = computed((): Task => {
    const still = carried.value ? identity() : frame();
    const position = apply(still, inFrame.value);
    const pointing = (v: Vec3): Task => ({ kind: 'direction', position, direction: v });
    switch (aim.value) {
      case 'down':
        return pointing(DOWN);
      case 'level':
      case 'tilt':
        return { kind: 'tilt', position, fromUp: toRad(aim.value === 'level' ? 90 : fromUp.value), up: UP };
      case 'outward':
        return pointing(vec3.unit([position[0], position[1], 0]) ?? [1, 0, 0]);
      case 'along':
        return pointing(vec3.unit(rotate(still, along.value)) ?? DOWN);
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
    const t = carried.value ? taskIn(frame(), task.value) : task.value;
    return t.kind === 'direction' ? t.direction : t.kind === 'full' ? axisOf(t.rotation, 2) : null;
  });
  const heldSlots = computed(() => new Set([...held.value].flatMap((id) => rigs.mechanism?.slotOf.get(id) ?? [])));

  // ── Changed ─────────────────────────────────────────────────────────────────────────────────────────────────────

  /** A place in mm of the chosen frame. */
  const setTarget = (to: readonly number[]): void => void (target.value = triple(to.map(round)));
  /** A place in the world (m); `perMm`: how finely it is taken. */
  function setPlace(place: Vec3, perMm?: number): void {
    const mm = apply(back(), place).map(toMm);
    if (perMm) target.value = triple(mm.map((v) => Math.round(v * perMm) / perMm));
    else setTarget(mm);
  }
  const setTurned = (rotation: Float64Array): void =>
    void (turned.value = triple(rpyOf(rotation).map((v) => round(toDeg(v)))));
  const setAlong = (d: Vec3): void => void (along.value = triple(rotate(back(), d).map(round)));
  /** The target goes on by mm along the world's axes. */
  const shift = (mm: readonly number[]): void => setPlace(vec3.add(worldTarget.value, vec3.scale(triple(mm), 1e-3)));
  /** The target begins where the tool is. */
  function fromTool(): void {
    const now = toolFrame();
    if (now) setPlace(positionOf(now));
  }
  /** The question is where the tool is, and turned as it is where that is asked for by itself. */
  function takeTool(): void {
    const now = toolFrame();
    if (!now) return;
    fromTool();
    if (aim.value === 'along') setAlong(axisOf(now, 2));
    if (aim.value === 'full') setTurned(mul(back(), now));
  }
  /** Another way of being turned; it begins as the tool is turned now. */
  function setAim(next: AimKind): void {
    const now = next === aim.value ? null : toolFrame();
    if (now && next === 'full') setTurned(mul(back(), now));
    if (now && next === 'tilt') fromUp.value = Math.round(toDeg(vec3.angleBetween(axisOf(now, 2), UP)) * 10) / 10;
    if (next === 'along' && aim.value !== 'along' && direction.value) setAlong(direction.value);
    aim.value = next;
  }
  /** A direction (world) asked for in so many words. */
  function aimAlong(d: Vec3): void {
    aim.value = d[0] === 0 && d[1] === 0 && d[2] < 0 ? 'down' : 'along';
    setAlong(d);
  }
  /** The whole rotation that "turned" stands for, in the world. */
  const wishedRotation = (): Float64Array => mul(frame(), fromXyzRpy([0, 0, 0], triple(turned.value.map(toRad))));
  /** The wished rotation turned by an angle (rad) about an axis (unit, world); whether there is one. */
  function turnBy(axis: Vec3, angle: number): boolean {
    const d = direction.value;
    if (aim.value === 'full') setTurned(mul(back(), mul(axisAngle(axis, angle), wishedRotation())));
    else if (d) aimAlong(rotate(axisAngle(axis, angle), d));
    else return false;
    return true;
  }
  /** The same target seen from another frame. */
  function setFrame(id: string): void {
    const [place, d, rotation] = [worldTarget.value, direction.value, wishedRotation()];
    frameId.value = id;
    setTurned(mul(back(), rotation));
    setPlace(place);
    if (d) setAlong(d);
  }
  function hold(id: string): void {
    const next = new Set(held.value);
    if (!next.delete(id)) next.add(id);
    held.value = next;
  }
  function setTool(id: string): void {
    toolId.value = id;
    frameId.value = WORLD;
    keepOthers('free');
    fromTool();
  }

  // ── Begun and remembered ────────────────────────────────────────────────────────────────────────────────────────

  /** The question last asked of a rig; else the first: where the tool is, and pointing down where it does. */
  function begin(id: string | null): void {
    const last = id ? memory.get(id) : undefined;
    if (last) {
      toolId.value = last.toolId;
      target.value = last.target;
      aim.value = last.aim;
      along.value = last.along;
      turned.value = last.turned;
      fromUp.value = last.fromUp;
      held.value = new Set([...last.held].filter((joint) => rigs.mechanism?.slotOf.has(joint)));
      frameId.value = frames.value.some((f) => f.value === last.frameId) ? last.frameId : WORLD;
      return;
    }
    frameId.value = WORLD;
    toolId.value = null;
    held.value = new Set();
    fromTool();
    const now = toolFrame();
    aim.value = now && Math.abs(axisOf(now, 2)[2] + 1) < 1e-3 ? 'down' : 'free';
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

  return {
    ...{ toolId, tool, frames, frameId, frameNow, carried, others, othersWay, kept, keepOthers },
    ...{ target, worldTarget, aim, along, turned, fromUp, held, task, direction, heldSlots },
    ...{ setTarget, setPlace, setAim, setFrame, setTool, aimAlong, shift, turnBy, hold, fromTool, takeTool, begin },
  };
}
