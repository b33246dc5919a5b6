/** Every call that computes. */
import { armCalls } from './arms';
import type { Call } from './call';
import { fileCalls } from './files';
import { searchCalls } from './searches';

export const calls: readonly Call[] = [...armCalls, ...searchCalls, ...fileCalls];
