import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dotPainter, kilnLoader, tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { forward } from '../kinematics';
import { positionOf, vec3 } from '../linear';
import { limitExcess } from '../mechanism';
import { jerkInto } from '../motion';
import { parseRig, type Rig, type Routine, type Step } from '../rig';
import { anyRoutine } from './routine.testkit';
import { fixOf, MoveCache, type Plan, planMotion, planRoutine } from './index';
import { atMost, below } from '../units/held.testkit';

const rigs = [tileDipper(), kilnLoader(), dotPainter()];
const arms = rigs.map((rig) => ({ rig, mechanism: compiled(rig.mechanism), cache: new MoveCache() }));

const routine = (steps: object[], extra: Partial<Routine> = {}): Routine => ({
  ...{ id: 'r', name: 'R', note: '', role: null, profile: 's-curve' as const },
  ...extra,
  steps: steps.map((s, i) => ({ id: `s${i}`, enabled: true, note: '', ...s })) as Step[],
});
const pace = { pace: { speedShare: 1 } };
const [dipper] = arms;
const plan = (steps: object[], more: Partial<Rig> = {}, options = {}): Plan => {
  const rig = { ...dipper.rig, ...more };
  return planRoutine(rig, dipper.mechanism, rig.builds[0], routine(steps), options);
};
const to = (pose: string, extra: object = {}): object => ({
  kind: 'joint-move',
  target: { pose },
  ...pace,
  ...extra,
});
const shift = (x: number, y: number, z: number, extra: object = {}): object => ({
  kind: 'straight-move',
  target: { shift: { xyzMm: [x, y, z], along: 'world' } },
  ...pace,
  ...extra,
});
const codes = (made: Plan): string[] => made.findings.map((f) => f.code);

describe('any routine at all', () => {
  it('is planned to an end, inside every limit that its profiles hold, without a gap or a jump', () => {
    for (const { rig, mechanism, cache } of arms)
      fc.assert(
        fc.property(anyRoutine(rig, 10), (any) => {
          const known = { ...rig, routines: [...rig.routines, any] };
          const made = planRoutine(known, mechanism, rig.builds[0], any, { cache });
          expect(made.durationS).toBeGreaterThanOrEqual(0);
          expect(Number.isFinite(made.durationS)).toBe(true);
          const jumps = made.findings.some((f) => f.code === 'profile-jump' || f.code === 'profile-sharp');
          const spins = any.steps.some((s) => s.kind === 'spin');
          let at = 0;
          let last = made.start;
          const [p, v, a] = [0, 1, 2].map(() => new Float64Array(mechanism.m));
          for (const { block, startS } of made.blocks) {
            expect(startS).toBeCloseTo(at, 6);
            at = startS + block.duration;
            for (let s = 0; s < mechanism.m; s++) below(Math.abs(block.from[s] - last[s]), 1e-9);
            last = block.to;
            if (jumps || spins) continue;
            for (let k = 0; k <= 40; k++) {
              planMotion(made).sampleInto(p, v, a, startS + (block.duration * k) / 40);
              atMost(limitExcess(mechanism, p).by, 1e-6);
              for (let s = 0; s < mechanism.m; s++) {
                atMost(Math.abs(v[s]), mechanism.speed[s] * (1 + 1e-6));
                atMost(Math.abs(a[s]), mechanism.accel[s] * (1 + 1e-6) + 1e-9);
              }
            }
          }
          expect(at).toBeCloseTo(made.durationS, 6);
          // The same again, from what was kept of the first time.
          expect(planRoutine(known, mechanism, rig.builds[0], any, { cache }).durationS).toBe(made.durationS);
          // What a button mends leaves a document that is still one.
          for (const finding of made.findings) {
            const draft = structuredClone(known);
            fixOf(known, finding)?.apply(draft);
            const parsed = parseRig(draft);
            expect(parsed.ok ? [] : parsed.faults).toEqual([]);
          }
        }),
        { numRuns: 40 },
      );
  }, 120_000);
});

