/** The part of a station that is on show: kept over the session, and taken from where a finding sends. */
import { useSessionStorage } from '@vueuse/core';
import { watch, type Ref } from 'vue';
import { useRoute } from 'vue-router';
import type { PartOf, StationId } from '@cork-elbow/core/findings';
import { partsOf, type Part } from './stations';

export function useParts<S extends StationId>(
  station: S,
): { readonly parts: readonly Part<PartOf<S>>[]; readonly part: Ref<PartOf<S>> } {
  const parts = partsOf(station);
  const part = useSessionStorage<PartOf<S>>(`cork-elbow:${station}-part`, parts[0].id);
  if (!parts.some(({ id }) => id === part.value)) part.value = parts[0].id;
  const route = useRoute();
  watch(
    () => route.query,
    ({ part: wished, joint, step }) => {
      const found = parts.find(({ id }) => id === wished);
      // A joint or a step without a part is one of the first.
      if (found || joint || step) part.value = (found ?? parts[0]).id;
    },
    { immediate: true },
  );
  return { parts, part };
}
