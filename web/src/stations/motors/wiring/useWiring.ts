/** What the wiring parts share: edits with a sentence where they are refused, choices, findings about wires. */
import { computed, ref } from 'vue';
import { takenPins } from '@cork-elbow/core/wiring';
import { freeId, type Ability, type Board } from '@cork-elbow/core/rig';
import { partsOf } from '../../../shared/stations';
import { useEdit } from '../../../shared/useEdit';
import { useRigStore } from '../../../stores/rig';
import { useViewStore } from '../../../stores/view';

/** PrimeVue's list cannot show null; this stands for it. */
export const NONE = ':none';
export const orNull = (value: unknown): string | null => (value === NONE ? null : String(value));

/** Why the last edit was refused; one sentence for all parts of the wiring. */
const problem = ref('');
/** Parts that are about wires. */
const lists = new Set<string | undefined>(partsOf('motors').flatMap(({ id, group }) => (group ? [id] : [])));

export function useWiring() {
  const rigs = useRigStore();
  const view = useViewStore();
  const rig = computed(() => rigs.rig!);

  const change = useEdit(problem);
  const newId = (wish: string, items: readonly { readonly id: string }[]): string =>
    freeId(
      wish,
      items.map((item) => item.id),
    );
  const boards = computed(() => [
    { value: NONE, label: 'no board' },
    ...rig.value.boards.map((b) => ({ value: b.id, label: b.name })),
  ]);
  const rails = computed(() => [
    { value: NONE, label: 'no supply' },
    ...rig.value.rails.map((r) => ({ value: r.id, label: r.name })),
  ]);
  const boardOf = (id: string | null): Board | undefined => rig.value.boards.find((b) => b.id === id);

  /** Pins of a board for a job, those that can do it first; `own` is the pin that is chosen now. */
  function pinsFor(board: Board | undefined, any: readonly Ability[], own: number | null | undefined, none = false) {
    if (!board) return none ? [{ value: NONE, label: '–' }] : [];
    const taken = takenPins(rig.value, board.id);
    const fits = (p: Board['pins'][number]): boolean => any.some((ability) => p.can.includes(ability));
    const options = [...board.pins]
      .sort((a, b) => Number(fits(b)) - Number(fits(a)) || a.pin - b.pin)
      .map((p) => {
        const notes = [
          fits(p) ? '' : 'cannot',
          p.reserved ? 'kept' : '',
          p.boot === 'pulses' ? 'pulses at start' : '',
          taken.has(p.pin) && p.pin !== own ? 'taken' : '',
        ].filter(Boolean);
        return { value: String(p.pin), label: notes.length ? `${p.label} (${notes.join(', ')})` : p.label };
      });
    return none ? [{ value: NONE, label: '–' }, ...options] : options;
  }
  const findings = computed(() => view.findings.filter(({ place }) => lists.has(place.part)));
  return { rigs, rig, problem, change, newId, boards, rails, boardOf, pinsFor, findings };
}
