import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { admit } from '../admit';
import type { SimulatedInputs } from '../contract/inputs';
import type { Rig, Routine, Step } from '../rig';
import type { Block } from '../motion';
import { flowOf, isFlow, type Flow, type FlowSwitch } from './flow';
import { changingInputs, orderlyRoutine } from './flow.testkit';
import { awaitInput, readInput } from './inputs';
import { planRoutine, type Plan } from './plan';

const admitted = (document: unknown) => {
  const found = admit(document);
  if (!found.ok) throw new Error(found.faults[0].message);
  return found;
};
const demo = (id: string): unknown => demoRigs().find((rig) => rig.id === id)!.rig;

interface Walked {
  readonly blocks: { readonly atS: number; readonly block: Block }[];
  readonly switched: { readonly atS: number; readonly act: FlowSwitch }[];
  endS: number;
  inVain: boolean;
}
/** Goes through a graph until it ends, or `untilS`. */
function walk({ nodes }: Flow, inputs: SimulatedInputs, untilS = Infinity): Walked {
  const walked: Walked = { blocks: [], switched: [], endS: 0, inVain: false };
  const counters = new Map<string, number>();
  const left = new Map<number, number>();
  let now = 0;
  for (let at = 0, k = 0; now <= untilS + 1e-9; k++) {
    if (k > 100_000) throw new Error('it goes on and on');
    const { acts, next } = nodes[at];
    for (const act of acts) {
      switch (act.kind) {
        case 'block':
          for (const { atS, ...rest } of act.during) walked.switched.push({ atS: now + atS, act: rest });
          if (act.block.kind !== 'hold') walked.blocks.push({ atS: now, block: act.block });
          now += act.block.duration;
          break;
        case 'counter':
          counters.set(
            act.counter,
            'set' in act.change ? act.change.set : (counters.get(act.counter) ?? 0) + act.change.add,
          );
          break;
        case 'loop':
          left.set(act.loop, act.times);
          break;
        default:
          walked.switched.push({ atS: now, act });
      }
    }
    walked.endS = now;
    switch (next.kind) {
      case 'end':
        return Object.assign(walked, { inVain: next.inVain });
      case 'go':
        at = next.to;
        break;
      case 'read':
        at = readInput(inputs, next.signal, now) ? next.on : next.off;
        break;
      case 'await': {
        const waited = awaitInput(inputs, next.signal, next.is, now, next.atMostS);
        now += waited ?? next.atMostS ?? 0;
        at = waited === null ? next.inVain : next.met;
        break;
      }
      case 'compare': {
        const value = counters.get(next.counter) ?? 0;
        const holds =
          next.is === 'below' ? value < next.value : next.is === 'above' ? value > next.value : value === next.value;
        at = holds ? next.yes : next.no;
        break;
      }
      case 'lap': {
        const laps = left.get(next.loop)! - 1;
        left.set(next.loop, laps);
        at = laps > 0 ? next.again : next.done;
      }
    }
  }
  return walked;
}
/** What a plan does, in the same words. */
function planned({ blocks, events, durationS }: Plan): Pick<Walked, 'blocks' | 'switched' | 'endS'> {
  return {
    blocks: blocks.flatMap(({ block, startS }) => (block.kind === 'hold' ? [] : [{ atS: startS, block }])),
    switched: events.flatMap(({ timeS, ...event }): Walked['switched'] =>
      event.kind === 'output'
        ? [{ atS: timeS, act: { kind: 'output', signal: event.signal, on: event.on } }]
        : event.kind === 'power'
          ? [{ atS: timeS, act: { kind: 'power', joints: event.joints, on: event.on } }]
          : [],
    ),
    endS: durationS,
  };
}
const rounded = ({ blocks, switched, endS }: Pick<Walked, 'blocks' | 'switched' | 'endS'>, untilS = Infinity) => ({
  blocks: blocks
    .filter(({ atS }) => atS < untilS - 1e-6)
    .map(({ atS, block: { kind, from, to, duration } }) => [
      ...[kind, atS.toFixed(5), duration.toFixed(5)],
      ...[[...from], [...to]].map((q) => q.map((v) => v.toFixed(6)).join()),
    ]),
  switched: switched
    .filter(({ atS }) => atS < untilS - 1e-6)
    .map(({ atS, act }) => [atS.toFixed(5), act.kind, 'signal' in act ? act.signal : act.joints.join(), act.on]),
  endS: Math.min(endS, untilS).toFixed(5),
});

