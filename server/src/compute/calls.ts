/** Every call that computes. */
import { armCalls } from './arms';
import type { Call } from './call';
import { fileCalls } from './files';
import { loadCalls } from './loads';
import { searchCalls } from './searches';

export const calls: readonly Call[] = [...armCalls, ...loadCalls, ...searchCalls, ...fileCalls];
