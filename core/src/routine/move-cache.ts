/** Moves worked out once: the ways of tools, and the blocks made of them. Belongs to one mechanism. */
import type { Block } from '../motion';
import type { ToolWay } from './tool-way';

/** Entries kept of each kind; the oldest go first. */
const MOST = 4000;

/** A block, and when (s) each of its legs ends. */
export interface EasedBlock {
  readonly block: Block;
  readonly ends: readonly { readonly s: number }[];
}

export class MoveCache {
  private readonly ways = new Map<string, ToolWay>();
  private readonly blocks = new Map<string, Block>();
  private easedOf = '';
  private easedBlocks = new Map<string, EasedBlock>();

  way(key: string, make: () => ToolWay): ToolWay {
    return kept(this.ways, key, make);
  }
  block(key: string, make: () => Block): Block {
    return kept(this.blocks, key, make);
  }
  /** Blocks slowed down for loads; `of`: what else than the mechanism they were reckoned with. */
  eased(of: string, key: string, make: () => EasedBlock): EasedBlock {
    if (this.easedOf !== of) [this.easedOf, this.easedBlocks] = [of, new Map()];
    return kept(this.easedBlocks, key, () => {
      const { block, ends } = make();
      return { block, ends: ends.map(({ s }) => ({ s })) };
    });
  }
}

function kept<T>(map: Map<string, T>, key: string, make: () => T): T {
  const found = map.get(key);
  if (found !== undefined) return found;
  const made = make();
  if (map.size >= MOST) map.delete(map.keys().next().value!);
  map.set(key, made);
  return made;
}