/** A rig with two inputs and two outputs, and a routine to call. */
function withSignals(id: string): Rig {
  const document = structuredClone(demo(id)) as Rig;
  const { rig } = admitted({
    ...document,
    signals: [
      ...document.signals,
      ...['in-a', 'in-b'].map((name) => ({ id: name, name, note: '', way: 'in', board: null, channel: null })),
      ...['out-a', 'out-b'].map((name) => ({ id: name, name, note: '', way: 'out', board: null, channel: null })),
    ],
  });
  return rig;
}
const withRoutines = (rig: Rig, ...routines: Routine[]): Rig => ({
  ...rig,
  routines: [...rig.routines, ...routines],
});

describe('a routine as a graph', () => {
  const inputs = ['in-a', 'in-b'];
  const outputs = ['out-a', 'out-b'];
  it.each(['tile-dipper', 'kiln-shelf-loader', 'twin-carriers'])(
    'of %s: walked through does what the planner does, whatever inputs and counters say',
    (id) => {
      const base = withSignals(id);
      const { mechanism, build } = admitted(base);
      let looked = 0;
      let looped = 0;
      fc.assert(
        fc.property(
          orderlyRoutine(mechanism, { inputs, outputs }),
          orderlyRoutine(mechanism, { inputs, outputs, calls: ['sub'] }),
          fc.array(changingInputs(inputs), { minLength: 3, maxLength: 3 }),
          (sub, main, tries) => {
            const rig = withRoutines(base, { ...sub, id: 'sub' }, main);
            const flow = flowOf(rig, mechanism, main);
            if (!isFlow(flow)) return;
            for (const given of tries) {
              const plan = planRoutine(rig, mechanism, build, main, { inputs: given });
              // A wait in vain stops it as it should; any other stop is a routine that cannot be done.
              if (
                plan.findings.some(
                  ({ severity, code }) => severity === 'stop' && code !== 'wait-in-vain' && code !== 'signal-nowhere',
                )
              )
                continue;
              looked++;
              const until = plan.endlessFromS === null ? Infinity : plan.durationS;
              expect(rounded(walk(flow, given, until), until)).toEqual(rounded(planned(plan), until));
              if (flow.nodes.some(({ next }) => next.kind === 'lap')) looped++;
            }
          },
        ),
        { numRuns: 60 },
      );
      expect(looked).toBeGreaterThan(40);
      expect(looped).toBeGreaterThan(20);
    },
  );

  const { rig: dipper, mechanism, build } = admitted(withSignals('tile-dipper'));
  const [slotId] = mechanism.slotIds;
  const routine = (...steps: Record<string, unknown>[]): Routine => ({
    ...{ id: 'own', name: 'Own', note: '', role: null, profile: 's-curve' },
    steps: steps.map((step, k) => ({ id: `s${k}`, enabled: true, note: '', ...step }) as unknown as Step),
  });
  const move = (deg: number): Record<string, unknown> => ({
    ...{ kind: 'joint-move', target: { joints: { [slotId]: deg } }, pace: { speedShare: 1 } },
  });
  const shift = (deg: number): Record<string, unknown> => ({
    ...move(0),
    target: { shift: { joints: { [slotId]: deg } } },
  });
  const graphOf = (of: Routine): Flow => {
    const flow = flowOf(withRoutines(dipper, of), mechanism, of);
    if (!isFlow(flow)) throw new Error(flow.why);
    return flow;
  };

  it('keeps a loop as one, however often it goes round', () => {
    const laps = routine({ kind: 'repeat', times: 100_000 }, move(10), move(-10), { kind: 'end' });
    // A lap from where it begins, and one from where a lap ends.
    expect(graphOf(laps).nodes.length).toBeLessThan(12);
    const forEver = routine({ kind: 'repeat', times: null }, move(10), move(-10), { kind: 'end' });
    expect(graphOf(forEver).nodes.length).toBeLessThan(12);
    const jumping = routine({ kind: 'marker', name: 'on' }, move(10), move(-10), { kind: 'jump', to: 'on' });
    expect(graphOf(jumping).nodes.length).toBeLessThan(12);
  });
  it('writes a loop out whose laps never begin where they did before, and says where that has no end', () => {
    const out = routine(move(-40), { kind: 'repeat', times: 9 }, shift(5), { kind: 'end' });
    const flow = graphOf(out);
    expect(flow.nodes.some(({ next }) => next.kind === 'lap')).toBe(false);
    const plan = planRoutine(withRoutines(dipper, out), mechanism, build, out);
    expect(rounded(walk(flow, {}))).toEqual(rounded(planned(plan)));
    const endless = routine({ kind: 'repeat', times: null }, shift(0.1), { kind: 'end' });
    expect(flowOf(withRoutines(dipper, endless), mechanism, endless)).toMatchObject({ why: 'endless', index: 0 });
    const jumping = routine({ kind: 'marker', name: 'on' }, shift(0.001), { kind: 'jump', to: 'on' });
    expect(flowOf(withRoutines(dipper, jumping), mechanism, jumping)).toMatchObject({ why: 'endless' });
  });
  it('keeps a loop whose laps end in one of several poses, as inputs and counters say', () => {
    const poses = [10, 15, 20, 25, 30, 35, 40, -10];
    const chosen = poses.flatMap((deg, k) => [
      { kind: 'if', when: { counter: 'which', is: 'equal', value: k } },
      move(deg),
      { kind: 'end' },
    ]);
    const lap = [
      { kind: 'counter', counter: 'which', change: { add: 1 } },
      ...chosen,
      { kind: 'wait', durationS: 0.1 },
    ];
    for (const times of [null, 1000]) {
      const ladder = routine({ kind: 'repeat', times }, ...lap, { kind: 'end' });
      expect(graphOf(ladder).nodes.length).toBeLessThan(1000);
    }
    const some = routine({ kind: 'repeat', times: 8 }, ...lap, { kind: 'end' });
    const plan = planRoutine(withRoutines(dipper, some), mechanism, build, some);
    expect(rounded(walk(graphOf(some), {}))).toEqual(rounded(planned(plan)));
    expect(graphOf(some).nodes.some(({ next }) => next.kind === 'lap')).toBe(true);
  });
  it('says which step cannot be done in a pose that some way leads to', () => {
    const faulty = routine(
      { kind: 'if', when: { signal: 'in-a', is: true } },
      move(mechanism.upper[0] * (180 / Math.PI) - 1),
      { kind: 'end' },
      shift(5),
    );
    expect(flowOf(withRoutines(dipper, faulty), mechanism, faulty)).toMatchObject({ why: 'fault', index: 3 });
  });
  it('tells apart whether a joint has power, whichever way is looked at first', () => {
    const [letGo, other] = [
      { kind: 'let-go', joints: [slotId] },
      { kind: 'wait', durationS: 0 },
    ];
    for (const [yes, no] of [
      [letGo, other],
      [other, letGo],
    ]) {
      const either = routine(
        ...[{ kind: 'if', when: { signal: 'in-a', is: true } }, yes, { kind: 'else' }, no, { kind: 'end' }],
        ...[{ kind: 'wait', durationS: 1 }, move(20)],
      );
      expect(flowOf(withRoutines(dipper, either), mechanism, either)).toMatchObject({ why: 'fault', index: 6 });
    }
  });
  it('takes steps beside others with what they switch meanwhile, but not what they ask', () => {
    const other = mechanism.slotIds[1];
    const beside = (asked: boolean): Routine[] => [
      routine({ kind: 'alongside', routine: 'sub' }, move(20), move(-20), { kind: 'end' }),
      {
        ...routine(
          { ...move(0), target: { joints: { [other]: 12 } } },
          { kind: 'output', signal: 'out-a', on: true },
          ...(asked ? [{ kind: 'wait-input', signal: 'in-a', is: true, timeoutS: 1, otherwise: 'go-on' }] : []),
          { ...move(0), target: { joints: { [other]: 0 } } },
        ),
        id: 'sub',
      },
    ];
    const [own, sub] = beside(false);
    const rig = withRoutines(dipper, own, sub);
    const flow = flowOf(rig, mechanism, own);
    if (!isFlow(flow)) throw new Error(flow.why);
    expect(rounded(walk(flow, {}))).toEqual(rounded(planned(planRoutine(rig, mechanism, build, own))));
    expect(walk(flow, {}).switched).toHaveLength(1);
    const [asks, asked] = beside(true);
    expect(flowOf(withRoutines(dipper, asks, asked), mechanism, asks)).toMatchObject({ why: 'beside', index: 0 });
  });
  it.each(demoRigs().flatMap(({ id, rig }) => (rig as Rig).routines.map((r) => [id, r.id] as const)))(
    'of the demo, %s, %s: as the planner',
    (id, routineId) => {
      const made = admitted(demo(id));
      const chosen = made.rig.routines.find((r) => r.id === routineId)!;
      const flow = flowOf(made.rig, made.mechanism, chosen);
      if (!isFlow(flow)) throw new Error(`${flow.why} ${flow.index}`);
      const plan = planRoutine(made.rig, made.mechanism, made.build, chosen);
      const until = plan.endlessFromS === null ? Infinity : plan.durationS;
      expect(rounded(walk(flow, {}, until), until)).toEqual(rounded(planned(plan), until));
    },
  );
});
