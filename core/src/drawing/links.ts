/** Links, slides, level bars, a delta's arms and tools as shapes of the drawing, each with its depth for ordering. */
import { inUnit, deltaRods } from '../mechanism';
import { type Frames } from '../kinematics';
import { axisOf, positionOf, rotate, vec3, type Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import { followsOf, isJaw, isMoving, type Joint, type Tool, type TreeDoc } from '../rig';
import { MM } from './page';
import { depthOf, toPage, type View } from './project';
import { group, hull, path, polygon, taperD, type Pt, type Shape } from './shapes';
import { bar, bodyPoints, bodyShape, middle, outline, ROD_MM } from './solids';

/** Drawn shapes with how far they lie in front of the page's plane (m). */
export interface Layer {
  readonly depth: number;
  readonly shapes: readonly Shape[];
}

/** Drawn radius (m) of a joint's body: as given, or thinner from joint to joint. */
export function bodyRadius(doc: TreeDoc, id: string, depth: number): number {
  const joint = doc.joints.find((j) => j.id === id);
  const given = joint?.link?.radiusMm ?? 0;
  return (given > 0 ? given : Math.max(8, 19 - 2.4 * depth)) / MM;
}

/** Joints from the base outward: 0 for those on the base. */
export function depthsOf(doc: TreeDoc, mechanism: Mechanism): Map<string, number> {
  const depth = new Map<string, number>();
  const byId = new Map(doc.joints.map((joint) => [joint.id, joint]));
  for (const id of mechanism.ids) {
    const parent = byId.get(id)?.parent ?? null;
    depth.set(id, parent === null ? 0 : (depth.get(parent) ?? 0) + 1);
  }
  return depth;
}

/** What is needed to draw any joint: the document as a tree, frames at the pose, radii. */
export interface Scene {
  readonly view: View;
  readonly doc: TreeDoc;
  readonly mechanism: Mechanism;
  readonly frames: Frames;
  readonly radius: (id: string) => number;
  readonly shown: (id: string) => boolean;
  /** Joints of limbs that stand well behind the nearest one, and their tools. */
  readonly far: ReadonlySet<string>;
}

/** A limb so much farther behind the nearest one (m) is drawn faint. */
const FAR_M = 0.02;
/** Joints and tools of the limbs that stand well behind the nearest one; of an arm with one limb none. */
export function farLimbs(view: View, mechanism: Mechanism, frames: Frames): Set<string> {
  const tools = mechanism.delta ? [] : mechanism.tools.filter((tool) => tool.mounted && tool.parent >= 0);
  const far = new Set<string>();
  if (tools.length < 2) return far;
  const limbs = tools.map((tool) => {
    const joints: number[] = [];
    for (let j = tool.parent; j >= 0; j = mechanism.parent[j]) joints.push(j);
    return { tool, joints };
  });
  const shared = (j: number, own: number): boolean => limbs.some(({ joints }, k) => k !== own && joints.includes(j));
  // Two tools on one hand are one limb.
  const depths = limbs.flatMap(({ tool, joints }, k) => {
    const own = joints.filter((j) => !shared(j, k));
    if (!own.length) return [];
    const at = [...own.map((j) => frames.joints.get(mechanism.ids[j])!), frames.tools.get(tool.id)!];
    const sum = at.reduce((all, frame) => all + depthOf(view, positionOf(frame)), 0);
    return { tool, own, depth: sum / at.length };
  });
  const nearest = Math.max(...depths.map(({ depth }) => depth));
  for (const { tool, own, depth } of depths) {
    if (depth > nearest - FAR_M) continue;
    far.add(tool.id);
    for (const j of own) far.add(mechanism.ids[j]);
  }
  return far;
}
/** What is drawn of something, faint where it belongs to a far limb. */
const faint = (scene: Scene, id: string, layer: Layer): Layer =>
  scene.far.has(id) ? { depth: layer.depth, shapes: [group('far', [...layer.shapes])] } : layer;

const pivot = (scene: Scene, id: string): Vec3 => positionOf(scene.frames.joints.get(id)!);
const hasBodies = (joint: Joint | undefined): boolean => !!joint?.link?.bodies?.length;

/** Every joint's own bodies and the bar from its parent, the far end first. */
export function linkLayers(scene: Scene): Layer[] {
  const byId = new Map(scene.doc.joints.map((joint) => [joint.id, joint]));
  return [
    ...scene.mechanism.ids
      .toReversed()
      .flatMap((id) => jointLayers(scene, byId, id).map((layer) => faint(scene, id, layer))),
    ...levelBars(scene),
  ];
}

function jointLayers(scene: Scene, byId: ReadonlyMap<string, Joint>, id: string): Layer[] {
  const { view, frames, radius } = scene;
  const layers: Layer[] = [];
  const joint = byId.get(id)!;
  // A jaw is drawn by its tool as two fingers, unless it has solids of its own.
  if (!scene.shown(id) || (isJaw(joint) && !hasBodies(joint))) return layers;
  const frame = frames.joints.get(id)!;
  const here = pivot(scene, id);
  for (const body of joint.link?.bodies ?? [])
    layers.push({ depth: depthOf(view, middle(bodyPoints(frame, body))), shapes: [bodyShape(view, frame, body)] });
  if (joint.type === 'prismatic') layers.push(...slide(scene, joint, frame, here));
  const parent = joint.parent === null ? undefined : byId.get(joint.parent);
  if (!parent || hasBodies(parent) || isJaw(joint)) return layers;
  const there = joint.type === 'prismatic' ? slideStart(scene, joint, frame, here) : here;
  const from = pivot(scene, parent.id);
  if (vec3.distance(from, there) * view.scale < 2) return layers;
  layers.push({
    depth: depthOf(view, middle([from, there])),
    shapes: [bar(view, 'link', from, radius(parent.id), there, radius(id) * 0.86)],
  });
  return layers;
}

/** Where a slide stands with its value at 0. */
function slideStart({ mechanism, frames }: Scene, joint: Joint, frame: Float64Array, here: Vec3): Vec3 {
  if (!isMoving(joint)) return here;
  const value = frames.all[mechanism.index.get(joint.id)!];
  const axis = vec3.unit(rotate(frame, joint.axis))!;
  return vec3.sub(here, vec3.scale(axis, value));
}

function slide(scene: Scene, joint: Joint, frame: Float64Array, here: Vec3): Layer[] {
  const { view, mechanism } = scene;
  const slot = mechanism.slotOf.get(joint.id);
  if (slot === undefined || !isMoving(joint)) return [];
  const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]];
  if (!Number.isFinite(high - low)) return [];
  const axis = vec3.unit(rotate(frame, joint.axis))!;
  const zero = slideStart(scene, joint, frame, here);
  const r = (joint.link?.radiusMm || 20) / MM;
  const depth = depthOf(view, here);
  if (r * MM < ROD_MM) {
    // The rod moves with the joint and is as long as its travel.
    const top = vec3.sub(here, vec3.scale(axis, high - low + 0.02));
    return [{ depth: depth - 1e-4, shapes: [bar(view, 'link rod', top, r * 0.7, here, r * 0.7)] }];
  }
  const across = Math.abs(axis[2]) < 0.7 ? ([0, 0, 1] as Vec3) : vec3.unit(vec3.cross(axis, [0, 1, 0]))!;
  const third = vec3.cross(axis, across);
  const block = (from: number, to: number, half: number, thick: number, sink: number): Vec3[] =>
    [from, to].flatMap((a) =>
      [-half, half].flatMap((b) =>
        [-thick - sink, -sink].map((c) =>
          vec3.add(zero, vec3.add(vec3.scale(axis, a), vec3.add(vec3.scale(third, b), vec3.scale(across, c)))),
        ),
      ),
    );
  const value = vec3.dot(vec3.sub(here, zero), axis);
  return [
    {
      depth: depth - 2e-4,
      shapes: [outline(view, 'link track', block(low - r, high + r, r * 0.5, r * 0.36, r * 0.34))],
    },
    {
      depth: depth - 1e-4,
      shapes: [outline(view, 'link carriage', block(value - r, value + r, r * 0.85, r * 0.34, 0))],
    },
  ];
}

