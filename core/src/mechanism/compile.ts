/**
 * compile(): from the document's tree of joints (people's units) to flat typed arrays in SI, which everything that
 * computes works on.
 *
 * Joints are renumbered so that every parent comes before its children. Inside, each joint's frame is turned so that
 * its axis is +Z ("aligned frame"); a joint's motion is then a turn about, or a slide along, the third column. The
 * document's own frame is the aligned one times `unalign`. A rotary delta becomes its three motors and its platform,
 * whose frame kinematics fills in.
 */
import type { Fault } from '../findings';
import { fault } from './findings';
import { identity, inverse, mul, sincos, vec3, zOnto } from '../linear';
import {
  codeName,
  followsOf,
  homeOf,
  isMoving,
  jointName,
  PLATFORM,
  treeOf,
  unitOf,
  type DeltaDoc,
  type Frame,
  type Joint,
  type MechanismDoc,
  type MovingJoint,
  type Tool,
} from '../rig';
import { M_PER_MM, RAD_PER_DEG } from '../units/convert';
import { bodiesOf, bodyOf } from './bodies';
import { springsOf } from './springs';
import { deltaForward } from './delta';
import { frameToSi, siPerUnitOf, type Row } from './convert';
import { compileLimits } from './limits';
import { FIXED, SLIDING, TURNING, type CompiledDelta, type CompiledTool, type Mechanism } from './mechanism';

export type Compiled = { ok: true; mechanism: Mechanism } | { ok: false; faults: Fault[] };

/**
 * Compiles a checked mechanism (see rig/check). Faults arise only from limits that followers or cables leave empty.
 * `mounting` replaces the design's base placement by that of a build.
 */
export function compile(document: MechanismDoc, mounting: Frame | null = null): Compiled {
  const doc = treeOf(document);
  const sorted = parentsFirst(doc.joints);
  const n = sorted.length;
  const index = new Map(sorted.map((joint, i) => [joint.id, i]));

  const type = new Uint8Array(n);
  const parent = new Int32Array(n);
  const local = new Float64Array(12 * n);
  const unalign = new Float64Array(12 * n);
  sorted.forEach((joint, i) => {
    type[i] = joint.type === 'fixed' ? FIXED : joint.type === 'prismatic' ? SLIDING : TURNING;
    parent[i] = joint.parent === null ? -1 : index.get(joint.parent)!;
    const align = isMoving(joint) ? zOnto(vec3.unit(joint.axis)!) : identity();
    unalign.set(inverse(align), 12 * i);
    const origin = mul(frameToSi(joint.origin), align);
    const placed = parent[i] < 0 ? origin : mul(unalign.slice(12 * parent[i], 12 * parent[i] + 12), origin);
    local.set(placed, 12 * i);
  });

  // Independent joints become slots in the order of the document.
  const independent = doc.joints.filter((joint): joint is MovingJoint => isMoving(joint) && !joint.follows);
  const slotIds = independent.map((joint) => joint.id);
  const slotOf = new Map(slotIds.map((id, s) => [id, s]));
  const jointOfSlot = Int32Array.from(slotIds, (id) => index.get(id)!);
  const slotOfJoint = new Int32Array(n).fill(-1);
  jointOfSlot.forEach((j, s) => (slotOfJoint[j] = s));
  const siPerUnit = Float64Array.from(independent, siPerUnitOf);

  const rows = followerRows(sorted, slotOf);
  const offset = Float64Array.from(rows, (row) => row.offset);
  const followStart = new Int32Array(n + 1);
  const followSlot: number[] = [];
  const followFactor: number[] = [];
  rows.forEach(({ terms }, j) => {
    if (slotOfJoint[j] < 0)
      for (const [s, f] of terms) {
        followSlot.push(s);
        followFactor.push(f);
      }
    followStart[j + 1] = followSlot.length;
  });

  const limits = compileLimits(doc, sorted, independent, rows, index);
  const empty = slotIds.findIndex((_, s) => !(limits.lower[s] < limits.upper[s]));
  if (empty >= 0) {
    const at = document.joints.findIndex((joint) => joint.id === slotIds[empty]);
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
    Math.min(limits.upper[s], Math.max(limits.lower[s], homeOf(joint) * siPerUnit[s])),
  );
  const delta = document.family === 'rotary-delta' ? compileDelta(document, index.get(PLATFORM)!) : null;
  if (delta) {
    const { gap, flat } = deltaForward(delta, home);
    if (flat)
      return {
        ok: false,
        faults: [fault('delta-flat', 'mechanism.delta.azimuthsDeg', 'three directions', 'one line')],
      };
    if (gap > 0) {
      const byMm = gap / M_PER_MM;
      const got = `${byMm.toFixed(1)} mm short`;
      return {
        ok: false,
        faults: [fault('delta-open', 'mechanism.delta.forearmMm', 'forearms that meet', got, { byMm })],
      };
    }
  }
  const mechanism: Mechanism = {
    n,
    ids: sorted.map((joint) => joint.id),
    names: sorted.map(jointName),
    codes: sorted.map(codeName),
    units: sorted.map(unitOf),
    index,
    type,
    parent,
    local,
    unalign,
    base: frameToSi(mounting ?? doc.base.mounting),
    ...bodiesOf(document, sorted, unalign),
    springs: springsOf(doc, index, unalign),
    m: slotIds.length,
    slotIds,
    slotOf,
    jointOfSlot,
    slotOfJoint,
    ...limits,
    home,
    siPerUnit,
    offset,
    followStart,
    followSlot: Int32Array.from(followSlot),
    followFactor: Float64Array.from(followFactor),
    delta,
    tools: doc.tools.map((tool) => compileTool(tool, index, parent, type, unalign, rows, delta)),
  };
  return { ok: true, mechanism };
}

