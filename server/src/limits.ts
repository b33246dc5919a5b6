/** How large bodies may be (bytes). */
import { MAX_RIG_BYTES } from '@cork-elbow/core/rig';

/** Bodies that carry a document. */
export const DOCUMENT_LIMIT = MAX_RIG_BYTES + 64 * 1024;
/** Bodies that carry many targets. */
export const BATCH_LIMIT = 8 * 1024 * 1024;
/** Kinds of motor. */
export const MOTORS_LIMIT = 256 * 1024;
