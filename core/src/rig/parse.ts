/** The one door for rig documents: anything in, a checked document of the current version or faults out. */
import { describe, faultsOf, type Fault } from '../findings';
import { fault } from './findings';
import { checkMechanism, checkRig } from './check';
import { migrations } from './migrations';
import { mechanismSchema, RIG_FORMAT, RIG_VERSION, rigSchema, type MechanismDoc, type Rig } from './schema';

export type Parsed<T> = { ok: true; value: T } | { ok: false; faults: Fault[] };

export function parseRig(input: unknown): Parsed<Rig> {
  if (typeof input !== 'object' || input === null || (input as { format?: unknown }).format !== RIG_FORMAT)
    return refuse(fault('rig-format', 'format', `“${RIG_FORMAT}”`, 'something else'));
  const { version } = input as { version?: unknown };
  if (typeof version === 'number' && version > RIG_VERSION)
    return refuse(
      fault('rig-version-newer', 'version', `at most ${RIG_VERSION}`, String(version), {
        got: version,
        known: RIG_VERSION,
      }),
    );
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1)
    return refuse(
      fault('shape', 'version', `a whole number from 1 to ${RIG_VERSION}`, String(version), {
        problem: `must be a whole number from 1 to ${RIG_VERSION}; got ${describe(version)}`,
      }),
    );
  const current = migrate(input, version);
  const parsed = rigSchema.safeParse(current);
  if (!parsed.success) return { ok: false, faults: faultsOf(parsed.error, current, 'the rig') };
  const faults = checkRig(parsed.data);
  return faults.length ? { ok: false, faults } : { ok: true, value: parsed.data };
}

/** A mechanism alone, as the compute calls take it. `root` begins the paths of faults. */
export function parseMechanism(input: unknown, root = 'mechanism'): Parsed<MechanismDoc> {
  const parsed = mechanismSchema.safeParse(input);
  if (!parsed.success) return { ok: false, faults: faultsOf(parsed.error, input, '').map((f) => rooted(f, root)) };
  const faults = checkMechanism(parsed.data, root);
  return faults.length ? { ok: false, faults } : { ok: true, value: parsed.data };
}

function rooted(f: Fault, root: string): Fault {
  const path = f.path ? (f.path.startsWith('[') ? root + f.path : `${root}.${f.path}`) : root;
  return { ...f, path, message: f.path ? f.message.replace(f.path, path) : root + f.message };
}

function migrate(input: object, from: number): unknown {
  let document = input as Record<string, unknown>;
  for (let version = from; version < RIG_VERSION; version++) document = migrations[version]?.(document) ?? document;
  return document;
}

const refuse = (...faults: Fault[]): Parsed<never> => ({ ok: false, faults });
