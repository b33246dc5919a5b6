import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dhToText } from '@cork-elbow/core/exports';
import { jointsFromTable, parseDhText, replaceJoints } from '@cork-elbow/core/imports';
import { forward, framesInto, kinematicsSpace, toolInto } from '@cork-elbow/core/kinematics';
import { compile, dhTable, type DhConvention, type Mechanism } from '@cork-elbow/core/mechanism';
import { presets, rigFromPreset } from '@cork-elbow/core/presets';
import { asTree, parseRig, removeJoint, type Rig } from '@cork-elbow/core/rig';
import { addJoint, addMirrored, copyItem, newTool, setType } from './edits';

const trees = presets.filter((preset) => preset.id !== 'rotary-delta');
const anyRig = fc.constantFrom(...trees).map((preset): Rig => {
  const made = rigFromPreset(preset, 'Try');
  if (!made.ok) throw new Error(made.faults[0].message);
  return structuredClone(made.value);
});
/** What every edit must leave behind: a document that passes all checks. */
function sound(rig: Rig): void {
  const parsed = parseRig(JSON.parse(JSON.stringify(rig)));
  expect(parsed.ok ? '' : parsed.faults[0].message).toBe('');
  expect(compile(rig.mechanism).ok).toBe(true);
}

describe('edits of the definition', () => {
  it('leave a sound rig when any joints are taken out, one after another', () => {
    fc.assert(
      fc.property(anyRig, fc.array(fc.nat(), { maxLength: 30 }), (rig, picks) => {
        const named = asTree(rig.mechanism).joints.map((j) => j.id);
        rig.poses.push({ id: 'p', name: 'P', joints: Object.fromEntries(named.map((id) => [id, 0])), note: '' });
        rig.mechanism.cables = [
          { id: 'c', name: 'C', slackMm: 900, around: [{ joint: named[0], radiusMm: 1, neutral: 0 }] },
        ].filter(() => asTree(rig.mechanism).joints[0].type === 'revolute');
        for (const pick of picks) {
          const { joints } = asTree(rig.mechanism);
          if (!joints.length) break;
          removeJoint(rig, joints[pick % joints.length].id);
          sound(rig);
        }
      }),
      { numRuns: 25 },
    );
  });
  it('leave a sound rig when joints are added, changed in kind, mirrored', () => {
    fc.assert(
      fc.property(
        anyRig,
        fc.nat(),
        fc.constantFrom('revolute', 'prismatic', 'continuous', 'fixed'),
        (rig, pick, type) => {
          const { joints } = asTree(rig.mechanism);
          const id = addJoint(rig, joints[pick % joints.length].id);
          setType(rig, id, type as 'fixed');
          sound(rig);
          const root = joints.find((j) => j.parent === null)!.id;
          const made = addMirrored(rig, root);
          expect(asTree(rig.mechanism).joints.map((j) => j.id)).toContain(made);
          sound(rig);
        },
      ),
      { numRuns: 25 },
    );
  });
  it('put other joints in place of all there were, with a tool on the last', () => {
    fc.assert(
      fc.property(anyRig, (rig) => {
        replaceJoints(
          rig,
          [{ id: 'only', type: 'fixed', parent: null, origin: { xyzMm: [0, 0, 9], rpyDeg: [0, 0, 0] } }],
          {
            origin: { xyzMm: [0, 0, 5], rpyDeg: [0, 0, 0] },
          },
        );
        sound(rig);
        expect(rig.mechanism.joints).toHaveLength(1);
        expect(rig.mechanism.tools[0].parent).toBe('only');
        expect(rig.drives).toEqual([]);
      }),
      { numRuns: 10 },
    );
  });
  it('copy an item behind itself under names and ids of its own', () => {
    const rig = fc.sample(anyRig, 1)[0];
    rig.mechanism.tools.push(newTool(rig));
    const first = rig.mechanism.tools[0].id;
    const copy = copyItem(rig.mechanism.tools, first);
    expect(rig.mechanism.tools[1]).toMatchObject({ id: copy, name: expect.stringMatching(/, copy$/) });
    sound(rig);
  });
});

describe('the table of joints, copied and put in again', () => {
  const compiled = (rig: Rig): Mechanism => {
    const made = compile(rig.mechanism);
    if (!made.ok) throw new Error(made.faults[0].message);
    return made.mechanism;
  };
  const tableOf = (mechanism: Mechanism, tool: number, convention: DhConvention) => {
    const space = kinematicsSpace(mechanism);
    framesInto(space, mechanism, new Float64Array(mechanism.m));
    const frame = new Float64Array(12);
    toolInto(frame, 0, mechanism, space, mechanism.tools[tool]);
    return dhTable(mechanism, mechanism.tools[tool], space.frames, frame, convention);
  };
  it('is the same arm with the same tip everywhere, whatever its kind, convention and what was chosen for pasting', () => {
    const tried = new Set<string>();
    for (const preset of trees)
      for (const convention of ['standard', 'modified'] as const) {
        const made = rigFromPreset(preset, 'Try');
        if (!made.ok) throw new Error(made.faults[0].message);
        const before = compiled(made.value);
        before.tools.forEach((tool, k) => {
          const table = tableOf(before, k, convention);
          if (!table) return;
          tried.add(preset.id);
          // Pasted with the other convention and other units chosen: what the text says counts.
          const read = parseDhText(dhToText(table), { angle: 'rad', length: 'in' });
          expect(read.problems).toEqual([]);
          const other = convention === 'standard' ? 'modified' : 'standard';
          const rig = structuredClone(made.value) as Rig;
          const again = jointsFromTable(read, other);
          replaceJoints(rig, again.joints, { origin: again.tool });
          sound(rig);
          const after = compiled(rig);
          for (let look = 0; look < 12; look++) {
            const q = before.home.slice();
            const p = after.home.slice();
            tool.slots.forEach((slot, i) => {
              const [low, high] = [before.lower[slot], before.upper[slot]].map((v, e) =>
                Number.isFinite(v) ? v : e ? Math.PI : -Math.PI,
              );
              q[slot] = p[i] = low + (high - low) * ((Math.sin(7 * look + 3 * i) + 1) / 2);
              expect(after.lower[i]).toBeCloseTo(before.lower[slot], 9);
              expect(after.upper[i]).toBeCloseTo(before.upper[slot], 9);
            });
            const [a, b] = [forward(before, q).tools.get(tool.id)!, forward(after, p).tools.get('tool')!];
            a.forEach((v, e) => expect(Math.abs(v - b[e])).toBeLessThan(1e-9));
          }
        });
      }
    expect(tried.size).toBeGreaterThan(8);
  });
});
