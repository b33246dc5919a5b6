/**
 * Soak of the line to boards: `node … [damaged [seed]]`. Lines are damaged on their way, either way, until there were so many; ends
 * with 1 where a board moved wrongly.
 */
import { soak } from '../src/board/noise.testkit';
import { seededRandom } from '../src/linear';

const damaged = Number(process.argv[2] ?? 1_000_000);
const seed = Number(process.argv[3] ?? 1);
const begun = performance.now();
const soaked = soak(seededRandom(seed), damaged);
console.log(JSON.stringify({ name: 'line', ...soaked, seconds: Math.round((performance.now() - begun) / 1000) }));
process.exit(soaked.wrong.length ? 1 : 0);
