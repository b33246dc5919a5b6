/** Routines whose steps can be done and whose order means something, for whatever walks through them by itself. */
import fc from 'fast-check';
import type { SimulatedInputs } from '../contract/inputs';
import { inUnit, type Mechanism } from '../mechanism';
import { profileKinds } from '../motion';
import type { Routine, Step } from '../rig';

type NewStep = Omit<Step, 'id' | 'enabled' | 'note'> & Record<string, unknown>;
const counter = fc.constantFrom('rounds', 'pots');

/** `inputs`: ids of signals that may be asked, `outputs`: that may be switched. */
export function orderlyRoutine(
  mechanism: Mechanism,
  {
    inputs,
    outputs,
    calls = [],
  }: { inputs: readonly string[]; outputs: readonly string[]; calls?: readonly string[] },
): fc.Arbitrary<Routine> {
  const slots = mechanism.slotIds.map((id, s) => ({
    id,
    low: inUnit(mechanism, s, Math.max(mechanism.lower[s], mechanism.home[s] - 0.4)),
    high: inUnit(mechanism, s, Math.min(mechanism.upper[s], mechanism.home[s] + 0.4)),
  }));
  const place = fc
    .constantFrom(...slots)
    .chain(({ id, low, high }) =>
      fc
        .integer({ min: 0, max: 8 })
        .map((share) => ({ joints: { [id]: Number((low + ((high - low) * share) / 8).toFixed(2)) } })),
    );
  const shift = fc
    .constantFrom(...slots)
    .chain(({ id, low, high }) =>
      fc
        .constantFrom(-1, 1, 2)
        .map((by) => ({ shift: { joints: { [id]: Number(((by * (high - low)) / 40).toFixed(2)) } } })),
    );
  const move = fc.record({
    kind: fc.constant('joint-move'),
    target: fc.oneof({ weight: 4, arbitrary: place }, { weight: 1, arbitrary: shift }),
    pace: fc.oneof(
      fc.record({ speedShare: fc.constantFrom(0.3, 0.6, 1) }),
      fc.record({ durationS: fc.constantFrom(0.8, 1.5) }),
    ),
    profile: fc.constantFrom(...profileKinds.filter((kind) => kind !== 'jump')),
    blendMm: fc.constantFrom(undefined, undefined, 8),
  });
  const plain = fc.oneof(
    { weight: 5, arbitrary: move },
    { weight: 1, arbitrary: move.map((step) => ({ ...step, arrive: 'own-pace' })) },
    { weight: 1, arbitrary: fc.record({ kind: fc.constant('wait'), durationS: fc.constantFrom(0.05, 0.3, 0.7) }) },
    {
      weight: 2,
      arbitrary: fc.record({ kind: fc.constant('output'), signal: fc.constantFrom(...outputs), on: fc.boolean() }),
    },
    { weight: 1, arbitrary: fc.record({ kind: fc.constant('speed'), share: fc.constantFrom(0.5, 1) }) },
    {
      weight: 2,
      arbitrary: fc.record({
        kind: fc.constant('counter'),
        counter,
        change: fc.oneof(
          fc.record({ set: fc.integer({ min: -2, max: 3 }) }),
          fc.record({ add: fc.integer({ min: -1, max: 2 }) }),
        ),
      }),
    },
    {
      weight: 2,
      arbitrary: fc.record({
        kind: fc.constant('wait-input'),
        signal: fc.constantFrom(...inputs),
        is: fc.boolean(),
        timeoutS: fc.constantFrom(0.4, 1),
        otherwise: fc.constantFrom('go-on', 'go-on', 'stop'),
      }),
    },
    ...(calls.length
      ? [{ weight: 1, arbitrary: fc.record({ kind: fc.constant('call'), routine: fc.constantFrom(...calls) }) }]
      : []),
  ) as fc.Arbitrary<NewStep>;
  const when = fc.oneof(
    fc.record({ signal: fc.constantFrom(...inputs), is: fc.boolean() }),
    fc.record({ counter, is: fc.constantFrom('below', 'equal', 'above'), value: fc.integer({ min: -1, max: 3 }) }),
  );
  const some = fc.array(plain, { minLength: 1, maxLength: 3 });
  const block = (inner: fc.Arbitrary<NewStep[]>): fc.Arbitrary<NewStep[]> =>
    fc.oneof(
      { weight: 3, arbitrary: inner },
      {
        weight: 2,
        arbitrary: fc
          .tuple(fc.integer({ min: 1, max: 4 }), inner)
          .map(([times, steps]) => [step('repeat', { times }), ...steps, step('end')]),
      },
      {
        weight: 2,
        arbitrary: fc
          .tuple(when, inner, fc.option(inner))
          .map(([asked, yes, no]) => [
            step('if', { when: asked }),
            ...yes,
            ...(no ? [step('else'), ...no] : []),
            step('end'),
          ]),
      },
    );
  const nested = block(fc.tuple(block(some), some).map((parts) => parts.flat()));
  return fc
    .tuple(fc.array(nested, { minLength: 1, maxLength: 3 }), fc.constantFrom(...profileKinds))
    .map(([parts]) => ({
      ...{ id: 'orderly', name: 'Orderly', note: '', role: null, profile: 's-curve' as const },
      steps: parts.flat().map((each, k) => ({ ...each, id: `s${k}`, enabled: true, note: '' }) as unknown as Step),
    }));
}
const step = (kind: Step['kind'], of: Record<string, unknown> = {}): NewStep => ({ kind, ...of }) as NewStep;

/** Inputs that change a few times. */
export const changingInputs = (inputs: readonly string[]): fc.Arbitrary<SimulatedInputs> =>
  fc
    .tuple(
      ...inputs.map(() =>
        fc.record({
          from: fc.boolean(),
          changesS: fc.array(
            fc.integer({ min: 1, max: 60 }).map((tenths) => tenths / 7),
            { maxLength: 5 },
          ),
        }),
      ),
    )
    .map((list) => Object.fromEntries(list.map((input, k) => [inputs[k], input])));