/** Offsets (m, in the level link's frame) of the two bars of a levelling linkage from the joints they run beside. */
export const BAR_OFFSETS: readonly [Vec3, Vec3] = [
  [-0.02, 0, 0.008],
  [0.004, 0, 0.024],
];

export interface LevelBar {
  readonly from: Vec3;
  readonly to: Vec3;
  /** The joint that this bar's upper end, and its crank, belong to. */
  readonly joint: string;
}

/**
 * The parallel bars of a follower that bars keep level: one beside each link from the first joint it compensates, every
 * crank parallel to the level link, so that the bars are parallel to the links in every pose.
 */
export function levelBarsOf(doc: TreeDoc, frames: Pick<Frames, 'joints'>, id: string): LevelBar[] {
  const joint = doc.joints.find((j) => j.id === id);
  if (!joint || !isMoving(joint) || joint.coupling !== 'bars') return [];
  const sources = new Set(followsOf(joint)?.map((f) => f.joint));
  const chain: string[] = [id];
  for (let at = joint.parent; at !== null;) {
    chain.unshift(at);
    sources.delete(at);
    if (!sources.size) break;
    at = doc.joints.find((j) => j.id === at)!.parent;
  }
  const level = frames.joints.get(id)!;
  const beside = (joint: string, k: number): Vec3 =>
    vec3.add(positionOf(frames.joints.get(joint)!), rotate(level, BAR_OFFSETS[Math.min(k, 1)]));
  return chain.slice(1).map((to, k) => ({ from: beside(chain[k], k), to: beside(to, k), joint: to }));
}

