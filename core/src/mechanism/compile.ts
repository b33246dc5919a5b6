/**
 * compile(): from the document's tree of joints (people's units) to flat typed arrays in SI, which everything that
 * computes works on.
 *
 * Joints are renumbered so that every parent comes before its children. Inside, each joint's frame is turned so that
 * its axis is +Z ("aligned frame"); a joint's motion is then a turn about, or a slide along, the third column. The
 * document's own frame is the aligned one times `unalign`.
 */
import { fault, type Fault } from '../contract/finding';
import { fromXyzRpy, identity, inverse, mul, vec3, zOnto, type Vec3 } from '../linear';
import {
  homeOf,
  isMoving,
  isSliding,
  jointName,
  limitsOf,
  unitOf,
  type Frame,
  type Joint,
  type MechanismDoc,
  type MovingJoint,
  type Tool,
} from '../rig';
import { M_PER_MM, RAD_PER_DEG } from '../units/convert';

export const FIXED = 0;
export const TURNING = 1;
export const SLIDING = 2;

/** The constant turn from a joint's parent to the joint at 0: none, ±90° or another angle about X alone, any other. */
export const NO_TURN = 0;
export const QUARTER_ABOUT_X = 1;
export const ABOUT_X = 2;
export const ANY_TURN = 3;

export interface CompiledTool {
  readonly id: string;
  readonly name: string;
  /** Joint index, −1 for the base. */
  readonly parent: number;
  /** Tool frame in its parent's aligned frame. */
  readonly local: Float64Array;
  /** NO_TURN, QUARTER_ABOUT_X, ABOUT_X or ANY_TURN of the rotation in `local`. */
  readonly shape: number;
  readonly mounted: boolean;
  /** Slots of the independent joints that move this tool, from the base outward. */
  readonly slots: Int32Array;
  /** Contributions to the Jacobian: joint `joint[k]` moves with slot `slot[k]` times `factor[k]`. */
  readonly joint: Int32Array;
  readonly slot: Int32Array;
  readonly factor: Float64Array;
  /** Whether every slot moves the tool through one joint, one for one (no followers on the path). */
  readonly single: boolean;
}

export interface LimitRule {
  /** Σ factor·q over slots, SI, must stay within [min, max]. */
  readonly terms: readonly { slot: number; factor: number }[];
  readonly min: number;
  readonly max: number;
}

export interface Mechanism {
  /** Joints, fixed and followers included. */
  readonly n: number;
  readonly ids: readonly string[];
  readonly names: readonly string[];
  readonly units: readonly ('°' | 'mm')[];
  readonly index: ReadonlyMap<string, number>;
  readonly type: Uint8Array;
  readonly parent: Int32Array;
  /** n × 12: aligned frame of each joint at value 0 in its parent's aligned frame. */
  readonly local: Float64Array;
  /** NO_TURN, QUARTER_ABOUT_X, ABOUT_X or ANY_TURN of the rotation in `local`. */
  readonly shape: Uint8Array;
  /** n × 12: document frame in the aligned frame. */
  readonly unalign: Float64Array;
  /** World transform of the base. */
  readonly base: Float64Array;

  /** Independent joints ("slots"), in the order of the document. */
  readonly m: number;
  readonly slotIds: readonly string[];
  readonly slotOf: ReadonlyMap<string, number>;
  readonly jointOfSlot: Int32Array;
  /** −1 where the joint is fixed or a follower. */
  readonly slotOfJoint: Int32Array;
  readonly continuous: Uint8Array;
  /** Per slot, SI (rad or m, per s, s², s³); ±Infinity where unbounded. */
  readonly lower: Float64Array;
  readonly upper: Float64Array;
  readonly speed: Float64Array;
  readonly accel: Float64Array;
  readonly jerk: Float64Array;
  readonly home: Float64Array;
  /** SI per document unit for each slot (rad per °, m per mm). */
  readonly siPerUnit: Float64Array;

  /** Followers: value of joint j = offset[j] + Σ factor·q over entries followStart[j] … followStart[j+1]−1. */
  readonly offset: Float64Array;
  readonly followStart: Int32Array;
  readonly followSlot: Int32Array;
  readonly followFactor: Float64Array;
  readonly rules: readonly LimitRule[];
  readonly tools: readonly CompiledTool[];
}

export type Compiled = { ok: true; mechanism: Mechanism } | { ok: false; faults: Fault[] };

export const frameToSi = (frame: Frame): Float64Array =>
  fromXyzRpy(
    frame.xyzMm.map((v) => v * M_PER_MM) as unknown as Vec3,
    frame.rpyDeg.map((v) => v * RAD_PER_DEG) as unknown as Vec3,
  );

/** SI per document unit of a joint's value. */
export const siPerUnitOf = (joint: Joint): number => (isSliding(joint) ? M_PER_MM : RAD_PER_DEG);

interface Row {
  offset: number;
  terms: Map<number, number>;
}

/**
 * Compiles a checked mechanism (see rig/check). Faults arise only from limits that followers leave empty.
 * `mounting` replaces the design's base placement by that of a build.
 */
