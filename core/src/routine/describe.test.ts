import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader } from '../../../demo';
import { finish } from '../jobs';
import { forward } from '../kinematics';
import { compiled } from '../kinematics/arms.testkit';
import { stepSchema, type Rig, type Step, type Target } from '../rig';
import { describeCondition, describeStep, describeTarget, planJob, planMotion, stepGroups, stepNames } from './index';
import { payloadFrames } from './payloads';
import { anyStep } from './routine.testkit';
import { poseAt } from '../motion';
import { between } from '../units/between.testkit';

const rig = kilnLoader();
const [pose] = rig.poses;
const [spot] = rig.spots;
const [tool] = rig.mechanism.tools;
const [payload] = rig.payloads;
const [routine] = rig.routines;
const input = rig.signals.find((s) => s.way === 'in')!;
const output = rig.signals.find((s) => s.way === 'out')!;
/** The pace that kinds of steps with a way must have. */
const paced = (step: object): object =>
  'kind' in step &&
  ['joint-move', 'straight-move', 'arc', 'circle', 'path', 'approach', 'retreat', 'grip'].includes(String(step.kind))
    ? { pace: { speedShare: 0.5 } }
    : {};
const words = (step: object): string =>
  describeStep(rig, stepSchema.parse({ id: 's', enabled: true, note: '', ...paced(step), ...step }));

