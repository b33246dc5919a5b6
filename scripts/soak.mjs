/** `npm run soak [-- targets [seed [family]]]`: what `npm test` asks of inverse kinematics, many times over. */
import { runBundled } from './bundled.mjs';

process.exit(await runBundled('core/soak/reach.ts', process.argv.slice(2)));
