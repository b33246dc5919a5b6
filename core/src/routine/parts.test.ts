import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { seededRandom } from '../linear';
import { compile } from '../mechanism';
import { presetById, rigFromPreset } from '../presets';
import { parseRig, type Rig, type Step } from '../rig';
import { planParts, planRoutine, readInput, type Answer, type Plan, type PlanPart } from './index';

const own = { enabled: true, note: '' };
let count = 0;
const made = (kind: string, more: object): Step => ({ ...own, id: `s${count++}`, kind, ...more }) as Step;

function rigOf(steps: readonly Step[], called: readonly Step[] = []): Rig {
  const preset = rigFromPreset(presetById('servo-arm-4')!, 'Arm');
  if (!preset.ok) throw new Error('no preset');
  const routine = (id: string, list: readonly Step[]): object => ({
    id,
    name: id,
    note: '',
    profile: 's-curve',
    steps: list,
  });
  const parsed = parseRig({
    ...preset.value,
    signals: ['a', 'b'].map((id) => ({
      id,
      name: id,
      way: 'in',
      board: null,
      channel: null,
      activeLow: false,
      pull: 'up',
      note: '',
    })),
    routines: [routine('main', steps), routine('called', called)],
  });
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  return parsed.value;
}
const [joint] = (() => {
  const rig = rigOf([made('wait', { durationS: 1 })]);
  return rig.mechanism.joints.map(({ id }) => id);
})();
const turn = (to: number): Step =>
  made('joint-move', { pace: { durationS: 0.7 }, target: { joints: { [joint]: to } } });
const either = (signal: string, is: boolean): Step => made('if', { when: { signal, is } });

/** Steps that move, wait, ask, count, call, and go round a few times. */
function steps(random: () => number, depth = 0): Step[] {
  const pick = (n: number): number => Math.floor(random() * n);
  return Array.from({ length: 1 + pick(4) }, (): Step[] => {
    const signal = random() < 0.5 ? 'a' : 'b';
    switch (pick(depth < 2 ? 7 : 3)) {
      case 0:
        return [turn(Math.round(60 * (random() - 0.5)))];
      case 1:
        return [made('wait', { durationS: 0.1 + random() })];
      case 2:
        return [made('counter', { counter: 'n', change: { add: 1 } })];
      case 3:
        return [either(signal, random() < 0.5), ...steps(random, depth + 1), made('end', {})];
      case 4:
        return [
          either(signal, random() < 0.5),
          ...steps(random, depth + 1),
          made('else', {}),
          ...steps(random, depth + 1),
          made('end', {}),
        ];
      case 5:
        return [made('repeat', { times: 1 + pick(3) }), ...steps(random, depth + 1), made('end', {})];
      default:
        return depth === 0 ? [made('call', { routine: 'called' })] : [turn(5)];
    }
  }).flat();
}
const mechanismOf = (rig: Rig) => {
  const compiled = compile(rig.mechanism, rig.builds[0].mounting);
  if (!compiled.ok) throw new Error('not compiled');
  return compiled.mechanism;
};
/** Parts until the routine ends or `most` were planned, each asked what `say` says: `atS` since the routine began. */
function partsOf(rig: Rig, say: (part: PlanPart, atS: number) => Answer, most = 400): PlanPart[] {
  const mechanism = mechanismOf(rig);
  const run = planParts(rig, mechanism, rig.builds[0], rig.routines[0], mechanism.home);
  const parts: PlanPart[] = [];
  let atS = 0;
  for (let next = run.next(); !next.done && parts.length < most;) {
    parts.push(next.value);
    atS += next.value.plan.durationS;
    if (!next.value.ask) break;
    next = run.next(say(next.value, atS));
  }
  return parts;
}
/** Blocks and events of parts, put one behind the other. */
function together(parts: readonly PlanPart[]): Pick<Plan, 'blocks' | 'events' | 'durationS'> {
  let atS = 0;
  const whole: { blocks: Plan['blocks'][number][]; events: Plan['events'][number][] } = { blocks: [], events: [] };
  for (const { plan } of parts) {
    whole.blocks.push(...plan.blocks.map((block) => ({ ...block, startS: block.startS + atS })));
    whole.events.push(...plan.events.map((event) => ({ ...event, timeS: event.timeS + atS })));
    atS += plan.durationS;
  }
  return { ...whole, durationS: atS };
}

