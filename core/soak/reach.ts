/**
 * Soak of inverse kinematics: `node … [targets] [seed] [family]`. Seeded targets over all families of arms; one JSON line a
 * family, and a last one in all. Ends with 1 where a target was refused, an answer was wrong, or one out of reach passed.
 */
import { forward, solveInverse, taskError } from '../src/kinematics';
import { armOf, families, pushedOut, question } from '../src/kinematics/families.testkit';
import { seededRandom } from '../src/linear';
import { fromSlots, rulesExcess } from '../src/mechanism';

const targets = Number(process.argv[2] ?? 200_000);
const seed = Number(process.argv[3] ?? 1);
const names = Object.keys(families).filter((name) => name.includes(process.argv[4] ?? ''));
const all = { asked: 0, refused: 0, wrong: 0, passed: 0 };

for (const [f, family] of names.entries()) {
  const random = seededRandom(seed * 1000 + f * 7 + 1);
  const each = Math.ceil(targets / names.length);
  const own = { asked: 0, refused: 0, wrong: 0, passed: 0 };
  let slowestMs = 0;
  const begun = performance.now();
  for (let i = 0; i < each;) {
    const mechanism = armOf(family, random);
    const [tool] = mechanism.tools;
    for (let k = 0; k < 8 && i < each; k++, i++) {
      const asks = question(random, mechanism);
      if (!asks) continue;
      const { task, near, kind, pose } = asks;
      own.asked++;
      const started = performance.now();
      const { solutions } = solveInverse(mechanism, tool, task, near, { explained: false });
      slowestMs = Math.max(slowestMs, performance.now() - started);
      if (!solutions.length) {
        own.refused++;
        console.log(JSON.stringify({ refused: family, kind, pose: fromSlots(mechanism, pose) }));
      }
      for (const { q } of solutions) {
        const { distance, angle } = taskError(task, forward(mechanism, q).tools.get(tool.id)!);
        const inside = q.every((v, s) => v >= mechanism.lower[s] && v <= mechanism.upper[s]);
        if (distance > 1e-6 || angle > 1e-6 || !inside || rulesExcess(mechanism, q) > 1e-9) own.wrong++;
      }
      if (k === 0 && solveInverse(mechanism, tool, pushedOut(asks, random), near, { explained: false }).reachable)
        own.passed++;
    }
  }
  const usEach = Math.round(((performance.now() - begun) * 1000) / Math.max(1, own.asked));
  console.log(JSON.stringify({ family, ...own, usEach, slowestMs: Math.round(slowestMs) }));
  for (const key of ['asked', 'refused', 'wrong', 'passed'] as const) all[key] += own[key];
}
console.log(JSON.stringify(all));
process.exit(all.refused + all.wrong + all.passed ? 1 : 0);
