import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { parseRig, type Rig, type Routine, type Step } from '../rig';
import { describeStep, fixOf, planRoutine, preflight, stepGroups, stepNames, stepsWith, type Plan } from './index';
import { anyStep } from './routine.testkit';
import fc from 'fast-check';

const pace = { pace: { speedShare: 1 } };
const to = (pose: string, extra: object = {}): object => ({
  kind: 'joint-move',
  target: { pose },
  ...pace,
  ...extra,
});
const by = (x: number, y: number, z: number): object => ({ shift: { xyzMm: [x, y, z], along: 'world' } });
const other = (steps: object[], extra: object = {}): Routine => ({
  ...{ id: 'other', name: 'Other', note: '', role: null, profile: 's-curve' as const },
  ...extra,
  steps: steps.map((s, i) => ({ id: `o${i}`, enabled: true, note: '', ...s })) as Step[],
});
const main = (steps: object[], extra: object = {}): Routine => ({ ...other(steps, extra), id: 'r', name: 'R' });
const input = (id: string, way: 'in' | 'out'): Rig['signals'][number] => ({
  ...{ id, name: id, way, board: null, channel: null, activeLow: false, pull: 'none' as const, note: '' },
});

/** Each: the code, the steps that bring it up, and what else the rig needs. */
type Case = readonly [code: string, steps: object[], rig: ((rig: Rig) => unknown) | null];
const cases: Case[] = (
  [
    ['end-alone', [{ kind: 'end' }, to('over-jar')]],
    ['else-alone', [{ kind: 'else' }, to('over-jar')]],
    ['end-missing', [{ kind: 'repeat', times: 2 }, to('over-jar')]],
    ['marker-missing', [{ kind: 'jump', to: 'b' }, to('over-jar')]],
    ['marker-unused', [{ kind: 'marker', name: 'b' }, to('over-jar')]],
    [
      'marker-twice',
      [
        { kind: 'jump', to: 'b' },
        { kind: 'marker', name: 'b' },
        { kind: 'marker', name: 'b' },
      ],
    ],
    ['return-alone', [{ kind: 'return' }, to('over-jar')]],
    ['pose-unknown', [to('gone'), to('over-jar')]],
    ['spot-unknown', [{ kind: 'joint-move', target: { spot: 'gone' }, ...pace }, to('over-jar')]],
    ['routine-unknown', [{ kind: 'call', routine: 'gone' }, to('over-jar')]],
    [
      'routine-recurs',
      [{ kind: 'call', routine: 'other' }],
      (rig) => rig.routines.push(other([{ kind: 'call', routine: 'r' }])),
    ],
    ['duration-too-short', [to('over-jar', { pace: { durationS: 0.1 } })]],
    ['profile-jump', [to('over-jar', { profile: 'jump' })]],
    ['profile-sharp', [to('over-jar', { profile: 'linear' })]],
    ['path-nowhere', [to('over-jar'), { kind: 'straight-move', target: { pose: 'over-jar' }, ...pace }, to('rest')]],
    ['path-no-tool', [{ kind: 'retreat', tool: 'gone', distanceMm: 10, ...pace }, to('rest')]],
    ['path-unreachable', [to('over-jar'), { kind: 'straight-move', target: by(0, 0, 200), ...pace }]],
    ['target-unreachable', [{ kind: 'joint-move', target: by(0, 0, 900), ...pace }, to('over-jar')]],
    ['arc-flat', [to('over-jar'), { kind: 'arc', via: by(0, 10, 0), target: by(0, 20, 0), ...pace }]],
    ['target-over-limit', [{ kind: 'joint-move', target: { joints: { elbow: 170 } }, ...pace }]],
    ['blend-dropped', [to('over-jar', { blendMm: 20 }), to('over-bat', { pace: { durationS: 4 } })]],
    ['joint-let-go', [{ kind: 'let-go', joints: ['turn'] }, to('over-bat')]],
    ['spin-has-ends', [{ kind: 'spin', joint: 'elbow', speed: 9, until: 'stopped' }, to('over-jar')]],
    ['grip-no-tool', [{ kind: 'grip', tool: 'gone', to: 'open', ...pace }, to('over-jar')]],
    ['grip-no-openings', [{ kind: 'grip', tool: 'tongs', to: { openingMm: 500 }, ...pace }]],
    [
      'pattern-empty',
      [
        {
          kind: 'pattern',
          places: { kind: 'list', pointsMm: [] },
          direction: null,
          approachMm: 5,
          routine: null,
          ...pace,
        },
        to('rest'),
      ],
    ],
    [
      'wait-without-end',
      [{ kind: 'wait-input', signal: 'go', is: true, timeoutS: null, otherwise: 'stop' }],
      (rig) => rig.signals.push(input('go', 'in')),
    ],
    [
      'input-unknown',
      [{ kind: 'if', when: { signal: 'gone', is: true } }, { kind: 'end' }, to('rest')],
      (rig) => rig.signals.push(input('go', 'in')),
    ],
    [
      'output-unknown',
      [{ kind: 'output', signal: 'gone', on: true }, to('rest')],
      (rig) => rig.signals.push(input('lamp', 'out')),
    ],
    [
      'loop-without-wait',
      [
        { kind: 'marker', name: 'a' },
        { kind: 'jump', to: 'a' },
      ],
    ],
    [
      'joint-in-two',
      [{ kind: 'alongside', routine: 'other' }, to('over-bat'), { kind: 'end' }],
      (rig) => rig.routines.push(other([to('over-jar'), to('over-bat')])),
    ],
    ['drive-too-slow', [to('over-bat')], (rig) => Object.assign(rig.drives[0], { speedDegPerS: 40 })],
    [
      'settle-missing',
      [to('over-jar'), { kind: 'grip', tool: 'tongs', to: 'closed', ...pace }],
      (rig) => (rig.motion.rocking = { hz: 4, damping: 0.05 }),
    ],
    [
      'wait-longer',
      [to('over-jar'), { kind: 'wait', durationS: 60 }, to('rest')],
      (rig) => (rig.motion.rocking = { hz: 4, damping: 0.05 }),
    ],
    ['low-pass-first-tick', [to('over-bat')], (rig) => (rig.motion.school = 'low-pass')],
    [
      'low-pass-unsettled',
      [to('over-bat'), to('over-jar')],
      (rig) => Object.assign(rig.motion, { school: 'low-pass', timeConstantS: 1 }),
    ],
  ] as [string, object[], ((rig: Rig) => unknown)?][]
).map(([code, steps, rig]) => [code, steps, rig ?? null]);

