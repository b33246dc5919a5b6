/** What a document is checked for before it is saved, and as it is read: also away from the server's own thread. */
import { MAX_RIG_BYTES, type Rig } from '@cork-elbow/core/rig';
import { checkCopy, copyInto } from '../db/copies';
import { apiError } from '../errors';
import { admitRig, readStored, storedRig } from '../rig-door';
import { readJson } from './json';

/** A document that may be saved, as it is written; what stood beside it in the body. */
export interface Saveable {
  readonly name: string;
  readonly joints: number;
  readonly routines: number;
  readonly document: string;
  readonly id?: unknown;
  readonly revision?: unknown;
}

export function saveableOf(rig: Rig): Saveable {
  const document = JSON.stringify(rig);
  const bytes = Buffer.byteLength(document);
  if (bytes > MAX_RIG_BYTES) throw apiError('rig-too-large', { gotMb: bytes / 1e6, maxMb: MAX_RIG_BYTES / 1e6 });
  return { name: rig.name, joints: rig.mechanism.joints.length, routines: rig.routines.length, document };
}

interface Copying {
  readonly file: string;
  readonly into: string;
}
interface Checking {
  readonly file: string;
  readonly named: string;
  readonly migrations: string;
}

export const doors: Readonly<Record<string, (body: Uint8Array | null) => unknown>> = {
  /** The body of a call that saves. */
  save(body): Saveable {
    const input = readJson(body);
    if (typeof input !== 'object' || input === null) throw apiError('body-missing');
    const { rig, id, revision } = input as Record<string, unknown>;
    return { ...saveableOf(admitRig(rig).rig), id, revision };
  },
  /** A document as it stands in its row: as it is read today. */
  stored: (body): string => JSON.stringify(storedRig(readStored(Buffer.from(body!).toString('utf8'))).rig),
  /** Paths of the server's own. */
  copy(body): Promise<void> {
    const { file, into } = readJson(body) as Copying;
    return copyInto(file, into);
  },
  check(body): Promise<void> {
    const { file, named, migrations } = readJson(body) as Checking;
    return checkCopy(file, named, migrations);
  },
};
