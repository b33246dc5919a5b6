/**
 * The open rig: always a document that passes shape, checks and compile. Edits are commits with a label; saving is
 * automatic, over the revision that was read; a clash is for the person to decide.
 */
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Fault } from '@cork-elbow/core/findings';
import { admit, standing, type Admitted } from '@cork-elbow/core/admit';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { commandMaps, isSpin, type CommandMap, type DriveMap } from '@cork-elbow/core/actuators';
import {
  buildOf,
  differences,
  faultSentence,
  isSameHardware,
  type Build,
  type Hardware,
  type Rig,
  deletedBetween,
  type Deleted,
} from '@cork-elbow/core/rig';
import { api, CallError } from '../api';
import { edit, History, type Scope, type Stepped } from './history';
import { drafts, keepHistory, keptHistory } from './outlive';

export type SaveState = 'saved' | 'waiting' | 'saving' | 'conflict' | 'away' | 'refused';
export type CommitResult = { ok: true } | { ok: false; message: string };

const SAVE_AFTER = 350;
/** What labels of edits that take something out begin with. */
const DELETE = 'Delete ';
const DRAFT_AFTER = 100;
const RETRY_AFTER = 2000;
/** What tells other windows of this browser that a rig was saved. */
const CHANNEL = 'cork-elbow:saved';
interface Saved {
  readonly id: string;
  readonly revision: number;
}

/** From one state of a rig to another as one edit; only parts that differ are put in. Null where none does. */
const between = (from: Rig, to: Rig, label: string): ReturnType<typeof edit> =>
  edit(from, label, 'design', (draft) => {
    for (const key of Object.keys(to) as (keyof Rig)[])
      if (differences(from[key], to[key], 1).places.length) Object.assign(draft, { [key]: to[key] });
  });

