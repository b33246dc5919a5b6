/** `npm run bench`: one JSON line a measure. */
import { install, root, run } from './lib.mjs';

if (install() !== 0) process.exit(1);
process.exit(run(process.execPath, ['--import', 'tsx', `${root}core/bench/bench.ts`]));
