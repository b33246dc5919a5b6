/**
 * Side elevation and plan of a rig in a pose, like a dimensioned drawing. The side view looks square onto the arm's
 * own plane (it turns with the base), so that lengths in it are true; the plan looks down with forward to the right.
 */
import { forward } from '../../kinematics';
import { apply, axisOf, positionOf, vec3, type Vec3 } from '../../linear';
import type { Mechanism } from '../../mechanism';
import { isMoving, type MechanismDoc, type Payload, type Rig, type Tool } from '../../rig';
import { drawObstacle, planReach, region, spotMark, targetMark, trace } from './around';
import { dimensionLines, limitArc } from './dimensions';
import type { Drawing, DrawingInput } from './input';
import { mark } from './marks';
import { grid, ground, isInPlane, MM, mm, planarArms, viewOf } from './page';
import { toPage, type View } from './project';
import { group, hull, markup, path, polygon, taperD, type Pt, type Shape } from './shapes';

export function drawRig(input: DrawingInput): Drawing {
  const planars = planarArms(input.mechanism);
  const view = viewOf(input, planars);
  const shapes: Shape[] = [];
  shapes.push(...grid(view, input.bare));
  if (input.region)
    shapes.push(...(view.kind === 'side' ? region : planReach)(view, input.region, input.mechanism, planars));
  shapes.push(...input.rig.obstacles.flatMap((obstacle) => drawObstacle(view, obstacle, input.bare)));
  if (view.kind === 'side') shapes.push(...ground(view, input.bare));
  if (input.trace) shapes.push(trace(view, input.trace));
  if (input.ghost) shapes.push(group('ghost', arm(view, { ...input, q: input.ghost, dimensions: false }, true)));
  if (input.spots !== false)
    shapes.push(
      ...input.rig.spots.map((spot) =>
        spotMark(toPage(view, mm(spot.xyzMm)), isInPlane(view, mm(spot.xyzMm), 0.03) ? spot.name : ''),
      ),
    );
  shapes.push(group('arm', arm(view, input, false)));
  if (input.target) shapes.push(targetMark(toPage(view, input.target), input.targetNote));
  return {
    width: input.width,
    height: input.height,
    view,
    shapes,
    title: `${input.rig.name}, ${view.kind === 'side' ? 'side elevation' : 'plan'}`,
  };
}

/** Drawn radius (m) of a joint's body: as given, or thinner from joint to joint. */
export function bodyRadius(doc: MechanismDoc, id: string, depth: number): number {
  const joint = doc.joints.find((j) => j.id === id);
  const given = joint?.link?.radiusMm ?? 0;
  return (given > 0 ? given : Math.max(8, 19 - 2.4 * depth)) / MM;
}

