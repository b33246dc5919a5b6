/** A rotary delta's motors as joints of a tree, so that everything that walks a tree can place and draw them. */
import { sincos } from '../linear';
import type { DeltaDoc, MechanismDoc, MovingJoint, TreeDoc } from './mechanism-schema';

/** The reserved parent of a delta's tools: its frame is the moving platform's, parallel to the base's. */
export const PLATFORM = 'platform';

/**
 * The mechanism as a tree: itself, or the delta's three motors at their hinges (X outward, turning about +Y so that
 * positive goes down) and its platform as a fixed joint, whose place only kinematics can tell.
 */
export function treeOf(doc: MechanismDoc): TreeDoc {
  if (doc.family === 'tree') return doc;
  const { delta: _, ...rest } = doc;
  return {
    ...rest,
    family: 'tree',
    joints: [
      ...doc.joints.map((_joint, i) => motorOf(doc, i)),
      {
        id: PLATFORM,
        name: 'Platform',
        type: 'fixed',
        parent: null,
        origin: { xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] },
      },
    ],
  };
}

/** The mechanism where it is a tree; throws for a delta, whose joints have no places of their own to change. */
export function asTree(doc: MechanismDoc): TreeDoc {
  if (doc.family !== 'tree') throw new Error('this mechanism is a rotary delta, not a tree');
  return doc;
}

function motorOf({ delta, joints }: DeltaDoc, i: number): MovingJoint {
  const azimuth = delta.azimuthsDeg[i];
  const { sin, cos } = sincos((azimuth * Math.PI) / 180);
  return {
    ...joints[i],
    parent: null,
    origin: { xyzMm: [delta.baseRadiusMm * cos, delta.baseRadiusMm * sin, 0], rpyDeg: [0, 0, azimuth] },
    axis: [0, 1, 0],
  };
}
