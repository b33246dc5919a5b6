/** How far apart two states of a build bring the tip for the same commands. */
import { forward } from '../kinematics';
import { positionOf, vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import { samplerOf } from '../kinematics/sampling';
import type { Build, Rig } from '../rig';
import { driveMaps, poseMeant, shaftAt } from '../actuators/drive-map';
import { exactNative } from '../actuators/native';
import { mapGroups } from '../actuators/tied';

export interface TipDifference {
  /** m, at the pose given, and the most over poses spread through the joints' ranges. */
  readonly here: number;
  readonly worst: number;
}

const POSES = 200;

/**
 * The first mounted tool's tip: at each pose the commands by state `a` are what is sent, and what they mean by state `b` is where
 * the arm goes. Null without a tool.
 */
export function tipDifference(
  rig: Rig,
  mechanism: Mechanism,
  a: Build,
  b: Build,
  q: Float64Array,
): TipDifference | null {
  const tool = mechanism.tools.find((t) => t.mounted);
  if (!tool) return null;
  const [from, to] = [driveMaps(rig, mechanism, a), driveMaps(rig, mechanism, b)];
  const groups = mapGroups(to);
  const tip = (pose: Float64Array) => positionOf(forward(mechanism, pose).tools.get(tool.id)!);
  const apart = (pose: Float64Array): number => {
    const meant = poseMeant(
      groups,
      mechanism,
      (map) => {
        const sender = from.find((m) => m.drive.id === map.drive.id);
        const shaft = sender && shaftAt(sender, mechanism, pose);
        return sender && shaft !== null && shaft !== undefined ? exactNative(sender.native, shaft) : null;
      },
      pose.slice(),
    );
    return vec3.distance(tip(pose), tip(meant));
  };
  let worst = apart(q);
  const pose = q.slice();
  const sampler = samplerOf(mechanism, tool, 1);
  for (let k = 0; k < POSES; k++) {
    sampler.into(pose, k);
    worst = Math.max(worst, apart(pose));
  }
  return { here: apart(q), worst };
}
