/** What an arm would touch where it gets to: the postures of an answer looked at against all that stands around. */
import { contactsAt, type ContactScene } from '../contact';
import { say } from './findings';
import type { InverseResult, Reason, Solution } from '../kinematics';
import { MM_PER_M } from '../units/convert';

/** The deepest contact at a pose: names of what meets, and how deep (m). */
export interface Touch {
  readonly first: string;
  readonly second: string;
  readonly depth: number;
}

export const touchAt = (scene: ContactScene, q: Float64Array): Touch | null => {
  const [deepest] = contactsAt(scene, q);
  return deepest ? { first: deepest.a.name, second: deepest.b.name, depth: deepest.depth } : null;
};

export function touchReason({ first, second, depth }: Touch): Reason {
  const byMm = depth * MM_PER_M;
  return { code: 'in-the-way', message: say('in-the-way', { first, second, byMm }), byMm };
}

/** An answer of an inverse solver, looked at against what stands around. */
export interface Answer extends InverseResult {
  /** One a solution: what it touches, or null where the arm stands free. */
  readonly touches: readonly (Touch | null)[];
  /** Some posture gets there and touches nothing. */
  readonly isFree: boolean;
  /** What the closest pose touches, where there is one. */
  readonly closestTouch: Touch | null;
}

/**
 * The answer with the postures that touch nothing first, then those that stand least deep; each kind keeps its order. Where
 * none is free, what stands least in the way is the first reason.
 */
export function withTouches(scene: ContactScene, answer: InverseResult): Answer {
  const looked = answer.solutions
    .map((solution) => ({ solution, touch: touchAt(scene, solution.q) }))
    .sort((a, b) => (a.touch?.depth ?? 0) - (b.touch?.depth ?? 0));
  const touches = looked.map(({ touch }) => touch);
  const isFree = touches.length > 0 && touches[0] === null;
  const reasons = touches[0] ? [touchReason(touches[0]), ...answer.reasons] : answer.reasons;
  const closestTouch = answer.closest ? touchAt(scene, answer.closest.q) : null;
  return { ...answer, reasons, solutions: looked.map(({ solution }) => solution), touches, isFree, closestTouch };
}

/** Whether any of some solutions touches nothing. */
export const standsFree = (scene: ContactScene, solutions: readonly Solution[]): boolean =>
  solutions.some((solution) => contactsAt(scene, solution.q).length === 0);
