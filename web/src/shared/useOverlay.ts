import { onScopeDispose, watchEffect } from 'vue';
import { useViewStore, type Overlay } from '../stores/view';

/** Keeps the stage's overlay in step with a station while it is open. */
export function useOverlay(make: () => Overlay): void {
  const view = useViewStore();
  watchEffect(() => (view.overlay = make()));
  onScopeDispose(() => (view.overlay = {}));
}
