/** What the page says of a rig before anybody presses a button, beside what boards and runs then do. */
import { describe, expect, it } from 'vitest';
import { standing } from '@cork-elbow/core/admit';
import { Channels } from '@cork-elbow/core/commands';
import { seededRandom } from '@cork-elbow/core/linear';
import { parseRig, type Rig } from '@cork-elbow/core/rig';
import {
  homingFindings,
  loadFindings,
  planRoutine,
  preflight,
  readinessOf,
  type Readiness,
} from '@cork-elbow/core/routine';
import { finish } from '@cork-elbow/core/jobs';
import { demoRigs } from '@cork-elbow/demo';
import { presets, rigFromPreset } from '@cork-elbow/core/presets';
import { bench, step } from './bench.testkit';

type Draft = { -readonly [K in keyof Rig]: Rig[K] };
type Damage = (draft: Draft, pick: <T>(list: readonly T[]) => T | undefined) => void;
/** What builders have not done yet, or undone. */
const damages: readonly Damage[] = [
  (draft, pick) => void (draft.wiring = draft.wiring.filter((wire) => wire !== pick(draft.wiring))),
  (draft) => void (draft.wiring = []),
  (draft, pick) => void (draft.transmissions = draft.transmissions.filter((t) => t !== pick(draft.transmissions))),
  (draft, pick) => Object.assign(pick(draft.signals) ?? {}, { channel: null }),
  (draft, pick) => Object.assign(pick(draft.signals) ?? {}, { board: null, channel: null }),
  (draft, pick) => Object.assign(pick(draft.signals) ?? {}, { board: pick(draft.boards)?.id ?? null }),
  (draft, pick) => Object.assign(pick(draft.sensors) ?? {}, { channel: null }),
  (draft, pick) => Object.assign(pick(draft.homing.axes) ?? {}, { signal: null }),
  (draft, pick) => Object.assign(pick(draft.homing.axes) ?? {}, { signal: pick(draft.signals)?.id ?? null }),
  (draft, pick) =>
    Object.assign(pick(draft.homing.axes) ?? {}, { by: pick(['switch', 'end-stop', 'cradle', 'sensor']) }),
  (draft, pick) => {
    // One joint was looked at a little way round.
    const joint = pick<{ id: string }>(draft.mechanism.joints);
    const by = pick([2, 20, 60])!;
    for (const build of draft.builds) if (joint) build.confirmed[joint.id] = { min: -by, max: by };
  },
  (draft) => draft.builds.forEach((build) => Object.assign(build, { sensors: {}, calibrations: [] })),
  (draft, pick) => {
    const signal = pick(draft.signals);
    if (!signal || !draft.routines[0]) return;
    const asked =
      signal.way === 'out'
        ? step('more', 'output', { signal: signal.id, on: true })
        : step('more', 'wait-input', { signal: signal.id, is: true, timeoutS: 1, otherwise: 'go-on' });
    draft.routines[0].steps.unshift(asked);
  },
  (draft, pick) => {
    const signal = pick(draft.signals.filter(({ way }) => way === 'in'));
    const [routine] = draft.routines;
    if (!signal || !routine) return;
    // It asks while something else moves.
    const beside = step('beside', 'alongside', { routine: 'asks' });
    routine.steps.unshift(beside, step('still', 'wait', { durationS: 0.4 }), step('close', 'end'));
    const inner = [
      step('before', 'wait', { durationS: 0.1 }),
      step('if', 'if', { when: { signal: signal.id, is: true } }),
      step('on', 'wait', { durationS: 0.1 }),
      step('fi', 'end'),
    ];
    draft.routines.push({ ...routine, id: 'asks', name: 'Asks', steps: inner });
  },
  (draft, pick) => {
    const joint = pick<{ id: string }>(draft.mechanism.joints);
    if (joint && draft.routines[0])
      draft.routines[0].steps.unshift(
        step('let', 'let-go', { joints: [joint.id] }),
        step('keep', 'hold', { joints: [joint.id] }),
      );
  },
];