export function compile(doc: MechanismDoc, mounting: Frame | null = null): Compiled {
  const sorted = parentsFirst(doc.joints);
  const n = sorted.length;
  const index = new Map(sorted.map((joint, i) => [joint.id, i]));

  const type = new Uint8Array(n);
  const parent = new Int32Array(n);
  const local = new Float64Array(12 * n);
  const unalign = new Float64Array(12 * n);
  const shape = new Uint8Array(n);
  sorted.forEach((joint, i) => {
    type[i] = joint.type === 'fixed' ? FIXED : joint.type === 'prismatic' ? SLIDING : TURNING;
    parent[i] = joint.parent === null ? -1 : index.get(joint.parent)!;
    const align = isMoving(joint) ? zOnto(vec3.unit(joint.axis)!) : identity();
    unalign.set(inverse(align), 12 * i);
    const origin = mul(frameToSi(joint.origin), align);
    const placed = parent[i] < 0 ? origin : mul(unalign.slice(12 * parent[i], 12 * parent[i] + 12), origin);
    snap(placed);
    local.set(placed, 12 * i);
    shape[i] = shapeOf(placed);
  });

  // Independent joints become slots in the order of the document.
  const independent = doc.joints.filter((joint): joint is MovingJoint => isMoving(joint) && !joint.follows);
  const m = independent.length;
  const slotIds = independent.map((joint) => joint.id);
  const slotOf = new Map(slotIds.map((id, s) => [id, s]));
  const jointOfSlot = Int32Array.from(slotIds, (id) => index.get(id)!);
  const slotOfJoint = new Int32Array(n).fill(-1);
  jointOfSlot.forEach((j, s) => (slotOfJoint[j] = s));
  const siPerUnit = Float64Array.from(independent, siPerUnitOf);
  const limits = independent.map(limitsOf);
  const lower = Float64Array.from(limits, (l, s) => l.min * siPerUnit[s]);
  const upper = Float64Array.from(limits, (l, s) => l.max * siPerUnit[s]);
  const speed = Float64Array.from(limits, (l, s) => l.maxSpeed * siPerUnit[s]);
  const accel = Float64Array.from(limits, (l, s) => l.maxAccel * siPerUnit[s]);
  const jerk = Float64Array.from(limits, (l, s) => l.maxJerk * siPerUnit[s]);

  // Followers, resolved down to independent joints.
  const rows: Row[] = [];
  const byId = new Map(sorted.map((joint) => [joint.id, joint]));
  const rowOf = (joint: Joint): Row => {
    const slot = slotOf.get(joint.id);
    if (slot !== undefined) return { offset: 0, terms: new Map([[slot, 1]]) };
    const row: Row = { offset: 0, terms: new Map() };
    if (!isMoving(joint) || !joint.follows) return row;
    const own = siPerUnitOf(joint);
    row.offset = (joint.offset ?? 0) * own;
    for (const { joint: id, factor } of joint.follows) {
      const source = byId.get(id)!;
      const f = (factor * own) / siPerUnitOf(source);
      const inner = rowOf(source);
      row.offset += f * inner.offset;
      for (const [s, g] of inner.terms) row.terms.set(s, (row.terms.get(s) ?? 0) + f * g);
    }
    return row;
  };
  const offset = new Float64Array(n);
  const followStart = new Int32Array(n + 1);
  const followSlot: number[] = [];
  const followFactor: number[] = [];
  const rules: LimitRule[] = [];
  sorted.forEach((joint, j) => {
    const row = rowOf(joint);
    rows.push(row);
    offset[j] = row.offset;
    if (slotOfJoint[j] < 0)
      for (const [s, f] of row.terms) {
        followSlot.push(s);
        followFactor.push(f);
      }
    followStart[j + 1] = followSlot.length;
    if (isMoving(joint) && joint.follows) limitByFollower(joint, row);
  });
  function limitByFollower(joint: MovingJoint, row: Row): void {
    const own = siPerUnitOf(joint);
    const l = limitsOf(joint);
    const [min, max] = [l.min * own - row.offset, l.max * own - row.offset];
    const terms = [...row.terms].map(([slot, factor]) => ({ slot, factor })).filter((t) => t.factor !== 0);
    if (terms.length === 1) {
      const { slot, factor } = terms[0];
      const [a, b] = factor > 0 ? [min / factor, max / factor] : [max / factor, min / factor];
      lower[slot] = Math.max(lower[slot], a);
      upper[slot] = Math.min(upper[slot], b);
      const given = joint.limits;
      if (given?.maxSpeed) speed[slot] = Math.min(speed[slot], (given.maxSpeed * own) / Math.abs(factor));
      if (given?.maxAccel) accel[slot] = Math.min(accel[slot], (given.maxAccel * own) / Math.abs(factor));
      if (given?.maxJerk) jerk[slot] = Math.min(jerk[slot], (given.maxJerk * own) / Math.abs(factor));
    } else if (terms.length > 1 && (Number.isFinite(min) || Number.isFinite(max))) rules.push({ terms, min, max });
  }
  for (const rule of doc.limitRules) {
    // A rule is written in the joints' own units; its sum is scaled by the first joint's.
    const unit = siPerUnitOf(byId.get(rule.terms[0].joint)!);
    const sum = new Map<number, number>();
    let shift = 0;
    for (const { joint: id, factor } of rule.terms) {
      const row = rows[index.get(id)!];
      const f = (factor * unit) / siPerUnitOf(byId.get(id)!);
      shift += f * row.offset;
      for (const [s, g] of row.terms) sum.set(s, (sum.get(s) ?? 0) + f * g);
    }
    rules.push({
      terms: [...sum].map(([slot, factor]) => ({ slot, factor })),
      min: rule.min * unit - shift,
      max: rule.max * unit - shift,
    });
  }
  const empty = slotIds.findIndex((_, s) => !(lower[s] < upper[s]));
  if (empty >= 0) {
    const at = doc.joints.findIndex((joint) => joint.id === slotIds[empty]);
    return {
      ok: false,
      faults: [
        fault('limits-empty', `mechanism.joints[${at}].limits`, 'a range that followers allow too', 'none', {
          id: slotIds[empty],
        }),
      ],
    };
  }
  const home = Float64Array.from(independent, (joint, s) =>
    Math.min(upper[s], Math.max(lower[s], homeOf(joint) * siPerUnit[s])),
  );

  const tools = doc.tools.map((tool) => compileTool(tool, index, parent, type, unalign, rows));
  return {
    ok: true,
    mechanism: {
      n,
      ids: sorted.map((joint) => joint.id),
      names: sorted.map(jointName),
      units: sorted.map(unitOf),
      index,
      type,
      parent,
      local,
      shape,
      unalign,
      base: frameToSi(mounting ?? doc.base.mounting),
      m,
      slotIds,
      slotOf,
      jointOfSlot,
      slotOfJoint,
      continuous: Uint8Array.from(independent, (joint) => Number(joint.type === 'continuous')),
      lower,
      upper,
      speed,
      accel,
      jerk,
      home,
      siPerUnit,
      offset,
      followStart,
      followSlot: Int32Array.from(followSlot),
      followFactor: Float64Array.from(followFactor),
      rules,
      tools,
    },
  };
}

