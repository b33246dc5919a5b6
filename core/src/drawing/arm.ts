/**
 * Side and front elevation and plan of a rig in a pose, like a dimensioned drawing. The side view looks square onto the
 * arm's own plane where it has one (it turns with the base), so that lengths in it are true; the plan looks down with
 * forward to the right.
 */
import { forward } from '../kinematics';
import { positionOf } from '../linear';
import type { Mechanism } from '../mechanism';
import { isJaw, treeOf, type Hardware, type TreeDoc } from '../rig';
import { baseLayers, drawBase } from './base';
import { dimensionLines, letterLines, limitArc } from './dimensions';
import type { Drawing, DrawingInput } from './input';
import { bodyRadius, deltaLayers, depthsOf, farLimbs, linkLayers, stacked, toolLayers, type Scene } from './links';
import { mark, setApart } from './marks';
import { layersIn } from './layers';
import type { LayerPage } from './layers/layer';
import { depthOf, toPage, viewNames } from './project';
import { sceneryOf, type Scenery } from './scenery';
import { circle, group, line, type Shape } from './shapes';

/** `scenery`: what stands still, where it was made before. */
export function drawRig(input: DrawingInput, scenery: Scenery = sceneryOf(input)): Drawing {
  const { rig } = input;
  const { view } = scenery;
  const page: LayerPage = { view, input, outline: (q) => figure({ ...page, input: { ...input, q } }, true) };
  const shapes: Shape[] = [
    ...layersIn(page, 'floor'),
    ...scenery.grid,
    ...layersIn(page, 'under'),
    ...scenery.around,
    ...layersIn(page, 'behind'),
    ...scenery.spots,
    group('arm', figure(page, false)),
    ...layersIn(page, 'over'),
  ];
  return {
    width: input.width,
    height: input.height,
    view,
    shapes,
    title: `${rig.name}, ${viewNames[view.kind]}`,
  };
}

/** The joints of one limb: everything from the base to the tool, with the jaw that works it. */
export function limbJoints(rig: Hardware, mechanism: Mechanism, limb: string | null | undefined): Set<string> {
  const tool = mechanism.tools.find((t) => t.id === limb);
  if (!tool) return new Set(mechanism.ids);
  const path = new Set<string>();
  if (mechanism.delta) return new Set(mechanism.ids);
  for (let j = tool.parent; j >= 0; j = mechanism.parent[j]) path.add(mechanism.ids[j]);
  const grip = rig.mechanism.tools.find((t) => t.id === limb)?.grip;
  if (grip && 'joint' in grip) path.add(grip.joint);
  return path;
}

function figure(page: LayerPage, ghost: boolean): Shape[] {
  const { view, input } = page;
  const { rig, mechanism, q } = input;
  const frames = forward(mechanism, q);
  const whole = treeOf(rig.mechanism);
  const limb = limbJoints(rig, mechanism, input.limb);
  const alone = input.limb && mechanism.tools.some((tool) => tool.id === input.limb);
  const doc: TreeDoc = alone ? { ...whole, tools: whole.tools.filter((tool) => tool.id === input.limb) } : whole;
  const depth = depthsOf(doc, mechanism);
  const scene: Scene = {
    view,
    doc,
    mechanism,
    frames,
    radius: (id) => bodyRadius(doc, id, depth.get(id) ?? 0),
    shown: (id) => limb.has(id),
    far: alone ? new Set() : farLimbs(view, mechanism, frames),
  };
  const shapes: Shape[] = [];
  if (!ghost) shapes.push(...drawBase(view, rig, doc, mechanism));
  shapes.push(
    ...stacked([
      ...(ghost ? [] : baseLayers(view, rig, mechanism)),
      ...linkLayers(scene),
      ...deltaLayers(scene),
      ...toolLayers(scene, q),
    ]),
  );
  if (ghost) return shapes;
  shapes.push(...layersIn(page, 'hand'));
  if (input.bare) return shapes;
  const { selected } = input;
  if (selected && scene.shown(selected)) {
    const slot = mechanism.slotOf.get(selected);
    if (slot !== undefined && !isJaw(doc.joints.find((j) => j.id === selected)!))
      shapes.push(...limitArc(view, mechanism, selected, slot, q, frames, scene.radius(selected) * view.scale));
  }
  if (input.letters) shapes.push(...letterLines(view, input.letters));
  else if (input.dimensions !== false) shapes.push(...dimensionLines(scene, selected ?? null));
  shapes.push(...layersIn(page, 'joints'));
  if (!input.letters) shapes.push(...jointMarks(scene, selected ?? null));
  return shapes;
}

/** More joints than this get smaller marks. */
const CROWDED = 10;

function jointMarks({ view, doc, mechanism, frames, shown }: Scene, selected: string | null): Shape[] {
  const size = mechanism.m > CROWDED ? 9 : 11;
  const placed = mechanism.slotIds
    .map((id, index) => ({ id, index, at: positionOf(frames.joints.get(id)!) }))
    .filter(({ id }) => shown(id) && !isJaw(doc.joints.find((j) => j.id === id)!))
    .map((entry) => ({ ...entry, page: toPage(view, entry.at), depth: depthOf(view, entry.at) }));
  // Of joints exactly behind one another on different limbs, the nearest is marked.
  const visible = placed.filter(
    (a) =>
      a.id === selected ||
      !placed.some(
        (b) =>
          b !== a &&
          b.depth > a.depth + 0.01 &&
          Math.hypot(b.page[0] - a.page[0], b.page[1] - a.page[1]) < size * 0.8,
      ),
  );
  // Nothing of an arm stands below the bench.
  const bench = view.kind === 'plan' ? Infinity : toPage(view, [0, 0, 0])[1];
  const isUnder = placed.some(({ page }) => page[1] > bench);
  // A turntable under its shoulder, or joints in line with the eye: aside, at the end of a line, so that each mark can be read.
  const places = setApart(
    visible.map(({ page }) => page),
    { size, width: view.width, height: isUnder ? view.height : Math.min(view.height, bench) },
  );
  return [
    ...visible.flatMap(({ page }, k) =>
      places[k] === page ? [] : [line('leader', page, places[k]), circle('leader-end', page, 2)],
    ),
    ...visible.map(({ id, index }, k) => mark(index, places[k], size, selected === id ? 'selected' : '')),
  ];
}