describe('a routine planned as it is run', () => {
  it('is what it would be if all inputs had been known, and each part begins where the one before it ended', () => {
    let asked = 0;
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), (seed) => {
        const random = seededRandom(seed);
        const rig = rigOf(steps(random), steps(random, 1));
        const times = (): number[] => Array.from({ length: 6 }, () => 12 * random());
        const inputs = {
          a: { from: random() < 0.5, changesS: times() },
          b: { from: random() < 0.5, changesS: times() },
        };
        const mechanism = mechanismOf(rig);
        const known = planRoutine(rig, mechanism, rig.builds[0], rig.routines[0], { inputs });
        const parts = partsOf(rig, ({ ask }, atS) => readInput(inputs, ask!.signal, atS));
        asked += parts.length - 1;
        const whole = together(parts);
        expect(whole.durationS).toBeCloseTo(known.durationS, 9);
        expect(whole.blocks.map(({ stepId, block }) => [stepId, [...block.to]])).toEqual(
          known.blocks.map(({ stepId, block }) => [stepId, [...block.to]]),
        );
        whole.blocks.forEach(({ startS }, k) => expect(startS).toBeCloseTo(known.blocks[k].startS, 9));
        const bare = (events: Plan['events']): unknown[] => events.map(({ timeS: _, ...event }) => event);
        expect(bare(whole.events)).toEqual(bare(known.events));
        let at = mechanism.home;
        for (const { plan } of parts) {
          expect([...plan.start]).toEqual([...at]);
          at = plan.blocks.at(-1)?.block.to ?? at;
        }
      }),
      { numRuns: 150 },
    );
    expect(asked).toBeGreaterThan(100);
  });
  it('goes round for ever where each lap asks, and keeps nothing of the laps before', () => {
    const rig = rigOf([
      made('repeat', { times: null }),
      either('a', true),
      turn(20),
      made('else', {}),
      turn(0),
      made('end', {}),
      made('end', {}),
    ]);
    const parts = partsOf(rig, (_, atS) => Math.floor(atS) % 2 === 0, 300);
    expect(parts).toHaveLength(300);
    for (const { plan, ask } of parts) {
      expect(ask).not.toBeNull();
      expect(plan.endlessFromS).toBeNull();
      expect(plan.blocks.length).toBeLessThan(3);
      expect(plan.findings.filter(({ code }) => code !== 'signal-nowhere')).toEqual([]);
    }
  });
  it('waits for an input by a jump without an end, though nothing moves meanwhile', () => {
    const rig = rigOf([
      made('marker', { name: 'again' }),
      either('a', false),
      made('jump', { to: 'again' }),
      made('end', {}),
      turn(20),
    ]);
    let asked = 0;
    const parts = partsOf(rig, () => ++asked > 60);
    expect(parts).toHaveLength(62);
    expect(parts.at(-1)!.plan.durationS).toBeGreaterThan(0);
    expect(parts.flatMap(({ plan }) => plan.findings.map(({ code }) => code))).not.toContain('loop-without-wait');
  });
  it('comes again for ever from where nothing is asked any more', () => {
    const rig = rigOf([
      either('a', true),
      turn(20),
      made('end', {}),
      made('repeat', { times: null }),
      turn(0),
      turn(10),
      made('end', {}),
    ]);
    const [before, after] = partsOf(rig, () => true);
    expect(before.plan.endlessFromS).toBeNull();
    expect(after.ask).toBeNull();
    expect(after.plan.endlessFromS).toBeGreaterThan(0);
    expect(after.plan.endlessFromS).toBeLessThan(after.plan.durationS);
  });
  it('jumps where an input did not come, having waited already', () => {
    const rig = rigOf([
      made('wait-input', { signal: 'a', is: true, timeoutS: 7, otherwise: { jump: 'no' } }),
      turn(20),
      made('return', {}),
      made('marker', { name: 'no' }),
      turn(-20),
    ]);
    for (const came of [true, false]) {
      const [first, last] = partsOf(rig, () => came);
      expect(first.ask).toMatchObject({ signal: 'a', is: true, atMostS: 7 });
      expect(last.plan.durationS).toBeLessThan(2);
      const slot = mechanismOf(rig).slotOf.get(joint)!;
      expect(Math.sign(last.plan.blocks.at(-1)!.block.to[slot])).toBe(came ? 1 : -1);
    }
  });
  it('takes no way by an input that is asked beside joints that move', () => {
    const rig = rigOf(
      [made('alongside', { routine: 'called' }), turn(20), made('end', {})],
      [made('wait', { durationS: 0.2 }), either('a', true), made('wait', { durationS: 0.5 }), made('end', {})],
    );
    const [only] = partsOf(rig, () => true);
    expect(only.ask).toBeNull();
    expect(only.plan.events).toMatchObject([{ kind: 'input', beside: true, on: false }]);
  });
});
