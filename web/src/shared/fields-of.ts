/**
 * Whose values fields show. Forms that are kept while another thing is chosen say whose they are, and their fields
 * let go of what was typed and refused as that changes: it never arrives in the next one.
 */
import { inject, provide, watch, type InjectionKey } from 'vue';

const key: InjectionKey<() => unknown> = Symbol('fields of');

/** The fields below are of `owner()`. */
export const fieldsAreOf = (owner: () => unknown): void => provide(key, owner);

/** Calls `letGo` as the thing that the field belongs to becomes another one. */
export function withOwner(letGo: () => void): void {
  const owner = inject(key, null);
  if (owner) watch(owner, letGo);
}
