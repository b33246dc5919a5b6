/** The core's checks of documents, with a refusal as an error of the call. */
import { contractFindings } from '@cork-elbow/core/contract';
import { admit, type Admitted } from '@cork-elbow/core/admit';
import { parseMechanism as checkMechanism, type MechanismDoc } from '@cork-elbow/core/rig';
import { ApiError, refuse } from './errors';

/** `buildId`: whose mounting the arm stands on; the first build where it is left out. */
export function admitRig(input: unknown, buildId?: string): Admitted {
  const admitted = admit(input, buildId);
  return admitted.ok ? admitted : refuse(admitted.faults);
}

/** A document that was saved; one that passes no longer is an error of its own. */
export function storedRig(document: unknown): Admitted {
  const admitted = admit(document);
  if (admitted.ok) return admitted;
  const [{ message }] = admitted.faults;
  throw new ApiError(
    'rig-invalid-stored',
    contractFindings.say('rig-invalid-stored', { reason: message }),
    admitted.faults,
  );
}

/** What stands in a row, read; text that is no JSON is the same as a document that does not pass. */
export function readStored(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    const reason = `it is no JSON (${(error as Error).message}).`;
    throw new ApiError('rig-invalid-stored', contractFindings.say('rig-invalid-stored', { reason }));
  }
}

export function parseMechanism(input: unknown): MechanismDoc {
  const parsed = checkMechanism(input);
  return parsed.ok ? parsed.value : refuse(parsed.faults);
}
