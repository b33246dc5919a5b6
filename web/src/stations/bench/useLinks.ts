/** How the boards of the build on show are reached from the server's computer; kept there as it is chosen. */
import { computed, ref, shallowRef, watch } from 'vue';
import type { LinkOptions, Links } from '@cork-elbow/core/contract';
import { linedBoards } from '@cork-elbow/core/actuators';
import { benchApi } from '../../api-bench';
import { useRigStore } from '../../stores/rig';

const simulated: LinkOptions = { kind: 'simulated' };

export function useLinks() {
  const rigs = useRigStore();
  const chosen = shallowRef<Links>({});
  /** Why the choice was not read or kept. */
  const trouble = ref('');
  const boards = computed(() => linedBoards(rigs.rig!));
  /** Of the boards that there are: what was chosen for one that is gone says nothing. */
  const links = computed((): Links =>
    Object.fromEntries(boards.value.map(({ id }) => [id, chosen.value[id] ?? simulated])),
  );
  const isReal = computed(() => Object.values(links.value).some(({ kind }) => kind !== 'simulated'));

  watch(
    () => [rigs.id, rigs.build?.id] as const,
    async ([id, build]) => {
      chosen.value = {};
      trouble.value = '';
      if (!id || !build) return;
      try {
        const kept = await benchApi.links(id, build);
        if (rigs.id === id && rigs.build?.id === build) chosen.value = kept;
      } catch (error) {
        trouble.value = (error as Error).message;
      }
    },
    { immediate: true },
  );

  async function choose(board: string, options: LinkOptions): Promise<void> {
    chosen.value = { ...links.value, [board]: options };
    trouble.value = '';
    try {
      await benchApi.keepLinks(rigs.id!, rigs.build!.id, chosen.value);
    } catch (error) {
      trouble.value = (error as Error).message;
    }
  }
  return { boards, links, isReal, trouble, choose };
}