function compileTool(
  tool: Tool,
  index: ReadonlyMap<string, number>,
  parents: Int32Array,
  type: Uint8Array,
  unalign: Float64Array,
  rows: readonly Row[],
): CompiledTool {
  const parent = tool.parent === null ? -1 : index.get(tool.parent)!;
  const origin = frameToSi(tool.origin);
  const path: number[] = [];
  for (let j = parent; j >= 0; j = parents[j]) if (type[j] !== FIXED) path.unshift(j);
  const entries = path.flatMap((j) => [...rows[j].terms].map(([slot, factor]) => ({ joint: j, slot, factor })));
  const local = parent < 0 ? origin : mul(unalign.slice(12 * parent, 12 * parent + 12), origin);
  snap(local);
  return {
    id: tool.id,
    name: tool.name ?? tool.id,
    parent,
    local,
    shape: shapeOf(local),
    mounted: tool.mounted,
    slots: Int32Array.from(new Set(entries.map((e) => e.slot))),
    joint: Int32Array.from(entries, (e) => e.joint),
    slot: Int32Array.from(entries, (e) => e.slot),
    factor: Float64Array.from(entries, (e) => e.factor),
    single: entries.every((e) => e.factor === 1) && new Set(entries.map((e) => e.slot)).size === entries.length,
  };
}

/** Rotation entries this close to 0 or ±1 are rounding of right angles. */
const RIGHT_ANGLE_ROUNDING = 1e-15;

/** Puts rotation entries that are 0 or ±1 but for rounding exactly there. */
export function snap(frame: Float64Array): void {
  for (let i = 0; i < 9; i++) {
    const whole = Math.round(frame[i]);
    if (Math.abs(frame[i] - whole) < RIGHT_ANGLE_ROUNDING) frame[i] = whole;
  }
}

export function shapeOf(frame: Float64Array): number {
  if (frame[0] !== 1 || [1, 2, 3, 6].some((k) => frame[k] !== 0)) return ANY_TURN;
  return frame[4] === 1 ? NO_TURN : frame[4] === 0 ? QUARTER_ABOUT_X : ABOUT_X;
}

/** The joints in an order where every parent comes before its children, otherwise as in the document. */
function parentsFirst(joints: readonly Joint[]): Joint[] {
  const children = new Map<string | null, Joint[]>();
  for (const joint of joints) {
    const list = children.get(joint.parent);
    if (list) list.push(joint);
    else children.set(joint.parent, [joint]);
  }
  const sorted: Joint[] = [];
  const stack = [...(children.get(null) ?? [])].reverse();
  for (let joint = stack.pop(); joint; joint = stack.pop()) {
    sorted.push(joint);
    stack.push(...[...(children.get(joint.id) ?? [])].reverse());
  }
  return sorted;
}
