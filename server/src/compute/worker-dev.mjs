// The same as a thread of the pool in development, from TypeScript on bare Node; the build has a bundled one of its own.
import { register } from 'tsx/esm/api';

register();
export default (await import('./worker.ts')).default;