describe('order', () => {
  const sequence = (made: Plan): string =>
    made.steps
      .filter((s) => s.endS > s.startS)
      .map((s) => s.stepId)
      .join(' ');
  it('counts, branches and repeats', () => {
    const made = plan([
      { kind: 'counter', counter: 'n', change: { set: 0 } },
      { kind: 'repeat', times: 3 },
      { kind: 'wait', durationS: 1 },
      { kind: 'counter', counter: 'n', change: { add: 1 } },
      { kind: 'if', when: { counter: 'n', is: 'equal', value: 2 } },
      { kind: 'wait', durationS: 2 },
      { kind: 'else' },
      { kind: 'wait', durationS: 3 },
      { kind: 'end' },
      { kind: 'end' },
    ]);
    expect(codes(made)).toEqual([]);
    expect(sequence(made)).toBe('s2 s7 s2 s5 s2 s7');
    expect(made.durationS).toBe(1 + 3 + 1 + 2 + 1 + 3);
  });
  it('calls, returns, jumps, skips what is disabled to its end', () => {
    const other = routine([{ kind: 'wait', durationS: 1 }, { kind: 'return' }, { kind: 'wait', durationS: 50 }], {
      id: 'other',
      name: 'Other',
    });
    const made = plan(
      [
        { kind: 'call', routine: 'other' },
        { kind: 'jump', to: 'end' },
        { kind: 'wait', durationS: 60 },
        { kind: 'marker', name: 'end' },
        { kind: 'repeat', times: 9, enabled: false },
        { kind: 'wait', durationS: 70 },
        { kind: 'end' },
        { kind: 'call', routine: 'other' },
      ],
      { routines: [other] },
    );
    expect(codes(made)).toEqual([]);
    expect(made.durationS).toBe(2);
    expect(made.steps.filter((s) => s.routine === 'other' && s.endS > s.startS).map((s) => s.depth)).toEqual([1, 1]);
  });
  it('waits for inputs, and says when they do not come', () => {
    const signals = [
      {
        id: 'go',
        name: 'Go',
        way: 'in',
        board: null,
        channel: null,
        activeLow: false,
        pull: 'none',
        note: '',
      } as const,
    ];
    const steps = [
      { kind: 'wait-input', signal: 'go', is: true, timeoutS: 5, otherwise: { jump: 'late' } },
      { kind: 'wait', durationS: 1 },
      { kind: 'marker', name: 'late' },
    ];
    const length = (inputs: object): number => plan(steps, { signals: [...signals] }, { inputs }).durationS;
    expect(length({})).toBe(1);
    expect(length({ go: { from: false, changesS: [2] } })).toBe(3);
    expect(length({ go: { from: false, changesS: [7] } })).toBe(5);
    expect(length({ go: { from: true, changesS: [] } })).toBe(1);
  });
  it('says that a lap comes again only where it ends as it began', () => {
    const turn = (value: number): object => ({ kind: 'joint-move', target: { joints: { turn: value } }, ...pace });
    const made = plan([to('over-jar'), { kind: 'repeat', times: null }, turn(20), turn(-20), { kind: 'end' }]);
    const at = (t: number): number => {
      const q = [0, 1, 2].map(() => new Float64Array(dipper.mechanism.m));
      planMotion(made).sampleInto(q[0], q[1], q[2], t);
      return q[0][0];
    };
    expect(made.endlessFromS).toBeGreaterThan(0);
    expect(at(made.endlessFromS!)).toBeCloseTo(at(made.durationS), 9);
    // A loop that is left after three laps is none that goes on for ever.
    const left = plan([
      { kind: 'repeat', times: null },
      turn(20),
      turn(-20),
      { kind: 'counter', counter: 'laps', change: { add: 1 } },
      { kind: 'if', when: { counter: 'laps', is: 'equal', value: 3 } },
      { kind: 'jump', to: 'out' },
      { kind: 'end' },
      { kind: 'end' },
      { kind: 'marker', name: 'out' },
    ]);
    expect(left.endlessFromS).toBeNull();
    expect(left.steps.filter((step) => step.stepId === 's1')).toHaveLength(3);
  });
  it('says what comes again for ever, and never hangs on it', () => {
    const round = plan([{ kind: 'repeat', times: null }, { kind: 'wait', durationS: 2 }, { kind: 'end' }]);
    expect(codes(round)).toEqual(['routine-endless']);
    expect([round.durationS, round.endlessFromS]).toEqual([2, 0]);
    const hour = plan(
      [
        { kind: 'marker', name: 'a' },
        { kind: 'wait', durationS: 2 },
        { kind: 'jump', to: 'a' },
      ],
      {},
      { horizonS: 3600 },
    );
    expect(hour.durationS).toBeGreaterThanOrEqual(3600);
    expect(codes(plan([{ kind: 'repeat', times: null }, { kind: 'end' }]))).toEqual(['loop-without-wait']);
    expect(
      codes(
        plan([
          { kind: 'marker', name: 'a' },
          { kind: 'counter', counter: 'n', change: { add: 1 } },
          { kind: 'jump', to: 'a' },
        ]),
      ),
    ).toEqual(['routine-too-long']);
  });
  it('runs two routines at once on joints of their own', () => {
    const nod = routine([{ kind: 'joint-move', target: { joints: { wrist: 20 } }, ...pace }], {
      id: 'nod',
      name: 'Nod',
    });
    const beside = (joint: string): Plan =>
      plan(
        [
          { kind: 'alongside', routine: 'nod' },
          { kind: 'joint-move', target: { joints: { [joint]: 40 } }, ...pace },
          { kind: 'end' },
        ],
        { routines: [nod] },
      );
    const both = beside('turn');
    expect(codes(both)).toEqual([]);
    const alone = plan([{ kind: 'joint-move', target: { joints: { turn: 40 } }, ...pace }]);
    expect(both.durationS).toBeGreaterThanOrEqual(alone.durationS);
    const end = both.blocks.at(-1)!.block.to;
    const at = (id: string): number => end[dipper.mechanism.slotOf.get(id)!] / dipper.mechanism.siPerUnit[0];
    expect([at('turn'), at('wrist')].map((v) => Math.round(v))).toEqual([40, 20]);
    expect(codes(beside('wrist'))).toEqual(['joint-in-two']);
  });
});

