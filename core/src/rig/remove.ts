/** Taking out what has more to it than the places that name it. */
import { limitsOf, isMoving } from './defaults';
import { asTree } from './delta';
import { forget, takeOut } from './references';
import type { MovingJoint, Rig } from './schema';

/** Takes out motors, the transmissions that they are part of, and the other motors of those. */
export function removeDrives(draft: Rig, ids: readonly string[]): void {
  const tied = draft.transmissions.filter((t) => t.drives.some((id) => ids.includes(id)));
  for (const id of new Set([...ids, ...tied.flatMap((t): string[] => [...t.drives])])) takeOut(draft, 'drive', id);
}

/** A joint that followed others becomes one of its own, with the default range where it had none. */
export function stopFollowing(joint: MovingJoint): void {
  delete joint.follows;
  delete joint.offset;
  delete joint.coupling;
  if (joint.type !== 'continuous' && joint.limits?.min === undefined) {
    const { min, max } = limitsOf(joint);
    joint.limits = { ...joint.limits, min, max };
  }
}

/** Takes a joint out with its motor; what hung on it goes to its parent, what followed it alone is a joint of its own. */
export function removeJoint(draft: Rig, id: string): void {
  const tree = asTree(draft.mechanism);
  const gone = tree.joints.find((joint) => joint.id === id);
  if (!gone) return;
  forgetJoint(draft, id, gone.parent);
  tree.joints = tree.joints.filter((joint) => joint.id !== id);
  for (const joint of tree.joints) if (isMoving(joint) && joint.follows?.length === 0) stopFollowing(joint);
}

/** Mends all that names a joint which leaves; its motors leave with it. */
export function forgetJoint(draft: Rig, id: string, heir: string | null = null): void {
  const tied = draft.transmissions.filter((t) => (t.joints as readonly string[]).includes(id));
  removeDrives(
    draft,
    tied.flatMap((t): string[] => [...t.drives]),
  );
  forget(draft, 'joint', id, heir);
}
