/**
 * Something that the worker finds out, again whenever what it hangs on changes: the last answer, whether one is under way, and the end
 * of it when who asked goes away.
 */
import { useDebounceFn, useThrottleFn } from '@vueuse/core';
import { computed, onScopeDispose, ref, shallowRef, watch, type WatchSource } from 'vue';
import { useJobsStore } from '../stores/jobs';
import { useRigStore } from '../stores/rig';
import type { AnswerOf, JobName, RequestOf } from '../workers/jobs';

export interface JobOptions<K extends JobName> {
  /** What is asked now; null: nothing is, and there is no answer. */
  readonly request: () => RequestOf<K> | null;
  /** Changes of these ask again, and it is asked at the beginning; left out: only when {@link again} is called. */
  readonly when?: WatchSource;
  /** How long (ms) a change waits for the next one. */
  readonly after?: number;
  /** It is asked at once, and at most once in so long (ms) while changes go on. */
  readonly every?: number;
  /** Whether the former answer is taken away when a new one is asked for; else it stays until the new one is there. */
  readonly clears?: boolean;
}

export function useJob<K extends JobName>(
  name: K,
  { request, when, after = 0, every = 0, clears = false }: JobOptions<K>,
) {
  const jobs = useJobsStore();
  const rigs = useRigStore();
  const answer = shallowRef<AnswerOf<K> | null>(null);
  const isCancelled = ref(false);
  /** Whether the answer is one to what is asked now. */
  const isCurrent = ref(false);
  /** Counts what was changed: an answer to what was asked before the last change is none to what is asked now. */
  let changes = 0;

  /** Asks now; the answer, or null where it was cancelled, superseded, or there is nothing to ask. */
  async function again(): Promise<AnswerOf<K> | null> {
    const { rig, build } = rigs;
    const wanted = rig && build ? request() : null;
    isCurrent.value = false;
    const at = changes;
    if (clears) answer.value = null;
    if (!rig || !build || wanted === null) {
      jobs.cancel(name);
      answer.value = null;
      return null;
    }
    isCancelled.value = false;
    const found = await jobs.ask(name, { rig, build }, wanted);
    if (found !== null) {
      answer.value = found;
      isCurrent.value = at === changes;
    }
    // Stopped by the person; else a newer request has taken its place.
    else if (!jobs.isBusy(name)) isCancelled.value = true;
    return found;
  }
  const later = useDebounceFn(() => void again(), after);
  const now = useThrottleFn(() => void again(), every, true);
  if (when)
    watch(
      when,
      () => {
        changes++;
        isCurrent.value = false;
        if (!after) return void now();
        // What is under way is of no use any more.
        if (clears) {
          jobs.cancel(name);
          answer.value = null;
        }
        void later();
      },
      { immediate: true },
    );
  onScopeDispose(() => jobs.cancel(name));
  return {
    answer,
    isCurrent,
    isBusy: computed(() => jobs.isBusy(name)),
    isCancelled,
    again,
    cancel: () => jobs.cancel(name),
  };
}
