/** Why a target is not reached, and by how much; every figure comes from a solved pose. */
import type { Needs } from '../findings';
import { type kinematicsFindings, say } from './findings';
import { positionOf, STRIDE, vec3 } from '../linear';
import { inOwnUnit, TURNING, worstRule, type CompiledTool, type Mechanism } from '../mechanism';
import { DEG_PER_RAD, MM_PER_M } from '../units/convert';
import type { ClosedResult } from './closed-form';
import { reachedAt, type PlacedAsk } from './reached';
import { closestPose } from './closest';
import { framesInto, kinematicsSpace, toolInto } from './forward';
import { solveNumeric } from './numeric';
import { askError, isHitAt, LIMIT_SLACK, nearestTurn, type Reason, type Solution } from './solution';
import { HIT_M, HIT_RAD, isHit, type Ask, type Placed } from './task';

type Entries = typeof kinematicsFindings.entries;
/** A reason with its sentence; `extra`: the joint, and the figure for those who mend it. */
export const reason = <C extends keyof Entries>(
  code: C,
  ...[data, extra = {}]: [...Needs<Entries[C]>, extra?: Omit<Reason, 'code' | 'message'>]
): Reason => ({ code, message: say(code, ...([data] as Needs<Entries[C]>)), ...extra });

export function explain(
  mechanism: Mechanism,
  ask: PlacedAsk,
  near: Float64Array,
  branches: ClosedResult,
  held?: ReadonlySet<number>,
): { reasons: Reason[]; closest: Solution } {
  const { tool, task } = ask;
  const closest = closestPose(mechanism, [ask], near, 'position', held);
  const reasons: Reason[] = [];
  const raw = branches ? branches.list.filter((b) => isHitAt(mechanism, tool, task, b.q)).map((b) => b.q) : [];
  const miss = branches?.miss ?? null;
  if (!raw.length && !miss) {
    const { q, ...error } = solveNumeric(mechanism, tool, task, closest.q, { limits: false, held });
    if (isHit(error)) raw.push(q);
  }
  const alone = limitAlone(mechanism, ask, near, held);
  if (alone) {
    reasons.push(alone);
  } else if (raw.length) {
    reasons.push(...limitReasons(mechanism, tool, raw, near));
  } else if (miss?.kind === 'out-of-plane') {
    reasons.push(turnReason('direction-out-of-plane', miss.angle));
  }
  if (task.kind === 'free') {
    if (!reasons.length) reasons.push(distanceReason(mechanism, tool, task, closest));
  } else {
    const isPlaced = closest.distance <= HIT_M;
    // Too few joints to turn the tool as well: how far the place is with the tool turned as asked says nothing.
    const few = isPlaced && !alone && !raw.length && tool.slots.length < (task.kind === 'full' ? 6 : 4);
    const isOutOfPlane = miss?.kind === 'out-of-plane';
    if (!reasons.length && !isOutOfPlane && !few) {
      const turned = closestPose(mechanism, [ask], near, 'rotation', held);
      if (turned.distance > HIT_M) reasons.push(distanceReason(mechanism, tool, task, turned));
    }
    if (isPlaced && !isOutOfPlane)
      reasons.push(turnReason(task.kind === 'direction' ? 'direction-off' : 'rotation-off', closest.angle));
    else if (reasons.length === 0) reasons.push(distanceReason(mechanism, tool, task, closest));
    if (few) reasons.push(reason('few-joints', { joints: tool.slots.length }));
  }
  return { reasons, closest };
}

/** Room given to a joint whose limit is looked past: all turns, and this much slide (m). */
const ROOM = { turn: 2 * Math.PI, slide: 2 };
const ROOM_STARTS = 6;
/** A metre of slide counts as so many rad. */
const METRE = 4;
/** The joint nearest to the base is named unless another does with a smaller share of what it needs. */
const PLAINER = 0.4;

/**
 * The one joint that reaches if only its own limit gave way, and by how much. Of several the one nearest to the base: "the
 * turntable cannot turn that far" says more than how far an elbow would bend the other way.
 */
function limitAlone(
  mechanism: Mechanism,
  ask: PlacedAsk,
  near: Float64Array,
  held?: ReadonlySet<number>,
): Reason | null {
  let best: { slot: number; by: number; size: number } | null = null;
  for (const slot of ask.tool.slots) {
    const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]];
    if (held?.has(slot) || !Number.isFinite(high - low)) continue;
    const slides = mechanism.units[mechanism.jointOfSlot[slot]] === 'mm';
    const room = slides ? ROOM.slide : ROOM.turn;
    const wide = { ...mechanism, lower: mechanism.lower.slice(), upper: mechanism.upper.slice() };
    wide.lower[slot] = low - room;
    wide.upper[slot] = high + room;
    const past = (v: number): number => {
      const inside = slides ? v : nearestTurn(v, near[slot], low, high);
      return Math.max(low - inside, inside - high, 0);
    };
    const by = Math.min(...reachedAt(wide, ask, near, { held, starts: ROOM_STARTS }).map(({ q }) => past(q[slot])));
    if (!Number.isFinite(by) || by <= LIMIT_SLACK) continue;
    const size = slides ? by * METRE : by;
    if (!best || size < PLAINER * best.size) best = { slot, by, size };
  }
  return best && limitReason(mechanism, best.slot, best.by);
}

