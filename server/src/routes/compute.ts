import type { z } from 'zod';
import { fault } from '@cork-elbow/core/findings';
import {
  forwardAnswer,
  forwardBody,
  inverseAnswer,
  inverseBody,
  planAnswer,
  planBody,
  type Orientation,
} from '@cork-elbow/core/contract';
import { dexterityAt, forward, solveTogether, type Ask, type Solution, type Task } from '@cork-elbow/core/kinematics';
import { fromQuaternion, positionOf, quaternionOf, rpyOf, vec3, type Vec3 } from '@cork-elbow/core/linear';
import { compile, fromSlots, toSlots, type CompiledTool, type Mechanism } from '@cork-elbow/core/mechanism';
import { sampleMotion } from '@cork-elbow/core/motion';
import type { MechanismDoc } from '@cork-elbow/core/rig';
import { admitRig, parseMechanism } from '../rig-door';
import { planMotion, planRoutine } from '@cork-elbow/core/routine';
import { toDeg, toM, toMm, toRad } from '@cork-elbow/core/units';
import type { Calls } from '../calls';
import { ApiError, refuse } from '../errors';

const MAX_SAMPLES = 500_000;
const mm3 = (v: Vec3): [number, number, number] => [toMm(v[0]), toMm(v[1]), toMm(v[2])];

function compiled(doc: MechanismDoc): Mechanism {
  const result = compile(doc);
  return result.ok ? result.mechanism : refuse(result.faults);
}

/** Slots from a body's values; an id that is not there is a fault. */
function slots(doc: MechanismDoc, mechanism: Mechanism, joints: Record<string, number>, path: string): Float64Array {
  const known = new Set(doc.joints.map((joint) => joint.id));
  const faults = Object.keys(joints)
    .filter((id) => !known.has(id))
    .map((id) => fault('value-unknown-joint', `${path}.${id}`, 'a joint of the mechanism', `“${id}”`, { id }));
  if (faults.length) refuse(faults);
  return toSlots(mechanism, joints);
}

function toolOf(mechanism: Mechanism, id: string | undefined): CompiledTool | undefined {
  if (id === undefined) return mechanism.tools.find((tool) => tool.mounted) ?? mechanism.tools[0];
  return (
    mechanism.tools.find((tool) => tool.id === id) ??
    refuse([fault('id-unknown', 'tool', 'an existing tool', `“${id}”`, { id, kind: 'tool' })])
  );
}

function taskOf(positionMm: readonly number[], orientation: Orientation): Task {
  const position = positionMm.map(toM) as unknown as Vec3;
  if (orientation.kind === 'free') return { kind: 'free', position };
  if (orientation.kind === 'direction')
    return { kind: 'direction', position, direction: vec3.unit(orientation.direction)! };
  if (orientation.kind === 'tilt')
    return { kind: 'tilt', position, fromUp: toRad(orientation.fromUpDeg), up: [0, 0, 1] };
  return { kind: 'full', position, rotation: fromQuaternion(orientation.quaternion) };
}

export function computeForward(body: z.infer<typeof forwardBody>): z.infer<typeof forwardAnswer> {
  const doc = parseMechanism(body.mechanism);
  const mechanism = compiled(doc);
  const q = slots(doc, mechanism, body.joints, 'joints');
  const tool = toolOf(mechanism, body.tool);
  const { joints, tools, all, gap } = forward(mechanism, q);
  if (gap > 0)
    refuse([
      fault('pose-open', 'joints', 'angles that let the forearms meet', 'angles that do not', { byMm: toMm(gap) }),
    ]);
  const frame = tool && tools.get(tool.id)!;
  return {
    positionMm: frame ? mm3(positionOf(frame)) : null,
    quaternion: frame ? [...quaternionOf(frame)] : null,
    rpyDeg: frame ? (rpyOf(frame).map(toDeg) as [number, number, number]) : null,
    joints: Object.fromEntries(
      mechanism.ids.map((id, j) => [id, mechanism.units[j] === 'mm' ? toMm(all[j]) : toDeg(all[j])]),
    ),
    links: Object.fromEntries(
      [...joints].map(([id, f]) => [
        id,
        { positionMm: mm3(positionOf(f)), quaternion: [...quaternionOf(f)] as [number, number, number, number] },
      ]),
    ),
  };
}