/** Every joint's value in terms of the independent ones, in the order of `sorted`. */
function followerRows(sorted: readonly Joint[], slotOf: ReadonlyMap<string, number>): Row[] {
  const byId = new Map(sorted.map((joint) => [joint.id, joint]));
  const rowOf = (joint: Joint): Row => {
    const slot = slotOf.get(joint.id);
    if (slot !== undefined) return { offset: 0, terms: new Map([[slot, 1]]) };
    const row: Row = { offset: 0, terms: new Map() };
    const follows = followsOf(joint);
    if (!isMoving(joint) || !follows) return row;
    const own = siPerUnitOf(joint);
    row.offset = (joint.offset ?? 0) * own;
    for (const { joint: id, factor } of follows) {
      const source = byId.get(id)!;
      const f = (factor * own) / siPerUnitOf(source);
      const inner = rowOf(source);
      row.offset += f * inner.offset;
      for (const [s, g] of inner.terms) row.terms.set(s, (row.terms.get(s) ?? 0) + f * g);
    }
    return row;
  };
  return sorted.map(rowOf);
}

function compileDelta({ delta }: DeltaDoc, platform: number): CompiledDelta {
  const angles = delta.azimuthsDeg.map((deg) => sincos(deg * RAD_PER_DEG));
  return {
    radius: (delta.baseRadiusMm - delta.platformRadiusMm) * M_PER_MM,
    platformRadius: delta.platformRadiusMm * M_PER_MM,
    rodGap: delta.rodGapMm * M_PER_MM,
    upperArm: delta.upperArmMm * M_PER_MM,
    forearm: delta.forearmMm * M_PER_MM,
    cos: Float64Array.from(angles, (a) => a.cos),
    sin: Float64Array.from(angles, (a) => a.sin),
    platform,
  };
}

function compileTool(
  tool: Tool,
  index: ReadonlyMap<string, number>,
  parents: Int32Array,
  type: Uint8Array,
  unalign: Float64Array,
  rows: readonly Row[],
  delta: CompiledDelta | null,
): CompiledTool {
  const parent = tool.parent === null ? -1 : index.get(tool.parent)!;
  const origin = frameToSi(tool.origin);
  const path: number[] = [];
  // All three motors of a delta move what hangs on its platform.
  if (delta && parent === delta.platform) type.forEach((kind, j) => kind !== FIXED && path.push(j));
  else for (let j = parent; j >= 0; j = parents[j]) if (type[j] !== FIXED) path.unshift(j);
  const entries = path.flatMap((j) => [...rows[j].terms].map(([slot, factor]) => ({ joint: j, slot, factor })));
  const local = parent < 0 ? origin : mul(unalign.slice(12 * parent, 12 * parent + 12), origin);
  return {
    id: tool.id,
    name: tool.name ?? tool.id,
    parent,
    local,
    mounted: tool.mounted,
    body: bodyOf(tool, identity()),
    slots: Int32Array.from(new Set(entries.map((e) => e.slot))),
    joint: Int32Array.from(entries, (e) => e.joint),
    slot: Int32Array.from(entries, (e) => e.slot),
    factor: Float64Array.from(entries, (e) => e.factor),
    single: entries.every((e) => e.factor === 1) && new Set(entries.map((e) => e.slot)).size === entries.length,
  };
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
