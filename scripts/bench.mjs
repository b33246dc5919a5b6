/** `npm run bench`: one JSON line a measure. */
import { runBundled } from './bundled.mjs';

process.exit(await runBundled('core/bench/bench.ts'));
