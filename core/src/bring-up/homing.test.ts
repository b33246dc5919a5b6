import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { compile, type Mechanism } from '../mechanism';
import { presets, rigFromPreset } from '../presets';
import { parseRig, type Rig } from '../rig';
import { catalogue } from '../actuators';
import { checkDrives, homingMotion, jointsToHome, planHoming, proposeHoming, restPose } from './index';
import { poseAt } from '../motion';
import { between } from '../units/between.testkit';

const made = (change: (rig: Rig) => void, base: () => Rig = kilnLoader): { rig: Rig; mechanism: Mechanism } => {
  const rig = structuredClone(base()) as Rig;
  rig.homing.axes = [];
  rig.sensors = [];
  rig.leaders = [];
  for (const build of rig.builds) build.sensors = {};
  change(rig);
  const parsed = parseRig(rig);
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  const compiled = compile(parsed.value.mechanism);
  if (!compiled.ok) throw new Error(compiled.faults[0].message);
  return { rig: parsed.value, mechanism: compiled.mechanism };
};
const withPhysical = (joint: string, min: number, max: number) => (rig: Rig) => {
  const own = rig.mechanism.joints.find((j) => j.id === joint)!;
  if ('physical' in own || own.type === 'revolute') Object.assign(own, { physical: { min, max } });
  rig.signals = [];
};

describe('homing as it is proposed', () => {
  it('is for motors that only count, the hand first', () => {
    const loader = made(() => undefined);
    expect(jointsToHome(loader.rig, loader.mechanism)).toEqual([...loader.mechanism.slotIds].reverse());
    const dipper = made(() => undefined, tileDipper);
    expect(jointsToHome(dipper.rig, dipper.mechanism)).toEqual([]);
  });
  it('never lays a bare stepper in a cradle: a switch that is still to come, or its hard stop where that is known', () => {
    const bare = made((rig) => {
      rig.signals = [];
      for (const joint of rig.mechanism.joints) if ('physical' in joint) delete joint.physical;
    });
    for (const id of bare.mechanism.slotIds)
      expect(proposeHoming(bare.rig, bare.mechanism, id)).toMatchObject({ by: 'switch', signal: null });
    const stopped = made(withPhysical('turn', -174, 176));
    expect(proposeHoming(stopped.rig, stopped.mechanism, 'turn')).toMatchObject({ by: 'end-stop' });
  });
  it('seeks the end that is nearer to the resting pose, and is then at what is known of it', () => {
    for (const [rest, end, at] of [
      [-60, 'min', -174],
      [90, 'max', 176],
    ] as const) {
      const { rig, mechanism } = made((draft) => {
        withPhysical('turn', -174, 176)(draft);
        draft.poses.find((p) => p.id === draft.powerUp.rest)!.joints.turn = rest;
      });
      expect(proposeHoming(rig, mechanism, 'turn')).toMatchObject({ by: 'end-stop', end, at });
    }
    // What knows its angle lies where the arm rests, not at its lower limit.
    const dipper = made(() => undefined, tileDipper);
    const rest = restPose(dipper.rig, dipper.mechanism);
    for (const [slot, id] of dipper.mechanism.slotIds.entries()) {
      const axis = proposeHoming(dipper.rig, dipper.mechanism, id);
      expect(axis.by).toBe('cradle');
      expect(axis.at).toBeCloseTo(rest[slot] / dipper.mechanism.siPerUnit[slot], 3);
    }
  });
  it('takes a sensor on the joint where there is no switch', () => {
    const { rig, mechanism } = made((draft) => {
      draft.signals = [];
      draft.sensors = [
        {
          ...{ id: 'e', name: 'Encoder', kind: 'encoder', joint: 'elbow', side: 'joint', countsPerTurn: 4096 },
          ...{ wraps: true, board: null, channel: null, address: 54, port: null, note: '' },
        },
      ] as Rig['sensors'];
    });
    expect(proposeHoming(rig, mechanism, 'elbow').by).toBe('sensor');
    expect(proposeHoming(rig, mechanism, 'nod').by).not.toBe('sensor');
  });
  it('makes on every preset with steppers a plan that has no finding but switches that are not wired', () => {
    const stepper = catalogue.find((entry) => entry.figures.kind === 'stepper')!.figures;
    for (const preset of presets) {
      const { rig, mechanism } = made(
        (draft) => {
          draft.drives = draft.drives.map(
            ({ id, name }) => ({ ...structuredClone(stepper), id, name }) as Rig['drives'][number],
          );
          draft.builds.forEach((build) => Object.assign(build, { calibrations: [], trims: {} }));
        },
        () => {
          const parsed = rigFromPreset(preset, preset.id);
          if (!parsed.ok) throw new Error(parsed.faults[0].message);
          return parsed.value;
        },
      );
      rig.homing.axes = jointsToHome(rig, mechanism).map((id) => proposeHoming(rig, mechanism, id));
      const codes = checkDrives(rig, mechanism, rig.builds[0])
        .filter((f) => f.place.part === 'homing')
        .map((f) => f.code);
      expect(
        codes.filter((code) => code !== 'homing-no-input'),
        preset.id,
      ).toEqual([]);
      expect(Number.isFinite(planHoming(rig, mechanism, mechanism.home.slice()).durationS)).toBe(true);
    }
  });
});

