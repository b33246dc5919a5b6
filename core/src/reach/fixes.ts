/**
 * The smallest single change that would bring an unreachable target into reach, or an arm that is in the way of something out
 * of it: one link longer or shorter, one limit wider, the base nearer, higher or lower, a measure of a delta, the tool
 * tilted, or the target itself moved. Each is tried by solving again on the changed rig and counted in whole mm or degrees;
 * what is offered has been solved, touches nothing, and brings nothing that stops a run.
 */
import { contactScene, standsOnTable } from '../contact';
import { closestPose, HIT_M, probeOf, solveInverse, type Placed, type Task } from '../kinematics';
import { jobOf, piecesOf, type Job } from '../jobs';
import { axisAngle, axisOf, positionOf, rotate, vec3, type Vec3 } from '../linear';
import { compile, type CompiledTool, type Mechanism } from '../mechanism';
import { isMoving, isSliding, jointName, limitsOf, type MechanismDoc, type Rig } from '../rig';
import { DEG_PER_RAD, MM_PER_M, RAD_PER_DEG } from '../units/convert';
import { deltaMeasures, lengthOf, setLength, type DeltaMeasure } from './measures';
import { standsFree } from './touches';

/** A change of one thing; `by` in mm or degrees, whole. */
export type Fix =
  /** The distance from the parent to a joint or to the tool grows (or shrinks) along its own line. */
  | {
      readonly kind: 'link';
      readonly of: 'joint' | 'tool';
      readonly id: string;
      readonly name: string;
      readonly by: number;
      /** The length (mm) that it comes to. */
      readonly to: number;
    }
  | {
      readonly kind: 'limit';
      readonly id: string;
      readonly name: string;
      readonly side: 'min' | 'max';
      readonly by: number;
      /** The limit that it comes to. */
      readonly to: number;
      readonly unit: '°' | 'mm';
    }
  /** The base goes along a level direction (unit, x and y), or up. */
  | { readonly kind: 'base'; readonly along: Vec3; readonly by: number; readonly nearer: boolean }
  | { readonly kind: 'delta'; readonly measure: DeltaMeasure; readonly by: number; readonly to: number }
  /** The tool's direction, instead of the one asked for. */
  | { readonly kind: 'tilt'; readonly by: number; readonly direction: Vec3 }
  /** The target's place, along a direction of the world (unit). */
  | { readonly kind: 'target'; readonly by: number; readonly along: Vec3 };

export interface FixQuestion {
  readonly doc: MechanismDoc;
  /** A place of the base that stands for the document's own. */
  readonly mounting?: MechanismDoc['base']['mounting'] | null;
  /** The rig whose surroundings count, whatever its own mechanism; left out: nothing stands around. */
  readonly around?: Rig;
  readonly toolId: string;
  readonly task: Task;
  /** Slots (SI) where the arm stands. */
  readonly near: Float64Array;
}

/** Widest changes looked at: share of a link's length, ° and mm of a limit, share of the reach for the base. */
const MOST = { link: 0.6, turning: 120, sliding: 300, base: 0.6, target: 150, tilt: 60 };
/** Size of a change of the target by 1 mm, and of the tool's direction by 1°, against changes of the rig. */
const OF_TARGET = 1 / 150;
const OF_TILT = 1 / 90;
/** Links shorter than this (mm) are no links. */
const LEAST_LINK = 8;
/** Shares of the widest change at which a change is tried before it is narrowed down. */
const TRIES = [0.1, 0.25, 0.5, 0.75, 1];
const STARTS = 8;
/** Other targets offered at most: the nearest ones. */
const MOST_TARGETS = 3;

/** The document with the change made; a tilt or another target changes nothing there. */
export function applyFix(doc: MechanismDoc, fix: Fix): MechanismDoc {
  const next = structuredClone(doc);
  if (fix.kind === 'delta') setLength(next, 'delta', fix.measure, lengthOf(next, 'delta', fix.measure) + fix.by);
  if (fix.kind === 'base')
    next.base.mounting.xyzMm = vec3.add(next.base.mounting.xyzMm, vec3.scale(fix.along, fix.by)) as [
      number,
      number,
      number,
    ];
  if (fix.kind === 'limit') {
    const joint = next.joints.find((j) => j.id === fix.id);
    if (joint && isMoving(joint) && joint.type !== 'continuous') {
      const { min, max } = limitsOf(joint);
      joint.limits = { ...joint.limits, min, max, [fix.side]: fix.side === 'min' ? min - fix.by : max + fix.by };
    }
  }
  if (fix.kind === 'link') setLength(next, fix.of, fix.id, lengthOf(next, fix.of, fix.id) + fix.by);
  return next;
}

