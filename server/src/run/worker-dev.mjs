// Starts the TypeScript worker on bare Node in development and in tests; the build has a bundled worker of its own.
import { register } from 'tsx/esm/api';

register();
await import('./worker.ts');
