import type { Display } from './display';
import type { HandControl } from './knobs';
import type { Registers } from './registers';
import type { Steps } from './steps';
import type { Table } from './table';

/** What the board is to do. */
export type Work = { readonly display?: Display | null } & Doing;
type Doing =
  | { readonly kind: 'bridge' }
  | { readonly kind: 'player'; readonly table: Table }
  | { readonly kind: 'steps'; readonly steps: Steps }
  | { readonly kind: 'hand'; readonly control: HandControl }
  | { readonly kind: 'registers'; readonly registers: Registers };
