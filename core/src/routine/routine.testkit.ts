/** Any routine at all, for tests that must hold whatever is in it. */
import fc from 'fast-check';
import { profileKinds } from '../motion';
import type { Rig, Routine, Step } from '../rig';
import { between } from '../units/between.testkit';

const number = (min: number, max: number): fc.Arbitrary<number> =>
  between(min, max).map((v) => Number(v.toFixed(3)) || 0);
const word = fc.constantFrom('a', 'b', 'third mark', 'n "quoted"', 'ü');
const triple = (by: number): fc.Arbitrary<[number, number, number]> =>
  fc.tuple(number(-by, by), number(-by, by), number(-by, by));
const maybe = <T>(arbitrary: fc.Arbitrary<T>): fc.Arbitrary<T | undefined> =>
  fc.option(arbitrary, { nil: undefined });

/** Steps that name things of the rig, and now and then something that is not there. */
export function anyStep(rig: Rig): fc.Arbitrary<Step> {
  const of = (list: readonly { id: string }[]): fc.Arbitrary<string> =>
    fc.constantFrom(...list.map((x) => x.id), 'gone');
  const joint = of(rig.mechanism.joints);
  const values = fc.dictionary(joint, number(-30, 30), { maxKeys: 3 });
  const target = fc.oneof(
    fc.record({ pose: of(rig.poses) }),
    fc.record({ spot: of(rig.spots) }),
    fc.record({
      spot: of(rig.spots),
      direction: fc.oneof(fc.constant(null), fc.constant<[number, number, number]>([0, 0, -1])),
    }),
    fc.record({ joints: values }),
    fc.record({ shift: fc.record({ joints: values }) }),
    fc.record({ shift: fc.record({ xyzMm: triple(25), along: fc.constantFrom('world' as const, 'tool' as const) }) }),
  );
  const pace = fc.oneof(
    fc.record({ speedShare: number(0.05, 1) }),
    fc.record({ speedShare: number(0.05, 1), accelShare: number(0.1, 1) }),
    fc.record({ durationS: number(0.05, 4) }),
    fc.record({ mmPerS: number(5, 200) }),
  );
  const profile = maybe(fc.constantFrom(...profileKinds));
  const tool = maybe(of(rig.mechanism.tools));
  const blendMm = maybe(number(1, 40));
  const keep = maybe(fc.constantFrom('turn', 'direction', 'tilt', 'nothing'));
  const way = { tool, pace, profile };
  const signalIs = { signal: of(rig.signals), is: fc.boolean() };
  const places = fc.oneof(
    fc.record({
      kind: fc.constant('grid' as const),
      spot: of(rig.spots),
      columns: fc.integer({ min: 1, max: 3 }),
      rows: fc.integer({ min: 1, max: 2 }),
      columnMm: triple(10),
      rowMm: triple(10),
    }),
    fc.record({
      kind: fc.constant('ring' as const),
      spot: of(rig.spots),
      radiusMm: number(1, 20),
      count: fc.integer({ min: 1, max: 5 }),
      firstDeg: number(-180, 180),
    }),
    fc.record({ kind: fc.constant('list' as const), pointsMm: fc.array(triple(200), { maxLength: 3 }) }),
  );
  const kinds: Record<Step['kind'], Record<string, fc.Arbitrary<unknown>>> = {
    'joint-move': { ...way, target, blendMm, arrive: maybe(fc.constant('own-pace')) },
    'straight-move': { ...way, target, blendMm, keep },
    arc: { ...way, via: target, target, blendMm, keep },
    circle: { ...way, keep, via: target, second: target, turns: fc.integer({ min: 1, max: 3 }) },
    path: { ...way, through: fc.array(target, { minLength: 1, maxLength: 4 }), blendMm, keep },
    approach: { ...way, keep, target, distanceMm: number(1, 60), lastMmPerS: maybe(number(5, 50)) },
    retreat: { ...way, keep, distanceMm: number(1, 60) },
    grip: {
      tool: of(rig.mechanism.tools),
      to: fc.oneof(
        fc.constantFrom('open', 'closed'),
        number(0, 40),
        fc.record({ openingMm: number(0, 30) }),
        fc.record({ aroundMm: number(1, 30) }),
      ),
      stopAtN: maybe(number(1, 20)),
      payload: maybe(fc.option(of(rig.payloads))),
      pace,
      profile,
    },
    spin: {
      joint,
      speed: number(-90, 90),
      until: fc.oneof(
        fc.record({ forS: number(0.1, 4) }),
        fc.record({ ...signalIs, atMostS: number(0.1, 4) }),
        fc.constant('stopped'),
      ),
    },
    pattern: {
      ...way,
      places,
      direction: fc.constantFrom(null, [0, 0, -1]),
      approachMm: number(0, 20),
      routine: fc.option(of(rig.routines)),
    },
    wait: { durationS: number(0, 3) },
    'wait-input': {
      ...signalIs,
      timeoutS: fc.option(number(0.1, 5)),
      otherwise: fc.oneof(fc.constantFrom('stop', 'go-on'), fc.record({ jump: word })),
    },
    output: { signal: of(rig.signals), on: fc.boolean() },
    hold: { joints: fc.array(joint, { minLength: 1, maxLength: 3 }) },
    'let-go': { joints: fc.array(joint, { minLength: 1, maxLength: 3 }) },
    'pick-up': { tool: of(rig.mechanism.tools), payload: of(rig.payloads) },
    'put-down': { tool: of(rig.mechanism.tools) },
    'swap-tool': { off: fc.option(of(rig.mechanism.tools)), on: fc.option(of(rig.mechanism.tools)) },
    speed: { share: number(0.1, 1) },
    marker: { name: word },
    jump: { to: word },
    repeat: { times: fc.option(fc.integer({ min: 1, max: 4 })) },
    if: {
      when: fc.oneof(
        fc.record(signalIs),
        fc.record({ counter: word, is: fc.constantFrom('below', 'equal', 'above'), value: number(-3, 3) }),
      ),
    },
    else: {},
    counter: {
      counter: word,
      change: fc.oneof(fc.record({ set: number(-3, 3) }), fc.record({ add: number(-3, 3) })),
    },
    call: { routine: of(rig.routines) },
    return: {},
    alongside: { routine: of(rig.routines) },
    group: { name: word },
    end: {},
    note: {},
  };
  return fc
    .constantFrom(...(Object.keys(kinds) as Step['kind'][]))
    .chain((kind) =>
      fc.record({
        kind: fc.constant(kind),
        id: fc.constant('s'),
        enabled: fc.integer({ min: 0, max: 9 }).map((v) => v > 0),
        note: fc.constantFrom('', '', 'a note, with "marks"'),
        ...kinds[kind],
      }),
    )
    .map((step) => Object.fromEntries(Object.entries(step).filter(([, v]) => v !== undefined)) as unknown as Step);
}

export const anyRoutine = (rig: Rig, maxLength = 12): fc.Arbitrary<Routine> =>
  fc
    .record({ steps: fc.array(anyStep(rig), { maxLength }), profile: fc.constantFrom(...profileKinds) })
    .map(({ steps, profile }) => ({
      id: 'any',
      name: 'Any',
      note: '',
      role: null,
      profile,
      steps: steps.map((step, k) => ({ ...step, id: `s${k}` })),
    }));
