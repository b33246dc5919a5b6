/** Following a target that is dragged: small steps from where the arm is, so that it keeps its posture and never jumps. */
import { positionOf, vec3 } from '../linear';
import { rulesExcess, type Mechanism } from '../mechanism';
import { NumericSolver } from './numeric';
import { probeOf } from './probe';
import { LIMIT_SLACK } from './solution';
import { isHit, type Ask, type Task } from './task';

/** Longest way (m) of the target taken in one step, and most steps of one call. */
const STEP = 0.008;
const MOST_STEPS = 40;
/** Shares of the way home from which a step that misses is tried again: a stretched arm may have bent to the wrong side. */
const HOMEWARD = [0.12, 0.3];
/** Largest change of a joint (rad or m) that such a try may make. */
const NO_JUMP = 0.55;
/** Weight of the direction over the place where both cannot be had: what was asked to stay level stays level. */
const FIRM = 60;

export class Follower {
  private readonly easy: NumericSolver;
  private readonly firm: NumericSolver;

  constructor(
    private readonly mechanism: Mechanism,
    private readonly goals: readonly Pick<Ask, 'tool' | 'on'>[],
    held?: ReadonlySet<number>,
  ) {
    this.easy = new NumericSolver(mechanism, goals, { held, quick: true });
    this.firm = new NumericSolver(mechanism, goals, { held, rotationWeight: FIRM, maxIterations: 120 });
  }

  /**
   * The pose that meets the tasks, one a tool, or at the edge of reach the one nearest to them that small steps from q lead to; limits
   * and rules are kept. `hit`: whether the tasks are met.
   */
  step(q: Float64Array, tasks: readonly Task[]): { q: Float64Array; hit: boolean } {
    const begin = this.goals.map(({ tool }) => positionOf(probeOf(this.mechanism, tool).frameAt(q)).slice());
    const way = Math.max(
      0,
      ...tasks.map((task, i) =>
        // A task in a moving frame is not a place in the world: taken in one step.
        task.kind === 'aim' || this.goals[i].on ? 0 : vec3.distance(task.position, begin[i] as never),
      ),
    );
    const steps = Math.min(MOST_STEPS, Math.max(1, Math.ceil(way / STEP)));
    let at = q.slice();
    let hit = false;
    for (let k = 1; k <= steps; k++) {
      const share = k / steps;
      const now = tasks.map((task, i): Task => {
        if (task.kind === 'aim' || this.goals[i].on) return task;
        const from = begin[i] as never;
        return { ...task, position: vec3.add(from, vec3.scale(vec3.sub(task.position, from), share)) };
      });
      const next = at.slice();
      this.easy.solveInto(next, now);
      hit = isHit(this.easy);
      for (let i = 0; !hit && i < HOMEWARD.length; i++) {
        next.set(this.homeward(at, HOMEWARD[i]));
        this.easy.solveInto(next, now);
        hit = isHit(this.easy) && next.every((v, s) => Math.abs(v - at[s]) <= NO_JUMP);
      }
      if (!hit) {
        next.set(at);
        this.firm.solveInto(next, now);
      }
      if (rulesExcess(this.mechanism, next) > LIMIT_SLACK) return { q: at, hit: false };
      at = next;
    }
    return { q: at, hit };
  }

  /** The pose `share` of the way from q to home, in the joints that are moved. */
  private homeward(q: Float64Array, share: number): Float64Array {
    const out = q.slice();
    for (const s of this.easy.slots) out[s] += share * (this.mechanism.home[s] - q[s]);
    return out;
  }
}
