/** The solids of a rig and which pairs of them may not touch. */
import { forward, type Frames } from '../kinematics';
import { deltaRods } from '../mechanism';
import { apply, fromXyzRpy, inverse, mul, positionOf, vec3, type Vec3 } from '../linear';
import { frameToSi, type Mechanism } from '../mechanism';
import { isMoving, type AnyJoint, type Body, type Obstacle, type Rig } from '../rig';
import { RAD_PER_DEG } from '../units/convert';
import { BASE, HERE, heldKey, WORLD, type ContactScene, type Held, type Part } from './parts';
import { gapOf, Placing, TOUCH } from './placed';
import {
  ballField,
  boxField,
  coneField,
  cylinderField,
  joined,
  ringField,
  seenFrom,
  shifted,
  type Field,
  type Solid,
} from './solids';

const MM = 1e-3;
/** Radius of a link whose own is not known, and of a tool. */
const THIN = 0.005;

const scaled = (v: readonly [number, number, number]): Vec3 => [v[0] * MM, v[1] * MM, v[2] * MM];

function filled(centre: Vec3, half: Vec3, field: Field): Solid {
  return { kind: 'filled', centre, half, field };
}

function bodySolid({ kind, centreMm, rpyDeg, sizeMm }: Body): Solid {
  const half = vec3.scale(scaled(sizeMm), 0.5);
  const own: Field =
    kind === 'box'
      ? boxField(half)
      : kind === 'ball'
        ? // An ellipsoid by its largest ball is too big; by its box it is never too small.
          half[0] === half[1] && half[1] === half[2]
          ? ballField(half[0])
          : boxField(half)
        : kind === 'cone'
          ? coneField(Math.max(half[0], half[1]), -half[2], half[2])
          : cylinderField(Math.max(half[0], half[1]), -half[2], half[2]);
  const frame = fromXyzRpy(scaled(centreMm), vec3.scale(rpyDeg, RAD_PER_DEG));
  const back = inverse(frame);
  // A box round the turned body, in the link's axes.
  const corners = [-1, 1].flatMap((x) =>
    [-1, 1].flatMap((y) => [-1, 1].map((z) => apply(frame, [x * half[0], y * half[1], z * half[2]]))),
  );
  const low = [0, 1, 2].map((k) => Math.min(...corners.map((c) => c[k])));
  const high = [0, 1, 2].map((k) => Math.max(...corners.map((c) => c[k])));
  const centre = low.map((v, k) => (v + high[k]) / 2) as unknown as Vec3;
  const round = low.map((v, k) => (high[k] - v) / 2) as unknown as Vec3;
  return filled(centre, round, seenFrom(back, own));
}

export function obstacleSolid(obstacle: Obstacle): Solid {
  switch (obstacle.kind) {
    case 'plane':
      return { kind: 'below' };
    case 'box': {
      const half = vec3.scale(scaled(obstacle.sizeMm), 0.5);
      const centre: Vec3 = [0, 0, half[2]];
      return filled(centre, half, shifted(boxField(half), centre));
    }
    case 'cylinder': {
      const [r, h] = [obstacle.radiusMm * MM, obstacle.heightMm * MM];
      return filled([0, 0, h / 2], [r, r, h / 2], cylinderField(r, 0, h));
    }
    case 'jar': {
      const [inner, wall, h] = [obstacle.innerRadiusMm * MM, obstacle.wallMm * MM, obstacle.heightMm * MM];
      const out = inner + wall;
      return filled(
        [0, 0, h / 2],
        [out, out, h / 2],
        joined(ringField(inner, out, 0, h), cylinderField(out, 0, wall)),
      );
    }
    default: {
      // A board three tenths high with thin walls between the slots.
      const [a, b, h] = scaled(obstacle.sizeMm);
      const pitch = a / (obstacle.slots + 1);
      const board = shifted(boxField([a / 2, b / 2, h * 0.15]), [0, 0, h * 0.15]);
      const walls = Array.from({ length: obstacle.slots + 1 }, (_, k) =>
        shifted(boxField([1.5 * MM, b / 2, h / 2]), [-a / 2 + pitch * (k + 0.5), 0, h / 2]),
      );
      return filled([0, 0, h / 2], [a / 2, b / 2, h / 2], joined(board, ...walls));
    }
  }
}

const capsule = (a: Vec3, b: Vec3, radius: number): Solid => ({ kind: 'capsule', a, b, radius });

function linkParts(rig: Rig, mechanism: Mechanism): Part[] {
  const parts: Part[] = [];
  if (rig.mechanism.family !== 'tree') return deltaParts(mechanism);
  const { joints } = rig.mechanism;
  const home = forward(mechanism, mechanism.home);
  for (const joint of joints) {
    const j = mechanism.index.get(joint.id)!;
    const add = (solid: Solid): void =>
      void parts.push({ id: joint.id, name: mechanism.names[j], joint: j, solid, local: HERE });
    if (joint.link?.bodies?.length) {
      joint.link.bodies.forEach((body) => add(bodySolid(body)));
      continue;
    }
    const back = inverse(home.joints.get(joint.id)!);
    const radius = (joint.link?.radiusMm ?? 0) * MM || THIN;
    for (const child of joints) {
      // A slide's own place moves along the link; its travel is no bar.
      if (child.parent !== joint.id || !isMoving(child) || child.type === 'prismatic') continue;
      const end = apply(back, positionOf(home.joints.get(child.id)!));
      if (vec3.norm(end) > TOUCH) add(capsule([0, 0, 0], end, Math.min(radius, vec3.norm(end))));
    }
  }
  return parts;
}