function arm(view: View, input: DrawingInput, ghost: boolean): Shape[] {
  const { rig, mechanism, q } = input;
  const { joints, tools } = forward(mechanism, q);
  const doc = rig.mechanism;
  const at = (id: string): Vec3 => positionOf(joints.get(id)!);
  const page = (p: Vec3): Pt => toPage(view, p);
  const depth = new Map<string, number>();
  for (const id of mechanism.ids) {
    const parent = doc.joints.find((j) => j.id === id)!.parent;
    depth.set(id, parent === null ? 0 : depth.get(parent)! + 1);
  }
  const radius = (id: string): number => bodyRadius(doc, id, depth.get(id)!) * view.scale;
  const isJaw = (id: string): boolean => doc.joints.some((j) => j.id === id && isMoving(j) && j.role === 'jaw');
  const shapes: Shape[] = [];

  // Base from the feet up to the first joints.
  if (!ghost)
    shapes.push(
      ...base(
        view,
        rig,
        mechanism,
        doc.joints.filter((j) => j.parent === null).map((j) => at(j.id)),
      ),
    );

  // Links, the far end first so that nearer bodies lie over it.
  for (const id of [...mechanism.ids].reverse()) {
    const joint = doc.joints.find((j) => j.id === id)!;
    if (joint.parent === null || isJaw(id)) continue;
    const a = page(at(joint.parent));
    const b = page(at(id));
    if (Math.hypot(b[0] - a[0], b[1] - a[1]) < 2) continue;
    shapes.push(path('link', taperD(a, radius(joint.parent), b, radius(id) * 0.86)));
  }
  for (const tool of doc.tools)
    if (tool.mounted)
      shapes.push(
        ...drawTool(
          view,
          tools.get(tool.id)!,
          tool.parent ? at(tool.parent) : positionOf(mechanism.base),
          jawOpening(mechanism, tool, q),
          tool.parent ? radius(tool.parent) : 12,
        ),
      );
  for (const [payloadId, frame] of ghost ? [] : (input.payloads ?? [])) {
    const payload = rig.payloads.find((p) => p.id === payloadId);
    if (payload)
      shapes.push(polygon('payload', hull(boxCorners(payload).map((corner) => page(apply(frame, corner))))));
  }
  if (ghost || input.bare) return shapes;

  // Limits and marks of the joints.
  doc.joints.forEach((joint) => {
    const slot = mechanism.slotOf.get(joint.id);
    if (slot === undefined || isJaw(joint.id)) return;
    const selected = input.selected === joint.id;
    if (selected) shapes.push(...limitArc(view, mechanism, joint.id, slot, q, { joints, tools }, radius(joint.id)));
  });
  if (input.dimensions !== false) shapes.push(...dimensionLines(view, doc, mechanism, at, tools, isJaw));
  shapes.push(...jointMarks(view, mechanism, at, isJaw, input.selected ?? null));
  return shapes;
}

function base(view: View, rig: Rig, mechanism: Mechanism, roots: readonly Vec3[]): Shape[] {
  const { feet } = rig.mechanism.base;
  const corners = feet.map(([x, y]) => toPage(view, apply(mechanism.base, [x / MM, y / MM, 0])));
  if (view.kind === 'plan') return corners.length > 2 ? [polygon('link base', hull(corners))] : [];
  const foot = toPage(view, positionOf(mechanism.base));
  const xs = corners.length ? corners.map((c) => c[0]) : [foot[0] - 0.05 * view.scale, foot[0] + 0.05 * view.scale];
  const [left, right] = [Math.min(...xs), Math.max(...xs)];
  const top = roots.length ? toPage(view, roots[0]) : ([foot[0], foot[1] - 0.05 * view.scale] as Pt);
  const w = Math.min((right - left) * 0.26, 0.034 * view.scale);
  const h = foot[1] - top[1];
  if (h < 4) return [];
  return [
    polygon('link base', [
      [left, foot[1]],
      [left, foot[1] - 0.16 * h],
      [foot[0] - w * 1.25, foot[1] - 0.3 * h],
      [foot[0] - w, top[1] - 4],
      [foot[0] + w, top[1] - 4],
      [foot[0] + w * 1.25, foot[1] - 0.3 * h],
      [right, foot[1] - 0.16 * h],
      [right, foot[1]],
    ]),
    {
      tag: 'rect',
      cls: 'servo',
      attrs: {
        x: Math.round(foot[0] - w * 0.72),
        y: Math.round(top[1] + 3),
        width: Math.round(w * 1.44),
        height: Math.round(Math.max(6, h * 0.55)),
        rx: 2,
      },
    },
  ];
}

/** Opening of a tool's jaw (m) at the pose: from its table, else a guess in proportion for drawing alone. */
export function jawOpening(mechanism: Mechanism, tool: Tool, q: Float64Array): number | null {
  if (!tool.grip || !('joint' in tool.grip)) return null;
  const { joint, open, closed, openingMm } = tool.grip;
  const slot = mechanism.slotOf.get(joint);
  if (slot === undefined) return null;
  const value = q[slot] / mechanism.siPerUnit[slot];
  if (openingMm && openingMm.length > 1) {
    const table = [...openingMm].sort((a, b) => a.at - b.at);
    const i = Math.min(table.length - 2, Math.max(0, table.findIndex((row) => row.at >= value) - 1));
    const [a, b] = [table[i], table[i + 1]];
    return Math.max(0, a.mm + ((value - a.at) / (b.at - a.at)) * (b.mm - a.mm)) / MM;
  }
  return open === closed ? 0 : Math.max(0, 0.004 + (0.036 * (value - closed)) / (open - closed));
}

