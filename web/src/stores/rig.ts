/**
 * The open rig: always a document that passes shape, checks and compile. Edits are commits with a label; saving is
 * automatic, over the revision that was read; a clash is for the person to decide.
 */
import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import { compile, type Mechanism } from '@cork-elbow/core/mechanism';
import { driveMaps, spinMaps, type DriveMap, type SpinMap } from '@cork-elbow/core/drives';
import { parseRig, type Build, type Rig } from '@cork-elbow/core/rig';
import { api, CallError } from '../api';
import { edit, History, type Scope } from './history';

export type SaveState = 'saved' | 'waiting' | 'saving' | 'conflict' | 'away' | 'refused';
export type CommitResult = { ok: true } | { ok: false; message: string };

const SAVE_AFTER = 350;
const RETRY_AFTER = 2000;
const draftKey = (id: string): string => `cork-elbow:unsaved:${id}`;

export const useRigStore = defineStore('rig', () => {
  const id = ref<string | null>(null);
  const rig = shallowRef<Rig | null>(null);
  const mechanism = shallowRef<Mechanism | null>(null);
  const revision = ref(0);
  const saveState = ref<SaveState>('saved');
  const saveMessage = ref('');
  const savedAt = ref<Date | null>(null);
  const theirs = shallowRef<{ rig: Rig; revision: number } | null>(null);
  const loadError = ref('');
  const history = new History();
  const turn = ref(0); // counts changes of the history, which is not reactive itself
  let timer: ReturnType<typeof setTimeout> | undefined;
  let saving = false;

  const buildId = ref<string | null>(null);
  const build = computed<Build | null>(
    () => rig.value?.builds.find((b) => b.id === buildId.value) ?? rig.value?.builds[0] ?? null,
  );
  /** What every drive is sent, through its transmission. */
  const driven = computed(() =>
    rig.value && mechanism.value && build.value ? driveMaps(rig.value, mechanism.value, build.value) : [],
  );
  /** Those, and the motors that are sent speeds. */
  const motors = computed<(DriveMap | SpinMap)[]>(() =>
    rig.value && mechanism.value && build.value
      ? [...driven.value, ...spinMaps(rig.value, mechanism.value, build.value)]
      : [],
  );
  const undoLabel = computed(() => (void turn.value, history.top('design')?.label ?? null));
  const redoLabel = computed(() => (void turn.value, history.topUndone('design')?.label ?? null));
  const buildUndoLabel = computed(() => (void turn.value, history.top('build')?.label ?? null));

  async function open(rigId: string): Promise<void> {
    clearTimeout(timer);
    id.value = rigId;
    rig.value = mechanism.value = theirs.value = null;
    loadError.value = '';
    history.clear();
    turn.value++;
    try {
      const answer = await api.rig(rigId);
      if (id.value !== rigId) return;
      revision.value = answer.revision;
      savedAt.value = new Date(answer.updatedAt);
      saveState.value = 'saved';
      const parsed = parseRig(answer.rig);
      if (!parsed.ok) throw new Error(parsed.faults[0].message);
      show(parsed.value);
      restoreDraft(rigId, answer.revision);
    } catch (error) {
      loadError.value = (error as Error).message;
    }
  }

  function show(next: Rig): boolean {
    const compiled = compile(
      next.mechanism,
      (next.builds.find((b) => b.id === buildId.value) ?? next.builds[0]).mounting,
    );
    if (!compiled.ok) return false;
    // The mechanism keeps its identity while the mechanism's document does: plans and maps are keyed by it.
    if (!rig.value || rig.value.mechanism !== next.mechanism || !mechanism.value)
      mechanism.value = compiled.mechanism;
    rig.value = next;
    return true;
  }

  /** Takes an edit if the result is valid; otherwise says why not and leaves everything as it was. */
  function commit(label: string, recipe: (draft: Rig) => void, scope: Scope = 'design'): CommitResult {
    if (!rig.value) return { ok: false, message: 'No rig is open.' };
    const changed = edit(rig.value, label, scope, recipe);
    if (!changed) return { ok: true };
    const parsed = parseRig(changed.rig);
    if (!parsed.ok) return { ok: false, message: parsed.faults[0].message };
    const compiled = compile(changed.rig.mechanism);
    if (!compiled.ok) return { ok: false, message: compiled.faults[0].message };
    show(changed.rig);
    history.push(changed.edit);
    turn.value++;
    later();
    return { ok: true };
  }

  function stepBack(scope: Scope = 'design'): void {
    if (rig.value) take(history.undo(rig.value, scope));
  }
  function stepForward(scope: Scope = 'design'): void {
    if (rig.value) take(history.redo(rig.value, scope));
  }
  function take(next: Rig | null): void {
    if (!next || !parseRig(next).ok || !show(next)) return;
    turn.value++;
    later();
  }

  // ── Saving ──────────────────────────────────────────────────────────────────────────────────────────────────────

  function later(delay = SAVE_AFTER): void {
    keepDraft();
    if (saveState.value === 'conflict') return;
    saveState.value = saveState.value === 'away' ? 'away' : 'waiting';
    clearTimeout(timer);
    timer = setTimeout(() => void save(), delay);
  }

  async function save(): Promise<void> {
    clearTimeout(timer);
    if (!id.value || !rig.value || saving) return;
    saving = true;
    const sent = rig.value;
    const rigId = id.value;
    if (saveState.value !== 'away') saveState.value = 'saving';
    try {
      const answer = await api.save(rigId, revision.value, sent);
      if (id.value !== rigId) return;
      revision.value = answer.revision;
      savedAt.value = new Date(answer.updatedAt);
      saveMessage.value = '';
      saveState.value = 'saved';
      if (rig.value === sent) localStorage.removeItem(draftKey(rigId));
    } catch (error) {
      if (id.value !== rigId || !(error instanceof CallError)) return;
      saveMessage.value = error.message;
      if (error.status === 409 && error.body?.rig && error.body.revision !== undefined) {
        theirs.value = { rig: error.body.rig as Rig, revision: error.body.revision };
        saveState.value = 'conflict';
      } else if (error.status === 0) {
        saveState.value = 'away';
        timer = setTimeout(() => void save(), RETRY_AFTER);
      } else saveState.value = 'refused';
    } finally {
      saving = false;
      if (saveState.value === 'saved' && rig.value !== sent) later();
    }
  }

  /** After a clash: keep this window's rig over the other, or take the other and drop this window's edits. */
  function settle(keep: 'mine' | 'theirs'): void {
    if (!theirs.value) return;
    revision.value = theirs.value.revision;
    saveState.value = 'saved';
    if (keep === 'mine') later(0);
    else {
      const parsed = parseRig(theirs.value.rig);
      if (parsed.ok) show(parsed.value);
      history.clear();
      turn.value++;
      if (id.value) localStorage.removeItem(draftKey(id.value));
    }
    theirs.value = null;
  }

  /** Unsaved edits outlive a closed window or a server that is away. */
  function keepDraft(): void {
    if (!id.value || !rig.value) return;
    try {
      localStorage.setItem(draftKey(id.value), JSON.stringify({ revision: revision.value, rig: rig.value }));
    } catch {
      // A full or forbidden storage: the document is still on screen and will be saved to the server.
    }
  }
  function restoreDraft(rigId: string, current: number): void {
    const kept = localStorage.getItem(draftKey(rigId));
    if (!kept) return;
    try {
      const draft = JSON.parse(kept) as { revision: number; rig: unknown };
      const parsed = parseRig(draft.rig);
      if (parsed.ok && draft.revision === current) {
        show(parsed.value);
        later();
      } else if (!parsed.ok) localStorage.removeItem(draftKey(rigId));
      else {
        // Edited elsewhere meanwhile: the person chooses.
        theirs.value = { rig: rig.value!, revision: current };
        show(parsed.value);
        saveState.value = 'conflict';
      }
    } catch {
      localStorage.removeItem(draftKey(rigId));
    }
  }

  return {
    id,
    rig,
    mechanism,
    revision,
    build,
    buildId,
    driven,
    motors,
    saveState,
    saveMessage,
    savedAt,
    theirs,
    loadError,
    undoLabel,
    redoLabel,
    buildUndoLabel,
    open,
    commit,
    undo: stepBack,
    redo: stepForward,
    save,
    settle,
  };
});
