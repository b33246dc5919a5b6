/**
 * A limb copied to the other side: everything from one joint outward, mirrored in the base's XZ plane (left becomes
 * right). The copy's values mean the mirrored motion: equal values on both sides look alike in a mirror.
 */
import { freeId } from './defaults';
import type { Body, Frame, Joint, Tool, TreeDoc } from './mechanism-schema';

type Triple = [number, number, number];
/** A place or an axis of sliding. */
const place = ([x, y, z]: readonly number[]): Triple => [x, y === 0 ? 0 : -y, z];
/** A turning axis: mirrored as a line, and turned round so that the sense of turning is the mirrored one. */
const turn = ([x, y, z]: readonly number[]): Triple => [x === 0 ? 0 : -x, y, z === 0 ? 0 : -z];
/** Roll-pitch-yaw of a frame mirrored with M = diag(1, −1, 1): M·Rz(y)·Ry(p)·Rx(r)·M = Rz(−y)·Ry(p)·Rx(−r). */
const angles = ([r, p, y]: readonly number[]): Triple => [r === 0 ? 0 : -r, p, y === 0 ? 0 : -y];

export const mirrorFrame = ({ xyzMm, rpyDeg }: Frame): Frame => ({ xyzMm: place(xyzMm), rpyDeg: angles(rpyDeg) });
export const mirrorBody = (body: Body): Body => ({
  ...body,
  centreMm: place(body.centreMm),
  rpyDeg: angles(body.rpyDeg),
});

/** Moments and products [xx, yy, zz, xy, xz, yz]: products with Y change sign. */
const moments = (i: Tool['inertiaKgM2']): Tool['inertiaKgM2'] => i && [i[0], i[1], i[2], -i[3], i[4], -i[5]];

const SIDES: readonly (readonly [RegExp, string])[] = [
  [/\bleft\b/g, 'right'],
  [/\bLeft\b/g, 'Right'],
  [/\bright\b/g, 'left'],
  [/\bRight\b/g, 'Left'],
];
/** "Left shoulder" becomes "Right shoulder"; a name without a side gets one. */
export function mirrorName(name: string): string {
  const side = SIDES.find(([pattern]) => pattern.test(name));
  return (side ? name.replace(side[0], side[1]) : `${name}, mirrored`).slice(0, 80);
}

export interface MirroredLimb {
  readonly joints: Joint[];
  readonly tools: Tool[];
  /** New id by old id, of joints and tools. */
  readonly renamed: ReadonlyMap<string, string>;
}

/** The mirrored copy of the limb that begins with joint `root`, hanging on the same parent. */
export function mirrorLimb(doc: TreeDoc, root: string): MirroredLimb {
  const limb = new Set([root]);
  for (let grew = true; grew;) {
    grew = false;
    for (const joint of doc.joints)
      if (joint.parent !== null && limb.has(joint.parent) && !limb.has(joint.id)) {
        limb.add(joint.id);
        grew = true;
      }
  }
  const renamed = new Map<string, string>();
  const taken = doc.joints.map((joint) => joint.id);
  const toolIds = doc.tools.map((tool) => tool.id);
  const other = (id: string): string =>
    /(^|[-_])l($|[-_])/.test(id)
      ? id.replace(/(^|[-_])l($|[-_])/, '$1r$2')
      : /(^|[-_])r($|[-_])/.test(id)
        ? id.replace(/(^|[-_])r($|[-_])/, '$1l$2')
        : `${id}-m`;
  for (const joint of doc.joints)
    if (limb.has(joint.id)) {
      renamed.set(joint.id, freeId(other(joint.id), taken));
      taken.push(renamed.get(joint.id)!);
    }
  const tools = doc.tools.filter((tool) => tool.parent !== null && limb.has(tool.parent));
  for (const tool of tools) {
    renamed.set(tool.id, freeId(other(tool.id), toolIds));
    toolIds.push(renamed.get(tool.id)!);
  }
  const now = (id: string): string => renamed.get(id) ?? id;
  return {
    renamed,
    joints: doc.joints
      .filter((joint) => limb.has(joint.id))
      .map((joint): Joint => {
        const { code: _, ...rest } = joint;
        const common = {
          ...rest,
          id: now(joint.id),
          ...(joint.name ? { name: mirrorName(joint.name) } : {}),
          parent: joint.parent === null ? null : now(joint.parent),
          origin: mirrorFrame(joint.origin),
          ...(joint.link
            ? {
                link: {
                  ...joint.link,
                  comMm: place(joint.link.comMm),
                  inertiaKgM2: moments(joint.link.inertiaKgM2),
                  bodies: joint.link.bodies?.map(mirrorBody),
                },
              }
            : {}),
        };
        if (joint.type === 'fixed') return common as Joint;
        return {
          ...common,
          axis: joint.type === 'prismatic' ? place(joint.axis) : turn(joint.axis),
          ...(joint.follows
            ? { follows: joint.follows.map(({ joint: id, factor }) => ({ joint: now(id), factor })) }
            : {}),
        } as Joint;
      }),
    tools: tools.map((tool) => ({
      ...tool,
      id: now(tool.id),
      ...(tool.name ? { name: mirrorName(tool.name) } : {}),
      parent: now(tool.parent!),
      origin: mirrorFrame(tool.origin),
      comMm: place(tool.comMm),
      inertiaKgM2: moments(tool.inertiaKgM2),
      ...(tool.grip && 'joint' in tool.grip ? { grip: { ...tool.grip, joint: now(tool.grip.joint) } } : {}),
    })),
  };
}