/** Whether it may go by itself: no server, too many saves at once, a data folder that cannot be written, a full disk. */
const passes = (status: number): boolean => [0, 429, 503, 507].includes(status);

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
  const channel = typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel(CHANNEL);
  channel?.addEventListener('message', ({ data }: MessageEvent<Saved>) => {
    if (data.id === id.value && data.revision > revision.value) void takeOver();
  });
  /** Where this window's rig and the one saved elsewhere differ, in words. */
  const clash = computed(() => (rig.value && theirs.value ? differences(rig.value, theirs.value.rig) : null));

  const buildId = ref<string | null>(null);
  const build = computed<Build | null>(() => rig.value && buildOf(rig.value, buildId.value));
  /** The very same while only routines change, so that what is computed and drawn of it stands. */
  const hardware = computed<Hardware | null>((before) => {
    const now = rig.value;
    return now && before && isSameHardware(now, before) ? before : now;
  });
  /** What every motor is sent, through its transmission; and those of them that go to places. */
  const motors = computed<CommandMap[]>(() =>
    hardware.value && mechanism.value && build.value ? commandMaps(hardware.value, mechanism.value, build.value) : [],
  );
  const driven = computed(() => motors.value.filter((map): map is DriveMap => !isSpin(map)));
  const undoLabel = computed(() => (void turn.value, history.top('design')?.label ?? null));
  const redoLabel = computed(() => (void turn.value, history.topUndone('design')?.label ?? null));
  const buildUndoLabel = computed(() => (void turn.value, history.top('build')?.label ?? null));

  async function open(rigId: string): Promise<void> {
    // What is unsaved of the rig that was open, and what it could take back, is kept before another one comes.
    keepDraft();
    keepUndo();
    clearTimeout(timer);
    id.value = rigId;
    rig.value = mechanism.value = theirs.value = null;
    loadError.value = '';
    history.clear();
    deleted.value = null;
    turn.value++;
    try {
      const answer = await api.rig(rigId);
      if (id.value !== rigId) return;
      revision.value = answer.revision;
      savedAt.value = new Date(answer.updatedAt);
      saveState.value = 'saved';
      const admitted = admit(answer.rig, buildId.value);
      if (!admitted.ok) throw new Error(faultSentence(answer.rig, admitted.faults[0]));
      show(admitted);
      restore(rigId, answer.revision);
    } catch (error) {
      loadError.value = (error as Error).message;
    }
  }

  /** Where the base of the shown mechanism stands: as the design has it, or as the chosen build does. */
  let mounting: Build['mounting'] = null;
  function show({ rig: next, build: own, mechanism: made }: Admitted): void {
    // The mechanism keeps its identity while its document and its place do: plans and maps are keyed by it.
    if (!mechanism.value || rig.value?.mechanism !== next.mechanism || own.mounting !== mounting) {
      mechanism.value = made;
      mounting = own.mounting;
    }
    rig.value = next;
  }
  // Another build may stand elsewhere.
  watch(
    buildId,
    (chosen) => {
      const stands = rig.value && standing(rig.value, chosen);
      if (stands?.ok) show(stands);
    },
    { flush: 'sync' },
  );

  /** Takes an edit if the result is valid; otherwise says why not and leaves everything as it was. */
  function commit(label: string, recipe: (draft: Rig) => void, scope: Scope = 'design'): CommitResult {
    if (!rig.value) return { ok: false, message: 'No rig is open.' };
    const changed = edit(rig.value, label, scope, recipe);
    if (!changed) return { ok: true };
    const before = rig.value;
    const wrong = take(changed.rig);
    if (wrong) return { ok: false, message: faultSentence(changed.rig, wrong) };
    // The one that is shown; another edit takes its place, or puts it away.
    deleted.value = label.startsWith(DELETE) ? { label, ...deletedBetween(before, changed.rig) } : null;
    history.push(changed.edit);
    turn.value++;
    later();
    return { ok: true };
  }
  /** Shows another state of the rig, the very document that is given; what is wrong with it, and nothing is changed, where it is not let in. */
  function take(next: Rig): Fault | null {
    const admitted = admit(next, buildId.value);
    if (!admitted.ok) return admitted.faults[0];
    show({ ...admitted, rig: next, build: buildOf(next, buildId.value) });
    return null;
  }

  /** What the last edit deleted, with what used it: told until something else is done. */
  const deleted = shallowRef<(Deleted & { readonly label: string }) | null>(null);

  function stepBack(scope: Scope = 'design'): void {
    if (rig.value) step(history.undo(rig.value, scope));
  }
  function stepForward(scope: Scope = 'design'): void {
    if (rig.value) step(history.redo(rig.value, scope));
  }
  /** What this window has let in before is not looked through again. */
  function step(next: Stepped | null): void {
    deleted.value = null;
    if (!next) return;
    const own = buildOf(next.rig, buildId.value);
    const isSame = rig.value?.mechanism === next.rig.mechanism && own.mounting === mounting;
    const known = !next.isKnown
      ? null
      : isSame && mechanism.value
        ? { ok: true as const, rig: next.rig, build: own, mechanism: mechanism.value }
        : standing(next.rig, buildId.value);
    if (known?.ok) show({ ...known, rig: next.rig });
    else if (take(next.rig)) return;
    turn.value++;
    later();
  }

  // ── Saving ──────────────────────────────────────────────────────────────────────────────────────────────────────

  function later(delay = SAVE_AFTER): void {
    draftTimer ??= setTimeout(keepDraft, DRAFT_AFTER);
    keepSoon();
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
      channel?.postMessage({ id: rigId, revision: answer.revision } satisfies Saved);
      if (rig.value === sent) dropDraft(rigId);
    } catch (error) {
      if (id.value !== rigId || !(error instanceof CallError)) return;
      // What the server refuses is said in people's words too.
      const [fault] = error.body?.faults ?? [];
      saveMessage.value = fault ? faultSentence(sent, fault) : error.message;
      if (error.status === 409 && error.body?.rig && error.body.revision !== undefined) {
        theirs.value = { rig: error.body.rig as Rig, revision: error.body.revision };
        saveState.value = 'conflict';
      } else if (passes(error.status)) {
        saveState.value = 'away';
        timer = setTimeout(() => void save(), RETRY_AFTER);
      } else saveState.value = 'refused';
    } finally {
      saving = false;
      if (saveState.value === 'saved' && rig.value !== sent) later();
    }
  }

  /** What was saved elsewhere is shown here too, while nothing of this window is unsaved; it can be undone like an edit. */
  async function takeOver(): Promise<void> {
    const rigId = id.value;
    if (!rigId || saveState.value !== 'saved' || saving) return;
    let answer: Awaited<ReturnType<typeof api.rig>>;
    try {
      answer = await api.rig(rigId);
    } catch {
      return; // The next save says what is wrong.
    }
    if (id.value !== rigId || saveState.value !== 'saved' || saving || answer.revision <= revision.value) return;
    if (adopt(answer.rig, 'What another window changed')) {
      revision.value = answer.revision;
      savedAt.value = new Date(answer.updatedAt);
    }
  }
  /** Puts another state of the rig in place of this one, as one edit that can be taken back. */
  function adopt(document: unknown, label: string): boolean {
    const admitted = admit(document, buildId.value);
    if (!admitted.ok || !rig.value) return false;
    const changed = between(rig.value, admitted.rig, label);
    if (!changed) return true;
    if (take(changed.rig)) return false;
    history.push(changed.edit);
    turn.value++;
    keepSoon();
    return true;
  }

  /** After a clash: keep this window's rig over the other, or take the other as it is by now; either can be undone. */
  async function settle(keep: 'mine' | 'theirs'): Promise<void> {
    const rigId = id.value;
    if (!theirs.value || !rigId) return;
    if (keep === 'mine') {
      const other = admit(theirs.value.rig);
      const changed = other.ok && rig.value ? between(other.rig, rig.value, 'Keep this window’s rig') : null;
      if (changed) history.push(changed.edit);
      turn.value++;
      revision.value = theirs.value.revision;
      theirs.value = null;
      saveState.value = 'saved';
      return later(0);
    }
    let newest: { rig: unknown; revision: number } = theirs.value;
    try {
      newest = await api.rig(rigId);
    } catch {
      // What came with the clash is the newest there is to have.
    }
    if (id.value !== rigId || !theirs.value) return;
    if (!adopt(newest.rig, 'Take the other window’s rig')) return;
    revision.value = newest.revision;
    saveMessage.value = '';
    saveState.value = 'saved';
    theirs.value = null;
    dropDraft(rigId);
  }

  // What is not saved yet is kept a moment later, so that a burst of edits is written once; and before the window goes.
  let draftTimer: ReturnType<typeof setTimeout> | undefined;
  function keepDraft(): void {
    if (draftTimer === undefined) return;
    clearTimeout(draftTimer);
    draftTimer = undefined;
    if (id.value && rig.value) drafts.put(id.value, { revision: revision.value, rig: rig.value });
  }
  function dropDraft(rigId: string): void {
    clearTimeout(draftTimer);
    draftTimer = undefined;
    drafts.drop(rigId);
  }
  window.addEventListener('pagehide', keepDraft);

  // Not at every key: when it is quiet, and at the last moment before the window goes.
  let keepTimer: ReturnType<typeof setTimeout> | undefined;
  function keepSoon(): void {
    clearTimeout(keepTimer);
    keepTimer = setTimeout(keepUndo, SAVE_AFTER);
  }
  function keepUndo(): void {
    clearTimeout(keepTimer);
    if (id.value && rig.value) keepHistory(id.value, rig.value, history.keep());
  }
  window.addEventListener('pagehide', keepUndo);

  /** Unsaved edits of an earlier window, and what it could take back. */
  function restore(rigId: string, current: number): void {
    const draft = drafts.get(rigId);
    const admitted = draft && admit(draft.rig, buildId.value);
    if (draft && !admitted?.ok) drafts.drop(rigId);
    if (draft && admitted?.ok) {
      const saved = rig.value!;
      show(admitted);
      if (draft.revision === current) later();
      else {
        // Edited elsewhere meanwhile: the person chooses.
        theirs.value = { rig: saved, revision: current };
        saveState.value = 'conflict';
      }
    }
    const kept = rig.value && keptHistory(rigId, rig.value);
    if (!kept) return;
    history.restore(kept);
    turn.value++;
  }

  return {
    id,
    rig,
    hardware,
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
    clash,
    loadError,
    undoLabel,
    redoLabel,
    deleted,
    buildUndoLabel,
    open,
    commit,
    undo: stepBack,
    redo: stepForward,
    save,
    settle,
    takeOver,
  };
});
