/** Which arm, joints, tool or routine a call asks for: what it names is looked up here, and what is not there refused. */
import type { Admitted } from '@cork-elbow/core/admit';
import { contractFindings, type Orientation, type SimulatedInputs } from '@cork-elbow/core/contract';
import { compile, fromSlots, toSlots, type CompiledTool, type Mechanism } from '@cork-elbow/core/mechanism';
import type { MechanismDoc, Rig, Routine } from '@cork-elbow/core/rig';
import { planJob, type Plan } from '@cork-elbow/core/routine';
import { fromQuaternion, vec3, type Vec3 } from '@cork-elbow/core/linear';
import { toM, toRad } from '@cork-elbow/core/units';
import type { Task } from '@cork-elbow/core/kinematics';
import { speedOnlySlots } from '@cork-elbow/core/actuators';
import { MOST_FAULTS, refuse } from '../errors';
import { admitRig, parseMechanism } from '../rig-door';
import type { Desk } from './call';

const { fault } = contractFindings;

export interface OfRig {
  readonly rig?: Rig;
  readonly rigId?: string;
  readonly buildId?: string;
}
export interface OfArm extends OfRig {
  readonly mechanism?: MechanismDoc;
}
export interface Arm {
  readonly doc: MechanismDoc;
  readonly mechanism: Mechanism;
  /** Slots whose motors are told speeds only; none of an arm by itself. */
  readonly speedOnly: ReadonlySet<number>;
}

/** Of things that say the same in different ways just one may be given. */
export function oneOf(given: Readonly<Record<string, unknown>>): void {
  const names = Object.keys(given);
  const there = names.filter((name) => given[name] !== undefined);
  if (there.length === 1) return;
  const got = there.length ? there.join(' and ') : 'none of them';
  refuse([fault('ask-one-of', 'the body', `one of ${names.join(', ')}`, got, { names: names.join(', '), got })]);
}

/** `revision`: of a rig of the shelf. */
export async function rigOf(
  desk: Desk,
  { rig, rigId, buildId }: OfRig,
): Promise<Admitted & { readonly revision?: number }> {
  oneOf({ rig, rigId });
  const saved = rig === undefined ? await desk.rig(rigId!) : { rig };
  const admitted = { ...saved, ...admitRig(saved.rig, buildId) };
  if (buildId !== undefined && admitted.build.id !== buildId)
    refuse([fault('id-unknown', 'buildId', 'a build of the rig', `“${buildId}”`, { id: buildId, kind: 'build' })]);
  return admitted;
}

export async function armOf(desk: Desk, { mechanism: alone, ...ofRig }: OfArm): Promise<Arm> {
  oneOf({ mechanism: alone, rig: ofRig.rig, rigId: ofRig.rigId });
  if (!alone) {
    const { rig, mechanism } = await rigOf(desk, ofRig);
    return { doc: rig.mechanism, mechanism, speedOnly: speedOnlySlots(rig, mechanism) };
  }
  const doc = parseMechanism(alone);
  const result = compile(doc);
  return result.ok ? { doc, mechanism: result.mechanism, speedOnly: new Set() } : refuse(result.faults);
}

/** Slots from a body's values; an id that is not there is a fault. */
export function slots(
  { doc, mechanism }: Pick<Arm, 'doc' | 'mechanism'>,
  joints: Readonly<Record<string, number>>,
  path: string,
): Float64Array {
  const known = new Set(doc.joints.map((joint) => joint.id));
  const strangers = Object.keys(joints).filter((id) => !known.has(id));
  if (strangers.length)
    refuse(
      strangers
        .slice(0, MOST_FAULTS)
        .map((id) => fault('value-unknown-joint', `${path}.${id}`, 'a joint of the mechanism', `“${id}”`, { id })),
    );
  return toSlots(mechanism, joints);
}

/** A pose of which joints left out stand at home. */
export function poseOf(
  { rig, mechanism }: Pick<Admitted, 'rig' | 'mechanism'>,
  joints: Readonly<Record<string, number>>,
  path: string,
): Float64Array {
  slots({ doc: rig.mechanism, mechanism }, joints, path);
  return toSlots(mechanism, { ...fromSlots(mechanism, mechanism.home), ...joints });
}

export function slotOf(mechanism: Mechanism, id: string, path: string): number {
  return (
    mechanism.slotOf.get(id) ??
    refuse([fault('value-unknown-joint', path, 'a joint that moves by itself', `“${id}”`, { id })])
  );
}

export function toolOf(mechanism: Mechanism, id: string | undefined, path = 'tool'): CompiledTool | undefined {
  if (id === undefined) return mechanism.tools.find((tool) => tool.mounted) ?? mechanism.tools[0];
  return (
    mechanism.tools.find((tool) => tool.id === id) ??
    refuse([fault('id-unknown', path, 'an existing tool', `“${id}”`, { id, kind: 'tool' })])
  );
}
export const someTool = (mechanism: Mechanism, id: string | undefined, path?: string): CompiledTool =>
  toolOf(mechanism, id, path) ?? refuse([fault('tool-none', path ?? 'tool', 'an arm with a tool', 'none')]);

export function routineOf({ rig }: Pick<Admitted, 'rig'>, id: string): Routine {
  return (
    rig.routines.find((r) => r.id === id) ??
    refuse([fault('id-unknown', 'routineId', 'a routine of the rig', `“${id}”`, { id, kind: 'routine' })])
  );
}

export function planned(
  desk: Desk,
  admitted: Admitted,
  routineId: string,
  inputs: SimulatedInputs = {},
  start?: Float64Array,
): Plan {
  const { rig, mechanism, build } = admitted;
  const routine = routineOf(admitted, routineId);
  for (const id of Object.keys(inputs))
    if (!rig.signals.some((signal) => signal.id === id && signal.way === 'in'))
      refuse([fault('id-unknown', `inputs.${id}`, 'an input of the rig', `“${id}”`, { id, kind: 'input' })]);
  return desk.finish(
    `planning the routine “${routine.name}”`,
    planJob(rig, mechanism, build, routine, { inputs, ...(start ? { start } : {}) }),
  );
}

interface Target {
  readonly positionMm: readonly number[];
  readonly orientation: Orientation;
}
export function taskOf({ positionMm, orientation }: Target): Task {
  const position = positionMm.map(toM) as unknown as Vec3;
  if (orientation.kind === 'free') return { kind: 'free', position };
  if (orientation.kind === 'direction')
    return { kind: 'direction', position, direction: vec3.unit(orientation.direction)! };
  if (orientation.kind === 'tilt')
    return { kind: 'tilt', position, fromUp: toRad(orientation.fromUpDeg), up: [0, 0, 1] };
  return { kind: 'full', position, rotation: fromQuaternion(orientation.quaternion) };
}
