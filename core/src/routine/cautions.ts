/** What somebody should know before motors come on, in the words of the rig at hand. */
import { isLost, restPose } from '../bring-up';
import { forward } from '../kinematics';
import type { Mechanism } from '../mechanism';
import type { Rig } from '../rig';

/** An axis whose vertical share is above this (turning), or below this (sliding), is not moved by weight. */
const UPRIGHT = 0.98;
const LEVEL = 0.1;

/** Joints (ids) that weight moves once their motors are off: where the arm rests, or at home. */
export function fallingJoints(rig: Rig, mechanism: Mechanism): string[] {
  const poses = [mechanism.home, restPose(rig, mechanism)].map((q) => forward(mechanism, q).joints);
  const driven = new Set(rig.transmissions.flatMap(({ joints }) => [...joints]));
  return rig.mechanism.joints.flatMap((joint) => {
    const { id, type } = joint;
    if (!driven.has(id)) return [];
    // The arms of a delta bear its platform.
    if (!('axis' in joint)) return [id];
    const [x, y, z] = joint.axis ?? [0, 0, 1];
    // The vertical share of the axis that it turns about or slides along.
    const upright = poses.map((frames) => {
      const frame = frames.get(id);
      return frame ? Math.abs(frame[6] * x + frame[7] * y + frame[8] * z) / Math.hypot(x, y, z) : 1;
    });
    const falls =
      type === 'prismatic' ? upright.some((share) => share > LEVEL) : upright.some((share) => share < UPRIGHT);
    return falls ? [id] : [];
  });
}

/** One sentence each, the gravest first. Local rules and people who know the machine come before any of them. */
export function cautionsOf(rig: Rig, mechanism: Mechanism): string[] {
  const nameOf = (id: string): string => mechanism.names[mechanism.index.get(id)!];
  const falling = fallingJoints(rig, mechanism).map(nameOf);
  const slides = rig.mechanism.joints.filter(({ type }) => type === 'prismatic').map(({ id }) => nameOf(id));
  const grips = rig.mechanism.tools.filter((tool) => tool.grip && tool.mounted).map(({ id, name }) => name ?? id);
  const counts = rig.drives.some(isLost);
  return [
    'Keep clear of all it can reach, and fingers out of joints and gears: motors do not feel what is between them.',
    ...(falling.length
      ? [
          `Without power ${some(falling)} ${falling.length > 1 ? 'fall' : 'falls'}: hold the arm, or let it lie, before its supply goes off.`,
        ]
      : []),
    ...(slides.length
      ? [`${some(slides)} ${slides.length > 1 ? 'squeeze' : 'squeezes'} what is at either end.`]
      : []),
    ...(grips.length
      ? [`Without power or air ${some(grips.map((name) => `“${name}”`))} may let go of what is held.`]
      : []),
    ...(counts
      ? ['Until it has homed it may stand elsewhere than it is drawn: its first moves may go too far.']
      : []),
    'Eyes at a distance or behind glasses; children and animals only with somebody who minds nothing else.',
    'A switch that cuts the motor supply is within reach of your hand. Stop here is software, and no emergency stop.',
  ];
}

const some = (names: readonly string[]): string =>
  names.length < 3 ? names.join(' and ') : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`;