function levelBars(scene: Scene): Layer[] {
  const { view, doc, frames } = scene;
  return doc.joints.flatMap((joint): Layer[] => {
    if (!scene.shown(joint.id)) return [];
    const bars = levelBarsOf(doc, frames, joint.id);
    return bars.flatMap(({ from, to, joint: end }, k): Layer[] => {
      const depth = depthOf(view, middle([from, to])) - 2e-3;
      const pin = pivot(scene, end);
      const next = bars[k + 1]?.from;
      const crank = next ? [pin, to, next] : [pin, to];
      return [
        { depth, shapes: [bar(view, 'link level-bar', from, 0.0034, to, 0.0034)] },
        {
          depth: depth + 1e-3,
          shapes: [
            outline(
              view,
              'link crank',
              crank.flatMap((p) => around(p, view)),
            ),
          ],
        },
      ];
    });
  });
}
const around = (p: Vec3, view: View): Vec3[] =>
  Array.from({ length: 8 }, (_, k) => {
    const a = (k / 8) * 2 * Math.PI;
    return vec3.add(
      p,
      vec3.add(vec3.scale(view.right, 0.005 * Math.cos(a)), vec3.scale(view.up, 0.005 * Math.sin(a))),
    );
  });

/** Upper arms, both rods of each forearm, and the platform of a delta. */
export function deltaLayers({ view, mechanism, frames }: Scene): Layer[] {
  const { delta } = mechanism;
  if (!delta) return [];
  const platform = frames.joints.get(mechanism.ids[delta.platform])!;
  const motors = [0, 1, 2].map((s) => frames.joints.get(mechanism.slotIds[s])!);
  const rods = deltaRods(delta, motors, platform);
  const layers = rods.flatMap((arm, i): Layer[] => {
    const hinge = positionOf(motors[i]);
    return [
      ...arm.rods.map(([a, b]) => ({
        depth: depthOf(view, middle([a, b])),
        shapes: [bar(view, 'link rod', a, 0.003, b, 0.003)],
      })),
      {
        depth: depthOf(view, middle([arm.rods[0][0], arm.rods[1][0]])) + 1e-4,
        shapes: [bar(view, 'link rod', arm.rods[0][0], 0.0042, arm.rods[1][0], 0.0042)],
      },
      {
        depth: depthOf(view, middle([hinge, arm.knee])) + 2e-4,
        shapes: [bar(view, 'link', hinge, 0.013, arm.knee, 0.007)],
      },
    ];
  });
  const plate = rods.flatMap(({ rods: pair }) => pair.map(([, foot]) => foot));
  layers.push({
    depth: depthOf(view, positionOf(platform)),
    shapes: [outline(view, 'link', [...plate, ...plate.map((p) => vec3.add(p, rotate(platform, [0, 0, -0.007])))])],
  });
  return layers;
}