describe('an axis that lets others wait', () => {
  it('seeks only when all of them are where they wait, each by its own speed, and comes back to none of them', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.constantFrom('shoulder', 'elbow', 'nod'), { minLength: 1, maxLength: 3 }),
        fc.array(between(0, 1), { minLength: 3, maxLength: 3 }),
        fc.boolean(),
        (waiting, shares, together) => {
          const { rig, mechanism } = made(() => undefined);
          const at = (id: string, k: number): number => {
            const slot = mechanism.slotOf.get(id)!;
            const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]];
            return (low + shares[k] * (high - low)) / mechanism.siPerUnit[slot];
          };
          const waits = Object.fromEntries(waiting.map((id, k) => [id, at(id, k)]));
          rig.homing.axes = [
            { ...proposeHoming(rig, mechanism, 'spin'), by: 'switch' },
            { ...proposeHoming(rig, mechanism, 'turn'), by: 'switch', waits, together },
          ];
          const start = restPose(rig, mechanism);
          const plan = planHoming(rig, mechanism, start);
          const own = plan.moves.filter((m) => m.axis === 'turn');
          const ways = own.filter((m) => m.act === 'wait pose');
          expect(ways.map((m) => [m.joint, m.to]).sort()).toEqual(Object.entries(waits).sort());
          const seeks = own.find((m) => m.act === 'seek')!;
          const last = Math.max(...ways.map((m) => m.startS + m.seconds));
          expect(seeks.startS).toBeGreaterThanOrEqual(last - 1e-9);
          for (const { joint, startS, seconds, from, to } of ways) {
            const slot = mechanism.slotOf.get(joint)!;
            expect(startS).toBe(plan.axes[1].startS);
            expect(seconds * mechanism.speed[slot]).toBeGreaterThanOrEqual(
              Math.abs(to - from) * mechanism.siPerUnit[slot],
            );
          }
          // While it seeks every other one stands where it waits.
          for (const share of [0, 0.5, 1]) {
            const q = poseAt(homingMotion(plan, mechanism), seeks.startS + share * seeks.seconds);
            for (const [id, value] of Object.entries(waits))
              expect(q[mechanism.slotOf.get(id)!] / mechanism.siPerUnit[mechanism.slotOf.get(id)!]).toBeCloseTo(
                value,
                9,
              );
          }
          if (!together)
            expect(plan.axes[1].startS).toBeGreaterThanOrEqual(plan.axes[0].startS + plan.axes[0].seconds - 1e-9);
          else expect(plan.axes[1].startS).toBe(plan.axes[0].startS);
        },
      ),
      { numRuns: 40 },
    );
  });
});
