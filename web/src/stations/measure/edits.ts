/** Edits of a rig's definition that touch more than one place of the document. */
import {
  asTree,
  freeId,
  isJaw,
  isMoving,
  mirrorLimb,
  PLATFORM,
  type JointType,
  type MechanismDoc,
  type Rig,
  type Tool,
} from '@cork-elbow/core/rig';

const ids = (items: readonly { id: string }[]): string[] => items.map((item) => item.id);

/** The last link of the arm, which a new joint or tool hangs on. */
export function lastLink(mechanism: MechanismDoc): string | null {
  if (mechanism.family === 'rotary-delta') return PLATFORM;
  return mechanism.joints.filter((joint) => !isJaw(joint)).at(-1)?.id ?? null;
}

/** Hangs a new turning joint on `parent` and gives its id. */
export function addJoint(draft: Rig, parent: string | null): string {
  const { joints } = asTree(draft.mechanism);
  const id = freeId('joint', ids(joints));
  joints.push({
    id,
    name: `Joint ${joints.length + 1}`,
    type: 'revolute',
    parent,
    origin: { xyzMm: [0, 0, parent ? 80 : 60], rpyDeg: [0, 0, 0] },
    axis: parent ? [0, 1, 0] : [0, 0, 1],
    limits: { min: -90, max: 90, maxSpeed: 120, maxAccel: 400, maxJerk: 3000 },
    home: 0,
  });
  return id;
}

/** Changes what a joint does; what the new kind has no use for is dropped. */
export function setType(draft: Rig, id: string, type: JointType): void {
  const { joints } = asTree(draft.mechanism);
  const at = joints.findIndex((joint) => joint.id === id);
  const old = joints[at];
  if (old.type === type) return;
  const base = {
    id: old.id,
    ...(old.name === undefined ? {} : { name: old.name }),
    ...(old.code === undefined ? {} : { code: old.code }),
    parent: old.parent,
    origin: old.origin,
    ...(old.link ? { link: old.link } : {}),
  };
  const axis: [number, number, number] = isMoving(old) ? [...old.axis] : [0, 0, 1];
  joints[at] =
    type === 'fixed'
      ? { ...base, type }
      : type === 'continuous'
        ? { ...base, type, axis, home: 0 }
        : {
            ...base,
            type,
            axis,
            home: 0,
            limits:
              type === 'prismatic'
                ? { min: 0, max: 100, maxSpeed: 100, maxAccel: 400, maxJerk: 4000 }
                : { min: -90, max: 90, maxSpeed: 120, maxAccel: 400, maxJerk: 3000 },
          };
}

/** Adds the mirror image of the limb that begins at a joint, and gives the copy's first id. */
export function addMirrored(draft: Rig, root: string): string {
  const doc = asTree(draft.mechanism);
  const copy = mirrorLimb(doc, root);
  doc.joints.push(...copy.joints);
  doc.tools.push(...copy.tools);
  return copy.renamed.get(root)!;
}

export function newTool(draft: Rig): Tool {
  const { mechanism } = draft;
  return {
    id: freeId('tool', ids(mechanism.tools)),
    name: `Tool ${mechanism.tools.length + 1}`,
    parent: lastLink(mechanism),
    origin: {
      xyzMm: [0, 0, mechanism.family === 'tree' ? 60 : -30],
      rpyDeg: mechanism.family === 'tree' ? [0, 0, 0] : [180, 0, 0],
    },
    massG: 0,
    comMm: [0, 0, 0],
    inertiaKgM2: null,
    mounted: true,
  };
}

/** A copy of a list's item with an id and a name of its own, put behind it. */
export function copyItem<T extends { id: string; name?: string }>(list: T[], id: string): string {
  const at = list.findIndex((item) => item.id === id);
  const copy = structuredClone(JSON.parse(JSON.stringify(list[at]))) as T;
  copy.id = freeId(id, ids(list));
  copy.name = `${copy.name ?? id}, copy`.slice(0, 80);
  list.splice(at + 1, 0, copy);
  return copy.id;
}
