/** Before the server's tests: it is bundled once with its threads, as the build has them. */
import { join } from 'node:path';
import { bundleServer, root } from './lib.mjs';

export default () =>
  bundleServer(join(root, '.cache/server-threads'), {
    main: 'server/src/main.ts',
    worker: 'server/src/run/worker.ts',
    compute: 'server/src/compute/worker.ts',
  });
