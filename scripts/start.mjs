/** `npm start` and, with --demo, `npm run demo`: installs and builds when needed, then serves on this computer. */
import { build, child, install } from './lib.mjs';

const demo = process.argv.includes('--demo');
if (install() !== 0 || (await build()) !== 0) process.exit(1);
child(process.execPath, ['--enable-source-maps', 'server/dist/main.js', ...(demo ? ['--demo'] : [])], {
  env: { ...process.env, ...(demo && !process.env.CORK_ELBOW_DATA ? { CORK_ELBOW_DATA: './data/demo' } : {}) },
});