export function computeInverse(body: z.infer<typeof inverseBody>): z.infer<typeof inverseAnswer> {
  const doc = parseMechanism(body.mechanism);
  const mechanism = compiled(doc);
  const near = slots(doc, mechanism, body.near ?? {}, 'near');
  const asks: Ask[] = (body.targets ?? [{ tool: body.tool, target: body.target! }]).map(({ tool: id, target }) => {
    const tool = toolOf(mechanism, id);
    if (!tool)
      return refuse([fault('id-unknown', 'tool', 'a mechanism with a tool', 'none', { id: '', kind: 'tool' })]);
    return { tool, task: taskOf(target.positionMm, target.orientation) };
  });
  const held = new Set(
    (body.held ?? []).map(
      (id, i) =>
        mechanism.slotOf.get(id) ??
        refuse([fault('value-unknown-joint', `held[${i}]`, 'a joint that moves by itself', `“${id}”`, { id })]),
    ),
  );
  const result = solveTogether(mechanism, asks, near, { held });
  const [{ tool, task }] = asks;
  const answer = (s: Solution): z.infer<typeof inverseAnswer>['solutions'][number] => {
    const { manipulability, evenness } = dexterityAt(mechanism, tool, task.kind, s.q);
    return {
      joints: fromSlots(mechanism, s.q),
      posture: s.posture,
      errorMm: toMm(s.distance),
      errorDeg: toDeg(s.angle),
      limitMargin: s.limitMargin,
      awayS: s.awayS,
      manipulability,
      evenness,
    };
  };
  return {
    reachable: result.reachable,
    solutions: result.solutions.map(answer),
    reasons: [...result.reasons],
    ...(result.closest ? { closest: answer(result.closest) } : {}),
  };
}

export function computePlan(body: z.infer<typeof planBody>): z.infer<typeof planAnswer> {
  const { rig, build, mechanism } = admitRig(body.rig, body.buildId);
  if (body.buildId !== undefined && build.id !== body.buildId)
    refuse([
      fault('id-unknown', 'buildId', 'a build of the rig', `“${body.buildId}”`, { id: body.buildId, kind: 'build' }),
    ]);
  const { sampleMs } = body;
  if (!(sampleMs >= 1 && sampleMs <= 1000))
    refuse([fault('rate', 'sampleMs', '1 to 1000 ms', String(sampleMs), { got: sampleMs })]);
  const routine = rig.routines.find((r) => r.id === body.routineId);
  if (!routine)
    return refuse([
      fault('id-unknown', 'routineId', 'a routine of the rig', `“${body.routineId}”`, {
        id: body.routineId,
        kind: 'routine',
      }),
    ]);
  const start = slots(rig.mechanism, mechanism, body.start ?? {}, 'start');
  const inputs = body.inputs ?? {};
  for (const id of Object.keys(inputs))
    if (!rig.signals.some((signal) => signal.id === id && signal.way === 'in'))
      refuse([fault('id-unknown', `inputs.${id}`, 'an input of the rig', `“${id}”`, { id, kind: 'input' })]);
  const plan = planRoutine(rig, mechanism, build, routine, { start, inputs });
  if (plan.durationS / (sampleMs / 1000) > MAX_SAMPLES)
    throw new ApiError('plan-too-long', { got: Math.ceil(plan.durationS / (sampleMs / 1000)), max: MAX_SAMPLES });
  const samples = sampleMotion(mechanism, planMotion(plan), sampleMs / 1000);
  const columns = (rows: readonly Float64Array[]): Record<string, number[]> =>
    Object.fromEntries(mechanism.slotIds.map((id, s) => [id, [...rows[s]]]));
  return {
    durationS: plan.durationS,
    findings: [...plan.findings],
    samples: {
      timeS: [...samples.timeS],
      joints: columns(samples.joints),
      speeds: columns(samples.speeds),
      accels: columns(samples.accels),
    },
  };
}

export function computeRoutes(calls: Calls): void {
  calls.add({
    method: 'POST',
    url: '/api/compute/forward',
    summary: 'Where every link and the tool are for given joint values.',
    body: forwardBody,
    answer: forwardAnswer,
    handler: computeForward,
  });
  calls.add({
    method: 'POST',
    url: '/api/compute/inverse',
    summary: 'Joint values that bring the tool to a target, every posture; or why not, and the closest pose.',
    body: inverseBody,
    answer: inverseAnswer,
    handler: computeInverse,
  });
  calls.add({
    method: 'POST',
    url: '/api/compute/plan',
    summary: 'A routine as one planned motion, sampled.',
    body: planBody,
    answer: planAnswer,
    handler: computePlan,
  });
}
