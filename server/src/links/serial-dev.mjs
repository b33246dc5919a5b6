// Starts the TypeScript process of a serial port on bare Node in development; the build has a bundled one.
import { register } from 'tsx/esm/api';

register();
await import('./serial-port.ts');
