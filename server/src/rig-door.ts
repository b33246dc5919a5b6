/** The core's checks of documents, with a refusal as an error of the call. */
import { admit, type Admitted } from '@cork-elbow/core/admit';
import { parseMechanism as checkMechanism, type MechanismDoc } from '@cork-elbow/core/rig';
import { refuse } from './errors';

/** `buildId`: whose mounting the arm stands on; the first build where it is left out. */
export function admitRig(input: unknown, buildId?: string): Admitted {
  const admitted = admit(input, buildId);
  return admitted.ok ? admitted : refuse(admitted.faults);
}

export function parseMechanism(input: unknown): MechanismDoc {
  const parsed = checkMechanism(input);
  return parsed.ok ? parsed.value : refuse(parsed.faults);
}