/** What is asked for with the change made. */
export function applyToTask(task: Task, fix: Fix): Task {
  if (task.kind === 'aim') return task;
  if (fix.kind === 'target')
    return { ...task, position: vec3.add(task.position, vec3.scale(fix.along, fix.by / MM_PER_M)) };
  return fix.kind === 'tilt' && task.kind === 'direction' ? { ...task, direction: fix.direction } : task;
}

export interface FixChecks {
  /** Keys of what stops any run of a rig: looked at for every change that is tried. */
  readonly rig: (rig: Rig, mechanism: Mechanism) => readonly string[];
  /** Routines that could not be run: looked at for the changes that are to be offered. */
  readonly routines: (rig: Rig, mechanism: Mechanism) => Job<readonly string[]>;
}

/**
 * The changes that would do, smallest (against what it changes) first; for an arm that has motors, and so is built, first
 * what asks for another target, last what asks for other parts; none where the target is reached already and nothing is touched.
 * `checks`: what a change may bring nothing new of. Budget: one unit is one solve.
 */
export const fixesJob = (question: FixQuestion, checks?: FixChecks): Job<Fix[]> => jobOf(search(question, checks));

/** Other targets, other limits or places, other parts. */
const order = ({ kind }: Fix): number =>
  kind === 'target' || kind === 'tilt' ? 0 : kind === 'link' || kind === 'delta' ? 2 : 1;

function* search(question: FixQuestion, checks?: FixChecks): Generator<number, Fix[], void> {
  const { doc, mounting, around, toolId, task, near } = question;
  const now = compile(doc, mounting);
  if (!now.ok) return [];
  const { mechanism } = now;
  const tool = mechanism.tools.find((t) => t.id === toolId);
  if (!tool || task.kind === 'aim') return [];
  const hasTable = standsOnTable(mechanism);
  // What gets there and only touches something may be led out of it as well.
  const { solutions } = solveInverse(mechanism, tool, task, near, { explained: false, starts: STARTS });
  const touches = solutions.length > 0;
  // Nothing to change where it is reached and nothing is touched.
  if (touches && (!around || standsFree(contactScene(around, mechanism, [], hasTable), solutions))) return [];
  const families = [
    ...familiesOf(doc, mechanism, tool, task.position, mounting !== undefined && mounting !== null),
    ...(touches ? waysOut(mechanism, task) : waysBack(mechanism, tool, task, near)),
  ];
  const bring = newStops(question, mechanism, checks);
  const found: { fix: Fix; size: number }[] = [];
  for (const [i, { most, make, size }] of families.entries()) {
    const solves = (by: number): boolean => reaches(question, make(by), hasTable, bring);
    let low = 0;
    let high = 0;
    for (const share of TRIES) {
      const by = Math.ceil(share * most);
      if (by <= low) continue;
      yield (i + share) / (families.length + 1);
      if (solves(by)) {
        high = by;
        break;
      }
      low = by;
    }
    if (!high) continue;
    // What failed last and what did first: the smallest that does lies between.
    while (high - low > 1) {
      const middle = Math.floor((low + high) / 2);
      yield (i + 1) / (families.length + 1);
      if (solves(middle)) high = middle;
      else low = middle;
    }
    found.push({ fix: make(high), size: size(high) });
  }
  const tilt = touches ? null : tiltFix(question, mechanism, tool, task, hasTable);
  if (tilt) found.push({ fix: tilt, size: tilt.by * OF_TILT });
  const isBuilt = (around?.drives.length ?? 0) > 0;
  const fixes = found
    .sort((a, b) => (isBuilt ? order(a.fix) - order(b.fix) : 0) || a.size - b.size)
    .map(({ fix }) => fix);
  const offered: Fix[] = [];
  let targets = 0;
  let before: ReadonlySet<string> | null = null;
  for (const fix of fixes) {
    yield 1;
    if (fix.kind === 'target' && ++targets > MOST_TARGETS) continue;
    if (order(fix) > 0 && around && checks) {
      before ??= new Set(yield* piecesOf(checks.routines(around, mechanism)));
      const changed = applyFix(doc, fix);
      const arm = compile(changed, mounting);
      if (!arm.ok) continue;
      const stopped = yield* piecesOf(checks.routines({ ...around, mechanism: changed }, arm.mechanism));
      if (stopped.some((id) => !before!.has(id))) continue;
    }
    offered.push(fix);
  }
  return offered;
}

