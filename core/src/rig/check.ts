/** What a document must satisfy beyond its shape: ids that exist, no loops, limits the right way round. */
import { fault, type Fault } from '../contract/finding';
import { isMoving, limitsOf } from './defaults';
import { MAX_JOINTS, type Joint, type MechanismDoc, type Rig } from './schema';

export function checkMechanism(mechanism: MechanismDoc, root = 'mechanism'): Fault[] {
  const { joints, tools } = mechanism;
  const at = (path: string): string => (root ? `${root}.${path}` : path);
  const faults: Fault[] = [];
  if (mechanism.family === 'rotary-delta') faults.push(fault('delta-not-yet', at('family'), 'tree', 'rotary-delta'));
  if (joints.length > MAX_JOINTS)
    return [
      ...faults,
      fault('too-many-joints', at('joints'), `at most ${MAX_JOINTS}`, String(joints.length), {
        got: joints.length,
        max: MAX_JOINTS,
      }),
    ];
  faults.push(...twice(joints, at('joints')), ...twice(tools, at('tools')));
  const byId = new Map(joints.map((joint) => [joint.id, joint]));
  const known = (id: string | null, path: string, kind = 'joint'): void => {
    if (id !== null && !byId.has(id))
      faults.push(fault('id-unknown', path, `an existing ${kind}`, `“${id}”`, { id, kind }));
  };
  joints.forEach((joint, i) => {
    const path = at(`joints[${i}]`);
    known(joint.parent, `${path}.parent`);
    if (loops(joint.id, (id) => parentsOf(byId.get(id))))
      faults.push(
        fault('parent-loop', `${path}.parent`, 'a chain that ends at the base', `“${joint.parent}”`, {
          id: joint.id,
        }),
      );
    if (!isMoving(joint)) return;
    if (Math.hypot(...joint.axis) < 1e-9)
      faults.push(fault('axis-zero', `${path}.axis`, 'a direction', joint.axis.join(', ')));
    const { min, max } = limitsOf(joint);
    if (!(min < max))
      faults.push(fault('limits-reversed', `${path}.limits`, 'min below max', `${min} and ${max}`, { min, max }));
    const { physical } = joint;
    if (physical && !(physical.min < physical.max))
      faults.push(
        fault(
          'limits-reversed',
          `${path}.physical`,
          'min below max',
          `${physical.min} and ${physical.max}`,
          physical,
        ),
      );
    joint.follows?.forEach((term, k) => {
      const where = `${path}.follows[${k}].joint`;
      known(term.joint, where);
      const source = byId.get(term.joint);
      if (source && !isMoving(source))
        faults.push(
          fault('id-unknown', where, 'a joint that moves', `“${term.joint}”`, {
            id: term.joint,
            kind: 'moving joint',
          }),
        );
    });
    if (loops(joint.id, (id) => followed(byId.get(id))))
      faults.push(fault('follow-loop', `${path}.follows`, 'no loop', `“${joint.id}”`, { id: joint.id }));
  });
  tools.forEach((tool, i) => {
    known(tool.parent, at(`tools[${i}].parent`));
    if (tool.grip && 'joint' in tool.grip) known(tool.grip.joint, at(`tools[${i}].grip.joint`));
  });
  mechanism.limitRules.forEach((rule, i) => {
    rule.terms.forEach((term, k) => known(term.joint, at(`limitRules[${i}].terms[${k}].joint`)));
    if (!(rule.min <= rule.max))
      faults.push(
        fault(
          'limits-reversed',
          at(`limitRules[${i}]`),
          'min below max',
          `${rule.min} and ${rule.max}`,
          rule as never,
        ),
      );
  });
  return faults;
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
  'wiring',
  'builds',
  'spots',
  'obstacles',
  'payloads',
  'poses',
  'routines',
] as const;

export function checkRig(rig: Rig): Fault[] {
  const faults = checkMechanism(rig.mechanism);
  for (const list of LISTS) faults.push(...twice(rig[list], list));
  rig.routines.forEach((routine, i) => faults.push(...twice(routine.steps, `routines[${i}].steps`)));
  const jointIds = new Set(rig.mechanism.joints.map((joint) => joint.id));
  const driveIds = new Set(rig.drives.map((drive) => drive.id));
  const boardIds = new Set(rig.boards.map((board) => board.id));
  const known = (ids: Set<string>, id: string, path: string, kind: string): void => {
    if (!ids.has(id)) faults.push(fault('id-unknown', path, `an existing ${kind}`, `“${id}”`, { id, kind }));
  };
  rig.drives.forEach((drive, i) => {
    if (!(drive.minUs < drive.maxUs))
      faults.push(
        fault('pulse-reversed', `drives[${i}].minUs`, `below ${drive.maxUs} µs`, `${drive.minUs} µs`, {
          min: drive.minUs,
          max: drive.maxUs,
        }),
      );
  });
  rig.transmissions.forEach((transmission, i) => {
    known(jointIds, transmission.joints[0], `transmissions[${i}].joints[0]`, 'joint');
    known(driveIds, transmission.drives[0], `transmissions[${i}].drives[0]`, 'drive');
    if (transmission.reduction === 0)
      faults.push(fault('ratio-zero', `transmissions[${i}].reduction`, 'any number but 0', '0'));
  });
  rig.wiring.forEach((wire, i) => {
    known(driveIds, wire.drive, `wiring[${i}].drive`, 'drive');
    known(boardIds, wire.board, `wiring[${i}].board`, 'board');
  });
  rig.builds.forEach((build, b) =>
    build.calibrations.forEach((calibration, i) => {
      const path = `builds[${b}].calibrations[${i}]`;
      known(driveIds, calibration.drive, `${path}.drive`, 'drive');
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
