/**
 * The one interpreter of routines: yields what happens, step by step, and asks for input values where a step needs
 * one. Plan, preview, generated commands and live run all drive this same loop.
 */
import type { Code, Data } from '../contract/messages';
import { deltaForward } from '../kinematics';
import { hold, jointMove, pathMove, type Block, type MoveBlock, type MovePace, type PathBlock } from '../motion';
import { straightWay } from './straight';
import { toSlots, worstRule, type Mechanism } from '../mechanism';
import { M_PER_MM, RAD_PER_DEG } from '../units/convert';
import { isJaw, type Pose, type Rig, type Routine, type Step } from '../rig';

export type RoutineEvent =
  /** A step begins; its blocks follow. */
  | { kind: 'step'; step: Step; index: number }
  | { kind: 'block'; block: Block }
  /** From here on the tool holds this payload, or nothing. */
  | { kind: 'carry'; tool: string; payload: string | null }
  /** The step cannot be done as it stands; the arm stays where it is. */
  | { kind: 'problem'; code: Code; data: Data; joint?: string; pose?: string };

/** Reserved for steps that wait for or branch on inputs: the caller answers with the value. */
export type InputValue = boolean | number;

/** Limits hold to this much (SI): poses saved to 0.001° sit exactly on a limit but for rounding. */
const LIMIT_SLACK = 1e-9;

export function* interpret(
  rig: Rig,
  mechanism: Mechanism,
  routine: Routine,
  start: Float64Array,
): Generator<RoutineEvent, Float64Array, InputValue | undefined> {
  let at = start;
  for (const [index, step] of routine.steps.entries()) {
    if (!step.enabled) continue;
    yield { kind: 'step', step, index };
    switch (step.kind) {
      case 'note':
        break;
      case 'wait':
        if (step.durationS > 0) yield { kind: 'block', block: hold(at, step.durationS) };
        break;
      case 'joint-move': {
        const target = resolveTarget(rig, mechanism, step.target, at, index);
        if ('code' in target) {
          yield { kind: 'problem', ...target };
          break;
        }
        at = yield* move(mechanism, at, target.q, { ...step.pace, profile: step.profile ?? routine.profile }, index);
        break;
      }
      case 'straight-move': {
        const target = resolveTarget(rig, mechanism, step.target, at, index);
        if ('code' in target) {
          yield { kind: 'problem', ...target };
          break;
        }
        at = yield* straight(
          mechanism,
          step.tool,
          at,
          target.q,
          { ...step.pace, profile: step.profile ?? routine.profile },
          index,
        );
        break;
      }
      case 'grip': {
        const tool = rig.mechanism.tools.find((t) => t.id === step.tool);
        const grip = tool?.grip && 'joint' in tool.grip ? tool.grip : null;
        const slot = grip ? mechanism.slotOf.get(grip.joint) : undefined;
        if (!grip || slot === undefined) {
          yield { kind: 'problem', code: 'grip-no-tool', data: { step: index + 1 } };
          break;
        }
        const value = step.to === 'open' ? grip.open : step.to === 'closed' ? grip.closed : step.to;
        const to = at.slice();
        to[slot] = value * mechanism.siPerUnit[slot];
        // A tool lets go before the jaw opens and holds once it has closed.
        if (step.payload === null) yield { kind: 'carry', tool: step.tool, payload: null };
        at = yield* move(mechanism, at, to, { ...step.pace, profile: step.profile ?? routine.profile }, index);
        if (step.payload) yield { kind: 'carry', tool: step.tool, payload: step.payload };
        break;
      }
    }
  }
  return at;
}

type Problem = Extract<RoutineEvent, { kind: 'problem' }>;

/** Joints whose target is past a limit; what is past by rounding alone is put on it. */
function overLimit(mechanism: Mechanism, to: Float64Array, index: number): Problem[] {
  const problems: Problem[] = [];
  for (let s = 0; s < mechanism.m; s++) {
    const by = Math.max(mechanism.lower[s] - to[s], to[s] - mechanism.upper[s]);
    if (by <= 0) continue;
    if (by <= LIMIT_SLACK) {
      to[s] = Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], to[s]));
      continue;
    }
    const joint = mechanism.jointOfSlot[s];
    const unit = mechanism.siPerUnit[s];
    problems.push({
      kind: 'problem',
      code: 'target-over-limit',
      joint: mechanism.ids[joint],
      data: {
        step: index + 1,
        joint: mechanism.names[joint],
        value: to[s] / unit,
        by: by / unit,
        unit: mechanism.units[joint],
      },
    });
  }
  return problems;
}

/** A wished duration that is too short, and a profile that jerks. */
function* paceProblems(block: MoveBlock | PathBlock, pace: MovePace, index: number): Generator<Problem, void> {
  if (pace.durationS !== undefined && block.curve.duration > pace.durationS * (1 + 1e-9))
    yield {
      kind: 'problem',
      code: 'duration-too-short',
      data: { step: index + 1, wished: pace.durationS, least: block.curve.duration },
    };
  if (pace.profile === 'linear' && block.duration > 0)
    yield { kind: 'problem', code: 'profile-sharp', data: { step: index + 1 } };
}