function drawTool(view: View, frame: Float64Array, root: Vec3, opening: number | null, radius: number): Shape[] {
  const page = (p: Vec3): Pt => toPage(view, p);
  const tip = positionOf(frame);
  const z = axisOf(frame, 2);
  const length = vec3.distance(tip, root);
  if (length < 1e-4) return [];
  if (opening === null)
    return [path('link', taperD(page(root), radius * 0.86, page(tip), Math.max(2, radius * 0.3)))];
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

const boxCorners = (payload: Payload): Vec3[] =>
  [-1, 1].flatMap((i) =>
    [-1, 1].flatMap((j) =>
      [-1, 1].map((k): Vec3 => {
        const [x, y, z] = payload.comMm;
        const [a, b, c] = payload.sizeMm;
        return mm([x + (i * a) / 2, y + (j * b) / 2, z + (k * c) / 2]);
      }),
    ),
  );

function jointMarks(
  view: View,
  mechanism: Mechanism,
  at: (id: string) => Vec3,
  isJaw: (id: string) => boolean,
  selected: string | null,
): Shape[] {
  const taken: Pt[] = [];
  return mechanism.slotIds.flatMap((id, index) => {
    if (isJaw(id)) return [];
    let p = toPage(view, at(id));
    // A turntable under its shoulder, or joints in line with the eye: step aside so that each mark can be read.
    for (let tries = 0; tries < 8 && taken.some((t) => Math.hypot(t[0] - p[0], t[1] - p[1]) < 24); tries++)
      p = view.kind === 'side' ? [p[0], p[1] + 26] : [p[0] + 26, p[1]];
    taken.push(p);
    return [mark(index, p, 11, selected === id ? 'selected' : '')];
  });
}

/** A drawing as a file of its own, in ink on white. */
export function toSvg(drawing: Drawing): string {
  const style =
    'text{font:11px sans-serif;fill:#1f2a2a}.grid{stroke:#e6dcc8}.axis{stroke:#cfc2a8}.grid-label{font-size:8px;fill:#5f6763}.link,.servo{fill:#f3ecdd;stroke:#1f2a2a;stroke-width:1.6}' +
    '.ground{stroke:#1f2a2a;stroke-width:1.6}.hatch,.extension{stroke:#4e5a57;stroke-width:.7}.dimension{stroke:#4e5a57}.arrow{fill:#4e5a57}.obstacle{fill:none;stroke:#4e5a57}.glaze{fill:#c3cfc8}' +
    '.reach-edge{stroke:#7d9c92;stroke-width:3;fill:none}.reach-fill{fill:#e6ece3}.ghost *{fill:none;stroke-dasharray:4 3}.trace{fill:none;stroke:#8f4c16}.payload{fill:#f0dcc4;stroke:#8f4c16}' +
    '.mark-shape{fill:#fff;stroke:#1f2a2a;stroke-width:1.5}.target path,.target circle{fill:none;stroke:#a3260f;stroke-width:1.5}.spot path{stroke:#8f4c16}.limit-arc,.limit-end,.limit-now{fill:none;stroke:#8f4c16}';
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${drawing.width} ${drawing.height}" width="${drawing.width}" height="${drawing.height}">` +
    `<style>${style}</style>${markup([{ tag: 'text', cls: 'title', attrs: { x: drawing.width / 2, y: 16, 'text-anchor': 'middle' }, text: drawing.title }, ...drawing.shapes])}</svg>`
  );
}
