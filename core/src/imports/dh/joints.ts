/** Joints of a table, and the edit that puts them in. */
import { jointsFromDh, type DhConvention } from '../../mechanism';
import { asTree, freeId, removeJoint, type Frame, type Joint, type Rig, type Tool } from '../../rig';
import type { DhText } from './read';

/** What a joint of a table may do where the table does not say. */
const standard = {
  revolute: { min: -180, max: 180, maxSpeed: 120, maxAccel: 400, maxJerk: 3000 },
  prismatic: { min: 0, max: 100, maxSpeed: 100, maxAccel: 400, maxJerk: 4000 },
  continuous: { maxSpeed: 120, maxAccel: 400, maxJerk: 3000 },
} as const;

/** A chain of joints from a table as text; what the text says of itself counts, else the convention chosen. */
export function jointsFromTable(
  { rows, base, tool, ...text }: DhText,
  convention: DhConvention,
): { joints: Joint[]; tool: Frame } {
  const made = jointsFromDh(rows, text.convention ?? convention, base ?? undefined, tool ?? undefined);
  const taken: string[] = [];
  let parent: string | null = null;
  const joints = made.joints.map((joint, i): Joint => {
    const row = rows[i];
    const id = freeId(row.name ?? `joint-${i + 1}`, taken);
    taken.push(id);
    const own = { id, name: row.name ?? `Joint ${i + 1}`, ...joint, parent };
    parent = id;
    if (row.type === 'continuous') return { ...own, type: 'continuous', limits: standard.continuous, home: 0 };
    const given = standard[row.type];
    const limits = { ...given, min: row.min ?? given.min, max: row.max ?? given.max };
    return { ...own, limits, home: Math.min(limits.max, Math.max(limits.min, 0)) } as Joint;
  });
  return { joints, tool: made.tool };
}

/** Puts other joints and one tool in place of all there were. */
export function replaceJoints(draft: Rig, joints: readonly Joint[], tool: Pick<Tool, 'origin'>): void {
  const m = asTree(draft.mechanism);
  for (const id of m.joints.map((joint) => joint.id)) removeJoint(draft, id);
  m.joints.push(...joints);
  m.tools = [
    {
      id: 'tool',
      name: 'Tool',
      parent: joints.at(-1)?.id ?? null,
      massG: 0,
      comMm: [0, 0, 0],
      inertiaKgM2: null,
      mounted: true,
      ...tool,
    },
  ];
}