const demos = demoRigs().map(({ id, rig }): [string, Rig] => [id, rig]);
const rigs: [string, Rig][] = [
  ...demos,
  ...presets.flatMap((preset): [string, Rig][] => {
    const made = rigFromPreset(preset, preset.id);
    return made.ok ? [[preset.id, made.value]] : [];
  }),
];
/** As the page has it (what is touched stops nothing): how far the rig is, and what is said of its homing. */
function said(rig: Rig): { state: Readiness; homing: string[]; moves: boolean } | null {
  const known = standing(rig, 'b1');
  const [routine] = rig.routines;
  if (!known.ok || !routine) return null;
  const { mechanism, build } = known;
  const plan = planRoutine(rig, mechanism, build, routine);
  const findings = [...preflight(rig, mechanism, build, plan), ...finish(loadFindings(rig, mechanism, plan))];
  const homing = homingFindings(rig, new Channels(rig, mechanism, build), build);
  return { state: readinessOf(findings).state, homing: homing.map(({ code }) => code), moves: plan.durationS > 0 };
}

describe('what a rig is called before a run', () => {
  it('is what boards and runs do: fit is refused nothing, stopped is refused, homing begins where nothing was found', () => {
    const random = seededRandom(14);
    const pick = <T>(list: readonly T[]): T | undefined => list[Math.floor(random() * list.length)];
    const seen = new Map<string, number>();
    const count = (what: string): void => void seen.set(what, (seen.get(what) ?? 0) + 1);
    for (const [id, whole] of rigs) {
      const several = Array.from({ length: 3 }, () => pick(damages)!);
      // Each by itself, and some of them together.
      const tries = demos.some(([demo]) => demo === id)
        ? [[], ...damages.map((damage) => [damage]), several]
        : [several];
      for (const did of tries) {
        const draft = structuredClone(whole) as Draft;
        if (!draft.routines.length) {
          const steps = [step('still', 'wait', { durationS: 0.5 })];
          draft.routines = [
            { id: 'r', name: 'R', profile: 's-curve', inputs: {}, steps } as unknown as Rig['routines'][number],
          ];
        }
        for (const damage of did) damage(draft, pick);
        if (did.length && JSON.stringify(draft) === JSON.stringify(whole)) continue;
        const parsed = parseRig(draft);
        const told = parsed.ok ? said(parsed.value) : null;
        if (!parsed.ok || !told) continue;
        const where = `${id}: ${did.map((d) => damages.indexOf(d)).join(' ')}`;
        const b = bench(parsed.value);
        const isArmed = b.loop.state.armed && b.loop.state.mode === 'normal';
        if (parsed.value.homing.axes.length && isArmed) {
          const other = bench(parsed.value);
          other.loop.home(null, other.now());
          const begun = other.loop.state.mode === 'homing';
          const why = begun ? undefined : other.refusals().at(-1);
          expect([where, begun, why]).toEqual([where, told.homing.length === 0, told.homing[0]]);
          if (told.state === 'real') expect([where, begun]).toEqual([where, true]);
          count(begun ? 'homes' : 'homes not');
        }
        if (isArmed && told.moves)
          b.loop.start(
            {
              id: 'x',
              rigId: 'r',
              revision: 1,
              buildId: 'b1',
              routineId: parsed.value.routines[0].id,
              asDrawn: true,
            },
            parsed.value,
            b.now,
          );
        const runs = isArmed && ['starting', 'running'].includes(b.loop.state.run);
        count(told.state);
        if (told.moves)
          expect([where, told.state, b.refusals(), runs]).toEqual([
            where,
            told.state,
            runs ? [] : expect.anything(),
            told.state !== 'stopped',
          ]);
      }
    }
    for (const what of ['stopped', 'simulated', 'real', 'homes', 'homes not'])
      expect([what, (seen.get(what) ?? 0) > 0]).toEqual([what, true]);
  });
});
