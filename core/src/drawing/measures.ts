/** Where the arrows of a preset's measures stand on its drawing. */
import { deltaRods } from '../mechanism';
import { forward, type Frames } from '../kinematics';
import { positionOf, rotate, vec3, type Vec3 } from '../linear';
import { toSlots, type Mechanism } from '../mechanism';
import { letterOfMeasure, type Anchor, type DrawnView, type Preset } from '../presets';
import { isMoving, treeOf, type Rig } from '../rig';
import type { LetterSpan } from './input';
import { bodyPoints } from './solids';

/** A point of the drawing (m, world) for the arm standing as `frames` says; null where the rig has no such thing. */
export function anchorPoint(rig: Rig, mechanism: Mechanism, frames: Frames, anchor: Anchor): Vec3 | null {
  const joint = (id: string): Float64Array | undefined => frames.joints.get(id);
  if ('base' in anchor) return positionOf(mechanism.base);
  if ('tool' in anchor) {
    const frame = frames.tools.get(anchor.tool);
    return frame ? positionOf(frame) : null;
  }
  if ('groundUnder' in anchor) {
    const frame = anchor.groundUnder === 'base' ? mechanism.base : joint(anchor.groundUnder);
    return frame ? [frame[9], frame[10], 0] : null;
  }
  const doc = treeOf(rig.mechanism);
  if ('bodyOf' in anchor) {
    const frame = joint(anchor.bodyOf);
    const body = doc.joints.find((j) => j.id === anchor.bodyOf)?.link?.bodies?.[0];
    if (!frame || !body) return null;
    const x = rotate(frame, [1, 0, 0]);
    const points = bodyPoints(frame, body);
    const best = points.reduce((a, b) => {
      const ahead = vec3.dot(vec3.sub(b, a), x) > 1e-9;
      return ahead === (anchor.end === 'front') && Math.abs(vec3.dot(vec3.sub(b, a), x)) > 1e-9 ? b : a;
    });
    return best;
  }
  if ('rodOf' in anchor) {
    const { delta } = mechanism;
    const slot = mechanism.slotOf.get(anchor.rodOf);
    if (!delta || slot === undefined) return null;
    const motors = mechanism.slotIds.slice(0, 3).map((id) => joint(id)!);
    const arm = deltaRods(delta, motors, joint(mechanism.ids[delta.platform])!)[slot];
    return anchor.end === 'knee' ? arm.knee : arm.foot;
  }
  const frame = joint(anchor.joint);
  if (!frame) return null;
  const slot = mechanism.slotOf.get(anchor.joint);
  const own = doc.joints.find((j) => j.id === anchor.joint);
  if (!anchor.end || slot === undefined || !own || !isMoving(own)) return positionOf(frame);
  const value = frames.all[mechanism.index.get(anchor.joint)!];
  const end = anchor.end === 'min' ? mechanism.lower[slot] : mechanism.upper[slot];
  return vec3.add(positionOf(frame), vec3.scale(vec3.unit(rotate(frame, own.axis))!, end - value));
}

/** The pose a preset is drawn in: home, but for what it says itself. */
export const guidePose = (preset: Preset, mechanism: Mechanism): Float64Array =>
  toSlots(mechanism, preset.stands ?? {});

/** Views that a preset has measures in, the one with most of them first. */
export function guideViews(preset: Preset): DrawnView[] {
  const counts = new Map<DrawnView, number>();
  for (const { view } of preset.measures) counts.set(view, (counts.get(view) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1]).map(([view]) => view);
}

/** Letters and arrows of the measures of one view, for the rig that the preset made. */
export function guideLetters(preset: Preset, rig: Rig, mechanism: Mechanism, view: DrawnView): LetterSpan[] {
  const frames = forward(mechanism, guidePose(preset, mechanism));
  return preset.measures.flatMap((measure, i): LetterSpan[] => {
    if (measure.view !== view) return [];
    const from = anchorPoint(rig, mechanism, frames, measure.from);
    const to = anchorPoint(rig, mechanism, frames, measure.to);
    return from && to ? [{ letter: letterOfMeasure(i), from, to, along: measure.along }] : [];
  });
}
