/** What exports of tests are made from. */
import { admit } from '../../admit';
import { commandMaps } from '../../actuators';
import type { Rig } from '../../rig';
import { planCommands, planRoutine } from '../../routine';
import type { Source } from '../index';

/** A rig at rest, revision 7, with its first routine planned. */
export function sourceOf(document: Rig): Source & { readonly planned: NonNullable<Source['planned']> } {
  const admitted = admit(document);
  if (!admitted.ok) throw new Error(admitted.faults[0].message);
  const { rig, mechanism, build } = admitted;
  const [routine] = rig.routines;
  const plan = planRoutine(rig, mechanism, build, routine);
  const motion = planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
  return { rigId: 'rig', revision: 7, rig, mechanism, build, q: mechanism.home, planned: { routine, plan, motion } };
}