/** Opening of a tool's jaw (m) at the pose: from its table, else a guess in proportion for drawing alone. */
export function jawOpening(mechanism: Mechanism, tool: Tool, q: Float64Array): number | null {
  if (!tool.grip || !('joint' in tool.grip)) return null;
  const { joint, open, closed, openingMm } = tool.grip;
  const slot = mechanism.slotOf.get(joint);
  if (slot === undefined) return null;
  const value = inUnit(mechanism, slot, q[slot]);
  if (openingMm && openingMm.length > 1) {
    const table = [...openingMm].sort((a, b) => a.at - b.at);
    const i = Math.min(table.length - 2, Math.max(0, table.findIndex((row) => row.at >= value) - 1));
    const [a, b] = [table[i], table[i + 1]];
    if (a.at === b.at) return a.mm / MM;
    return Math.max(0, a.mm + ((value - a.at) / (b.at - a.at)) * (b.mm - a.mm)) / MM;
  }
  return open === closed ? 0 : Math.max(0, 0.004 + (0.036 * (value - closed)) / (open - closed));
}

export function toolLayers(scene: Scene, q: Float64Array): Layer[] {
  const { view, doc, mechanism, frames, radius } = scene;
  return doc.tools.flatMap((tool): Layer[] => {
    if (!tool.mounted || (tool.parent !== null && !scene.shown(tool.parent))) return [];
    const frame = frames.tools.get(tool.id)!;
    const onBodies = hasBodies(doc.joints.find((joint) => joint.id === tool.parent));
    const jaw = tool.grip && 'joint' in tool.grip ? tool.grip.joint : null;
    const opening =
      jaw && hasBodies(doc.joints.find((joint) => joint.id === jaw)) ? null : jawOpening(mechanism, tool, q);
    if (tool.parent === null || (onBodies && opening === null)) return [];
    const root = pivot(scene, tool.parent);
    const r =
      mechanism.delta && tool.parent === mechanism.ids[mechanism.delta.platform] ? 0.006 : radius(tool.parent);
    const shapes = drawTool(view, frame, root, opening, r * view.scale);
    if (!shapes.length) return [];
    return [faint(scene, tool.id, { depth: depthOf(view, middle([root, positionOf(frame)])) + 3e-4, shapes })];
  });
}

function drawTool(view: View, frame: Float64Array, root: Vec3, opening: number | null, radius: number): Shape[] {
  const page = (p: Vec3): Pt => toPage(view, p);
  const tip = positionOf(frame);
  const z = axisOf(frame, 2);
  const length = vec3.distance(tip, root);
  if (length < 1e-4) return [];
  if (opening === null) {
    // Along its own line the tool is thin; where it stands off to a side, an arm carries it.
    const start = vec3.sub(tip, vec3.scale(z, Math.max(0, vec3.dot(vec3.sub(tip, root), z))));
    const shapes: Shape[] = [];
    if (vec3.distance(start, root) > 1e-3)
      shapes.push(path('link', taperD(page(root), radius * 0.86, page(start), radius * 0.7)));
    shapes.push(path('link', taperD(page(start), radius * 0.8, page(tip), Math.max(2, radius * 0.3))));
    return shapes;
  }
  const palm = vec3.sub(tip, vec3.scale(z, Math.min(0.052, length * 0.6)));
  const x = axisOf(frame, 0);
  const side = (p: Vec3, shift: number): Vec3 => vec3.add(p, vec3.scale(x, shift));
  const finger = (sign: number): Pt[] => [
    page(side(palm, sign * 0.008)),
    page(side(vec3.add(palm, vec3.scale(z, 0.008)), sign * (0.012 + opening / 2))),
    page(side(tip, sign * (opening / 2))),
    page(side(tip, sign * (opening / 2 + 0.003))),
    page(side(vec3.add(palm, vec3.scale(z, 0.006)), sign * (0.018 + opening / 2))),
    page(side(palm, sign * 0.015)),
  ];
  return [
    path('link', taperD(page(root), radius * 0.86, page(palm), Math.max(4, 0.011 * view.scale))),
    polygon('link finger', hullOrLine(finger(1))),
    polygon('link finger', hullOrLine(finger(-1))),
  ];
}

const hullOrLine = (points: Pt[]): Pt[] => {
  const xs = points.map((p) => p[0]);
  return Math.max(...xs) - Math.min(...xs) < 1.5 && points.length > 2 ? hull(points) : points;
};

/** All layers, the furthest first; those equally far keep their order. */
export const stacked = (layers: readonly Layer[]): Shape[] =>
  layers
    .map((layer, i) => ({ ...layer, i, level: Math.round(layer.depth * 1e5) }))
    .sort((a, b) => a.level - b.level || a.i - b.i)
    .flatMap(({ shapes }) => shapes);