/** Upper arms turn with their motors; forearms are rods between two of them. */
function deltaParts(mechanism: Mechanism): Part[] {
  const { delta } = mechanism;
  if (!delta) return [];
  const motors = (frames: Frames): Float64Array[] => [0, 1, 2].map((i) => frames.joints.get(mechanism.ids[i])!);
  const platform = mechanism.ids[delta.platform];
  return [0, 1, 2].flatMap((i): Part[] => [
    {
      id: mechanism.ids[i],
      name: mechanism.names[i],
      joint: i,
      solid: capsule([0, 0, 0], [delta.upperArm, 0, 0], THIN),
      local: HERE,
    },
    {
      id: mechanism.ids[i],
      name: `forearm of ${mechanism.names[i]}`,
      joint: i,
      solid: capsule([0, 0, 0], [0, 0, 0], THIN),
      local: HERE,
      ends: (frames) => {
        const rod = deltaRods(delta, motors(frames), frames.joints.get(platform)!)[i];
        return [rod.knee, rod.foot];
      },
    },
  ]);
}

/** Payloads in the tools that hold them, as the boxes they are. */
function heldParts(rig: Rig, mechanism: Mechanism, held: readonly Held[]): Part[] {
  return held.flatMap((one): Part[] => {
    const tool = rig.mechanism.tools.find((t) => t.id === one.tool);
    const payload = rig.payloads.find((p) => p.id === one.payload);
    if (!tool || !payload) return [];
    const joint = tool.parent === null ? BASE : mechanism.index.get(tool.parent)!;
    const half = vec3.scale(scaled(payload.sizeMm), 0.5);
    const local = mul(frameToSi(tool.origin), fromXyzRpy(scaled(payload.comMm), [0, 0, 0]));
    const solid = filled([0, 0, 0], half, boxField(half));
    return [{ id: payload.id, name: payload.name, joint, solid, local, held: heldKey(one) }];
  });
}

/** The solids of a rig, each on what it moves with. */
function partsOf(rig: Rig, mechanism: Mechanism): Part[] {
  const { base, joints, tools } = rig.mechanism;
  const parts: Part[] = (base.bodies ?? []).map((body) => ({
    id: 'base',
    name: 'the base',
    joint: BASE,
    solid: bodySolid(body),
    local: HERE,
  }));
  parts.push(...linkParts(rig, mechanism));
  for (const tool of tools) {
    const end = scaled(tool.origin.xyzMm);
    const length = vec3.norm(end);
    if (!tool.mounted || length < 2 * THIN) continue;
    const known = (joints as readonly AnyJoint[]).find((joint) => joint.id === tool.parent);
    const given = known && 'link' in known ? known.link?.radiusMm : undefined;
    const radius = Math.min(THIN, given ? given * MM : THIN);
    // Up to its own radius before the tip: the tip is meant to touch.
    const b = vec3.scale(end, Math.max(0, 1 - (radius + TOUCH) / length));
    const joint = tool.parent === null ? BASE : mechanism.index.get(tool.parent)!;
    parts.push({ id: tool.id, name: tool.name ?? tool.id, joint, solid: capsule([0, 0, 0], b, radius), local: HERE });
  }
  for (const obstacle of rig.obstacles)
    parts.push({
      id: obstacle.id,
      name: obstacle.name,
      joint: obstacle.fixedTo === 'base' ? BASE : WORLD,
      solid: obstacleSolid(obstacle),
      local: frameToSi(obstacle),
    });
  return parts;
}

/**
 * Joints from either of two links up to where their branches meet; links further from there are checked whatever they do at
 * home.
 */
const NEAR = 2;

/** Whether there is a table: what the arm stands on, where it stands on anything. */
export const standsOnTable = ({ base }: Mechanism): boolean => base[8] > 0.5 && base[11] > -TOUCH;

/**
 * `held`: payloads that tools may hold; they count where {@link contactsAt} is told that they do. `hasTable`: said where the arm
 * is looked at elsewhere than where it stands.
 */
export function contactScene(
  rig: Rig,
  mechanism: Mechanism,
  held: readonly Held[] = [],
  hasTable = standsOnTable(mechanism),
): ContactScene {
  const parts = [...partsOf(rig, mechanism), ...heldParts(rig, mechanism, held)];
  if (hasTable) parts.push({ id: 'table', name: 'the table', joint: WORLD, solid: { kind: 'below' }, local: HERE });
  const home = new Placing(mechanism, parts).at(mechanism.home);
  const pairs: [number, number][] = [];
  parts.forEach((a, i) =>
    parts.slice(i + 1).forEach((b, k) => {
      const j = i + 1 + k;
      if (a.joint === b.joint || (a.joint < 0 && b.joint < 0) || (a.held && b.held)) return;
      const [up, down] = branches(mechanism, a.joint, b.joint);
      if (up + down <= 1) return;
      // Neighbours of neighbours that overlap where the arm is at home are built that way: a lid over its eye.
      if (Math.max(up, down) <= NEAR && gapOf(home.part(i), home.part(j), 0).distance < 0) return;
      pairs.push([i, j]);
    }),
  );
  return { mechanism, parts, pairs };
}

/** How many joints each of two links is from the link that both hang on; neither hangs on the world. */
function branches(mechanism: Mechanism, a: number, b: number): readonly [number, number] {
  if (a === WORLD || b === WORLD) return [Infinity, Infinity];
  const up = (j: number): number[] => {
    const path = [j];
    for (let at = j; at >= 0;) path.push((at = mechanism.parent[at] < 0 ? BASE : mechanism.parent[at]));
    return path;
  };
  const [pa, pb] = [up(a), up(b)];
  const meet = pa.find((j) => pb.includes(j))!;
  return [pa.indexOf(meet), pb.indexOf(meet)];
}
