/** How the pieces of the workspace stand together, by the room there is; widths in em, so that larger text counts as less room. */
import { useMediaQuery } from '@vueuse/core';
import { computed, type ComputedRef } from 'vue';

/**
 * wide: stage, panel and divider tabs side by side. medium: stations in a row above stage and panel. tall: stage over panel,
 * stations at the foot. narrow: one of the two at a time.
 */
export type Frame = 'wide' | 'medium' | 'tall' | 'narrow';

export function useFrame(): ComputedRef<Frame> {
  const wide = useMediaQuery('(min-width: 72em)');
  const medium = useMediaQuery('(min-width: 56em)');
  const tall = useMediaQuery('(min-width: 43.75em) and (min-height: 40em)');
  return computed(() => (wide.value ? 'wide' : medium.value ? 'medium' : tall.value ? 'tall' : 'narrow'));
}
