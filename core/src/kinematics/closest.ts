/** The closest pose where there is no solution. */
import { rulesExcess, type Mechanism } from '../mechanism';
import { NumericSolver, slotsOf, solveNumeric } from './numeric';
import { judge, LIMIT_SLACK, type Solution } from './solution';
import { start } from './starts';
import type { Ask, Task } from './task';

/** Starts of the closest pose where there is no solution, and how many of the poses they lead to are then refined. */
const CLOSEST_STARTS = 16;
const REFINED = 6;

/** The closest pose inside the limits by priorities: position first, then direction (or the other way round). */
export function closestPose(
  mechanism: Mechanism,
  asks: readonly Ask[],
  near: Float64Array,
  first: 'position' | 'rotation',
  held?: ReadonlySet<number>,
): Solution {
  const weights = first === 'position' ? { rotationWeight: 1e-3 } : { positionWeight: 1e-3 };
  const tasks = asks.map((ask) => ask.task);
  const bare = tasks.map((task): Task => (task.kind === 'aim' ? task : { kind: 'free', position: task.position }));
  const moved = new Set(slotsOf(mechanism, asks).filter((s) => !held?.has(s)));
  const rank = ({ distance, angle, q }: { distance: number; angle: number; q: Float64Array }): number =>
    (rulesExcess(mechanism, q) > LIMIT_SLACK ? 1e6 : 0) +
    (first === 'position' ? distance * 1e4 + angle : angle * 1e4 + distance);
  const turned = tasks.some((task) => task.kind === 'direction' || task.kind === 'full');
  // What comes first alone leads further than both together: by it the starts are told apart.
  const leading = new NumericSolver(mechanism, asks, { held, ...(turned && first === 'rotation' ? weights : {}) });
  const lead = first === 'position' ? bare : tasks;
  const led = Array.from({ length: CLOSEST_STARTS }, (_, k) => {
    const q = start(mechanism, moved, near, k);
    leading.solveInto(q, lead);
    return { q, distance: leading.distance, angle: leading.angle };
  });
  const refined = led
    .sort((a, b) => rank(a) - rank(b))
    .slice(0, turned ? REFINED : 1)
    .map(({ q: from }) => {
      let q = from;
      if (turned) {
        q = solveNumeric(mechanism, asks, tasks, q, { ...weights, maxIterations: 120, held }).q;
        if (first === 'position') q = solveNumeric(mechanism, asks, bare, q, { held }).q;
      }
      return judge(mechanism, asks, q, near, 'closest', false);
    });
  return refined.reduce((a, b) => (rank(b) < rank(a) - 1e-9 ? b : a));
}