/** Checks the target, plans the move, yields it; the pose reached, or the old one where it was refused. */
function* move(
  mechanism: Mechanism,
  from: Float64Array,
  to: Float64Array,
  pace: MovePace,
  index: number,
): Generator<RoutineEvent, Float64Array, InputValue | undefined> {
  const over = overLimit(mechanism, to, index);
  yield* over;
  const problem = wayProblem(mechanism, from, to, index);
  if (problem) yield problem;
  if (problem || over.length) return from;
  const block = jointMove(mechanism, from, to, pace);
  yield* paceProblems(block, pace, index);
  if (block.duration > 0) yield { kind: 'block', block };
  return to;
}

/** The same with the tool's point on a straight line. */
function* straight(
  mechanism: Mechanism,
  toolId: string | undefined,
  from: Float64Array,
  to: Float64Array,
  pace: MovePace,
  index: number,
): Generator<RoutineEvent, Float64Array, InputValue | undefined> {
  const tool =
    toolId === undefined ? mechanism.tools.find((t) => t.mounted) : mechanism.tools.find((t) => t.id === toolId);
  if (!tool) {
    yield { kind: 'problem', code: 'path-no-tool', data: { step: index + 1 } };
    return from;
  }
  const over = overLimit(mechanism, to, index);
  if (over.length) {
    yield* over;
    return from;
  }
  const way = straightWay(mechanism, tool, from, to);
  if (!way.ok) {
    yield { kind: 'problem', code: way.code, data: { step: index + 1, share: way.share * 100, ...way.data } };
    return from;
  }
  const block = pathMove(mechanism, from, to, way.spline, pace);
  yield* paceProblems(block, pace, index);
  yield { kind: 'block', block };
  return to;
}

/** Places looked at along the straight way between two poses, where a rule may be broken in between. */
const WAY_SAMPLES = 48;

/**
 * What breaks a rule that depends on several joints, or pulls a delta's forearms apart, at the target or on the straight
 * way to it; null where nothing does. Sums hold on the whole way when they hold at its ends, so that without conditional
 * rules and without a delta the target alone is looked at.
 */
function wayProblem(
  mechanism: Mechanism,
  from: Float64Array,
  to: Float64Array,
  index: number,
): Extract<RoutineEvent, { kind: 'problem' }> | null {
  const samples = mechanism.conditions.length || mechanism.delta ? WAY_SAMPLES : 1;
  const q = to.slice();
  for (let k = samples; k > 0; k--) {
    for (let s = 0; s < q.length; s++) q[s] = from[s] + ((to[s] - from[s]) * k) / samples;
    const { joint, by } = worstRule(mechanism, q);
    if (by > LIMIT_SLACK) {
      const unit = mechanism.units[joint];
      return {
        kind: 'problem',
        code: 'rule-over-limit',
        joint: mechanism.ids[joint],
        data: {
          step: index + 1,
          joint: mechanism.names[joint],
          by: by / (unit === 'mm' ? M_PER_MM : RAD_PER_DEG),
          unit,
        },
      };
    }
    const gap = mechanism.delta ? deltaForward(mechanism.delta, q).gap : 0;
    if (gap > 0) return { kind: 'problem', code: 'rods-apart', data: { step: index + 1, byMm: gap / M_PER_MM } };
  }
  return null;
}

type Resolved = { q: Float64Array } | { code: Code; data: Data; pose?: string };

/**
 * The slots a target means, seen from where the arm is. Joints that it does not name stay; so do jaws of a pose: grip
 * steps work those.
 */
function resolveTarget(
  rig: Rig,
  mechanism: Mechanism,
  target: Extract<Step, { kind: 'joint-move' }>['target'],
  at: Float64Array,
  index: number,
): Resolved {
  if ('joints' in target) return { q: toSlots(mechanism, target.joints, at) };
  const pose = rig.poses.find((p) => p.id === target.pose);
  if (!pose) return { code: 'pose-unknown', data: { step: index + 1 }, pose: target.pose };
  return { q: poseSlots(rig, mechanism, pose, at) };
}

/** A pose as slots; joints it does not name, and jaws, keep their value of `at`. */
export function poseSlots(rig: Rig, mechanism: Mechanism, pose: Pose, at: Float64Array): Float64Array {
  const q = toSlots(mechanism, pose.joints, at);
  for (const joint of rig.mechanism.joints) {
    const slot = mechanism.slotOf.get(joint.id);
    if (slot !== undefined && isJaw(joint)) q[slot] = at[slot];
  }
  return q;
}

/** What a step does, in a few words. */
export function describeStep(rig: Rig, step: Step): string {
  switch (step.kind) {
    case 'joint-move':
    case 'straight-move':
      if ('pose' in step.target) {
        const id = step.target.pose;
        return rig.poses.find((p) => p.id === id)?.name ?? 'a pose that is gone';
      }
      return `${Object.keys(step.target.joints).length} joints by numbers`;
    case 'wait':
      return `${step.durationS} s`;
    case 'grip': {
      const tool = rig.mechanism.tools.find((t) => t.id === step.tool);
      const payload = step.payload ? rig.payloads.find((p) => p.id === step.payload)?.name : null;
      return `${tool?.name ?? 'no tool'} ${typeof step.to === 'number' ? `to ${step.to}` : step.to}${payload ? `, holding ${payload}` : step.payload === null ? ', letting go' : ''}`;
    }
    case 'note':
      return step.note;
  }
}

export const stepNames: Record<Step['kind'], string> = {
  'joint-move': 'Joint move',
  'straight-move': 'Straight move',
  wait: 'Wait',
  grip: 'Grip',
  note: 'Note',
};
