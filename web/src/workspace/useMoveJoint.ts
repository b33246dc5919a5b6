/** One joint towards a value (slot, SI): of the person's own pose, or of the arm itself while that is led by hand. */
import { useRunStore } from '../stores/run';
import { useViewStore } from '../stores/view';

export function useMoveJoint(): (slot: number, value: number) => void {
  const view = useViewStore();
  const run = useRunStore();
  return (slot, value) => (run.byHand ? run.leadJoint(slot, value) : view.setJoint(slot, value));
}