describe('findings of a routine', () => {
  it.each(cases)('%s is said in one sentence, and mended by its button', (code, steps, change) => {
    const rig = structuredClone(tileDipper());
    rig.routines = [main(steps)];
    change?.(rig);
    const mechanism = compiled(rig.mechanism);
    const found = (): ReturnType<typeof preflight> => {
      const made: Plan = planRoutine(rig, mechanism, rig.builds[0], rig.routines[0]);
      return preflight(rig, mechanism, rig.builds[0], made).filter((f) => f.code === code);
    };
    // Some stand at several steps: each button mends its own.
    for (let k = 0; k < 8 && (k === 0 || found().length); k++) {
      const [first] = found();
      expect(first, code).toBeDefined();
      expect(first.message).toMatch(/^[^.]+.*\.$/);
      expect(first.place.station).toBe('routine');
      fixOf(rig, first)!.apply(rig);
      expect(parseRig(rig).ok).toBe(true);
    }
    expect(found()).toEqual([]);
  });
  it('parking with something in its hand is stopped; putting it down first mends it', () => {
    const rig = structuredClone(tileDipper());
    rig.routines = [
      main([{ kind: 'pick-up', tool: 'tongs', payload: 'tile' }, to('rest'), to('over-jar')], { role: 'park' }),
    ];
    const mechanism = compiled(rig.mechanism);
    const codes = (): string[] =>
      planRoutine(rig, mechanism, rig.builds[0], rig.routines[0]).findings.map((f) => f.code);
    expect(codes()).toContain('park-holding');
    rig.routines[0].steps.splice(1, 0, { id: 'd', kind: 'put-down', enabled: true, note: '', tool: 'tongs' });
    expect(codes()).not.toContain('park-holding');
  });
  it('has no button where a person must choose', () => {
    const rig = tileDipper();
    const mechanism = compiled(rig.mechanism);
    const made = planRoutine(rig, mechanism, rig.builds[0], main([]));
    expect(fixOf(rig, made.findings[0])).toBeNull();
  });
});

describe('steps in words', () => {
  it('every kind has a name and a place in the list of what can be added, once', () => {
    const offered = stepGroups.flatMap(([, kinds]) => kinds);
    expect([...offered].sort()).toEqual(Object.keys(stepNames).sort());
  });
  it('say what they do, with names where there are any and never an id that is gone', () => {
    const rig = kilnLoader();
    fc.assert(
      fc.property(anyStep(rig), (step) => {
        const words = describeStep(rig, step);
        expect(words).not.toMatch(/undefined|NaN|\[object/);
        if (
          JSON.stringify(step).includes('"gone"') &&
          step.kind !== 'hold' &&
          step.kind !== 'let-go' &&
          step.kind !== 'spin'
        )
          expect(words).not.toMatch(/\bgone\b(?<!that is gone)/);
      }),
    );
  });
  it('are found again by what they use', () => {
    const rig = kilnLoader();
    expect(stepsWith(rig, 'spot', 'cart')).toMatchObject([{ routine: 'Load one shelf', step: 5 }]);
    expect(stepsWith(rig, 'routine', 'fold')).toMatchObject([{ routineId: 'load' }]);
    expect(stepsWith(rig, 'pose', 'rest').map((u) => u.routineId)).toContain('fold');
    expect(stepsWith(rig, 'pose', 'gone')).toEqual([]);
  });
});
