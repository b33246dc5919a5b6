import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../../demo';
import { parseRig, stepSchema } from '../../rig';
import { anyRoutine } from '../routine.testkit';
import { formatRoutine, parseRoutine } from './index';

const rigs = [tileDipper(), kilnLoader()];

describe('routines as sentences', () => {
  it('read back to the same steps, whatever they are', () => {
    for (const rig of rigs)
      fc.assert(
        fc.property(anyRoutine(rig), (routine) => {
          for (const step of routine.steps) expect(stepSchema.safeParse(step).error?.issues).toBeUndefined();
          const text = formatRoutine(rig, routine);
          const parsed = parseRoutine(rig, text, routine.steps);
          expect(parsed).toEqual({ ok: true, steps: routine.steps });
          expect(formatRoutine(rig, { ...routine, steps: parsed.ok ? parsed.steps : [] })).toBe(text);
        }),
      );
  });
  it('never throw, and never make up what is not there', () => {
    const [rig] = rigs;
    const words = fc.constantFrom(
      'Joint move to',
      'pose',
      '"Rest"',
      'spot',
      '#x',
      ',',
      'at',
      '50',
      '%',
      'mm/s',
      '"',
      'Wait',
      's',
      'by',
      'End',
      '\\',
    );
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.array(words).map((w) => w.join(' ')),
        ),
        (text) => {
          const parsed = parseRoutine(rig, text);
          if (parsed.ok)
            expect(parseRig({ ...rig, routines: [{ id: 'r', name: 'R', note: '', steps: parsed.steps }] }).ok).toBe(
              true,
            );
          else for (const fault of parsed.faults) expect(fault.path).toMatch(/^Line \d+, column \d+$/);
        },
      ),
    );
  });
  it('say where and what they do not understand', () => {
    const [rig] = rigs;
    const wrong = (text: string): string => {
      const parsed = parseRoutine(rig, text);
      return parsed.ok ? 'read' : parsed.faults[0].message;
    };
    expect(wrong('Wait 2 s\nWobble a bit')).toBe(
      'Line 2, column 1: expected the begin of a step, such as “Joint move to” or “Wait”, found “Wobble”.',
    );
    expect(wrong('Joint move to pose "Nowhere", at 50 %')).toBe(
      'Line 1, column 20: expected a pose that is there, found “Nowhere”.',
    );
    expect(wrong('Wait 2')).toContain('expected “s”, found the end of the line');
    expect(wrong('Joint move to joints elbow 3, at 400 %')).toContain('a pace, such as “at 50 %”');
    expect(wrong('Call "Another"')).toContain('a routine that is there');
  });
  it('keep the ids of steps that say the same, and of one that was changed in its place', () => {
    const [rig] = rigs;
    const [routine] = rig.routines;
    const lines = formatRoutine(rig, routine).trimEnd().split('\n');
    const changed = [...lines];
    changed[0] = changed[0].replace(/at \d+ %/, 'at 33 %');
    changed.splice(3, 0, 'Wait 0.25 s');
    const parsed = parseRoutine(rig, changed.join('\n'), routine.steps);
    if (!parsed.ok) throw new Error(parsed.faults[0].message);
    const ids = parsed.steps.map((s) => s.id);
    expect(ids.filter((_, k) => k !== 3)).toEqual(routine.steps.map((s) => s.id));
    expect(routine.steps.map((s) => s.id)).not.toContain(ids[3]);
  });
});
