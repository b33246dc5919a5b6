/** The core's checks of documents, with a refusal as an error of the call. */
import {
  parseMechanism as checkMechanism,
  parseRig as checkRig,
  type MechanismDoc,
  type Rig,
} from '@cork-elbow/core/rig';
import { refuse } from './errors';

export function parseRig(input: unknown): Rig {
  const parsed = checkRig(input);
  return parsed.ok ? parsed.value : refuse(parsed.faults);
}

export function parseMechanism(input: unknown): MechanismDoc {
  const parsed = checkMechanism(input);
  return parsed.ok ? parsed.value : refuse(parsed.faults);
}
