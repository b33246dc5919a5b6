/** Before the server's tests: its threads are bundled once, as the build has them. */
import { join } from 'node:path';
import { bundleServer, root } from './lib.mjs';

export default () =>
  bundleServer(join(root, '.cache/server-threads'), {
    worker: 'server/src/run/worker.ts',
    compute: 'server/src/compute/worker.ts',
  });