describe('corners', () => {
  const { mechanism } = dipper;
  const tip = (q: Float64Array): readonly [number, number, number] =>
    positionOf(forward(mechanism, q).tools.get('tongs')!);
  it('are rounded within their radius, pass without a stop, inside speed, acceleration and jerk', () => {
    const height = fc.integer({ min: 10, max: 25 });
    fc.assert(
      fc.property(height, fc.integer({ min: 10, max: 40 }), fc.integer({ min: 2, max: 20 }), (up, aside, radius) => {
        const steps = (blend: object): object[] => [
          to('over-jar'),
          shift(0, 0, -up, blend),
          shift(0, aside, 0, blend),
          shift(0, 0, up),
        ];
        const [sharp, round] = [plan(steps({})), plan(steps({ blendMm: radius }))];
        const stops = [...sharp.findings, ...round.findings].filter(
          (f) => f.severity === 'stop' || f.code === 'blend-dropped',
        );
        fc.pre(stops.length === 0);
        // Little corners win nothing, and none is larger than half the way between two; they must not cost much either.
        expect(round.durationS).toBeLessThan(sharp.durationS * (radius > 9 && aside > 20 ? 1 : 1.15));
        const corners = [1, 2].map((k) => tip(sharp.blocks[k].block.to));
        const { block, startS } = round.blocks[1];
        if (block.kind !== 'path') throw new Error(block.kind);
        const [p, v, a, j] = [0, 1, 2, 3].map(() => new Float64Array(mechanism.m));
        const near = [Infinity, Infinity];
        for (let k = 1; k < 600; k++) {
          const t = (block.duration * k) / 600;
          planMotion(round).sampleInto(p, v, a, startS + t);
          jerkInto(j, block, t);
          for (let s = 0; s < mechanism.m; s++) {
            atMost(Math.abs(v[s]), mechanism.speed[s] * (1 + 1e-6));
            atMost(Math.abs(a[s]), mechanism.accel[s] * (1 + 1e-6));
            atMost(Math.abs(j[s]), mechanism.jerk[s] * (1 + 1e-6));
          }
          corners.forEach((corner, c) => (near[c] = Math.min(near[c], vec3.distance(tip(p), corner) * 1000)));
        }
        for (const distance of near) atMost(distance, radius + 0.05);
      }),
      { numRuns: 15 },
    );
  }, 60_000);
});