describe('a step in words', () => {
  it('of any kind names things as people do: no id that has a name, no key, no object', () => {
    const named = [
      ...rig.poses,
      ...rig.spots,
      ...rig.signals,
      ...rig.payloads,
      ...rig.routines,
      ...rig.mechanism.tools,
      ...rig.mechanism.joints,
    ].filter((item) => item.name && item.name.toLowerCase() !== item.id);
    fc.assert(
      fc.property(anyStep(rig), (step) => {
        const said = describeStep(rig, step);
        expect(said).not.toMatch(/undefined|NaN|\[object|null|[a-z][A-Z]/);
        expect(stepNames[step.kind].length).toBeGreaterThan(0);
        // A marker, a counter, a note is called what its author called it.
        if (['marker', 'jump', 'group', 'note', 'counter', 'if', 'wait-input'].includes(step.kind)) return;
        for (const { id } of named) if (id.includes('-')) expect(said.split(/[ ,;]/)).not.toContain(id);
      }),
      { numRuns: 500 },
    );
  });
  it('says where moves go, each kind of target in its own words', () => {
    const targets: readonly (readonly [Target, string])[] = [
      [{ pose: pose.id }, pose.name],
      [{ pose: 'gone' }, 'a pose that is gone'],
      [{ spot: spot.id }, spot.name],
      [{ spot: 'gone' }, 'a spot that is gone'],
      [{ joints: { elbow: 3 } }, '1 joint by set angles'],
      [{ joints: { elbow: 3, turn: 4 } }, '2 joints by set angles'],
      [{ shift: { joints: { elbow: 3 } } }, '1 joint from here'],
      [{ shift: { xyzMm: [1, -2.5, 0], along: 'world' } }, '1 / −2.5 / 0 mm from here'],
      [{ shift: { xyzMm: [0, 0, 30], along: 'tool' } }, '0 / 0 / 30 mm from here along the tool'],
    ];
    for (const [target, said] of targets) {
      expect(describeTarget(rig, target)).toBe(said);
      expect(words({ kind: 'joint-move', target })).toBe(said);
      expect(words({ kind: 'straight-move', target })).toBe(said);
      expect(words({ kind: 'approach', target, distanceMm: 40 })).toBe(`${said}, the last 40 mm straight`);
    }
    const a = { pose: pose.id };
    const b = { spot: spot.id };
    expect(words({ kind: 'arc', via: a, target: b })).toBe(`through ${pose.name} to ${spot.name}`);
    expect(words({ kind: 'circle', via: a, second: b, turns: 1 })).toBe(`through ${pose.name} and ${spot.name}`);
    expect(words({ kind: 'circle', via: a, second: b, turns: 3 })).toBe(
      `through ${pose.name} and ${spot.name}, 3 times`,
    );
    expect(words({ kind: 'path', through: [a, b, a] })).toBe(`${pose.name} → ${spot.name} → ${pose.name}`);
    expect(words({ kind: 'retreat', distanceMm: 12.5 })).toBe('12.5 mm back');
  });
  it('says what waits, signals and counters do', () => {
    const cases: readonly (readonly [object, string])[] = [
      [{ kind: 'wait', durationS: 1.5 }, '1.5 s'],
      [{ kind: 'wait-input', signal: input.id, is: true, timeoutS: null, otherwise: 'stop' }, `${input.name} is on`],
      [
        { kind: 'wait-input', signal: input.id, is: false, timeoutS: 4, otherwise: 'go-on' },
        `${input.name} is off; after 4 s go on`,
      ],
      [
        { kind: 'wait-input', signal: 'gone', is: false, timeoutS: 4, otherwise: { jump: 'again' } },
        'a signal that is gone is off; after 4 s jump to again',
      ],
      [{ kind: 'output', signal: output.id, on: true }, `${output.name} on`],
      [{ kind: 'counter', counter: 'tiles', change: { set: 3 } }, 'tiles = 3'],
      [{ kind: 'counter', counter: 'tiles', change: { add: 2 } }, 'tiles + 2'],
      [{ kind: 'counter', counter: 'tiles', change: { add: -2 } }, 'tiles − 2'],
      [{ kind: 'if', when: { counter: 'tiles', is: 'below', value: 4 } }, 'tiles is below 4'],
      [{ kind: 'if', when: { counter: 'tiles', is: 'equal', value: 4 } }, 'tiles is 4'],
      [{ kind: 'repeat', times: null }, 'for ever'],
      [{ kind: 'repeat', times: 3 }, '3 times'],
      [{ kind: 'call', routine: routine.id }, routine.name],
      [{ kind: 'call', routine: 'gone' }, 'a routine that is gone'],
      [{ kind: 'alongside', routine: routine.id }, `${routine.name} meanwhile`],
      [{ kind: 'speed', share: 0.35 }, '35 % from here on'],
      [{ kind: 'end' }, ''],
    ];
    for (const [step, said] of cases) expect(words(step)).toBe(said);
    expect(describeCondition(rig, { signal: input.id, is: true })).toBe(`${input.name} is on`);
  });
  it('says what tools, payloads and spinning joints do', () => {
    const joint = rig.mechanism.joints.find((j) => j.id === 'spin')!;
    const cases: readonly (readonly [object, string])[] = [
      [{ kind: 'grip', tool: tool.id, to: 'closed' }, `${tool.name} closed`],
      [{ kind: 'grip', tool: tool.id, to: 12 }, `${tool.name} to 12`],
      [{ kind: 'grip', tool: tool.id, to: { openingMm: 8 }, stopAtN: 3 }, `${tool.name} to 8 mm, stop at 3 N`],
      [
        { kind: 'grip', tool: tool.id, to: 'closed', payload: payload.id },
        `${tool.name} closed, holding ${payload.name}`,
      ],
      [{ kind: 'grip', tool: tool.id, to: 'open', payload: null }, `${tool.name} open, letting go`],
      [{ kind: 'pick-up', tool: tool.id, payload: payload.id }, `${payload.name} with ${tool.name}`],
      [{ kind: 'put-down', tool: tool.id }, `what ${tool.name} holds`],
      [{ kind: 'swap-tool', off: null, on: tool.id }, `nothing off, ${tool.name} on`],
      [{ kind: 'swap-tool', off: tool.id, on: null }, `${tool.name} off, nothing on`],
      [{ kind: 'hold', joints: ['spin', 'nowhere'] }, `${joint.name}, nowhere`],
      [{ kind: 'spin', joint: 'spin', speed: -20, until: 'stopped' }, `${joint.name} at −20 °/s until stopped`],
      [{ kind: 'spin', joint: 'spin', speed: 20, until: { forS: 2 } }, `${joint.name} at 20 °/s for 2 s`],
      [
        { kind: 'spin', joint: 'spin', speed: 20, until: { signal: input.id, is: false, atMostS: 2 } },
        `${joint.name} at 20 °/s until ${input.name} is off`,
      ],
    ];
    for (const [step, said] of cases) expect(words(step)).toBe(said);
  });
  it('is offered for every kind, each once', () => {
    const offered = stepGroups.flatMap(([, kinds]) => kinds);
    expect([...offered].sort()).toEqual(Object.keys(stepNames).sort());
  });
});

describe('payloads during a plan', () => {
  const mechanism = compiled(rig.mechanism);
  const made = (doc: Rig, id: string) => {
    const own = doc.routines.find((r) => r.id === id)!;
    return finish(planJob(doc, mechanism, doc.builds[0], own));
  };
  const carried = (steps: Partial<Step>[]): Rig => ({
    ...rig,
    routines: [
      {
        ...routine,
        id: 'carry',
        name: 'Carry',
        steps: steps.map((s, k) => ({
          enabled: true,
          note: '',
          pace: { speedShare: 0.5 },
          ...s,
          id: `s${k}`,
        })) as Step[],
      },
    ],
  });
  it('stand where they will be taken, go with the tool, and stay where they are put', () => {
    const doc = carried([
      { kind: 'joint-move', target: { joints: { turn: 20 } } } as Partial<Step>,
      { kind: 'pick-up', tool: tool.id, payload: payload.id },
      { kind: 'joint-move', target: { joints: { turn: -25, elbow: 60 } } } as Partial<Step>,
      { kind: 'put-down', tool: tool.id },
      { kind: 'joint-move', target: { joints: { turn: 5 } } } as Partial<Step>,
    ]);
    const plan = made(doc, 'carry');
    const [taken, put] = plan.carries.map((c) => c.timeS);
    expect(plan.carries.map((c) => c.payload)).toEqual([payload.id, null]);
    const toolAt = (t: number): number[] => [...forward(mechanism, poseAt(planMotion(plan), t)).tools.get(tool.id)!];
    const frameAt = (t: number): number[] => [
      ...payloadFrames(mechanism, plan, planMotion(plan), t, poseAt(planMotion(plan), t)).get(payload.id)!,
    ];
    fc.assert(
      fc.property(between(0, 1), (f) => {
        const t = f * plan.durationS;
        const expected = t < taken ? toolAt(taken) : t < put ? toolAt(t) : toolAt(put);
        frameAt(t).forEach((v, k) => expect(v).toBeCloseTo(expected[k], 9));
      }),
    );
    // What is held follows the pose shown, whatever it is.
    const elsewhere = mechanism.home;
    const held = payloadFrames(mechanism, plan, planMotion(plan), (taken + put) / 2, elsewhere).get(payload.id)!;
    forward(mechanism, elsewhere)
      .tools.get(tool.id)!
      .forEach((v, k) => expect(held[k]).toBeCloseTo(v, 12));
  });
  it('that are never taken are nowhere', () => {
    const doc = carried([{ kind: 'joint-move', target: { joints: { turn: 20 } } } as Partial<Step>]);
    const plan = made(doc, 'carry');
    expect(payloadFrames(mechanism, plan, planMotion(plan), 0, mechanism.home).size).toBe(0);
  });
});
