/** Moves worked out once: the ways of tools, and the blocks made of them. Belongs to one mechanism. */
import type { Block } from '../motion';
import type { ToolWay } from './tool-way';

/** Entries kept of each kind; the oldest go first. */
const MOST = 4000;

export class MoveCache {
  private readonly ways = new Map<string, ToolWay>();
  private readonly blocks = new Map<string, Block>();

  way(key: string, make: () => ToolWay): ToolWay {
    return kept(this.ways, key, make);
  }
  block(key: string, make: () => Block): Block {
    return kept(this.blocks, key, make);
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