function limitReason(mechanism: Mechanism, slot: number, by: number): Reason {
  const j = mechanism.jointOfSlot[slot];
  const data = { joint: mechanism.names[j] };
  const joint = mechanism.ids[j];
  if (mechanism.units[j] === 'mm') {
    const byMm = by * MM_PER_M;
    return reason('slide-in-the-way', { ...data, byMm }, { joint, byMm });
  }
  const byDeg = by * DEG_PER_RAD;
  return reason(
    isTurntable(mechanism, j) ? 'turn-in-the-way' : 'limit-in-the-way',
    { ...data, byDeg },
    { joint, byDeg },
  );
}

/** Whether a joint turns all that follows about an upright axis, and only slides and fixed joints come before it. */
function isTurntable(mechanism: Mechanism, j: number): boolean {
  for (let k = mechanism.parent[j]; k >= 0; k = mechanism.parent[k]) if (mechanism.type[k] === TURNING) return false;
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, mechanism.home);
  return Math.abs(space.frames[STRIDE * j + 8]) > UPRIGHT;
}
const UPRIGHT = 1 - 1e-6;

export const turnReason = (
  code: 'direction-off' | 'rotation-off' | 'direction-out-of-plane',
  angle: number,
): Reason => {
  const byDeg = angle * DEG_PER_RAD;
  return reason(code, { byDeg }, { byDeg });
};

/** Too far or too near, judged from the first joint on the path whose motion changes the distance. */
function distanceReason(mechanism: Mechanism, tool: CompiledTool, task: Placed, pose: Solution): Reason {
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, pose.q);
  const frame = new Float64Array(STRIDE);
  toolInto(frame, 0, mechanism, space, tool);
  const pivot = positionOf(space.frames, STRIDE * tool.joint[Math.min(1, tool.joint.length - 1)]);
  const byMm = pose.distance * MM_PER_M;
  const outward = vec3.distance(task.position, pivot) >= vec3.distance(positionOf(frame), pivot);
  return reason(outward ? 'too-far' : 'too-near', { byMm }, { byMm });
}

/** Of the poses that would do without limits, the one least past them: each joint that is, and by how much. */
export function limitReasons(
  mechanism: Mechanism,
  tool: CompiledTool,
  raw: readonly Float64Array[],
  near: Float64Array,
): Reason[] {
  const options = raw.map((q) =>
    Array.from(tool.slots)
      .map((s) => {
        const placed =
          mechanism.units[mechanism.jointOfSlot[s]] === '°'
            ? nearestTurn(q[s], near[s], mechanism.lower[s], mechanism.upper[s])
            : q[s];
        return { s, by: Math.max(mechanism.lower[s] - placed, placed - mechanism.upper[s], 0) };
      })
      .filter(({ by }) => by > LIMIT_SLACK)
      .sort((a, b) => b.by - a.by),
  );
  const best = options.filter((o) => o.length).sort((a, b) => a.length - b.length || a[0].by - b[0].by)[0] ?? [];
  return best.map(({ s, by }) => limitReason(mechanism, s, by));
}

/** Of poses that do but for a rule, the one that breaks it least. */
export function ruleReason(mechanism: Mechanism, found: readonly Solution[]): Reason {
  const { rule, by } = found.map(({ q }) => worstRule(mechanism, q)).reduce((a, b) => (b.by < a.by ? b : a));
  const { words, unit, joint } = rule!;
  const shown = inOwnUnit(rule!, by);
  return reason(
    'rule-in-the-way',
    { rule: words[0].toUpperCase() + words.slice(1), by: shown, unit },
    { joint: mechanism.ids[joint], ...(unit === 'mm' ? { byMm: shown } : { byDeg: shown }) },
  );
}

/** For several tools at once, or a spot to point at: each tool that the closest pose leaves off its task, and by how much. */
export function missReasons(mechanism: Mechanism, asks: readonly Ask[], closest: Solution): Reason[] {
  return asks.flatMap((ask) => {
    const { distance, angle } = askError(mechanism, ask, closest.q);
    const tool = ask.tool.name;
    const [byMm, byDeg] = [distance * MM_PER_M, angle * DEG_PER_RAD];
    if (distance > HIT_M) return [reason('tool-misses', { tool, byMm }, { byMm })];
    return angle > HIT_RAD ? [reason('tool-turned', { tool, byDeg }, { byDeg })] : [];
  });
}