/** Whether a changed document brings anything that stops a run and did not before. */
function newStops(
  { around, mounting }: FixQuestion,
  mechanism: Mechanism,
  checks?: FixChecks,
): (changed: MechanismDoc) => boolean {
  if (!around || !checks) return () => false;
  const before = new Set(checks.rig(around, mechanism));
  return (changed) => {
    const compiled = compile(changed, mounting);
    return (
      !compiled.ok ||
      checks.rig({ ...around, mechanism: changed }, compiled.mechanism).some((key) => !before.has(key))
    );
  };
}

interface Family {
  readonly most: number;
  /** How much of a change it is, against what is changed. */
  readonly size: (by: number) => number;
  readonly make: (by: number) => Fix;
}

function familiesOf(
  doc: MechanismDoc,
  mechanism: Mechanism,
  tool: CompiledTool,
  target: Vec3,
  isPlaced: boolean,
): Family[] {
  const list: Family[] = [];
  const nameOf = (id: string | null): string => {
    const joint = doc.joints.find((j) => j.id === id);
    return joint ? jointName(joint) : 'Base';
  };
  const path = new Set<string>();
  for (let j = tool.parent; j >= 0; j = mechanism.parent[j]) path.add(mechanism.ids[j]);
  const link = (of: 'joint' | 'tool', id: string, name: string, xyz: readonly number[]): void => {
    const length = Math.hypot(...xyz);
    if (length < LEAST_LINK) return;
    const most = Math.round(MOST.link * length);
    for (const sign of [1, -1])
      list.push({
        most,
        size: (by) => by / length,
        make: (by) => ({ kind: 'link', of, id, name, by: sign * by, to: rounded(length + sign * by) }),
      });
  };
  for (const joint of doc.joints) {
    const moves = mechanism.delta !== null || path.has(joint.id);
    if (!moves) continue;
    if ('origin' in joint)
      link('joint', joint.id, `${nameOf(joint.parent)} to ${jointName(joint)}`, joint.origin.xyzMm);
    if (!isMoving(joint) || joint.type === 'continuous' || ('follows' in joint && joint.follows)) continue;
    const { min, max } = limitsOf(joint);
    const unit = isSliding(joint) ? 'mm' : '°';
    for (const side of ['min', 'max'] as const) {
      const widest = isSliding(joint) ? MOST.sliding : MOST.turning;
      // What the build can physically do is not for software limits to widen.
      const room = joint.physical
        ? Math.floor(side === 'min' ? min - joint.physical.min : joint.physical.max - max)
        : widest;
      const most = Math.min(widest, Math.max(0, room));
      if (most >= 1)
        list.push({
          most,
          size: (by) => by / (isSliding(joint) ? 300 : 180),
          make: (by) => {
            const to = rounded(side === 'min' ? min - by : max + by);
            return { kind: 'limit', id: joint.id, name: jointName(joint), side, by, to, unit };
          },
        });
    }
  }
  const end = doc.tools.find((t) => t.id === tool.id);
  if (end) link('tool', end.id, `${nameOf(end.parent)} to the tip`, end.origin.xyzMm);
  if (doc.family === 'rotary-delta')
    for (const measure of deltaMeasures)
      for (const sign of [1, -1])
        list.push({
          most: Math.round(MOST.link * doc.delta[measure]),
          size: (by) => by / doc.delta[measure],
          make: (by) => ({ kind: 'delta', measure, by: sign * by, to: rounded(doc.delta[measure] + sign * by) }),
        });
  if (!isPlaced) {
    const [x, y] = [mechanism.base[9], mechanism.base[10]];
    const towards = vec3.unit([target[0] - x, target[1] - y, 0]);
    const most = Math.max(20, Math.round(MOST.base * MM_PER_M * vec3.distance(target, [x, y, mechanism.base[11]])));
    // Down goes only an arm that stands on nothing.
    const down: Vec3[] = standsOnTable(mechanism) ? [] : [[0, 0, -1]];
    const ways: Vec3[] = [...(towards ? [towards, vec3.scale(towards, -1)] : []), [0, 0, 1], ...down];
    for (const along of ways)
      list.push({
        most,
        size: (by) => by / most,
        make: (by) => ({ kind: 'base', along, by, nearer: along === towards }),
      });
  }
  return list;
}

const rounded = (v: number): number => Math.round(v * 1000) / 1000;

