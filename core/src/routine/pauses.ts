/** Pauses that a rocking arm needs after a fast move, and those it does not. */
import type { Finding } from '../findings';
import { finding } from './findings';
import type { MotionChoice } from '../rig';
import { rockingSettles } from './analysis';
import type { Plan } from './plan';

/** A pause this much longer than the arm needs is worth knowing. */
const LONGER = 1.5;

/** Of a plan whose arm is known to rock: moves that are followed at once by other work, and pauses that are too long for rocking alone. */
export function pauseFindings(
  plan: Plan,
  { rocking }: MotionChoice,
  hasNote: (routine: string, stepId: string) => boolean,
): Finding[] {
  if (!rocking) return [];
  const needed = rockingSettles(rocking);
  const said = new Set<string>();
  const found: Finding[] = [];
  plan.blocks.forEach(({ block, startS, stepId, routine, index }, k) => {
    const key = `${routine} ${stepId}`;
    const next = plan.blocks[k + 1];
    if (!next || said.has(key)) return;
    const place = { station: 'routine' as const, routine, step: stepId, timeS: startS };
    const step = index + 1;
    const before = plan.blocks[k - 1];
    if (block.kind === 'hold' && before && before.block.kind !== 'hold') {
      if (block.duration > needed * LONGER && !hasNote(routine, stepId)) {
        said.add(key);
        found.push(finding('wait-longer', place, { step, waits: block.duration, needed }));
      }
    } else if (block.kind !== 'hold' && next.block.kind !== 'hold' && movesOneJoint(next.block.from, next.block.to)) {
      said.add(key);
      found.push(finding('settle-missing', place, { step, needed }));
    }
  });
  return found;
}

/** A move of one joint alone, as a grip is. */
const movesOneJoint = (from: Float64Array, to: Float64Array): boolean =>
  from.reduce((n, v, s) => n + (v !== to[s] ? 1 : 0), 0) === 1;
