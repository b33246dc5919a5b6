/** A recording that is fetched as another run is chosen: late answers of the one before are dropped. */
import { onScopeDispose, shallowRef, watch, type Ref } from 'vue';
import type { RecordingAnswer } from '@cork-elbow/core/contract';
import { rowsOfBytes, Track } from '@cork-elbow/core/recording';
import { benchApi } from '../../api-bench';
import { useRigStore } from '../../stores/rig';

export interface Recording extends RecordingAnswer {
  readonly track: Track;
}

export function useRecording(runId: Readonly<Ref<string | null>>) {
  const rigs = useRigStore();
  const recording = shallowRef<Recording | null>(null);
  const problem = shallowRef('');
  const isLoading = shallowRef(false);
  let asked: AbortController | null = null;

  async function load(): Promise<void> {
    asked?.abort();
    recording.value = null;
    problem.value = '';
    isLoading.value = false;
    const [rigId, id] = [rigs.id, runId.value];
    if (!rigId || !id) return;
    const mine = (asked = new AbortController());
    isLoading.value = true;
    try {
      const known = await benchApi.recording(rigId, id);
      const rows = rowsOfBytes(await benchApi.rows(rigId, id, mine.signal));
      if (!mine.signal.aborted) recording.value = { ...known, track: new Track(known.head, rows) };
    } catch (error) {
      if (!mine.signal.aborted) problem.value = (error as Error).message;
    }
    if (!mine.signal.aborted) isLoading.value = false;
  }
  watch([runId, () => rigs.id], load, { immediate: true });
  onScopeDispose(() => asked?.abort());
  return { recording, problem, isLoading, load };
}
