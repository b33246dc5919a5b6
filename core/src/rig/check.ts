/** What a document must satisfy beyond its shape: ids that exist, no loops, limits the right way round. */
import type { Fault } from '../findings';
import { fault } from './findings';
import { codeName, isMoving, limitsOf } from './defaults';
import { PLATFORM } from './delta';
import { unknownIds } from './references';
import { MAX_JOINTS, type AnyJoint, type Joint, type MechanismDoc, type Rig, type TreeDoc } from './schema';

export function checkMechanism(doc: MechanismDoc, root = 'mechanism'): Fault[] {
  const { joints, tools } = doc;
  const at = (path: string): string => (root ? `${root}.${path}` : path);
  if (joints.length > MAX_JOINTS)
    return [
      fault('too-many-joints', at('joints'), `at most ${MAX_JOINTS}`, String(joints.length), {
        got: joints.length,
        max: MAX_JOINTS,
      }),
    ];
  const faults: Fault[] = [...twice(joints, at('joints')), ...twice(tools, at('tools'))];
  faults.push(...codesTwice(joints, at('joints')));
  faults.push(...unknownIds({ mechanism: doc }, root));
  const byId = new Map<string, AnyJoint>(joints.map((joint) => [joint.id, joint]));
  /** For places where only a joint with a value of its own or a follower makes sense. */
  const moving = (id: string, path: string): void => {
    if (byId.get(id)?.type === 'fixed')
      faults.push(fault('id-unknown', path, 'a joint that moves', `“${id}”`, { id, kind: 'moving joint' }));
  };
  const ordered = (pair: { min: number; max: number }, path: string, strict = true): void => {
    if (strict ? !(pair.min < pair.max) : !(pair.min <= pair.max))
      faults.push(fault('limits-reversed', path, 'min below max', `${pair.min} and ${pair.max}`, pair));
  };
  joints.forEach((joint, i) => {
    if (!isMoving(joint)) return;
    const path = at(`joints[${i}]`);
    const { min, max } = limitsOf(joint);
    ordered({ min, max }, `${path}.limits`);
    if (joint.physical) ordered(joint.physical, `${path}.physical`);
  });
  if (doc.family === 'tree') faults.push(...checkTree(doc, at));
  else
    doc.joints.forEach((joint, i) => {
      if (joint.id === PLATFORM)
        faults.push(fault('id-reserved', at(`joints[${i}].id`), 'another id', `“${PLATFORM}”`, { id: PLATFORM }));
    });
  tools.forEach((tool, i) => {
    if (tool.grip && 'joint' in tool.grip) moving(tool.grip.joint, at(`tools[${i}].grip.joint`));
  });
  doc.limitRules.forEach((rule, i) => {
    const path = at(`limitRules[${i}]`);
    if ('terms' in rule) {
      rule.terms.forEach((term, k) => moving(term.joint, `${path}.terms[${k}].joint`));
      ordered(rule, path, false);
      return;
    }
    moving(rule.while.joint, `${path}.while.joint`);
    moving(rule.joint, `${path}.joint`);
    if (rule.min === undefined && rule.max === undefined)
      faults.push(fault('rule-empty', path, 'a lower or an upper bound', 'neither'));
    else if (rule.min !== undefined && rule.max !== undefined) ordered({ min: rule.min, max: rule.max }, path);
  });
  const cables = doc.cables ?? [];
  faults.push(...twice(cables, at('cables')));
  cables.forEach((cable, i) =>
    cable.around.forEach((turn, k) => {
      const path = at(`cables[${i}].around[${k}].joint`);
      moving(turn.joint, path);
      if (byId.get(turn.joint)?.type === 'prismatic')
        faults.push(
          fault('id-unknown', path, 'a joint that turns', `“${turn.joint}”`, {
            id: turn.joint,
            kind: 'turning joint',
          }),
        );
    }),
  );
  const { weights = [], springs = [] } = doc;
  faults.push(...twice(weights, at('weights')), ...twice(springs, at('springs')));
  springs.forEach((spring, i) => spring.kind === 'at-joint' && moving(spring.joint, at(`springs[${i}].joint`)));
  const wheels = doc.base.wheels ?? [];
  faults.push(...twice(wheels, at('base.wheels')));
  return faults;
}

/** What only a tree can have wrong: parents, axes, followers. */
function checkTree({ joints }: TreeDoc, at: (path: string) => string): Fault[] {
  const faults: Fault[] = [];
  const byId = new Map(joints.map((joint) => [joint.id, joint]));
  joints.forEach((joint, i) => {
    const path = at(`joints[${i}]`);
    if (loops(joint.id, (id) => parentsOf(byId.get(id))))
      faults.push(
        fault('parent-loop', `${path}.parent`, 'a chain that ends at the base', `“${joint.parent}”`, {
          id: joint.id,
        }),
      );
    if (!isMoving(joint)) return;
    if (Math.hypot(...joint.axis) < 1e-9)
      faults.push(fault('axis-zero', `${path}.axis`, 'a direction', joint.axis.join(', ')));
    joint.follows?.forEach((term, k) => {
      const source = byId.get(term.joint);
      if (!source || isMoving(source)) return;
      faults.push(
        fault('id-unknown', `${path}.follows[${k}].joint`, 'a joint that moves', `“${term.joint}”`, {
          id: term.joint,
          kind: 'moving joint',
        }),
      );
    });
    if (loops(joint.id, (id) => followed(byId.get(id))))
      faults.push(fault('follow-loop', `${path}.follows`, 'no loop', `“${joint.id}”`, { id: joint.id }));
  });
  return faults;
}

