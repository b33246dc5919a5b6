/** Lengths of a mechanism's document: how far a joint or a tool stands from what it hangs on, along its own line. */
import type { MechanismDoc } from '../rig';

/** What a length belongs to: a joint of a tree, a tool, or a delta (its id is the measure's name). */
export type Measured = 'joint' | 'tool' | 'delta';

/** A delta's own lengths. */
export const deltaMeasures = ['upperArmMm', 'forearmMm', 'baseRadiusMm', 'platformRadiusMm'] as const;
export type DeltaMeasure = (typeof deltaMeasures)[number];
const isDeltaMeasure = (id: string): id is DeltaMeasure => deltaMeasures.some((measure) => measure === id);

type Part = { origin: { xyzMm: [number, number, number] } };
function partOf(doc: MechanismDoc, of: 'joint' | 'tool', id: string): Part | undefined {
  if (of === 'tool') return doc.tools.find((tool) => tool.id === id);
  return doc.family === 'tree' ? doc.joints.find((joint) => joint.id === id) : undefined;
}

/** The length (mm); 0 where there is no such part. */
export function lengthOf(doc: MechanismDoc, of: Measured, id: string): number {
  if (of === 'delta') return doc.family === 'rotary-delta' && isDeltaMeasure(id) ? doc.delta[id] : 0;
  const part = partOf(doc, of, id);
  return part ? Math.hypot(...part.origin.xyzMm) : 0;
}

/** Gives a part of the document, which is changed, another length (mm); one without a direction goes up. */
export function setLength(doc: MechanismDoc, of: Measured, id: string, length: number): void {
  if (of === 'delta') {
    if (doc.family === 'rotary-delta' && isDeltaMeasure(id)) doc.delta[id] = length;
    return;
  }
  const part = partOf(doc, of, id);
  if (!part) return;
  const now = Math.hypot(...part.origin.xyzMm);
  part.origin.xyzMm =
    now === 0
      ? [0, 0, length]
      : (part.origin.xyzMm.map((v) => Math.round(((v * length) / now) * 1000) / 1000) as [number, number, number]);
}
