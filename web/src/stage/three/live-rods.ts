/** Rods whose ends move on different links: a delta's forearms, the parallel bars of a level head. Placed anew each pose. */
import { Group, Vector3 } from 'three';
import { levelBarsOf } from '@cork-elbow/core/drawing';
import { deltaRods } from '@cork-elbow/core/mechanism';
import { type Frames } from '@cork-elbow/core/kinematics';
import type { Vec3 } from '@cork-elbow/core/linear';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { isMoving, type TreeDoc } from '@cork-elbow/core/rig';
import type { Ink } from './ink';

export interface LiveRods {
  readonly root: Group;
  pose(frames: Frames): void;
  show(joints: ReadonlySet<string>): void;
}

export function rodsOf(doc: TreeDoc, mechanism: Mechanism, ink: Ink): LiveRods {
  const root = new Group();
  const ends: { rod: Group; of: string; between: (frames: Frames) => readonly [Vec3, Vec3] | null }[] = [];
  const add = (radius: number, of: string, between: (frames: Frames) => readonly [Vec3, Vec3] | null): void => {
    const rod = ink.rod(radius, radius, 1, undefined, 16);
    root.add(rod);
    ends.push({ rod, of, between });
  };
  const { delta } = mechanism;
  if (delta) {
    const arms = (frames: Frames) =>
      deltaRods(
        delta,
        [0, 1, 2].map((s) => frames.joints.get(mechanism.slotIds[s])!),
        frames.joints.get(mechanism.ids[delta.platform])!,
      );
    for (let i = 0; i < 3; i++) {
      for (const k of [0, 1]) add(0.0028, mechanism.slotIds[i], (frames) => arms(frames)[i].rods[k]);
      for (const end of [0, 1])
        add(0.0042, mechanism.slotIds[i], (frames) => {
          const [a, b] = arms(frames)[i].rods;
          return [a[end], b[end]];
        });
    }
  }
  for (const joint of doc.joints) {
    if (!isMoving(joint) || joint.coupling !== 'bars') continue;
    const count = joint.follows?.length ?? 0;
    for (let k = 0; k < count; k++)
      for (const side of [-1, 1]) {
        // One bar on either side of the links.
        const beside = (frames: Frames, p: Vec3): Vec3 => {
          const f = frames.joints.get(joint.id)!;
          return [p[0] + f[1] * side * 0.017, p[1] + f[4] * side * 0.017, p[2] + f[7] * side * 0.017];
        };
        add(0.0026, joint.id, (frames) => {
          const bar = levelBarsOf(doc, frames, joint.id)[k];
          return bar ? [beside(frames, bar.from), beside(frames, bar.to)] : null;
        });
        // The crank from the pivot to the bar's upper end, and on to the next bar.
        add(0.0034, joint.id, (frames) => {
          const bars = levelBarsOf(doc, frames, joint.id);
          if (!bars[k]) return null;
          const pin = frames.joints.get(bars[k].joint)!;
          const to = bars[k + 1]?.from ?? ([pin[9], pin[10], pin[11]] as Vec3);
          return [beside(frames, bars[k].to), beside(frames, to)];
        });
      }
  }
  const up = new Vector3(0, 0, 1);
  return {
    root,
    pose(frames) {
      for (const { rod, between } of ends) {
        const pair = between(frames);
        if (!pair) continue;
        const [a, b] = pair.map((p) => new Vector3(...p));
        const along = b.sub(a);
        const length = along.length();
        if (length < 1e-6) continue;
        rod.position.copy(a);
        rod.scale.set(1, 1, length);
        rod.quaternion.setFromUnitVectors(up, along.divideScalar(length));
      }
    },
    show(joints) {
      for (const { rod, of } of ends) rod.visible = joints.has(of);
    },
  };
}
