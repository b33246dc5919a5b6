/** The steps of the routine on show as they are edited: what is chosen, folded, searched for, and the edits themselves. */
import { computed, inject, onScopeDispose, provide, ref, shallowRef, watch, type InjectionKey } from 'vue';
import { describeStep, opens, stepNames, structureOf, type NewStep } from '@cork-elbow/core/routine';
import { freeId, stepSchema, type Routine, type Step } from '@cork-elbow/core/rig';
import { useRigStore } from '../../stores/rig';
import { usePlan } from '../../workspace/usePlan';

export type Said = string | void;
export type StepsContext = ReturnType<typeof createSteps>;
const key: InjectionKey<StepsContext> = Symbol('steps');

/** Steps on the clipboard carry this, so that other text is not taken for them. */
const CLIP = 'cork-elbow-steps';

export function createSteps() {
  const rigs = useRigStore();
  const { routine, plan, pause, show, isPlaying } = usePlan();
  const problem = ref('');
  /** The step whose details are open; the last of those chosen. */
  const current = ref<string | null>(null);
  const chosen = shallowRef<ReadonlySet<string>>(new Set());
  const folded = shallowRef<ReadonlySet<string>>(new Set());
  const search = ref('');
  /** What was chosen last, to be brought into view. */
  const looked = shallowRef<{ readonly id: string } | null>(null);
  /** What was cut or copied, where the browser keeps no clipboard for us. */
  const clip = shallowRef<readonly NewStep[]>([]);
  let anchor: string | null = null;

  const steps = computed(() => routine.value?.steps ?? []);
  const structure = computed(() => structureOf(steps.value));
  const selected = computed(() => steps.value.find((s) => s.id === current.value) ?? null);
  watch(
    () => routine.value?.id,
    () => {
      current.value = anchor = null;
      chosen.value = new Set();
      folded.value = new Set();
    },
  );

  const words = (step: Step): string =>
    `${stepNames[step.kind]} ${describeStep(rigs.rig!, step)} ${step.note}`.toLowerCase();
  /** Steps that are seen: not inside a folded one, and with the words that are searched for. */
  const rows = computed(() => {
    const wanted = search.value.trim().toLowerCase();
    const { depth, partner, enabled } = structure.value;
    let hiddenUntil = -1;
    return steps.value.flatMap((step, index) => {
      if (!wanted && index <= hiddenUntil) return [];
      if (wanted && !words(step).includes(wanted)) return [];
      const isFolded = opens(step) && partner[index] >= 0 && folded.value.has(step.id);
      if (isFolded) hiddenUntil = Math.max(hiddenUntil, partner[index]);
      return [
        {
          step,
          index,
          depth: depth[index],
          counts: enabled[index],
          opens: opens(step) && partner[index] >= 0,
          isFolded,
          inside: isFolded ? partner[index] - index - 1 : 0,
        },
      ];
    });
  });

  function commit(label: string, recipe: (routine: Routine) => void): Said {
    const { id } = routine.value!;
    const result = rigs.commit(label, (draft) => recipe(draft.routines.find((r) => r.id === id)!));
    problem.value = result.ok ? '' : result.message;
    if (!result.ok) return result.message;
  }
  const edit = (label: string, change: (step: Step) => void): Said => {
    const { id } = selected.value!;
    return commit(label, (r) => change(r.steps.find((s) => s.id === id)!));
  };

  const timed = (id: string) => plan.value?.steps.find((s) => s.stepId === id && s.routine === routine.value?.id);
  /** The arm follows in the picture after the one that shows the choice; of steps gone over quickly, the last. */
  let standing = 0;
  function standAt(s: number): void {
    cancelAnimationFrame(standing);
    standing = requestAnimationFrame(() => (standing = requestAnimationFrame(() => isPlaying.value || show(s))));
  }
  onScopeDispose(() => cancelAnimationFrame(standing));
  /** Chooses a step: alone, with others (Ctrl), or all up to it (Shift); the arm stands where it ends. */
  function select(id: string, how: 'alone' | 'also' | 'range' = 'alone'): void {
    if (how === 'alone') {
      chosen.value = new Set([id]);
      anchor = id;
    } else if (how === 'also') {
      const next = new Set(chosen.value);
      if (!next.delete(id)) next.add(id);
      chosen.value = next;
      anchor = id;
    } else {
      const order = rows.value.map((row) => row.step.id);
      const [a, b] = [order.indexOf(anchor ?? id), order.indexOf(id)];
      chosen.value = new Set(order.slice(Math.min(a, b), Math.max(a, b) + 1));
    }
    current.value = chosen.value.has(id) ? id : ([...chosen.value].at(-1) ?? null);
    const at = timed(id);
    if (at) {
      pause();
      standAt(at.endS);
    }
    looked.value = { id };
  }
  function selectAll(): void {
    chosen.value = new Set(rows.value.map((row) => row.step.id));
  }
  function fold(id: string): void {
    const next = new Set(folded.value);
    if (!next.delete(id)) next.add(id);
    folded.value = next;
  }

  /** The chosen steps in order; an opener that is chosen folded brings what is inside it. */
  const whole = (): Step[] => {
    const taken = new Set<number>();
    steps.value.forEach((step, k) => {
      if (!chosen.value.has(step.id)) return;
      taken.add(k);
      const end = structure.value.partner[k];
      if (folded.value.has(step.id) && end > k) for (let i = k; i <= end; i++) taken.add(i);
    });
    return [...taken].sort((a, b) => a - b).map((k) => steps.value[k]);
  };

  /** Puts steps after the one chosen last, or at the end, and chooses them. */
  function insert(label: string, made: readonly NewStep[]): Said {
    const taken = steps.value.map((s) => s.id);
    const fresh = made.map((body) => {
      const id = freeId('step', taken);
      taken.push(id);
      return { enabled: true, note: '', ...body, id } as Step;
    });
    const last = whole().at(-1) ?? selected.value;
    const at = last ? steps.value.indexOf(last) + 1 : steps.value.length;
    const refused = commit(label, (r) => void r.steps.splice(at, 0, ...fresh));
    if (refused || !fresh.length) return refused;
    // What opens is chosen itself: its own fields come next, and then the steps inside it.
    const next = opens(fresh[0]) && fresh.length === 2 ? fresh[0] : fresh.at(-1)!;
    chosen.value = new Set(next === fresh[0] ? [next.id] : fresh.map((s) => s.id));
    current.value = next.id;
    anchor = current.value;
  }

  const bare = ({ id: _id, ...rest }: Step): NewStep => rest;
  function copy(): void {
    clip.value = whole().map(bare);
    void navigator.clipboard?.writeText(JSON.stringify({ [CLIP]: clip.value })).catch(() => undefined);
  }
  async function paste(): Promise<void> {
    let from: readonly NewStep[] = clip.value;
    try {
      const text = JSON.parse(await navigator.clipboard.readText()) as Record<string, unknown>;
      const list = text[CLIP];
      if (Array.isArray(list)) from = list as NewStep[];
    } catch {
      // No clipboard, or something else is on it: what was copied here serves.
    }
    const good = from.filter((body) => stepSchema.safeParse({ ...body, id: 'x' }).success);
    if (good.length) insert(good.length === 1 ? 'Paste a step' : `Paste ${good.length} steps`, good);
  }
  function remove(): void {
    const gone = new Set(whole().map((s) => s.id));
    if (!gone.size) return;
    const order = rows.value.map((row) => row.step.id);
    const first = order.findIndex((id) => gone.has(id));
    const after =
      order.slice(first).find((id) => !gone.has(id)) ?? order.slice(0, first).findLast((id) => !gone.has(id));
    commit(gone.size === 1 ? 'Delete a step' : `Delete ${gone.size} steps`, (r) => {
      r.steps = r.steps.filter((s) => !gone.has(s.id));
    });
    current.value = anchor = after ?? null;
    chosen.value = new Set(after ? [after] : []);
  }
  function cut(): void {
    copy();
    remove();
  }
  function skip(): void {
    const ids = new Set(whole().map((s) => s.id));
    const to = !steps.value.filter((s) => ids.has(s.id)).every((s) => s.enabled);
    commit(to ? 'Use the steps' : 'Skip the steps', (r) => {
      for (const step of r.steps) if (ids.has(step.id)) step.enabled = to;
    });
  }
  /** Moves the chosen steps one place up or down. */
  function move(by: 1 | -1): void {
    const moved = whole();
    if (!moved.length) return;
    const ids = new Set(moved.map((s) => s.id));
    const rest = steps.value.filter((s) => !ids.has(s.id));
    const before = steps.value.slice(0, steps.value.indexOf(moved[0])).filter((s) => !ids.has(s.id)).length;
    const at = Math.min(rest.length, Math.max(0, before + by));
    const order = [...rest.slice(0, at), ...moved, ...rest.slice(at)].map((s) => s.id);
    arrange(order);
  }
  function arrange(order: readonly string[]): void {
    const place = new Map(order.map((id, k) => [id, k]));
    commit('Reorder the steps', (r) => void r.steps.sort((a, b) => place.get(a.id)! - place.get(b.id)!));
  }

  const context = {
    routine,
    steps,
    rows,
    structure,
    selected,
    current,
    chosen,
    search,
    looked,
    problem,
    commit,
    edit,
    select,
    selectAll,
    fold,
    insert,
    copy,
    cut,
    paste,
    remove,
    skip,
    move,
    arrange,
    timed,
  };
  provide(key, context);
  return context;
}

export function useSteps(): StepsContext {
  const context = inject(key);
  if (!context) throw new Error('useSteps outside the Routine page');
  return context;
}