/** Places on the way from an unreachable target to the closest pose's, and along the world's axes. */
function waysBack(mechanism: Mechanism, tool: CompiledTool, task: Placed, near: Float64Array): Family[] {
  const closest = closestPose(mechanism, [{ tool, task }], near, 'rotation');
  const tip = positionOf(probeOf(mechanism, tool).frameAt(closest.q));
  const straight = vec3.unit(vec3.sub(tip, task.position));
  return [...(straight ? [straight] : []), ...AXES].map((along) => ({
    most: MOST.target,
    size: (by) => by * OF_TARGET,
    make: (by) => ({ kind: 'target', along, by }),
  }));
}
const AXES: readonly Vec3[] = [
  [0, 0, 1],
  [0, 0, -1],
  [1, 0, 0],
  [-1, 0, 0],
  [0, 1, 0],
  [0, -1, 0],
];

/** Places and directions near the ones asked for. */
function waysOut(mechanism: Mechanism, task: Placed): Family[] {
  const ways = AXES.map((along): Family => ({
    most: MOST.target,
    size: (by) => by * OF_TARGET,
    make: (by) => ({ kind: 'target', along, by }),
  }));
  if (task.kind !== 'direction') return ways;
  const { position, direction } = task;
  // In the arm's own plane, where a hobby arm can lean at all.
  const outward = vec3.unit([position[0] - mechanism.base[9], position[1] - mechanism.base[10], 0]) ?? [1, 0, 0];
  const across = vec3.cross(outward, [0, 0, 1]);
  const leaning = [1, -1].map((sign): Family => {
    const turned = (by: number): Vec3 => vec3.unit(rotated(direction, across, sign * by * RAD_PER_DEG))!;
    return {
      most: MOST.tilt,
      size: (by) => by * OF_TILT,
      make: (by) => ({ kind: 'tilt', by, direction: turned(by) }),
    };
  });
  return [...ways, ...leaning];
}

/** Whether the tool gets there with the change made, and touches nothing. */
function reaches(
  { doc, mounting, around, toolId, task, near }: FixQuestion,
  fix: Fix,
  hasTable: boolean,
  bring: (changed: MechanismDoc) => boolean = () => false,
): boolean {
  const changed = applyFix(doc, fix);
  const compiled = compile(changed, mounting);
  if (!compiled.ok) return false;
  const { mechanism } = compiled;
  const tool = mechanism.tools.find((t) => t.id === toolId);
  if (!tool) return false;
  const { solutions } = solveInverse(mechanism, tool, applyToTask(task, fix), near, {
    explained: false,
    starts: STARTS,
  });
  if (!around || !solutions.length) return solutions.length > 0;
  const scene = contactScene({ ...around, mechanism: changed }, mechanism, [], hasTable);
  return standsFree(scene, solutions) && !(order(fix) > 0 && bring(changed));
}

/** The direction nearest to the wish at which the place is reached, in whole degrees from it. */
function tiltFix(
  question: FixQuestion,
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Placed,
  hasTable: boolean,
): Extract<Fix, { kind: 'tilt' }> | null {
  if (task.kind !== 'direction') return null;
  const closest = closestPose(mechanism, [{ tool, task }], question.near, 'position');
  if (closest.distance > HIT_M || closest.angle < 1e-6) return null;
  const { axis, angle } = turnTo(mechanism, tool, task.direction, closest.q);
  const near = { ...question, near: closest.q };
  // A hair more than the least, so that the whole number is not short of it.
  for (let by = Math.ceil(angle * DEG_PER_RAD); by <= Math.ceil(angle * DEG_PER_RAD) + 2; by++) {
    const fix = { kind: 'tilt', by, direction: vec3.unit(rotated(task.direction, axis, by * RAD_PER_DEG))! } as const;
    if (reaches(near, fix, hasTable)) return fix;
  }
  // Arms that can only just hold one direction there: the one they hold.
  const by = Math.round(angle * DEG_PER_RAD * 10) / 10;
  const held = { kind: 'tilt', by, direction: vec3.unit(rotated(task.direction, axis, angle))! } as const;
  return reaches(near, held, hasTable) ? held : null;
}

/** Axis and angle of the turn that carries a wished direction onto the one that the tool has at q. */
function turnTo(
  mechanism: Mechanism,
  tool: CompiledTool,
  wish: Vec3,
  q: Float64Array,
): { axis: Vec3; angle: number } {
  const held = axisOf(probeOf(mechanism, tool).frameAt(q), 2);
  const axis = vec3.unit(vec3.cross(wish, held)) ?? vec3.perpendicular(wish);
  return { axis, angle: vec3.angleBetween(wish, held) };
}

const rotated = (v: Vec3, axis: Vec3, angle: number): Vec3 => rotate(axisAngle(axis, angle), v);
