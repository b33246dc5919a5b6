/**
 * The one door to a rig, for what comes in from outside and for every edit: its shape and references, the couplings of its
 * transmissions, and the arm compiled where a build of it stands; in this order, each once. What is behind it need not ask again.
 */
import type { Fault } from '../findings';
import { compile, type Mechanism } from '../mechanism';
import { buildOf, parseRig, type Build, type Rig } from '../rig';
import { checkCouplings } from './couplings';

/** A rig with one of its builds, and the arm as it stands there. */
export interface Admitted {
  readonly rig: Rig;
  readonly build: Build;
  readonly mechanism: Mechanism;
}
export type Admission =
  ({ readonly ok: true } & Admitted) | { readonly ok: false; readonly faults: readonly [Fault, ...Fault[]] };

const refused = ([first, ...more]: readonly Fault[]): Admission => ({ ok: false, faults: [first, ...more] });

/** `buildId`: the build whose mounting the arm stands on; the first one where it is left out or gone. */
export function admit(input: unknown, buildId?: string | null): Admission {
  const parsed = parseRig(input);
  if (!parsed.ok) return refused(parsed.faults);
  const faults = checkCouplings(parsed.value);
  return faults.length ? refused(faults) : standing(parsed.value, buildId);
}

/** The same for a rig that has been let in before: where the arm stands by another of its builds, say. */
export function standing(rig: Rig, buildId?: string | null): Admission {
  const build = buildOf(rig, buildId);
  const compiled = compile(rig.mechanism, build.mounting);
  return compiled.ok ? { ok: true, rig, build, mechanism: compiled.mechanism } : refused(compiled.faults);
}