describe('what tools and motors do', () => {
  const { mechanism } = dipper;
  it('an approach ends straight and no faster than it says; a retreat goes the same way back', () => {
    const made = plan([
      { kind: 'approach', target: { pose: 'in-glaze' }, distanceMm: 40, lastMmPerS: 20, ...pace },
      { kind: 'retreat', distanceMm: 40, pace: { mmPerS: 30 } },
    ]);
    expect(codes(made)).toEqual([]);
    expect(made.steps.map((s) => s.stepId)).toEqual(['s0', 's1']);
    const [p, v, a] = [0, 1, 2].map(() => new Float64Array(mechanism.m));
    const tip = (t: number) => {
      planMotion(made).sampleInto(p, v, a, t);
      return positionOf(forward(mechanism, p).tools.get('tongs')!);
    };
    const [, down, up] = made.blocks;
    for (const [block, most] of [
      [down, 0.02],
      [up, 0.03],
    ] as const) {
      const dt = block.block.duration / 200;
      let fastest = 0;
      for (let k = 1; k <= 200; k++)
        fastest = Math.max(fastest, vec3.distance(tip(block.startS + k * dt), tip(block.startS + (k - 1) * dt)) / dt);
      expect(fastest).toBeLessThanOrEqual(most * 1.0001);
      expect(fastest).toBeGreaterThan(most * 0.98);
    }
    expect(vec3.distance(tip(down.startS), tip(made.durationS))).toBeLessThan(1e-5);
  });
  it('a spin ramps up, goes on beside other moves, and stops where it is told to', () => {
    const turning = structuredClone(dipper.rig);
    const joint = turning.mechanism.joints.find((j) => j.id === 'turn')!;
    Object.assign(joint, { type: 'continuous', limits: { maxSpeed: 180, maxAccel: 600, maxJerk: 6000 } });
    const own = compiled(turning.mechanism);
    const made = planRoutine(
      turning,
      own,
      turning.builds[0],
      routine([
        { kind: 'spin', joint: 'turn', speed: 90, until: 'stopped' },
        { kind: 'joint-move', target: { joints: { elbow: 90 } }, ...pace },
        { kind: 'wait', durationS: 1 },
        { kind: 'spin', joint: 'turn', speed: 0, until: 'stopped' },
        { kind: 'spin', joint: 'turn', speed: -60, until: { forS: 2 } },
      ]),
    );
    expect(codes(made)).toEqual([]);
    const slot = own.slotOf.get('turn')!;
    const [p, v, a] = [0, 1, 2].map(() => new Float64Array(own.m));
    let last: number | null = null;
    const n = 2000;
    const dt = made.durationS / n;
    for (let k = 0; k <= n; k++) {
      planMotion(made).sampleInto(p, v, a, k * dt);
      atMost(Math.abs(v[slot]), own.speed[slot] * (1 + 1e-9));
      atMost(Math.abs(a[slot]), own.accel[slot] * (1 + 1e-9));
      if (last !== null) atMost(Math.abs(p[slot] - last), (Math.PI / 2) * dt * 1.001 + 1e-9);
      last = p[slot];
    }
    const moving = made.blocks.find(({ block }) => block.kind === 'spinning')!;
    planMotion(made).sampleInto(p, v, a, moving.startS + moving.block.duration / 2);
    expect(v[slot]).toBeCloseTo(Math.PI / 2, 9);
    expect(v[own.slotOf.get('elbow')!]).not.toBe(0);
    planMotion(made).sampleInto(p, v, a, made.durationS);
    expect(v[slot]).toBeCloseTo(0, 9);
  });
  it('a tool worked by an output switches it, and takes its time', () => {
    const loader = arms[1];
    const made = planRoutine(
      loader.rig,
      loader.mechanism,
      loader.rig.builds[0],
      routine([
        { kind: 'grip', tool: 'cup', to: 'closed', payload: 'shelf', ...pace },
        { kind: 'swap-tool', off: 'cup', on: 'fork' },
        { kind: 'straight-move', target: { shift: { xyzMm: [0, 0, 10], along: 'world' } }, tool: 'cup', ...pace },
      ]),
    );
    expect(made.events.map((e) => e.kind)).toEqual(['output', 'swap']);
    expect(made.durationS).toBeCloseTo(1.2, 9);
    expect(made.carries).toMatchObject([{ payload: 'shelf', timeS: 1.2 }]);
    expect(codes(made)).toEqual(['path-no-tool']);
  });
  it('a pattern visits every place, there and back along its rows', () => {
    const painter = arms[2];
    const grid = painter.rig.routines.find((r) => r.id === 'grid')!;
    const made = planRoutine(painter.rig, painter.mechanism, painter.rig.builds[0], grid);
    const touched = made.steps
      .filter((s) => s.routine === 'touch')
      .map((s) => {
        const p = new Float64Array(painter.mechanism.m);
        planMotion(made).sampleInto(p, p.slice(), p.slice(), s.startS);
        return positionOf(forward(painter.mechanism, p).tools.get('brush')!).map((v) => Math.round(v * 1e4) / 10);
      });
    expect(touched).toHaveLength(16);
    expect(touched.slice(0, 5).map(([x, y]) => [x, y])).toEqual([
      [-16, -16],
      [-6, -16],
      [4, -16],
      [14, -16],
      [14, -6],
    ]);
  });
});
