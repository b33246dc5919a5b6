/** What is on show: theme, stage, selected joint, and the one pose that stage and strip read. */
import { useLocalStorage, useTimeoutFn } from '@vueuse/core';
import { defineStore, storeToRefs } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Vec3 } from '@cork-elbow/core/linear';
import type { Finding } from '@cork-elbow/core/findings';
import { valueTowards } from '@cork-elbow/core/kinematics';
import type { ShownLayers } from '@cork-elbow/core/drawing';
import { fromSlots, toSlots } from '@cork-elbow/core/mechanism';
import type { MechanismDoc } from '@cork-elbow/core/rig';
import { useRigStore } from './rig';
import { useThemeStore } from './theme';

export type StageView = '3d' | 'side' | 'front' | 'plan';
/** Who decides what pose is on show: the person's own, a planned routine being played, a recording being played, or the board. */
export type PoseSource = 'edit' | 'preview' | 'replay' | 'live';
/** How many of the motors a live pose reads back; the others stand where they were sent, as far as anybody knows. */
export type LiveRead = 'all' | 'some' | 'none';
const isPlayed = (source: PoseSource): boolean => source === 'preview' || source === 'replay';

/** What a station adds to the stage while it is open. */
export interface Overlay {
  /** What is laid on the arm, on the page and in space. */
  readonly layers?: ShownLayers;
  readonly dimensions?: boolean;
  /** Called while the person drags the target; world position in m. */
  readonly onDrag?: (position: Vec3) => void;
  /** Called when the drag is over. */
  readonly onDrop?: () => void;
  /** What Space plays and pauses, where that is not the routine. */
  readonly onPlay?: () => void;
}

/** A state of the rig that the reach is held against. */
export interface Pinned {
  readonly rigId: string;
  readonly doc: MechanismDoc;
  readonly mounting: MechanismDoc['base']['mounting'] | null | undefined;
  /** When it was pinned, for people. */
  readonly at: string;
}

/** Figures that run change at most once in so long (ms). */
export const READ_MS = 80;

export const useViewStore = defineStore('view', () => {
  const rigs = useRigStore();
  const { theme } = storeToRefs(useThemeStore());
  const stage = useLocalStorage<StageView>('cork-elbow:stage', 'side', {
    // Two windows may look at the arm from two sides.
    listenToStorageChanges: false,
  });
  const selected = ref<string | null>(null);
  /** The tool whose limb is shown alone; null: all of them. */
  const limb = ref<string | null>(null);
  const overlay = shallowRef<Overlay>({});
  const pinned = shallowRef<Pinned | null>(null);
  /** Takes a picture of the 3D view while that is on show. */
  const picture = shallowRef<(() => Promise<Blob | null>) | null>(null);
  const poseSource = ref<PoseSource>('edit');
  const liveRead = ref<LiveRead>('all');
  const editQ = shallowRef<Float64Array>(new Float64Array(0));
  const previewQ = shallowRef<Float64Array>(new Float64Array(0));
  const liveQ = shallowRef<Float64Array>(new Float64Array(0));

  // The edit pose follows the joints by id when the mechanism changes, and stays inside its limits.
  watch(
    () => rigs.mechanism,
    (mechanism, before) => {
      if (!mechanism) return;
      const values = before && editQ.value.length === before.m ? fromSlots(before, editQ.value) : {};
      editQ.value = toSlots(mechanism, values).map((v, s) =>
        Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], v)),
      );
      if (selected.value && !mechanism.index.has(selected.value)) selected.value = null;
      if (limb.value && !mechanism.tools.some((tool) => tool.id === limb.value)) limb.value = null;
      if (isPlayed(poseSource.value)) poseSource.value = 'edit';
    },
    { immediate: true, flush: 'sync' },
  );

  const q = computed(() => {
    const shown =
      poseSource.value === 'live' ? liveQ.value : isPlayed(poseSource.value) ? previewQ.value : editQ.value;
    return rigs.mechanism && shown.length === rigs.mechanism.m ? shown : editQ.value;
  });

  // Not at once either: the picture comes first, its figures after it. What changes once is shown as well.
  const calm = shallowRef(q.value);
  const later = useTimeoutFn(() => (calm.value = q.value), READ_MS, { immediate: false });
  watch(q, () => later.isPending.value || later.start(), { flush: 'sync' });
  /** The pose as figures tell it: at once what a person does, and while a motion runs no faster than it can be read. */
  const readQ = computed(() =>
    poseSource.value === 'edit' || calm.value.length !== q.value.length ? q.value : calm.value,
  );

  /** The person's own pose; shown unless the board is. */
  function setEdit(next: Float64Array): void {
    editQ.value = next;
    if (isPlayed(poseSource.value)) poseSource.value = 'edit';
  }
  function setJoint(slot: number, value: number): void {
    const mechanism = rigs.mechanism;
    if (!mechanism) return;
    const next = q.value.slice();
    next[slot] = valueTowards(mechanism, next, slot, value);
    setEdit(next);
  }
  /** A pose of a plan or of a recording that is played; shown unless the board is. */
  function setPlayed(next: Float64Array, source: 'preview' | 'replay' = 'preview'): void {
    previewQ.value = next;
    if (poseSource.value !== 'live') poseSource.value = source;
  }
  function setLive(next: Float64Array | null, read: LiveRead = 'all'): void {
    if (next) {
      liveRead.value = read;
      // A board that stands says the same again and again: nothing is drawn for that.
      if (next.length !== liveQ.value.length || next.some((v, s) => v !== liveQ.value[s])) liveQ.value = next;
      poseSource.value = 'live';
    } else if (poseSource.value === 'live') {
      if (liveQ.value.length) editQ.value = liveQ.value;
      poseSource.value = 'edit';
    }
  }

  /** The last step of a person that changed no document, such as another question at the Reach page: undo takes it back first. */
  const aside = shallowRef<{ readonly label: string; readonly back: () => void } | null>(null);
  watch(
    () => rigs.rig,
    () => (aside.value = null),
  );
  const undoLabel = computed(() => aside.value?.label ?? rigs.undoLabel);
  function undo(): void {
    const step = aside.value;
    aside.value = null;
    if (step) step.back();
    else rigs.undo();
  }

  const findings = shallowRef<readonly Finding[]>([]);
  return {
    theme,
    stage,
    selected,
    limb,
    overlay,
    pinned,
    picture,
    poseSource,
    editQ,
    q,
    readQ,
    findings,
    aside,
    undoLabel,
    undo,
    setEdit,
    setJoint,
    setPlayed,
    setLive,
    liveRead,
  };
});