function codesTwice(joints: readonly AnyJoint[], path: string): Fault[] {
  const seen = new Map<string, string>();
  return joints.flatMap((joint, i) => {
    const name = codeName(joint);
    const before = seen.get(name);
    seen.set(name, joint.id);
    if (before === undefined || (joint.code === undefined && before === joint.id)) return [];
    return [
      fault('code-twice', `${path}[${i}].code`, 'a code name used once', `“${name}”`, { code: name, other: before }),
    ];
  });
}

const parentsOf = (joint: Joint | undefined): string[] => (joint?.parent ? [joint.parent] : []);
const followed = (joint: Joint | undefined): string[] =>
  joint && isMoving(joint) ? (joint.follows ?? []).map((term) => term.joint) : [];

/** Whether following `next` from `start` ever leads back to `start`. */
function loops(start: string, next: (id: string) => string[]): boolean {
  const seen = new Set<string>();
  const queue = [...next(start)];
  for (let id = queue.pop(); id !== undefined; id = queue.pop()) {
    if (id === start) return true;
    if (!seen.has(id)) {
      seen.add(id);
      queue.push(...next(id));
    }
  }
  return false;
}

function twice(items: readonly { id: string }[], path: string): Fault[] {
  const seen = new Set<string>();
  return items.flatMap(({ id }, i) => {
    if (!seen.has(id)) {
      seen.add(id);
      return [];
    }
    return [fault('id-twice', `${path}[${i}].id`, 'an id used once', `“${id}”`, { id })];
  });
}

const LISTS = [
  'drives',
  'transmissions',
  'boards',
  'rails',
  'wiring',
  'signals',
  'sensors',
  'leaders',
  'builds',
  'spots',
  'frames',
  'obstacles',
  'payloads',
  'poses',
  'routines',
] as const;

export function checkRig(rig: Rig): Fault[] {
  const faults = [...checkMechanism(rig.mechanism), ...unknownIds(rig)];
  for (const list of LISTS) faults.push(...twice(rig[list], list));
  rig.routines.forEach((routine, i) => faults.push(...twice(routine.steps, `routines[${i}].steps`)));
  const jointIds = new Set(rig.mechanism.joints.map((joint) => joint.id));
  rig.drives.forEach((drive, i) => {
    const [low, high, unit] =
      'minUs' in drive
        ? [drive.minUs, drive.maxUs, 'µs']
        : drive.kind === 'bus-servo'
          ? [drive.minCount, drive.maxCount, 'counts']
          : [0, 1, ''];
    if (low < high) return;
    const key = 'minUs' in drive ? 'minUs' : 'minCount';
    const code = 'minUs' in drive ? 'pulse-reversed' : 'counts-reversed';
    faults.push(
      fault(code, `drives[${i}].${key}`, `below ${high} ${unit}`, `${low} ${unit}`, { min: low, max: high }),
    );
  });
  const tied = { joints: new Map<string, number>(), drives: new Map<string, number>() };
  rig.transmissions.forEach((transmission, i) => {
    const path = `transmissions[${i}]`;
    for (const side of ['joints', 'drives'] as const)
      transmission[side].forEach((id, k) => {
        if (tied[side].has(id))
          faults.push(
            fault('tied-twice', `${path}.${side}[${k}]`, 'one transmission each', `“${id}” in two`, {
              kind: side === 'joints' ? 'joint' : 'motor',
              id,
            }),
          );
        tied[side].set(id, i);
      });
  });
  faults.push(
    ...twice(
      rig.homing.axes.map((axis) => ({ id: axis.joint })),
      'homing.axes',
    ),
  );
  rig.boards.forEach((board, i) => {
    const pins = board.pins.map((pin) => ({ id: String(pin.pin) }));
    faults.push(...twice(pins, `boards[${i}].pins`));
  });
  rig.leaders.forEach((leader, i) => {
    if (!(leader.low < leader.high))
      faults.push(
        fault('limits-reversed', `leaders[${i}]`, 'low below high', `${leader.low} and ${leader.high}`, {
          min: leader.low,
          max: leader.high,
        }),
      );
  });
  rig.builds.forEach((build, b) =>
    build.calibrations.forEach((calibration, i) => {
      const path = `builds[${b}].calibrations[${i}]`;
      for (const [what, values] of [
        ['angle', calibration.points.map((p) => p.at)],
        ['pulse', calibration.points.map((p) => p.us)],
      ] as const)
        if (new Set(values).size < 2)
          faults.push(
            fault('points-equal', `${path}.points`, `two different ${what}s`, `${values[0]} twice`, { what }),
          );
    }),
  );
  rig.poses.forEach((pose, i) => {
    for (const id of Object.keys(pose.joints))
      if (!jointIds.has(id))
        faults.push(
          fault('value-unknown-joint', `poses[${i}].joints`, 'joints of this mechanism', `“${id}”`, { id }),
        );
  });
  return faults;
}
